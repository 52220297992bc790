"""Maps of a run, drawn from what was measured: each family's way of being seen from where no camera was."""
