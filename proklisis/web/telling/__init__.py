"""The Telling of a run: proposed, told by the coach, kept with its voice, made a film."""
