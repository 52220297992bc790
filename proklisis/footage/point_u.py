"""How far the pose network's points are off: calibrated on rendered riders whose true points are known.

The network's own visibility says nothing of it. What does is the point, the view, and how much the
point trembles from frame to frame; ``benchmarks.accuracy`` shows how often the truth lies inside.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.landmarks import BODY
from proklisis.core.mend import figure_height

Array = NDArray[np.float64]

#: Standard uncertainty of each point as a share of the figure's height, from simulated skiers
#: with exact truth; the network's own visibility is not an uncertainty.
POINT_U: dict[str, float] = {
    "nose": 0.012, "ear": 0.012, "shoulder": 0.009, "elbow": 0.014, "wrist": 0.015, "hip": 0.012,
    "knee": 0.012, "ankle": 0.024, "heel": 0.030, "toe": 0.035,
}  # fmt: skip
#: The network's errors are much the same from one frame to the next for about this long.
ERROR_CORR_S = 0.12


def point_u(xy: Array, t: Array, view: str | None) -> Array:
    """(n, 19) standard uncertainty of either coordinate, pixels; NaN where the point is not seen."""
    share = np.array([POINT_U[n.split("_")[-1]] for n in BODY])
    return np.where(np.isfinite(xy[..., 0]), figure_height(xy, BODY) * share, np.nan)
