"""Segment masses and the body's centre of mass.

Winter, *Biomechanics and Motor Control of Human Movement*, table 4.1: mass as a fraction of
the body's, and where a segment's own centre lies from its proximal end.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Segment:
    """A rigid part of the body between two points, ``centre`` measured from ``proximal``."""

    proximal: str
    distal: str
    mass: float
    centre: float


#: Hands are carried at the wrist: trackers do not give a knuckle.
WINTER: tuple[Segment, ...] = (
    Segment("mid_shoulder", "mid_hip", 0.497, 0.50),
    Segment("mid_ear", "mid_ear", 0.081, 0.0),
    *(
        s
        for side in ("l", "r")
        for s in (
            Segment(f"{side}_wrist", f"{side}_wrist", 0.006, 0.0),
            Segment(f"{side}_elbow", f"{side}_wrist", 0.016, 0.430),
            Segment(f"{side}_shoulder", f"{side}_elbow", 0.028, 0.436),
            Segment(f"{side}_heel", f"{side}_toe", 0.0145, 0.50),
            Segment(f"{side}_knee", f"{side}_ankle", 0.0465, 0.433),
            Segment(f"{side}_hip", f"{side}_knee", 0.100, 0.433),
        )
    ),
)

#: Landmarks behind each derived point.
MIDPOINTS: dict[str, tuple[str, ...]] = {
    "mid_hip": ("l_hip", "r_hip"),
    "mid_shoulder": ("l_shoulder", "r_shoulder"),
    "mid_ankle": ("l_ankle", "r_ankle"),
    "mid_ear": ("l_ear", "r_ear"),
}


def com_weights(segments: tuple[Segment, ...] = WINTER) -> dict[str, float]:
    """Return landmark → weight so that the centre of mass is their weighted sum (sums to 1)."""
    weights: dict[str, float] = {}
    for s in segments:
        for point, w in ((s.proximal, s.mass * (1 - s.centre)), (s.distal, s.mass * s.centre)):
            parts = MIDPOINTS.get(point, (point,))
            for part in parts:
                weights[part] = weights.get(part, 0.0) + w / len(parts)
    return {name: w for name, w in weights.items() if w > 0}


def centre_of_mass(points: dict[str, Array], segments: tuple[Segment, ...] = WINTER) -> Array:
    """Weighted sum of landmark positions, in whatever frame and unit they are given in."""
    weights = com_weights(segments)
    return np.asarray(sum(w * points[name] for name, w in weights.items()))
