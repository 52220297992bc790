"""Runs: a clip, what was tracked on it, a coach's corrections, and what was measured and found."""
