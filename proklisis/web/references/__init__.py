"""Clips that a club keeps to hold other runs against."""
