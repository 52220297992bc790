"""Loops on the ice: the closed part of the blade's trace, from where it is crossed to the crossing.

From above the trace is seen and the crossing found in it. From ahead or behind, the crossing lies
on the line of the far end. From the side the trace is rebuilt from the blade's foreshortening; where
that cannot be read, the crossing's place is taken from the run's other loops or from a loop's usual length.
"""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from proklisis.core.rider.figure import Figure
from proklisis.core.signals import derivative, lowpass
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import between, boundary, bridged, signal_of
from proklisis.core.splitting.side_trace import rebuild
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.core.splitting.wheels import paired

Array = NDArray[np.float64]
#: The shortest loop, seconds (house choice).
SHORTEST_S = 0.35
#: The longest loop, seconds (house choice).
LONGEST_S = 2.6
#: Low-pass of the trace, hertz (house choice).
TRACE_HZ = 3.5
#: What is read before and after a loop, seconds (house choice).
AROUND_S = 0.5
#: Least low-pass of a trace seen from above, hertz (house choice).
LEAST_HZ = 2.0
#: Low-pass times the time of a loop (house choice).
PACES = 5.0
#: Low-pass of the blade's foreshortening, hertz (house choice).
BLADE_HZ = 2.2
#: A boot that is seen in a smaller share of the frames is left out (house choice).
LEAST_SEEN = 0.3
#: Length of a blade, metres (common practice).
BLADE_M = 0.28
#: Length of a usual loop in blades (common practice: one to one and a half).
USUAL_LENGTH = 1.2


def skating_foot(figure: Figure) -> str:
    """The foot on the ice: the lower one, or from above the one that stays under the hips."""
    return figure.once("skating foot", lambda: _skating_foot(figure))


def _skating_foot(figure: Figure) -> str:
    if figure.view == "above" and not figure.flat:
        off = {
            s: float(np.nanmean(np.hypot(*(figure[f"{s}_ankle"] - figure["mid_hip"])[:, :2].T)))
            for s in "lr"
        }
    else:
        foot = "blade_back" if figure.flat else "ankle"
        off = {s: float(np.nanmean(figure[f"{s}_{foot}"][:, 2])) for s in "lr"}
    return min(off, key=lambda s: off[s])


def _ends(s: str) -> tuple[str, str]:
    """Front and back of a foot's blade."""
    return f"{s}_blade_front", f"{s}_blade_back"


def blade_middle(figure: Figure, s: str) -> Array:
    front, back = _ends(s)
    if front in figure.points and back in figure.points:
        return (figure[front] + figure[back]) / 2
    return figure[f"{s}_ankle"]


def _boot_worth(figure: Figure, s: str) -> float:
    """What the boot is worth beside the blade that it carries along; 0 where either is not marked or hardly seen."""
    ends, boots = _ends(s), (f"{s}_toe", f"{s}_heel")
    if not all(n in figure.points for n in (*ends, *boots)):
        return 0.0
    shown = figure.axes[0]
    seen = np.isfinite(figure[boots[0]][:, shown] + figure[boots[1]][:, shown])
    return figure.worth(list(boots), beside=list(ends)) if seen.mean() >= LEAST_SEEN else 0.0


def _whole(x: Array, t: Array) -> Array:
    """Columns of ``x`` with their gaps bridged."""
    return np.stack([bridged(x[:, k], t) for k in range(x.shape[1])], axis=1)


def _foot_middle(figure: Figure, s: str) -> Array:
    """The blade's middle; from above the boot, which it carries along, is read with it against the noise."""
    middle, worth = blade_middle(figure, s), _boot_worth(figure, s)
    if figure.view != "above" or not worth:
        return middle
    front, back = _ends(s)
    ahead = (figure[front] - figure[back])[:, :2]
    off = ((figure[f"{s}_toe"] + figure[f"{s}_heel"]) / 2 - middle)[:, :2]
    aside = ahead[:, ::-1] * [1.0, -1.0]
    size = np.nanmean((ahead**2).sum(axis=1))
    steady = [float(np.nanmean((off * way).sum(axis=1)) / size) for way in (ahead, aside)]
    out = middle.copy()
    out[:, :2] += np.nan_to_num(worth / (1 + worth) * (off - steady[0] * ahead - steady[1] * aside))
    return out


def trace(figure: Figure) -> Array:
    """(n, 3) path of the skating blade over the ice."""

    def work() -> Array:
        drift = figure["scene_drift"] if "scene_drift" in figure.points else 0.0
        path = _foot_middle(figure, skating_foot(figure)) - drift
        path = _whole(path, figure.t)
        smooth = lowpass(path, figure.fps, TRACE_HZ)
        if figure.view not in (None, "above"):
            return smooth
        path = path - _sideways_drift(figure, smooth)
        smooth = lowpass(path, figure.fps, TRACE_HZ)
        # Slow loops need no more than this, and the less of the noise moves their crossings.
        times = [b - a for a, b in _crossed(figure.t, smooth[:, :2])]
        return (
            lowpass(path, figure.fps, float(np.clip(PACES / np.median(times), LEAST_HZ, TRACE_HZ)))
            if times
            else smooth
        )

    return figure.once("trace", work)


def _blade_from_above(figure: Figure, s: str) -> Array:
    """(n, 2) the blade from back to front, the boot that points with it read against the noise."""
    front, back = _ends(s)
    blade, worth = _whole((figure[front] - figure[back])[:, :2], figure.t), _boot_worth(figure, s)
    if not worth:
        return blade
    boot = _whole((figure[f"{s}_toe"] - figure[f"{s}_heel"])[:, :2], figure.t)
    size = (boot**2).sum()
    along, across = (
        (boot * blade).sum() / size,
        (boot[:, 0] * blade[:, 1] - boot[:, 1] * blade[:, 0]).sum() / size,
    )
    turned: Array = along * boot + across * boot[:, ::-1] * [-1.0, 1.0]
    return (blade + worth * turned) / (1 + worth)


def _sideways_drift(figure: Figure, path: Array) -> Array:
    """(n, 3) way that the trace seems to go across the blade, as far as the background's flow may have strayed.

    Errors of the flow from frame to frame add up between two passes of a crossing. A blade runs along itself: a way
    across it is an error of the flow or of the blade's direction, or a skid, and is laid to each by its usual size.
    """
    s, flow = skating_foot(figure), "scene_drift"
    ends = _ends(s)
    if flow not in figure.points or not all(name in figure.points for name in ends):
        return np.zeros_like(path)
    blade = lowpass(_blade_from_above(figure, s), figure.fps, TRACE_HZ)
    long = float(np.median(np.hypot(*blade.T)))
    aside = blade[:, ::-1] * [1.0, -1.0] / np.maximum(np.hypot(*blade.T), 1e-9)[:, None]
    step = np.diff(path[:, :2], axis=0)
    slip = (step * aside[1:]).sum(axis=1)
    pace = float(np.median(np.hypot(*step.T)))
    strayed = float(np.nanmedian(figure.u[flow])) ** 2
    turned = (figure.worst_u(*ends) / max(long, 1e-9) * pace) ** 2
    # What both errors do not account for is a skid, and stays in the trace.
    slow = lowpass(slip[:, None], figure.fps, TRACE_HZ)[:, 0]
    skid = max(float(np.var(slow)) - (strayed + turned) * 2 * TRACE_HZ / figure.fps, 0.0)
    share = strayed / max(strayed + turned + skid, 1e-12)
    out = np.zeros_like(path)
    out[1:, :2] = np.cumsum(share * slip[:, None] * aside[1:], axis=0)
    return out


def blade_m(figure: Figure) -> float:
    given = figure.given.get("blade_m")
    return (
        float(given) if isinstance(given, int | float) and not isinstance(given, bool) else BLADE_M
    )


def loop_signal(figure: Figure) -> EventSignal:
    """Turning of the trace, degrees a second, where it is seen; else the way along or across."""
    path = trace(figure)
    if figure.view in (None, "above"):
        v = derivative(path[:, :2], figure.t)
        turned = np.degrees(np.unwrap(np.arctan2(v[:, 0], v[:, 1])))
        return signal_of(figure, lowpass(derivative(turned, figure.t), figure.fps, 3.0))
    return signal_of(
        figure, path[:, 1] if figure.view in ("side_left", "side_right") else path[:, 0]
    )


def loop_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
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
    # Two steps that cross begin no farther from each other than both are long.
    reach = 2 * float(np.nanmax(np.abs(d), initial=0.0))
    x, y = np.ascontiguousarray(p[:, 0]), np.ascontiguousarray(p[:, 1])
    found: list[tuple[float, float]] = []
    for gap in range(max(2, int(SHORTEST_S * fps)), min(n - 1, int(LONGEST_S * fps))):
        near = np.flatnonzero(
            (np.abs(x[gap:n] - x[: n - gap]) <= reach) & (np.abs(y[gap:n] - y[: n - gap]) <= reach)
        )
        if not len(near):
            continue
        r, da, db = p[near + gap] - p[near], d[near], d[near + gap]
        det = da[:, 0] * db[:, 1] - da[:, 1] * db[:, 0]
        with np.errstate(divide="ignore", invalid="ignore"):
            u = (r[:, 0] * db[:, 1] - r[:, 1] * db[:, 0]) / det
            v = (r[:, 0] * da[:, 1] - r[:, 1] * da[:, 0]) / det
        inside = (u >= 0) & (u < 1) & (v >= 0) & (v < 1)
        for i, of_first, of_second in zip(near[inside], u[inside], v[inside], strict=True):
            j = i + gap
            found.append(
                (
                    float(t[i] + of_first * (t[i + 1] - t[i])),
                    float(t[j] + of_second * (t[j + 1] - t[j])),
                )
            )
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
    t, scale = figure.t, figure.facts["scale"]
    usual = USUAL_LENGTH * blade_m(figure) * (scale if np.isfinite(scale) else 0.0)
    tops = _tops(t, y, 0.6 * usual if usual else 0.3 * float(np.ptp(y)))
    middles = [(a + b) // 2 for a, b in itertools.pairwise(tops)]
    reaches = list(zip([0, *middles], [*middles, len(t) - 1], strict=True)) if tops else []
    read = _rebuilt(figure, y, tops, reaches)
    known = [
        y[top] - np.interp(pair[0], t, y) for top, pair in zip(tops, read, strict=True) if pair
    ]
    usual = float(np.median(known)) if known else usual or 0.8 * float(np.ptp(y))
    pairs = [
        pair or _level_pass(t, y, top, y[top] - usual) for top, pair in zip(tops, read, strict=True)
    ]
    return [p for p in pairs if p and SHORTEST_S <= p[1] - p[0] <= LONGEST_S]


def _rebuilt(
    figure: Figure, y: Array, tops: list[int], reaches: list[tuple[int, int]]
) -> list[tuple[float, float] | None]:
    """Where each loop seen from the side closes, read from its rebuilt trace; None where that does not close."""
    blade = _blade_along(figure)
    shown = None if blade is None else lowpass(blade, figure.fps, BLADE_HZ)
    whole = 0.0 if shown is None else float(np.percentile(np.abs(shown), 98))
    if blade is None or shown is None or whole <= 0:
        return [None] * len(tops)
    share = np.clip(shown / whole, -1.0, 1.0)
    s = skating_foot(figure)
    noise = figure.worst_u(*_ends(s))
    out: list[tuple[float, float] | None] = []
    for top, reach in zip(tops, reaches, strict=True):
        found = rebuild(figure.t, y, blade, share, top, reach, noise)
        pairs = (
            []
            if found is None
            else _crossed(found.t, np.stack([found.across, found.along], axis=1))
        )
        out.append(next((p for p in pairs if p[0] < figure.t[top] < p[1]), None))
    return out


def _blade_along(figure: Figure) -> Array | None:
    """(n,) the blade's length along the picture, the boot read with it; None where it is not marked."""
    s = skating_foot(figure)
    front, back = _ends(s)
    if front not in figure.points or back not in figure.points:
        return None
    blade, worth = bridged((figure[front] - figure[back])[:, 1], figure.t), _boot_worth(figure, s)
    if not worth:
        return blade
    boot = (figure[f"{s}_toe"] - figure[f"{s}_heel"])[:, 1]
    seen = np.isfinite(boot)
    size, off = np.polyfit(boot[seen], blade[seen], 1)
    return np.where(seen, (blade + worth * (size * boot + off)) / (1 + worth), blade)


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
        first = float(
            np.interp(way * level, [way * x[i], way * x[i + 1]], [figure.t[i], figure.t[i + 1]])
        )
        last = float(
            np.interp(way * level, [way * x[j - 1], way * x[j]], [figure.t[j - 1], figure.t[j]])
        )
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
            far = float(
                t[int(np.argmax(np.hypot(*(between(figure, path[:, :2], a.t, b.t) - start).T)))]
            )
        phases = {
            "trace_in": (a.t - AROUND_S, a.t),
            "round": (a.t, b.t),
            "trace_out": (b.t, b.t + AROUND_S),
        }
        out.append(Unit(n, a, b, phases, side="left" if s == "l" else "right", events={"far": far}))
    return out
