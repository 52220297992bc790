"""What a coach puts right, and where a correction would settle most."""
