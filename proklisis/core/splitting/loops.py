"""Loops on the ice: the closed part of the blade's trace, from where it is crossed to the crossing.

From above the trace is seen and the crossing found in it. From ahead or behind, the crossing lies
on the line of the far end. From the side the blade's foreshortening says how far the trace turns
away, and so how wide the loop is and where it closes; where that cannot be read, its place is taken
from the usual length of a loop.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.figure import Figure
from proklisis.core.signals import derivative, lowpass
from proklisis.core.splitting.events import between, boundary, bridged, signal_of
from proklisis.core.splitting.turns import TiltSignal
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.core.splitting.wheels import paired

Array = NDArray[np.float64]
#: A loop takes between these, seconds; its trace's low-pass; what is read before and after it.
SHORTEST_S, LONGEST_S, TRACE_HZ, AROUND_S = 0.35, 2.6, 3.5, 0.5
#: Low-pass of the blade's foreshortening; a loop from the side closes at so many blades off its far end.
BLADE_HZ, CLOSES_AT = 2.2, (0.4, 2.5)
#: Share of a loop's own size, beside the middle of the run's loops, that a reading from the side is worth.
OWN_SIZE = 0.75
#: Length of a blade, metres, and of a usual loop in blades (common practice: one to one and a half).
BLADE_M, USUAL_LENGTH = 0.28, 1.2


def skating_foot(figure: Figure) -> str:
    """The foot on the ice: the lower one, or from above the one that stays under the hips."""
    if figure.view == "above":
        off = {s: float(np.nanmean(np.hypot(*(figure[f"{s}_ankle"] - figure["mid_hip"])[:, :2].T))) for s in "lr"}
    else:
        off = {s: float(np.nanmean(figure[f"{s}_ankle"][:, 2])) for s in "lr"}
    return min(off, key=lambda s: off[s])


def blade_middle(figure: Figure, s: str) -> Array:
    if f"{s}_blade_front" in figure.points and f"{s}_blade_back" in figure.points:
        return (figure[f"{s}_blade_front"] + figure[f"{s}_blade_back"]) / 2
    return figure[f"{s}_ankle"]


def trace(figure: Figure) -> Array:
    """(n, 3) path of the skating blade over the ice."""

    def work() -> Array:
        drift = figure["scene_drift"] if "scene_drift" in figure.points else 0.0
        path = blade_middle(figure, skating_foot(figure)) - drift
        return np.stack([lowpass(bridged(path[:, k], figure.t), figure.fps, TRACE_HZ) for k in range(3)], axis=1)

    return figure.once("trace", work)


def blade_m(figure: Figure) -> float:
    given = figure.given.get("blade_m")
    return float(given) if isinstance(given, int | float) and not isinstance(given, bool) else BLADE_M


def loop_signal(figure: Figure) -> TiltSignal:
    """Turning of the trace, degrees a second, where it is seen; else the way along or across."""
    path = trace(figure)
    if figure.view in (None, "above"):
        v = derivative(path[:, :2], figure.t)
        turned = np.degrees(np.unwrap(np.arctan2(v[:, 0], v[:, 1])))
        return signal_of(figure, lowpass(derivative(turned, figure.t), figure.fps, 3.0))
    return signal_of(figure, path[:, 1] if figure.view in ("side_left", "side_right") else path[:, 0])


def loop_cuts(figure: Figure, signal: TiltSignal) -> list[Boundary]:
    if figure.view in (None, "above"):
        pairs = _crossed(figure.t, trace(figure)[:, :2])
    elif figure.view in ("side_left", "side_right"):
        pairs = _from_side(figure, trace(figure)[:, 1])
    else:
        pairs = _from_ahead(figure, trace(figure)[:, 0])
    return [boundary(when, figure.fps) for pair in pairs for when in pair]


def _crossed(t: Array, p: Array) -> list[tuple[float, float]]:
    """(first, second) times at which the trace passes each place where it crosses itself."""
    d = np.diff(p, axis=0)
    fps = (len(t) - 1) / (t[-1] - t[0])
    n = len(d)
    found: list[tuple[float, float]] = []
    for gap in range(max(2, int(SHORTEST_S * fps)), min(n - 1, int(LONGEST_S * fps))):
        a, b = p[: n - gap], p[gap:n]
        da, db = d[: n - gap], d[gap:n]
        det = da[:, 0] * db[:, 1] - da[:, 1] * db[:, 0]
        r = b - a
        with np.errstate(divide="ignore", invalid="ignore"):
            u = (r[:, 0] * db[:, 1] - r[:, 1] * db[:, 0]) / det
            v = (r[:, 0] * da[:, 1] - r[:, 1] * da[:, 0]) / det
        for i in np.flatnonzero((u >= 0) & (u < 1) & (v >= 0) & (v < 1)):
            found.append((float(t[i] + u[i] * (t[i + 1] - t[i])), float(t[i + gap] + v[i] * (t[i + gap + 1] - t[i + gap]))))
    # The outermost of crossings that lie within each other is the loop; the rest is a wobble in it.
    found.sort(key=lambda x: x[0] - x[1])
    kept: list[tuple[float, float]] = []
    for a0, b0 in found:
        if all(b0 <= a1 or a0 >= b1 for a1, b1 in kept):
            kept.append((a0, b0))
    return sorted(kept)


def _tops(t: Array, x: Array, rise: float) -> list[int]:
    """Indices of the maxima that stand ``rise`` over the lows on both sides."""
    from scipy.signal import find_peaks

    return [int(i) for i in find_peaks(x, prominence=rise)[0]]


def _level_pass(t: Array, x: Array, top: int, level: float) -> tuple[float, float] | None:
    """Times around a maximum at which ``x`` is at ``level``."""
    below = np.flatnonzero(x[:top] < level)
    after = np.flatnonzero(x[top:] < level)
    if not len(below) or not len(after):
        return None
    i, j = int(below[-1]), top + int(after[0])
    return (
        float(np.interp(level, [x[i], x[i + 1]], [t[i], t[i + 1]])),
        float(np.interp(-level, [-x[j - 1], -x[j]], [t[j - 1], t[j]])),
    )


def _from_side(figure: Figure, y: Array) -> list[tuple[float, float]]:
    scale = figure.facts["scale"]
    long = blade_m(figure) * (scale if np.isfinite(scale) else 0.0)
    usual = USUAL_LENGTH * long
    shown = _shown(figure)
    tops = _tops(figure.t, y, 0.6 * usual if usual else 0.3 * float(np.ptp(y)))
    read = [None if shown is None or not long else _closing(figure.t, y, top, shown, long) for top in tops]
    known = [d for d in read if d is not None]
    # One loop is read with noise, and a skater's loops are alike: each is drawn toward their middle.
    middle = float(np.median(known)) if known else usual or 0.8 * float(np.ptp(y))
    out: list[tuple[float, float]] = []
    for top, deep in zip(tops, read, strict=True):
        level = y[top] - (middle if deep is None else middle + OWN_SIZE * (deep - middle))
        pair = _level_pass(figure.t, y, top, level)
        if pair and SHORTEST_S <= pair[1] - pair[0] <= LONGEST_S:
            out.append(pair)
    return out


def _shown(figure: Figure) -> Array | None:
    """(n,) share of the blade that points along the picture, −1 … 1; None where the blade is not marked."""
    s = skating_foot(figure)
    if f"{s}_blade_front" not in figure.points or f"{s}_blade_back" not in figure.points:
        return None
    along = bridged((figure[f"{s}_blade_front"] - figure[f"{s}_blade_back"])[:, 1], figure.t)
    along = lowpass(along, figure.fps, BLADE_HZ)
    whole = float(np.percentile(np.abs(along), 98))
    return np.clip(along / whole, -1.0, 1.0) if whole > 0 else None


def _closing(t: Array, y: Array, top: int, share: Array, blade: float) -> float | None:
    """How far before the far end a loop seen from the side closes, in the unit of ``y``; None if it cannot be read.

    A blade runs along its trace: where it shows ``share`` of its length, the trace goes on by that
    share along the picture and by the rest of a unit circle away or toward the camera. It turns one
    way all along, so the way across changes its sign where the blade shows in full.
    """
    v = derivative(y, t)
    strong = np.abs(share) > 0.7
    if not strong.any():
        return None
    speed = float(np.median(v[strong] / share[strong]))
    reach = int(LONGEST_S / 2 / np.median(np.diff(t)))
    lo, hi = max(0, top - reach), min(len(t) - 1, top + reach)
    full_in = top - int(np.argmax(share[lo : top + 1][::-1])) if top > lo else top
    # Only the way up to the fullest view before the loop before it, and after it likewise.
    full_out = top + int(np.argmin(share[top : hi + 1]))
    sign = np.where((np.arange(len(t)) < full_in) | (np.arange(len(t)) > full_out), -1.0, 1.0)
    across = speed * sign * np.sqrt(1 - share**2)
    x = np.concatenate([[0.0], np.cumsum((across[1:] + across[:-1]) / 2 * np.diff(t))])
    depths = np.linspace(CLOSES_AT[0] * blade, CLOSES_AT[1] * blade, 120)
    width = np.full(len(depths), np.nan)
    for k, deep in enumerate(depths):
        pair = _level_pass(t, y, top, y[top] - deep)
        if pair is None:
            break
        width[k] = np.interp(pair[1], t, x) - np.interp(pair[0], t, x)
    closed = np.flatnonzero((width[:-1] > 0) & (width[1:] <= 0))
    if not len(closed):
        return None
    k = int(closed[0])
    return float(np.interp(0.0, [-width[k], -width[k + 1]], depths[k : k + 2]))


def _from_ahead(figure: Figure, x: Array) -> list[tuple[float, float]]:
    """At the far end the trace runs back against the way it goes: the crossing is level with its middle."""
    v = derivative(x, figure.t)
    way = 1.0 if x[-1] >= x[0] else -1.0
    back = way * v < 0
    edges = np.diff(np.concatenate([[0], back.astype(int), [0]]))
    out: list[tuple[float, float]] = []
    for a, b in zip(np.flatnonzero(edges == 1), np.flatnonzero(edges == -1), strict=True):
        if a == 0 or b >= len(x):
            continue
        # Where it goes back, it passes the crossing's line at its fastest.
        level = float((x[a] + x[b - 1]) / 2)
        before = np.flatnonzero(way * (x[:a] - level) < 0)
        after = np.flatnonzero(way * (x[b:] - level) > 0)
        if not len(before) or not len(after):
            continue
        i, j = int(before[-1]), b + int(after[0])
        first = float(np.interp(way * level, [way * x[i], way * x[i + 1]], [figure.t[i], figure.t[i + 1]]))
        last = float(np.interp(way * level, [way * x[j - 1], way * x[j]], [figure.t[j - 1], figure.t[j]]))
        # Noise at the far end can turn back twice: that is one loop, not two.
        if SHORTEST_S <= last - first <= LONGEST_S and (not out or first >= out[-1][1]):
            out.append((first, last))
    return out


def loop_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    path = trace(figure)
    s = skating_foot(figure)
    out = []
    for n, (a, b) in enumerate(paired(boundaries), start=1):
        t = between(figure, figure.t, a.t, b.t)
        if figure.view in ("front", "rear"):
            # Half of the way round, by time: the far end lies in the middle of the way back.
            far = (a.t + b.t) / 2
        elif figure.view in ("side_left", "side_right"):
            far = float(t[int(np.argmax(between(figure, path[:, 1], a.t, b.t)))])
        else:
            start = np.array([np.interp(a.t, figure.t, path[:, k]) for k in (0, 1)])
            far = float(t[int(np.argmax(np.hypot(*(between(figure, path[:, :2], a.t, b.t) - start).T)))])
        phases = {"trace_in": (a.t - AROUND_S, a.t), "round": (a.t, b.t), "trace_out": (b.t, b.t + AROUND_S)}
        out.append(Unit(n, a, b, phases, side="left" if s == "l" else "right", events={"far": far}))
    return out
