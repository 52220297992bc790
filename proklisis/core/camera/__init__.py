"""How a camera shows the world: views, projection, and what marks tell of level, lens and scale."""
