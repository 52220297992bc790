"""The calculators over the API: asked, filled from a run, kept with a run or a rider."""
