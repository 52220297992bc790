"""The one signal that a run is split by."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class EventSignal:
    """A value in every frame that shows where one unit ends and the next begins, and how much of it is noise.

    Attributes
    ----------
    t : (n,) seconds
    values : (n,) in the unit of its splitter; of a tilt degrees, + to the rider's right
    noise : standard uncertainty of one frame, in the same unit
    graded : False where only the sign can be trusted (a side view): transitions then take a
        half-sine's share of the turn instead of the 30 % rule
    scene : what a wrong level or view could add to every frame alike, in the same unit
    """

    t: Array
    values: Array
    noise: float
    graded: bool = True
    scene: float = 0.0
