"""Open formats in and out: tracks as JSON and CSV, clip truth, JSON Schemas."""
