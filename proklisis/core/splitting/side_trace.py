"""The trace of a loop seen from the side: the way across the picture rebuilt from what shows.

A blade runs along its trace. Where the trace turns by θ from the picture's direction, the blade shows
cos θ of its length and the skate's speed cos θ of itself: both say how far it runs across the picture,
toward the camera or away from it. One smooth turning θ(t) is fitted to both.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
#: Knots of the turning over three times the way from one full view of the blade to the next.
KNOTS = 11
#: Noise of a position for the noise of its points (house choice).
POSITION_NOISE = 1.0
#: Noise of the blade's length for the noise of its points (house choice).
LENGTH_NOISE = 2.0
#: How stiff the turning is, relative to both (house choice).
STIFF = 0.21
#: Change of speed through the fit, relative (house choice).
SPEED_CHANGE = 0.05
#: Error of the blade's length, relative (house choice).
LENGTH_ERROR = 0.05


@dataclass(frozen=True)
class Rebuilt:
    """Times and the trace's two parts, in the unit of what was fitted: across the picture and along it."""

    t: Array
    across: Array
    along: Array


def rebuild(
    t: Array, y: Array, blade: Array, share: Array, top: int, reach: tuple[int, int], noise: float
) -> Rebuilt | None:
    """Fit the trace around its far end; None where no speed can be read.

    Parameters
    ----------
    t : (n,) seconds
    y : (n,) way along the picture; its far end is at index ``top``
    blade : (n,) the blade's length along the picture, same unit; ``share`` is it as −1 … 1, smoothed
    reach : first and last index that belong to this loop
    noise : of one point, same unit
    """
    # Loading them takes seconds, which judging a sheet must not wait for.
    from scipy.interpolate import BSpline
    from scipy.optimize import least_squares

    lo, hi = reach
    full_in = top - int(np.argmax(share[lo : top + 1][::-1]))
    full_out = top + int(np.argmin(share[top : hi + 1]))
    round_ = full_out - full_in
    a, b = max(lo, full_in - round_), min(hi, full_out + round_) + 1
    if round_ < 4 or b - a < KNOTS + 4:
        return None
    t, y, blade, share = t[a:b], y[a:b], blade[a:b], share[a:b]
    strong = np.abs(share) > 0.7
    if not strong.any():
        return None
    speed = float(np.median(np.gradient(y, t)[strong] / share[strong]))
    long = float(np.percentile(np.abs(blade), 96))
    if speed <= 0 or long <= 0:
        return None

    # The turning starts where the blade's view says, folded open at its two full views.
    where = np.arange(len(t)) + a
    folded = np.arccos(np.clip(share, -1.0, 1.0))
    start = np.where(
        where < full_in, -folded, np.where(where > full_out, 2 * np.pi - folded, folded)
    )
    ends = [t[0]] * 3, [t[-1]] * 3
    shapes = BSpline.design_matrix(
        t, np.concatenate([ends[0], np.linspace(t[0], t[-1], KNOTS), ends[1]]), 3
    ).toarray()
    through = (t - t.mean()) / (t[-1] - t[0])
    stiff = STIFF * np.sqrt(len(t)) * np.diff(np.eye(shapes.shape[1]), 2, axis=0)
    position, length = POSITION_NOISE * noise, LENGTH_NOISE * noise

    def parts(p: Array) -> tuple[Array, Array, Array]:
        turned = shapes @ p[4:]
        pace = speed * p[0] * (1 + p[1] * through)
        return turned, pace, p[3] + _summed(t, pace * np.cos(turned))

    def off(p: Array) -> Array:
        turned, _, along = parts(p)
        return np.concatenate([
            (along - y) / position, (p[2] * long * np.cos(turned) - blade) / length, stiff @ p[4:],
            [p[1] / SPEED_CHANGE, (p[2] - 1) / LENGTH_ERROR],
        ])  # fmt: skip

    def slopes(p: Array) -> Array:
        turned, pace, along = parts(p)
        n = len(t)
        out = np.zeros((2 * n + len(stiff) + 2, len(p)))
        out[:n, 0] = (along - p[3]) / p[0] / position
        out[:n, 1] = _summed(t, speed * p[0] * through * np.cos(turned)) / position
        out[:n, 3] = 1 / position
        out[:n, 4:] = _summed(t, -(pace * np.sin(turned))[:, None] * shapes) / position
        out[n : 2 * n, 2] = long * np.cos(turned) / length
        out[n : 2 * n, 4:] = -(p[2] * long * np.sin(turned))[:, None] * shapes / length
        out[2 * n : -2, 4:] = stiff
        out[-2, 1], out[-1, 2] = 1 / SPEED_CHANGE, 1 / LENGTH_ERROR
        return out

    first = np.concatenate([[1.0, 0.0, 1.0, y[0]], np.linalg.lstsq(shapes, start, rcond=None)[0]])
    fitted = least_squares(off, first, jac=slopes, max_nfev=60).x
    turned, pace, along = parts(fitted)
    return Rebuilt(t, _summed(t, pace * np.sin(turned)), along)


def _summed(t: Array, rate: Array) -> Array:
    """Integral over time from the first sample on, along the first axis."""
    steps = np.diff(t).reshape((-1,) + (1,) * (rate.ndim - 1))
    return np.concatenate(
        [np.zeros_like(rate[:1]), np.cumsum((rate[1:] + rate[:-1]) / 2 * steps, axis=0)]
    )
