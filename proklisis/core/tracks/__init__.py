"""Landmarks of a run, frame by frame: what they are, their names, and their repair."""
