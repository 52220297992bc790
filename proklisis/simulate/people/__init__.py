"""People with bodies that are not built from our own table of proportions, and how they take a rider's pose."""
