"""What a simulated run is: exact positions over time, and the place they happen in."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Motion:
    """Exact positions of one run.

    Attributes
    ----------
    t : (n,) seconds
    points : landmark → (n, 3) metres in the world; body, gear and scene
    boundaries : seconds at which the units begin and end
    slope_deg : fall of the ground along the course
    edges : foot → (n,) edge of that ski, degrees, + to the rider's right
    stature_m : the rider's height
    surface : (n, 3) the point of the surface under the rider, or None for under the feet
    place : what is drawn around the rider
    """

    t: Array
    points: dict[str, Array]
    boundaries: Array
    slope_deg: float
    edges: dict[str, Array]
    stature_m: float
    surface: Array | None = None
    place: str = "snow"
    flow: dict[str, Array] = field(default_factory=dict)
    """Moving surfaces: landmark → (n, 3) how far the water has gone since the start."""
    body: int | None = None
    """The person who rides, where it is not the plain rig; see :mod:`proklisis.simulate.people`."""

    def ground(self) -> Array:
        """(n, 3) the point of the surface under the rider."""
        if self.surface is not None:
            return self.surface
        return np.asarray((self.points["l_ankle"] + self.points["r_ankle"]) / 2)
