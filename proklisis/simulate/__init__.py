"""Riders, places and cameras that make clips whose every number is known exactly."""
