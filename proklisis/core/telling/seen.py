"""What a Telling may point at: the run's frames, points and units."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
#: The rider's middle, with which a drawing goes: the first of these pairs that is followed.
MIDDLES = (("l_hip", "r_hip"), ("l_shoulder", "r_shoulder"), ("l_ankle", "r_ankle"))


@dataclass(frozen=True)
class Seen:
    """A run as its pictures show it.

    Attributes
    ----------
    t : (n,) seconds of each frame on the run's clock
    names, xy : points, and their (n, k, 2) pixels of the clip; NaN where one is not seen
    outside : unit → "l" or "r", which foot is outside
    """

    t: Array
    names: Sequence[str]
    xy: Array
    outside: Mapping[int, str | None]

    def last(self) -> int:
        """The number of the last frame."""
        return len(self.t) - 1

    def at(self, t: float) -> int:
        """The frame nearest to ``t`` seconds."""
        return int(np.abs(self.t - t).argmin())

    def point(self, name: str, frame: int) -> Array | None:
        """(2,) pixels of a point, or None where it is not seen."""
        if name not in self.names:
            return None
        p: Array = self.xy[frame, list(self.names).index(name)]
        return p if np.isfinite(p).all() else None

    def middle(self, frame: int) -> Array | None:
        """(2,) pixels of the rider's middle, or None where nobody is followed."""
        for pair in MIDDLES:
            left, right = (self.point(n, frame) for n in pair)
            if left is not None and right is not None:
                return (left + right) / 2
        return None
