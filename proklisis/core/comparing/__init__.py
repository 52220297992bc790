"""Two units, runs or riders held against each other: what differs, from where on, and what of it can be believed."""
