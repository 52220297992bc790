"""Two runs, or two units of one, seen and read beside each other."""
