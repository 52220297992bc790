"""From where the camera looks, by the way the rider's body faces: hips and shoulders in space.

The azimuth is the direction of travel in the camera's own horizontal plane, degrees clockwise from the way it
looks: 0 from behind, 90 from the rider's right, 180 from the front, −90 from the left.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.camera.views import turned
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.uncertainty import Value

Array = NDArray[np.float64]
AT = {name: k for k, name in enumerate(BODY)}
#: What a body that faces the way it goes on the whole still leaves of doubt, degrees (rendered people on skis, poles and skates).
FACING_U_DEG = 5.0
#: What the spread of single frames (circular standard deviation) adds to it.
ASTRAY = 0.3


def faced(xy: Array, z: Array) -> Value:
    """Azimuth by a rider who faces the way they go, from (n, 19, 2) places and (n, 19) depths, pixels."""

    def flat(a: str, b: str) -> Array:
        """(n, 2) right and away from the camera, from one point to another."""
        i, j = AT[a], AT[b]
        return np.stack([xy[:, j, 0] - xy[:, i, 0], z[:, j] - z[:, i]], axis=-1)

    parts = []
    for part in ("hip", "shoulder"):
        right = flat(f"l_{part}", f"r_{part}")
        parts.append(np.stack([-right[:, 1], right[:, 0]], axis=-1))
    # Feet are guessed to point at the camera now and then, away from it or not.
    return _agreed(parts, FACING_U_DEG)


def _agreed(parts: list[Array], least_u: float) -> Value:
    """The mean direction of (n, 2) ways right and away, each part weighing what it is long; ± by how far parts differ."""
    means = [
        p[np.isfinite(p).all(axis=1)].mean(axis=0)
        for p in parts
        if np.isfinite(p).all(axis=1).any()
    ]
    if not means:
        return Value(float("nan"), float("nan"))
    whole = np.sum(means, axis=0)
    azimuth = float(np.degrees(np.arctan2(whole[0], whole[1])))
    apart = [turned(float(np.degrees(np.arctan2(m[0], m[1]))) - azimuth) for m in means]
    weight = [float(np.linalg.norm(m)) for m in means]
    spread = float(np.sqrt(np.average(np.square(apart), weights=weight))) / len(means) ** 0.5
    # A body that is taken for its mirror image now and then points every way.
    ways = np.nansum(parts, axis=0)
    ways = ways / np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-9)
    one_way = float(np.clip(np.linalg.norm(ways.mean(axis=0)), 1e-3, 1.0))
    astray = float(np.degrees(np.sqrt(-2 * np.log(one_way))))
    return Value(azimuth, float(np.sqrt(least_u**2 + spread**2 + (ASTRAY * astray) ** 2)))
