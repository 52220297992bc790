"""Scripts: what a coach sends a rider, approved word by word, and the page the rider reads."""
