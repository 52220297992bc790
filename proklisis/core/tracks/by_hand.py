"""How well a hand puts a point."""

from __future__ import annotations

#: A hand puts a point to about this share of the picture's width, one standard deviation.
HAND_U_SHARE = 0.0015


def hand_u(width: int) -> float:
    """Standard uncertainty of a point put by hand on a picture so many pixels wide, pixels."""
    return max(HAND_U_SHARE * width, 0.5)
