"""Watching over a running server: whether all is well, figures, logs, and what failed."""
