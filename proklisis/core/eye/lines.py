"""Angles of lines that are drawn on a picture."""

from __future__ import annotations

import math
from collections.abc import Sequence

Line = Sequence[Sequence[float]]


def tilt_of(line: Line) -> float:
    """Degrees of a drawn line: of two points its tilt from the vertical (−90, 90], of three the bend at the middle one (0 = straight).

    Points are (x, y) with y down the picture, in any unit that is the same both ways.
    """
    if len(line) == 2:
        (x0, y0), (x1, y1) = line
        tilt = math.degrees(math.atan2(x1 - x0, y0 - y1))
        # A line has no head: what points down is the same line.
        return tilt - 180 if tilt > 90 else tilt + 180 if tilt <= -90 else tilt
    (ax, ay), (bx, by), (cx, cy) = line
    turn = math.atan2(cy - by, cx - bx) - math.atan2(by - ay, bx - ax)
    return abs(math.degrees(math.atan2(math.sin(turn), math.cos(turn))))


def apart(drawn: float, true: float, points: int) -> float:
    """Error in degrees of a drawn angle, + = more of it than there is.

    More bend; of a tilt, further over from whichever is nearer, the vertical or the level, to the side to which it truly
    leans. So that errors of lines to the left and to the right do not cancel.
    """
    if points == 3:
        return drawn - true
    off = (drawn - true + 90) % 180 - 90
    from_level = true - 90 if true > 0 else true + 90
    leans = true if abs(true) <= 45 else from_level
    return off if leans >= 0 else -off


def line_words(landmarks: Sequence[str]) -> str:
    """The points of a line as they are said: "left hip – left knee – left ankle"."""
    sides = {"l": "left", "r": "right"}
    return " – ".join(" ".join(sides.get(w, w) for w in n.split("_")) for n in landmarks)
