"""How far the pose network's points are off: calibrated on rendered riders whose true points are known.

The network's own visibility says nothing of it. What does is the point, the size of the rider, and in
views from the side whether the limb is the far one. ``benchmarks.accuracy --pixels`` shows for each
discipline and point how often the truth lies inside.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.outlier_rejection import figure_height

Array = NDArray[np.float64]

#: Standard uncertainty of each point as a share of the rider's size: half of what 95 % of the errors
#: of rendered skiers, boarders, skaters and jumpers stay within.
POINT_U: dict[str, float] = {
    "nose": 0.022, "ear": 0.016, "shoulder": 0.0125, "elbow": 0.020, "wrist": 0.018, "hip": 0.016,
    "knee": 0.020, "ankle": 0.026, "heel": 0.042, "toe": 0.044,
}  # fmt: skip
#: Below about this height in the picture a rider is followed the worse the smaller they are, pixels.
SMALL_PX = 130.0
#: A limb on the far side of the body is half guessed.
FAR = 1.6
#: Trunk and longer leg, one after the other, as a share of the height of a rider who stands easily; one
#: who crouches is larger than they look.
CHAIN_TO_HEIGHT = 0.82
#: The network's errors are much the same from one frame to the next for about this long.
ERROR_CORR_S = 0.12


def point_u(xy: Array, view: str | None) -> Array:
    """(n, 19) standard uncertainty of either coordinate, pixels; NaN where the point is not seen."""
    share = np.array([POINT_U[n.split("_")[-1]] for n in BODY])
    far = {"side_left": "r_", "side_right": "l_"}.get(view or "", "-")
    share = share * np.array([FAR if n.startswith(far) else 1.0 for n in BODY])
    return np.where(np.isfinite(xy[..., 0]), np.hypot(rider_size(xy), SMALL_PX) * share, np.nan)


def rider_size(xy: Array) -> float:
    """Height in pixels that the rider would have in the picture standing easily."""
    at = {n: xy[:, BODY.index(n)] for n in BODY}
    trunk = np.linalg.norm(
        (at["l_shoulder"] + at["r_shoulder"] - at["l_hip"] - at["r_hip"]) / 2, axis=1
    )
    legs = [
        np.linalg.norm(at[f"{s}_hip"] - at[f"{s}_knee"], axis=1) + np.linalg.norm(at[f"{s}_knee"] - at[f"{s}_ankle"], axis=1)
        for s in "lr"
    ]  # fmt: skip
    chain = trunk + np.maximum(*legs)
    seen = chain[np.isfinite(chain)]
    return max(
        figure_height(xy, BODY), float(np.median(seen)) / CHAIN_TO_HEIGHT if len(seen) else 0.0
    )
