"""The Lanternfell club: invented riders with simulated clips, so that a new user sees it all at work."""
