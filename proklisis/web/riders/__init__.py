"""The people who are filmed."""
