"""Who is answered when: days with minutes in them, and a draw where there are fewer places than riders."""
