"""The rider's own figure with one thing mended."""
