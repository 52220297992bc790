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
    """Signed error in degrees of a drawn angle; tilts are alike half a turn on."""
    if points == 3:
        return drawn - true
    return (drawn - true + 90) % 180 - 90


def line_words(landmarks: Sequence[str]) -> str:
    """The points of a line as they are said: "left hip – left knee – left ankle"."""
    sides = {"l": "left", "r": "right"}
    return " – ".join(" ".join(sides.get(w, w) for w in n.split("_")) for n in landmarks)
