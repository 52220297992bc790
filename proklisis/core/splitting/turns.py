"""Cut a run into turns: tilt signal → boundaries → transitions → phases.

A boundary is a zero crossing of the tilt with hysteresis; the transition around it is the
interval in which the tilt stays under 30 % of the smaller neighbouring peak (house choice).
"""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.signals import lowpass, residual_cutoff
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.units import Boundary, Interval, Unit
from proklisis.core.uncertainty import frame_time_u, normal_cdf

Array = NDArray[np.float64]
SHORTEST_TURN_S = 0.25
TRANSITION_SHARE = 0.30
#: Share of a turn on either side of a boundary where a half-sine tilt is under 30 % of its peak.
SINE_SHARE = float(np.arcsin(TRANSITION_SHARE) / np.pi)


def prepare(t: Array, raw_deg: Array, fps: float, graded: bool = True) -> EventSignal:
    """Low-pass a raw tilt signal at its own cut-off (2–8 Hz) and state its noise."""
    # One long gap must not end the analysis: bridge it, the turns in it will lack readings.
    seen = np.isfinite(raw_deg)
    if seen.sum() < 4:
        return EventSignal(t, np.zeros_like(raw_deg), 0.0, graded)
    filled = np.interp(t, t[seen], raw_deg[seen])
    cutoff = min(residual_cutoff(filled, fps), 4.0)
    smooth = lowpass(filled, fps, cutoff)
    residual = filled - smooth
    spread = 1.4826 * float(np.median(np.abs(residual - np.median(residual))))
    noise = spread * float(np.sqrt(min(1.0, 2 * cutoff / fps)))
    return EventSignal(t, smooth, noise, graded)


def pace_hz(tilt: EventSignal, paces: float) -> float:
    """``paces`` times the rate of the quicker pairs of turns, hertz; infinite where there are too few."""
    cuts = find_boundaries(tilt)
    if len(cuts) < 3:
        return float("inf")
    return paces / (2 * float(np.percentile(np.diff([c.t for c in cuts]), 25)))


def paced(tilt: EventSignal, paces: float) -> EventSignal:
    """The signal smoothed to the pace of its own turns."""
    fps = (len(tilt.t) - 1) / (tilt.t[-1] - tilt.t[0])
    return replace(tilt, values=lowpass(tilt.values, fps, pace_hz(tilt, paces)))


def _states(signal: Array, hysteresis: float) -> NDArray[np.int8]:
    """Sign with hysteresis: the last sign whose swing passed ``hysteresis`` (0 before any)."""
    state = np.where(signal > hysteresis, 1, np.where(signal < -hysteresis, -1, 0)).astype(np.int8)
    held = np.maximum.accumulate(np.where(state != 0, np.arange(len(state)), -1))
    return np.where(held >= 0, state[np.maximum(held, 0)], 0).astype(np.int8)


def find_boundaries(tilt: EventSignal) -> list[Boundary]:
    """Return the edge changes of a run, in time order, each with its uncertainty.

    Hysteresis is max(3°, 2σ of the noise); turns shorter than 0.25 s are joined to their
    neighbours. A run that starts from a straight glide gets a boundary where it leaves zero.
    """
    s, t = tilt.values, tilt.t
    if len(s) < 5:
        return []
    hysteresis = max(3.0, 2 * tilt.noise)
    state = _states(s, hysteresis)
    switches = [int(i) for i in np.flatnonzero(state[1:] != state[:-1]) + 1 if state[i - 1] != 0]
    fps = (len(t) - 1) / (t[-1] - t[0])
    found: list[tuple[float, int]] = []
    first = int(np.argmax(state != 0)) if (state != 0).any() else len(s)
    if 0.1 * fps < first < len(s):
        found.append(_crossing_before(s, t, first, 0))
    previous = first
    for i in switches:
        found.append(_crossing_before(s, t, i, previous))
        previous = i
    found = _drop_short(found, s, t)
    slope = np.gradient(s, t)
    edges = [0, *(i for _, i in found), len(s) - 1]
    peaks = [float(np.abs(s[a : b + 1]).max()) for a, b in itertools.pairwise(edges)]
    out = []
    for k, (when, i) in enumerate(found):
        steep = max(abs(float(slope[i])), 1.0)
        shared = tilt.scene / steep
        u = float(np.sqrt((tilt.noise / steep) ** 2 + shared**2 + frame_time_u(fps) ** 2))
        margin = min(peaks[k], peaks[k + 1]) - hysteresis
        out.append(Boundary(when, u, normal_cdf(margin / (tilt.noise + 1.0)), shared_u=shared))
    return out


def _crossing_before(s: Array, t: Array, i: int, earliest: int) -> tuple[float, int]:
    """Time and index of the last sign change of ``s`` in [earliest, i]."""
    j = i
    while j > earliest and s[j - 1] * s[i] > 0:
        j -= 1
    if j == earliest or j == 0:
        return float(t[j]), j
    w = s[j - 1] / (s[j - 1] - s[j]) if s[j - 1] != s[j] else 0.0
    return float(t[j - 1] + w * (t[j] - t[j - 1])), j


def _drop_short(found: list[tuple[float, int]], s: Array, t: Array) -> list[tuple[float, int]]:
    """Take out the pairs of crossings that enclose less than the shortest turn, smallest first."""
    found = list(found)
    while len(found) > 1:
        gaps = np.diff([when for when, _ in found])
        short = np.flatnonzero(gaps < SHORTEST_TURN_S)
        if not len(short):
            break
        k = int(min(short, key=lambda g: float(np.abs(s[found[g][1] : found[g + 1][1] + 1]).max())))
        del found[k : k + 2]
    return found


def make_turns(
    tilt: EventSignal, boundaries: list[Boundary], heading: Array | None = None
) -> list[Unit]:
    """Build the turns between successive boundaries, with transitions and phases.

    ``heading`` is the skis' direction from the fall line per frame, + to the right, or None.
    Boundaries may come from :func:`find_boundaries` or from a coach.
    """
    cuts = sorted(boundaries, key=lambda b: b.t)
    if len(cuts) < 2:
        return []
    s, t = tilt.values, tilt.t
    spans = [
        (np.searchsorted(t, a.t), np.searchsorted(t, b.t)) for a, b in itertools.pairwise(cuts)
    ]
    pieces = [s[a : max(b, a + 1)] for a, b in spans]
    signs = [1 if float(p.mean()) > 0 else -1 for p in pieces]
    peaks = [float(np.abs(p).max()) for p in pieces]
    before = np.abs(s[: spans[0][0] + 1]).max()
    after = np.abs(s[spans[-1][1] - 1 :]).max()
    around = [float(before), *peaks, float(after)]
    knots = [
        _transition(tilt, c.t, around[k], around[k + 1], _reach(cuts, k))
        for k, c in enumerate(cuts)
    ]
    turns = []
    for k, (a, b) in enumerate(itertools.pairwise(cuts)):
        fall = None if heading is None else _fall_line(t, heading, a.t, b.t)
        turns.append(
            Unit(
                n=k + 1,
                side="right" if signs[k] > 0 else "left",
                start=a,
                end=b,
                peak=peaks[k],
                phases=_phases(knots[k], knots[k + 1], fall),
                events={} if fall is None else {"fall_line": fall},
            )
        )
    return turns


def _reach(cuts: list[Boundary], k: int) -> Interval:
    """How far a transition may extend: half-way to the neighbouring boundaries."""
    here = cuts[k].t
    lo = (cuts[k - 1].t + here) / 2 if k else here - (cuts[1].t - here) / 2
    hi = (cuts[k + 1].t + here) / 2 if k + 1 < len(cuts) else here + (here - cuts[k - 1].t) / 2
    return lo, hi


def _transition(
    tilt: EventSignal, when: float, peak_a: float, peak_b: float, reach: Interval
) -> Interval:
    lo, hi = reach
    if not tilt.graded:
        return when - 2 * SINE_SHARE * (when - lo), when + 2 * SINE_SHARE * (hi - when)
    t, s = tilt.t, np.abs(tilt.values)
    # At the clip's ends one neighbour may be cut off: the whole peak then sets the limit.
    smaller = min(p for p in (peak_a, peak_b) if p >= 0.5 * max(peak_a, peak_b))
    limit = TRANSITION_SHARE * smaller
    i = int(np.clip(np.searchsorted(t, when), 1, len(t) - 1))
    a = i - 1
    while a > 0 and s[a] < limit and t[a] > lo:
        a -= 1
    b = i
    while b < len(t) - 1 and s[b] < limit and t[b] < hi:
        b += 1
    start = _where(t, s, a, a + 1, limit) if s[a] >= limit else float(t[a])
    end = _where(t, s, b, b - 1, limit) if s[b] >= limit else float(t[b])
    return min(start, when), max(end, when)


def _where(t: Array, s: Array, outer: int, inner: int, limit: float) -> float:
    w = (limit - s[inner]) / (s[outer] - s[inner]) if s[outer] != s[inner] else 0.0
    return float(t[inner] + np.clip(w, 0, 1) * (t[outer] - t[inner]))


def _fall_line(t: Array, heading: Array, a: float, b: float) -> float | None:
    """First time inside (a, b) at which the heading passes the fall line, or None."""
    i, j = np.searchsorted(t, a), np.searchsorted(t, b)
    h = heading[i:j]
    if len(h) < 4 or not np.isfinite(h).all():
        return None
    sign = np.sign(h[0]) or 1.0
    passed = np.flatnonzero(h * sign <= 0)
    if not len(passed) or passed[0] == 0:
        return None
    k = int(passed[0])
    w = h[k - 1] / (h[k - 1] - h[k])
    return float(t[i + k - 1] + w * (t[i + k] - t[i + k - 1]))


def _phases(first: Interval, last: Interval, fall_line: float | None) -> dict[str, Interval]:
    """Phases of a turn from the transitions at its two ends.

    The belly is the middle third. The entry ends with the first third, or at the fall line
    where the skis get there earlier; the belly then starts there too.
    """
    a, b = first[1], last[0]
    if b <= a:
        a = b = (a + b) / 2
    third = (b - a) / 3
    belly = a + third
    if fall_line is not None:
        belly = min(belly, max(fall_line, a + third / 4))
    return {
        "transition": first,
        "entry": (a, belly),
        "belly": (belly, b - third),
        "finish": (b - third, b),
    }


def moved(boundary: Boundary, when: float, fps: float) -> Boundary:
    """Return a boundary put at ``when`` by a coach: certain, to one frame."""
    return replace(
        boundary, t=when, u=frame_time_u(fps), confidence=1.0, source="coach", shared_u=0.0
    )
