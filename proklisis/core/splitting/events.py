"""Finding events in signals: crossings with hysteresis, contact with the ground, onsets, peaks."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import leg_length
from proklisis.core.signals import derivative
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.units import Boundary
from proklisis.core.uncertainty import frame_time_u

Array = NDArray[np.float64]


def signal_of(figure: Figure, x: Array) -> EventSignal:
    """A splitter's signal as the Ribbon takes it; unseen stretches are bridged."""
    return EventSignal(figure.t, bridged(x, figure.t), 0.0, graded=False)


def bridged(x: Array, t: Array) -> Array:
    """A signal with its unseen stretches filled in a straight line; zeros where nothing is seen."""
    seen = np.isfinite(x)
    if not seen.any():
        return np.zeros_like(x)
    return np.asarray(x if seen.all() else np.interp(t, t[seen], x[seen]))


def crossings(t: Array, x: Array, level: float, hysteresis: float) -> list[tuple[float, int]]:
    """Times at which ``x`` passes ``level``, with direction (+1 up, −1 down).

    A crossing counts once the signal has gone ``hysteresis`` beyond the level; its time is where
    the level itself was passed.
    """
    y = x - level
    state = np.where(y > hysteresis, 1, np.where(y < -hysteresis, -1, 0))
    signed = np.flatnonzero(state)
    out = []
    for i in signed[1:][state[signed[1:]] != state[signed[:-1]]]:
        j = int(i)
        while j > 0 and y[j - 1] * y[i] > 0:
            j -= 1
        if j > 0:
            w = y[j - 1] / (y[j - 1] - y[j]) if y[j - 1] != y[j] else 0.0
            out.append((float(t[j - 1] + w * (t[j] - t[j - 1])), int(state[i])))
    return out


def boundary(t: float, fps: float) -> Boundary:
    return Boundary(float(t), frame_time_u(fps))


def leg(figure: Figure) -> float:
    """Leg length in the figure's unit: the 90th percentile over all frames of both legs, since a leg only ever looks shorter than it is."""
    return figure.once(
        "leg", lambda: float(np.nanpercentile([leg_length(figure, s) for s in "lr"], 90))
    )


def ground_level(figure: Figure) -> Array:
    """(n,) height of the surface under the rider, from the surface line or the lower foot."""
    if "surface_a" in figure.points and np.isfinite(figure.points["surface_a"][:, 2]).any():
        return np.asarray((figure["surface_a"][:, 2] + figure["surface_b"][:, 2]) / 2)
    return np.minimum(figure["l_toe"][:, 2], figure["r_toe"][:, 2])


def at(figure: Figure, x: Array, when: float, half_s: float = 0.02) -> float:
    """Value of a per-frame series at an instant: mean of the frames within ``half_s``, by a line through them."""
    t = figure.t
    if not t[0] - half_s <= when <= t[-1] + half_s:
        return float("nan")
    i, j = np.searchsorted(t, [when - half_s - 1e-9, when + half_s + 1e-9])
    i, j = max(0, min(i, len(t) - 2)), min(len(t), max(j, i + 2))
    piece, when_t = x[i:j], t[i:j]
    seen = np.isfinite(piece)
    if seen.sum() < 2:
        return float(piece[seen][0]) if seen.any() else float("nan")
    dt, value = when_t[seen] - when, piece[seen]
    off = dt - dt.mean()
    return float(value.mean() - dt.mean() * (off @ value) / (off @ off))


def between(figure: Figure, x: Array, a: float, b: float) -> Array:
    """The frames of a series within [a, b], one at the least."""
    i, j = np.searchsorted(figure.t, [a - 1e-9, b + 1e-9])
    i = min(i, len(x) - 1)
    return x[i : max(j, i + 1)]


def onset(figure: Figure, x: Array, a: float, b: float, share: float = 0.2) -> float:
    """When a movement starts: its speed passes ``share`` of its greatest within [a, b] for the last time before it."""
    t = figure.t
    i, j = np.searchsorted(t, [a - 1e-9, b + 1e-9])
    if i >= j - 3 or a < t[0] - 1e-6:
        return float("nan")
    v = derivative(x, t)[i:j]
    if not np.isfinite(v).all():
        return float("nan")
    k = int(np.argmax(v))
    if v[k] <= 0:
        return float("nan")
    level = share * v[k]
    m = k
    while m > 0 and v[m - 1] > level:
        m -= 1
    if m == 0:
        return float(t[i])
    w = (level - v[m - 1]) / (v[m] - v[m - 1])
    return float(t[i + m - 1] + w * (t[i + m] - t[i + m - 1]))


def peak_time(t: Array, x: Array) -> float:
    """Time of a series' greatest value, by a parabola through the three points around it."""
    k = int(np.nanargmax(x))
    if k in (0, len(x) - 1) or not np.isfinite(x[k - 1 : k + 2]).all():
        return float(t[k])
    below, top, above = x[k - 1], x[k], x[k + 1]
    bend = below - 2 * top + above
    shift = 0.5 * (below - above) / bend if bend < 0 else 0.0
    return float(t[k] + shift * (t[k + 1] - t[k]))
