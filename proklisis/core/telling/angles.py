"""The angle of what a coach draws on a picture, read like any other: lens and level taken out, with its ±."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from proklisis.core.camera.projection import undistort_radial
from proklisis.core.errors import InputError
from proklisis.core.tracks.by_hand import hand_u
from proklisis.core.tracks.tracks import ClipFacts
from proklisis.core.uncertainty import Value

Array = NDArray[np.float64]


def drawn_angle(points: Sequence[Sequence[float]], facts: ClipFacts) -> Value:
    """Degrees in the picture plane of what is drawn.

    Parameters
    ----------
    points : three for the angle at the middle one, 0 to 180; two for how far a line leans from upright, 0 to 90. Pixels of the clip.

    Raises
    ------
    InputError : for another number of points, or points that lie too close together to tell an angle
    """
    p = np.asarray(points, float)
    if p.shape not in ((2, 2), (3, 2)) or not np.isfinite(p).all():
        raise InputError("an angle has three points, a line two", "points", "draw it again")
    u_px = hand_u(facts.width)
    sides = np.linalg.norm(np.diff(p, axis=0), axis=1)
    if sides.min() < 4 * u_px:
        raise InputError("the points lie too close together", "points", "draw the lines longer")

    def read(q: Array) -> float:
        return _angle(_straight(q, facts), facts.roll_deg)

    value, step = read(p), 0.5
    variance = 0.0
    for i in range(p.shape[0]):
        for k in range(2):
            moved = p.copy()
            moved[i, k] += step
            variance += ((read(moved) - value) / step * u_px) ** 2
    if len(p) == 2:
        # Between two lines of one picture its level falls out.
        variance += facts.roll_u_deg**2
    return Value(value, float(np.sqrt(variance)))


def _straight(p: Array, facts: ClipFacts) -> Array:
    """(k, 2) pixels of a picture without the lens's bend."""
    centre = np.array([facts.width / 2, facts.height / 2])
    return undistort_radial(p, facts.focal_px or float(facts.width), centre, facts.k1, facts.k2)


def _angle(p: Array, roll_deg: float) -> float:
    if len(p) == 3:
        a, b = p[0] - p[1], p[2] - p[1]
        cross = abs(a[0] * b[1] - a[1] * b[0])
        return float(np.degrees(np.arctan2(cross, a @ b)))
    d = p[1] - p[0]
    # Upright in the picture is turned by the camera's roll.
    lean = np.degrees(np.arctan2(d[0], -d[1])) - roll_deg
    return float(abs((lean + 90) % 180 - 90))
