"""Numbers with their uncertainty, from the measures of a figure."""
