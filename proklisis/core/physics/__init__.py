"""Formulas of motion and pictures, each with its source."""
