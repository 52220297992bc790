"""The rider in three dimensions from one picture at a time: depth behind the picture, and where the camera looks from."""
