"""The rider as a figure: points in space or in the picture, lengths, mass and the ground under them."""
