"""Training the coach's own eye: scoring, what comes next, and how good an eye is."""
