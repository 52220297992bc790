"""A rider's runs over time: what was prescribed, and what became of it."""
