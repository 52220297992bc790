"""Smoothing, derivatives and crossings of sampled signals.

Zero-lag low-pass: a second-order Butterworth run forward and back, its cut-off raised by
1/0.802 so that the pair has the asked one (Winter, *Biomechanics and Motor Control of Human
Movement*, ch. 3). The cut-off is chosen by Winter's residual analysis.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

#: (√2 − 1)^(1/4): what two passes of a second-order filter do to its cut-off.
TWO_PASS = (2**0.5 - 1) ** 0.25


def lowpass(x: Array, fps: float, cutoff_hz: float) -> Array:
    """Smooth along axis 0 without lag; NaN stretches are passed over and stay NaN.

    Parameters
    ----------
    x : (n, …) any unit
    fps : samples per second
    cutoff_hz : −3 dB frequency of the two passes together
    """
    if cutoff_hz >= 0.45 * fps or len(x) < 10:
        return x.copy()
    wn = min(0.99, cutoff_hz / TWO_PASS / (fps / 2))
    flat = x.reshape(len(x), -1)
    out = np.full_like(flat, np.nan)
    whole = np.isfinite(flat).all(axis=0)
    pad = min(len(x) - 1, max(9, int(fps / cutoff_hz)))
    if whole.any():
        out[:, whole] = _there_and_back(flat[:, whole], wn, pad)
    for k in np.flatnonzero(~whole):
        for a, b in runs(np.isfinite(flat[:, k])):
            piece = flat[a:b, k]
            length = min(len(piece) - 1, pad)
            out[a:b, k] = (
                _there_and_back(piece[:, None], wn, length)[:, 0] if length >= 3 else piece
            )
    return out.reshape(x.shape)


def _there_and_back(x: Array, wn: float, pad: int) -> Array:
    """``scipy.signal.filtfilt`` of (n, k) along axis 0; what it works out again at each call is kept for each filter."""
    # Loading it takes seconds, which judging a sheet must not wait for.
    from scipy import signal

    b, a, settled = _butterworth(wn)
    long = np.concatenate([2 * x[:1] - x[pad:0:-1], x, 2 * x[-1:] - x[-2 : -pad - 2 : -1]])
    there, _ = signal.lfilter(b, a, long, axis=0, zi=settled * long[0])
    back, _ = signal.lfilter(b, a, there[::-1], axis=0, zi=settled * there[-1])
    return np.asarray(back[::-1][pad : len(long) - pad])


@lru_cache(maxsize=256)
def _butterworth(wn: float) -> tuple[Array, Array, Array]:
    """A low-pass at ``wn`` of half the sampling rate: its (3,) and (3,) coefficients, and its state (2, 1) at a steady input of 1."""
    from scipy import signal

    # Of second order a plain quotient loses nothing, and takes a fifth of the time of sections.
    b, a = signal.butter(2, wn)
    return b, a, np.asarray(signal.lfilter_zi(b, a))[:, None]


def runs(mask: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Return the half-open index ranges in which ``mask`` is true."""
    edges = np.diff(np.concatenate([[0], mask.astype(np.int8), [0]]))
    return list(zip(np.flatnonzero(edges == 1), np.flatnonzero(edges == -1), strict=True))


def residual_cutoff(x: Array, fps: float, lowest: float = 2.0, highest: float = 8.0) -> float:
    """Return the cut-off in hertz at which the residual is all noise (Winter's analysis).

    The residual RMS is a straight line over cut-offs where only noise is taken away. That
    line is fitted at the high end and carried to zero; the answer is where the residual
    rises to the line's intercept, held inside [lowest, highest].
    """
    flat = x.reshape(len(x), -1)
    flat = flat[:, np.isfinite(flat).all(axis=0)]
    highest = min(highest, 0.4 * fps)
    if flat.shape[1] == 0 or len(flat) < 2 * fps / lowest or lowest >= highest:
        return float(highest)
    flat = flat[: int(30 * fps)]
    top = min(0.42 * fps, 20.0)
    cutoffs = np.linspace(lowest, top, 15)
    rms = np.array([np.sqrt(np.mean((flat - lowpass(flat, fps, f)) ** 2)) for f in cutoffs])
    tail = cutoffs >= 0.6 * top
    slope, intercept = np.polyfit(cutoffs[tail], rms[tail], 1)
    if intercept <= 0 or slope >= 0:
        return float(highest)
    below = np.flatnonzero(rms <= intercept)
    chosen = cutoffs[below[0]] if len(below) else highest
    return float(np.clip(chosen, lowest, highest))


def derivative(x: Array, t: Array) -> Array:
    """Return dx/dt along axis 0 by central differences on uneven times."""
    if len(x) < 2:
        return np.zeros_like(x)
    return np.asarray(np.gradient(x, t, axis=0))
