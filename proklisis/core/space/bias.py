"""What the tracker's points are off the joints on the whole, taken out in the body's own directions.

A network marks a shoulder on top of the joint, and a hip on the front of it. Seen from any side that
is one offset on the body: out from its middle, ahead and up along the trunk. Measured on rendered people of twelve
builds in all disciplines; figures are reported from twelve others (docs/honesty.md).
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.space.depth import AT, SIZE_TO_TRUNK, Depths
from proklisis.core.tracks.landmarks import BODY, mirrored
from proklisis.core.tracks.tracks import SOURCES, Tracks

Array = NDArray[np.float64]
#: Point of the body → out, ahead and up, as shares of the body's size.
BIAS: dict[str, tuple[float, float, float]] = {
    "shoulder": (0.0, 0.001, 0.023), "elbow": (0.0, 0.003, 0.005),
    "hip": (-0.005, 0.019, 0.0), "ankle": (-0.003, 0.0, 0.010), "heel": (-0.007, -0.005, 0.006), "toe": (0.009, -0.014, -0.011),
}  # fmt: skip


#: So much of the angle between the shoulder line and the square of the trunk the network takes away: shoulders that are held level
#: over a trunk that leans are drawn half-way square to it (rendered skiers from the front and from behind: 0.35 to 0.45).
SQUARED = 0.40
#: What is left: standard uncertainty of either coordinate ÷ the body's size, of a point that lies beside its other (shoulder
#: beside shoulder), nearer to the camera than it, and behind it (68 % of the errors).
LEFT_U: dict[str, tuple[float, float, float]] = {
    # Under a helmet and goggles, ears are guessed.
    "nose": (0.014, 0.014, 0.014), "ear": (0.025, 0.025, 0.025), "shoulder": (0.0095, 0.015, 0.019), "elbow": (0.008, 0.020, 0.029),
    "wrist": (0.010, 0.019, 0.029), "hip": (0.0125, 0.0155, 0.0175), "knee": (0.011, 0.0125, 0.020), "ankle": (0.016, 0.017, 0.025),
    "heel": (0.019, 0.021, 0.028), "toe": (0.024, 0.024, 0.031),
}  # fmt: skip
#: A point lies beside its other where their depths differ by less than this share of the body's size; twice as far off it is
#: altogether near or behind.
BESIDE = 0.05
#: Below about this size in the picture a rider is followed the worse the smaller they are, pixels.
SMALL_PX = 130.0


#: Bones that stretch more than this belong to a body that is followed badly: points are off by so much more, to this power
#: (rendered people: 0.02 to 0.03 where points are off by two hundredths of the size, 0.06 where it is six).
STEADY, WORSE = 0.030, 1.5


def roughly(depths: Depths) -> float:
    """How many times worse than usual the body is followed, by how far its bones seem to stretch; 1 where it is followed well."""
    return float(max(1.0, depths.strain / STEADY) ** WORSE)


def left_u(tracks: Tracks, depths: Depths) -> Array:
    """(n, k) standard uncertainty of the tracker's points once their bias is out; of what a hand marked, as it was."""
    size = SIZE_TO_TRUNK * depths.trunk_px
    z = depths.in_space.z / size
    found = tracks.source == SOURCES.index("auto")
    u = tracks.u.copy()
    for name in BODY:
        beside, near, behind = LEFT_U[name.split("_")[-1]]
        other = AT.get(mirrored(name), AT[name])
        apart = np.clip(
            (z[:, AT[name]] - z[:, other]) / BESIDE - np.sign(z[:, AT[name]] - z[:, other]), -1, 1
        )
        apart = np.where(np.abs(z[:, AT[name]] - z[:, other]) < BESIDE, 0.0, apart)
        share = beside + np.where(apart < 0, -apart * (near - beside), apart * (behind - beside))
        k = tracks.index[name]
        # A point that was bridged or is known worse for another reason stays so.
        usual = float(np.nanmedian(u[found[:, k], k])) if found[:, k].any() else 1.0
        rows = found[:, k] & np.isfinite(share)
        u[rows, k] = (
            roughly(depths) * np.hypot(size, SMALL_PX) * share * np.maximum(u[:, k] / usual, 1.0)
        )[rows]
    return u


def without_bias(tracks: Tracks, depths: Depths) -> Tracks:
    """Tracks whose points of the body that a tracker found lie on the joints; what a hand marked stays."""
    out, ahead, up = body_axes(tracks.xy[:, [tracks.index[n] for n in BODY]], depths.in_space.z)
    size = SIZE_TO_TRUNK * depths.trunk_px
    found = tracks.source == SOURCES.index("auto")
    xy = tracks.xy.copy()
    for name in BODY:
        shares = BIAS.get(name.split("_")[-1])
        if shares is None:
            continue
        side = {"l": -1.0, "r": 1.0}.get(name[0], 0.0) if name != "nose" else 0.0
        off = size * (shares[0] * side * out + shares[1] * ahead + shares[2] * up)
        k = tracks.index[name]
        rows = found[:, k] & np.isfinite(off).all(axis=1)
        xy[rows, k] -= off[rows, :2] * [1.0, -1.0]
    return replace(tracks, xy=_shoulders_as_they_are(tracks, xy, depths), u=left_u(tracks, depths))


def _shoulders_as_they_are(tracks: Tracks, xy: Array, depths: Depths) -> Array:
    """Places with the shoulder line turned on about its middle by what the network turned it toward the square of the trunk.

    Where the line is seen end-on, from the side, nothing is done.
    """
    left, right = (tracks.index[f"{s}_shoulder"] for s in "lr")
    hips = (xy[:, tracks.index["l_hip"]] + xy[:, tracks.index["r_hip"]]) / 2
    middle, half = (xy[:, left] + xy[:, right]) / 2, (xy[:, right] - xy[:, left]) / 2
    trunk = middle - hips
    square = np.stack([-trunk[:, 1], trunk[:, 0]], axis=1)
    square *= np.sign((square * half).sum(axis=1, keepdims=True))
    off = np.arctan2(
        square[:, 0] * half[:, 1] - square[:, 1] * half[:, 0], (square * half).sum(axis=1)
    )
    shows = np.clip(2 * np.linalg.norm(half, axis=1) / depths.lengths["shoulders"], 0.0, 1.0) ** 2
    turn = off * (1.0 / (1.0 - SQUARED * shows) - 1.0)
    c, s = np.cos(turn), np.sin(turn)
    half = np.stack([c * half[:, 0] - s * half[:, 1], s * half[:, 0] + c * half[:, 1]], axis=1)
    found = (tracks.source[:, [left, right]] == SOURCES.index("auto")).all(axis=1)
    rows = found & np.isfinite(half).all(axis=1)
    out = xy.copy()
    out[rows, left], out[rows, right] = (middle - half)[rows], (middle + half)[rows]
    return out


def body_axes(xy: Array, z: Array) -> tuple[Array, Array, Array]:
    """(n, 3) unit vectors to the body's right, ahead and up its trunk; right, up and away in the picture."""
    at = np.concatenate([xy * [1.0, -1.0], z[..., None]], axis=-1)

    def between(a: str, b: str) -> Array:
        return np.asarray(at[:, AT[b]] - at[:, AT[a]])

    right = _unit(between("l_hip", "r_hip") + between("l_shoulder", "r_shoulder"))
    trunk = between("l_hip", "l_shoulder") + between("r_hip", "r_shoulder")
    up = _unit(trunk - (trunk * right).sum(axis=1, keepdims=True) * right)
    return right, np.cross(right, up), up


def _unit(v: Array) -> Array:
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=1, keepdims=True), 1e-9))
