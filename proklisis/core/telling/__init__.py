"""The Telling: what is shown and said of a run, moment by moment."""
