"""Session films: one film of many goes, cut into a run each."""
