"""A rider's own page: for riders and guardians who log in."""
