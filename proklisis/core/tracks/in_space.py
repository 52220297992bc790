"""How far the body's points lie behind the picture, as it was fitted, and how unsure that is."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Stretch:
    """Frames ``first`` … ``stop`` − 1 that were fitted together.

    Attributes
    ----------
    factor : (b, m·19) banded Cholesky factor of the fit's normal equations, lower form; depths of one frame lie together
    weight : (m,) what its depths count for in each frame: stretches overlap, and their weights add up to one
    """

    first: int
    stop: int
    factor: Array
    weight: Array


@dataclass(frozen=True)
class InSpace:
    """Depths of the body's 19 points.

    Attributes
    ----------
    z : (n, 19) pixels behind the middle of the hips, away from the camera
    stretches : what was fitted together
    shared : (s, 19) errors that all frames share, one standard deviation of each kind, pixels
    """

    z: Array
    stretches: tuple[Stretch, ...]
    shared: Array

    def drawn(self, rng: np.random.Generator) -> InSpace:
        """The same with depths drawn again as the fit leaves them open: by their covariance, over points and time."""
        from scipy.linalg import lapack

        z = self.z + rng.standard_normal(len(self.shared)) @ self.shared
        for s in self.stretches:
            noise = rng.standard_normal((s.factor.shape[1], 1))
            off, bad = lapack.dtbtrs(s.factor, noise, uplo="L", trans="T")
            if bad:
                raise ArithmeticError("the depths' factor is singular")
            z[s.first : s.stop] += s.weight[:, None] * off[:, 0].reshape(s.stop - s.first, -1)
        return replace(self, z=z)
