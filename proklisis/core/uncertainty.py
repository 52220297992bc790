"""Values with ±, after JCGM 100:2008 (the GUM)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import erfc
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Value:
    """A value with its standard uncertainty ``u`` (68 %), both in the same unit."""

    value: float
    u: float

    @property
    def expanded(self) -> float:
        """U = 2u, about 95 %."""
        return 2 * self.u


def propagate(
    f: Callable[..., Any],
    x: Sequence[float],
    u: Sequence[float],
    correlation: ArrayLike | None = None,
) -> Value:
    """Apply the law of propagation of uncertainty (JCGM 100:2008, eq. 13).

    Parameters
    ----------
    f : function of ``len(x)`` numbers
    x, u : estimates and their standard uncertainties
    correlation : (n, n) correlation coefficients; identity when left out
    """
    xs, us = np.asarray(x, float), np.asarray(u, float)
    grad = np.empty(len(xs))
    for i in range(len(xs)):
        step = us[i] if us[i] > 0 else 1e-6 * max(1.0, abs(xs[i]))
        hi, lo = xs.copy(), xs.copy()
        hi[i] += step / 2
        lo[i] -= step / 2
        grad[i] = (f(*hi) - f(*lo)) / step
    c = grad * us
    r = np.eye(len(xs)) if correlation is None else np.asarray(correlation, float)
    return Value(float(f(*xs)), float(np.sqrt(max(0.0, c @ r @ c))))


def normal_cdf(z: float) -> float:
    """Share of a standard normal below ``z``."""
    return 0.5 * erfc(-z / 2**0.5)


def probability_outside(value: float, u: float, lo: float | None, hi: float | None) -> float:
    """Probability that the true value lies outside [lo, hi], for a normal value ± u."""
    if u <= 0:
        below = lo is not None and value < lo
        above = hi is not None and value > hi
        return float(below or above)
    p = 0.0
    if lo is not None:
        p += normal_cdf((lo - value) / u)
    if hi is not None:
        p += normal_cdf((value - hi) / u)
    return min(1.0, p)


def frame_time_u(fps: float) -> float:
    """Standard uncertainty of one instant read off frames: 1/(fps·√12) seconds."""
    return 1.0 / (fps * 12**0.5)


def interval_u(fps: float) -> float:
    """Standard uncertainty of an interval read off frames: 1/(fps·√6) seconds."""
    return 1.0 / (fps * 6**0.5)


def digits(value: float, u: float) -> str:
    """Format a value with no more digits than its uncertainty bears (U to one digit or two)."""
    if u <= 0 or not np.isfinite(u):
        return f"{value:g}"
    places = max(0, int(-np.floor(np.log10(2 * u))))
    words = f"{value:.{places}f}"
    return words.lstrip("-") if float(words) == 0 else words.replace("-", "−")
