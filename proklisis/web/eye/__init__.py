"""Training the coach's eye: a pool of items, sessions, a profile, agreement in a club, hints on the Bench."""
