"""A jointed figure posed from a few wishes: feet, pelvis, trunk, gaze and hands in, landmarks out.

World axes: x to the right of travel, y along it, z up; metres. Every argument is an array over
frames: vectors (n, 3), angles (n,) in degrees. A yaw is the bearing of a front, + to the right of y.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]
UP = np.array([0.0, 0.0, 1.0])
#: Segment lengths ÷ stature (Drillis & Contini, as given by Winter; values from memory).
PROPORTION = {
    "shank": 0.246, "thigh": 0.245, "trunk": 0.288, "upper_arm": 0.186, "forearm": 0.146,
    "hip_width": 0.16, "shoulder_width": 0.24, "head": 0.13, "foot": 0.152,
}  # fmt: skip
#: Ankle over the sole, and the share of the foot that lies behind it.
ANKLE_HEIGHT, HEEL_SHARE = 0.045, 0.28

Points = dict[str, Array]


def segments(stature: float, rng: np.random.Generator) -> dict[str, float]:
    """Lengths in metres of one rider's segments, each a little off the usual proportion."""
    return {
        k: v * stature * (1 + 0.015 * float(np.clip(rng.standard_normal(), -2, 2)))
        for k, v in PROPORTION.items()
    }


def bearing(yaw: ArrayLike) -> Array:
    """(n, 3) horizontal unit vectors that point ``yaw`` to the right of y."""
    a = np.radians(np.asarray(yaw, float))
    return np.stack([np.sin(a), np.cos(a), np.zeros_like(a)], axis=-1)


def rightward(yaw: ArrayLike) -> Array:
    """(n, 3) horizontal unit vectors to the right of ``yaw``."""
    return bearing(np.asarray(yaw, float) + 90.0)


def unit(v: Array) -> Array:
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-12))


def reach(a: float, b: float, flex: ArrayLike) -> Array:
    """Distance between the ends of two segments that bend by ``flex`` (0: straight)."""
    return np.asarray(
        np.sqrt(a**2 + b**2 + 2 * a * b * np.cos(np.radians(np.asarray(flex, float))))
    )


def bent(start: Array, end: Array, a: float, b: float, hint: Array) -> tuple[Array, Array]:
    """Middle joint of two segments from ``start`` to ``end``, bent toward ``hint``, and the end reached.

    An end out of reach is brought in on its own line, so that no bone stretches.
    """
    d = end - start
    length = np.linalg.norm(d, axis=1)
    u = d / np.maximum(length, 1e-9)[:, None]
    length = np.clip(length, abs(a - b) + 1e-3, 0.9995 * (a + b))
    along = (length**2 + a**2 - b**2) / (2 * length)
    off = np.sqrt(np.maximum(a**2 - along**2, 0.0))
    side = unit(hint - (hint * u).sum(axis=1, keepdims=True) * u)
    return start + along[:, None] * u + off[:, None] * side, start + length[:, None] * u


def feet(
    p: Points, s: str, ankle: Array, yaw: ArrayLike, pitch: ArrayLike, seg: dict[str, float]
) -> None:
    """Heel and toe of a foot at its ``ankle``; ``pitch`` is how far the heel is raised over the toe."""
    turn = np.radians(np.asarray(pitch, float))[..., None]
    forward = np.cos(turn) * bearing(yaw) - np.sin(turn) * UP
    sole = np.sin(turn) * bearing(yaw) + np.cos(turn) * UP
    strapped(p, s, ankle, forward, sole, seg)


def strapped(
    p: Points, s: str, ankle: Array, forward: Array, sole: Array, seg: dict[str, float]
) -> None:
    """Heel and toe of a foot that points along ``forward`` on a deck whose upward side is ``sole``."""
    p[f"{s}_ankle"] = ankle
    p[f"{s}_heel"] = ankle - HEEL_SHARE * seg["foot"] * forward - ANKLE_HEIGHT * sole
    p[f"{s}_toe"] = ankle + (1 - HEEL_SHARE) * seg["foot"] * forward - ANKLE_HEIGHT * sole


def pelvis(p: Points, mid: Array, yaw: ArrayLike, roll: ArrayLike, seg: dict[str, float]) -> None:
    """Both hips around ``mid``; ``roll`` drops the right one."""
    r = np.radians(np.asarray(roll, float))[..., None]
    axis = np.cos(r) * rightward(yaw) - np.sin(r) * UP
    half = seg["hip_width"] / 2
    p["l_hip"], p["r_hip"] = mid - half * axis, mid + half * axis


def legs(p: Points, seg: dict[str, float], hints: dict[str, Array]) -> None:
    """Knees between the hips and ankles, each bent toward its hint.

    A hip out of the leg's reach pulls the pelvis down: both hips move by what is lacking.
    """
    lack = np.zeros_like(p["l_hip"])
    for s in "lr":
        d = p[f"{s}_hip"] - p[f"{s}_ankle"]
        length = np.linalg.norm(d, axis=1, keepdims=True)
        over = np.maximum(length - 0.9995 * (seg["shank"] + seg["thigh"]), 0.0)
        lack = (
            np.minimum(lack, -over * d / length)
            if s == "l"
            else np.where(
                over > np.linalg.norm(lack, axis=1, keepdims=True), -over * d / length, lack
            )
        )
    for s in "lr":
        p[f"{s}_hip"] = p[f"{s}_hip"] + lack
    for s in "lr":
        p[f"{s}_knee"], _ = bent(
            p[f"{s}_ankle"], p[f"{s}_hip"], seg["shank"], seg["thigh"], hints[s]
        )


def trunk(
    p: Points, seg: dict[str, float], pitch: ArrayLike, lean: ArrayLike, yaw: ArrayLike, *,
    shoulder_yaw: ArrayLike | None = None, drop: ArrayLike = 0.0, axis: Array | None = None,
) -> Array:  # fmt: skip
    """Shoulders over the hips: ``pitch`` forward of the vertical along ``yaw``, ``lean`` to its right.

    ``drop`` lowers the right shoulder. ``axis`` gives the trunk's direction itself. Returns that
    direction, (n, 3).
    """
    if axis is None:
        d = (
            np.tan(np.radians(np.asarray(pitch, float)))[..., None] * bearing(yaw)
            + np.tan(np.radians(np.asarray(lean, float)))[..., None] * rightward(yaw) + UP
        )  # fmt: skip
        axis = unit(np.broadcast_to(d, p["l_hip"].shape))
    mid = (p["l_hip"] + p["r_hip"]) / 2 + seg["trunk"] * axis
    across = rightward(yaw if shoulder_yaw is None else shoulder_yaw)
    across = unit(across - (across * axis).sum(axis=-1, keepdims=True) * axis)
    turn = np.radians(np.broadcast_to(np.asarray(drop, float), mid.shape[:1]))[:, None]
    across = unit(np.cos(turn) * across - np.sin(turn) * axis)
    half = seg["shoulder_width"] / 2
    p["l_shoulder"], p["r_shoulder"] = mid - half * across, mid + half * across
    return axis


def head(
    p: Points,
    seg: dict[str, float],
    axis: Array,
    gaze_yaw: ArrayLike,
    drop: ArrayLike,
    up: Array | None = None,
) -> None:
    """Ears and nose over the shoulders; the gaze falls ``drop`` below the level."""
    up = UP if up is None else up
    mid = (p["l_shoulder"] + p["r_shoulder"]) / 2
    centre = mid + 0.85 * seg["head"] * unit(0.5 * axis + 0.5 * up)
    yaw = np.broadcast_to(np.asarray(gaze_yaw, float), mid.shape[:1])
    fall = np.radians(np.broadcast_to(np.asarray(drop, float), mid.shape[:1]))[:, None]
    ear = rightward(yaw)
    p["l_ear"], p["r_ear"] = centre - 0.075 * ear, centre + 0.075 * ear
    p["nose"] = centre + 0.11 * (np.cos(fall) * bearing(yaw) - np.sin(fall) * up)


def arm(p: Points, s: str, hand: Array, hint: Array, seg: dict[str, float]) -> None:
    """Elbow and wrist of an arm whose hand goes to ``hand``, elbow bent toward ``hint``."""
    p[f"{s}_elbow"], p[f"{s}_wrist"] = bent(
        p[f"{s}_shoulder"], hand, seg["upper_arm"], seg["forearm"], hint
    )


def held_arm(
    p: Points, s: str, direction: Array, flex: ArrayLike, hint: Array, seg: dict[str, float]
) -> None:
    """An arm held out along ``direction`` with its elbow bent by ``flex``."""
    far = p[f"{s}_shoulder"] + reach(seg["upper_arm"], seg["forearm"], flex)[..., None] * unit(
        direction
    )
    arm(p, s, far, hint, seg)


def stack(x: ArrayLike, y: ArrayLike, z: ArrayLike) -> Array:
    """(n, 3) from three coordinates, any of them a single number."""
    return np.stack(np.broadcast_arrays(*(np.asarray(v, float) for v in (x, y, z))), axis=-1)
