"""Crossings behind a boat, from the widest point on one side to the widest on the other.

Lateral position is counted in wakes: 0 is the boat's centre line, ±1 its crests, + to the right.
"""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError, Lacking
from proklisis.core.rider.figure import Figure
from proklisis.core.signals import lowpass
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import between, boundary, bridged, crossings, signal_of
from proklisis.core.splitting.turns import TRANSITION_SHARE
from proklisis.core.splitting.units import Boundary, Unit

Array = NDArray[np.float64]
#: The widest point lies in the middle of the time spent beyond this share of it: flat tops are found far better by their
#: flanks (house choice).
FLANK = 0.92
#: The same from the shore (house choice).
SHORE_FLANK = 0.97
#: Low-pass of the lean, hertz (house choice).
LEAN_HZ = 6.0
#: The load is looked for from this share of the crossing on (house choice).
LOAD_FROM = 0.3
#: Low-pass of the lean for telling its sides, hertz, and what a side leans at the least, as a share of the greatest (house choice).
SIDES_HZ, CHANGE_SHARE = 2.5, 0.3
#: The lean changes sides so much of a crossing's time after the middle of it (simulated skiers of all levels; 0.12 ± 0.01).
CHANGE_AFTER = 0.123
#: Standard uncertainty of a widest point that was told by the lean, as a share of a crossing's time (house choice).
LEAN_U = 0.05
#: Where the phases lie in the time of a crossing when the lean cannot be seen.
SHARES = {
    "turn_in": (0.0, 0.15),
    "load": (0.15, 0.48),
    "edge_change": (0.48, 0.62),
    "reach": (0.62, 0.78),
    "pre_turn": (0.78, 0.9),
    "ball": (0.9, 1.0),
}


def wakes(figure: Figure) -> Array:
    """(n,) lateral position of the skier in wakes, + to the right.

    From the side, where it cannot be seen, the way along the course tells how far out the
    skier is (not in wakes), and the dropped shoulder in the middle of a crossing which way it goes.
    """
    if figure.view in ("side_left", "side_right"):
        return _from_shore(figure)
    if not {"wake_l", "wake_r"} <= figure.points.keys():
        return _from_lean(figure)
    left, right = figure["wake_l"][:, 0], figure["wake_r"][:, 0]
    half = float(np.nanmedian(right - left)) / 2
    middle = lowpass(bridged((left + right) / 2, figure.t), figure.fps, 2.0)
    return np.asarray((figure["mid_ankle"][:, 0] - middle) / half)


def _from_lean(figure: Figure) -> Array:
    """Where no wakes are marked: how far out the skier is by the lean, as a share of the widest and not in wakes.

    The lean changes sides once a crossing, a little after the centre line; half-way between two changes, less as much, the skier is widest
    out, on the side away from the turn's lean. Lacking where it changes fewer than three times.
    """
    lean, t = lowpass(bridged(crossing_lean(figure), figure.t), figure.fps, SIDES_HZ), figure.t
    size = float(np.percentile(np.abs(lean), 90))
    changes = crossings(t, lean, 0.0, CHANGE_SHARE * size)
    if len(changes) < 3:
        raise Lacking(
            "the wakes are not marked, and the skier leans to the other side fewer than three times", "landmarks wake_l, wake_r",
            "mark both wake crests level with the skier, or cut the run by hand",
        )  # fmt: skip
    widest, side = [], []
    for (a, way), (b, _) in itertools.pairwise(changes):
        widest.append((a + b) / 2 - CHANGE_AFTER * (b - a))
        side.append(-float(way))
    # Before the first change and after the last one crossings are taken to last as long as the others.
    usual = float(np.median(np.diff([a for a, _ in changes])))
    widest.insert(0, changes[0][0] - (0.5 + CHANGE_AFTER) * usual)
    widest.append(changes[-1][0] + (0.5 - CHANGE_AFTER) * usual)
    side = [-side[0], *side, -side[-1]]
    first, last = widest[1] - widest[0], widest[-1] - widest[-2]
    at = [widest[0] - first, *widest, widest[-1] + last]
    out = [-side[0], *side, -side[-1]]
    k = np.clip(np.searchsorted(at, t) - 1, 0, len(at) - 2)
    share = np.clip((t - np.array(at)[k]) / np.diff(at)[k], 0, 1)
    here, there = np.array(out)[k], np.array(out)[k + 1]
    return np.asarray(here + (there - here) * (1 - np.cos(np.pi * share)) / 2)


def _from_shore(figure: Figure) -> Array:
    """From the shore: on a tight rope a skier who swings out also falls less far behind the boat.

    Behind a boat at an even speed the way along the course, less the boat's, is least far back at
    the widest points and furthest on the centre line; its depth grows with the square of the width.
    """
    if "scene_drift" not in figure.points:
        raise InputError("the background was not followed, so the skier's way along the course is not known", "scene_drift",
                         "let the clip be tracked, or film from the boat")  # fmt: skip
    way = bridged(figure.path("mid_ankle")[:, 1], figure.t)
    slope, start = np.polyfit(figure.t, way, 1)
    behind = lowpass(slope * figure.t + start - way, figure.fps, 3.0)
    low, high = np.percentile(behind, [4, 90])
    out = np.sqrt(np.clip((high - behind) / max(float(high - low), 1e-9), 0, None))
    inner = np.diff(np.concatenate([[0], (out < 0.45).astype(int), [0]]))
    drop = bridged((figure["l_shoulder"] - figure["r_shoulder"])[:, 2], figure.t)
    sign = np.zeros(len(out))
    start = 0
    for a, b in zip(np.flatnonzero(inner == 1), np.flatnonzero(inner == -1), strict=True):
        lowest = np.flatnonzero(out[a:b] < out[a:b].min() + 0.15)
        middle = a + int(lowest[0] + lowest[-1]) // 2
        # The skier leans the way the crossing goes: that side's shoulder is the lower one.
        going = 1.0 if drop[a:b].mean() > 0 else -1.0
        sign[start:middle] = np.where(sign[start:middle] == 0, -going, sign[start:middle])
        sign[middle:] = going
        start = middle
    return np.asarray(sign * out)


def rope_signal(figure: Figure) -> EventSignal:
    x = figure.once("wakes", lambda: lowpass(bridged(wakes(figure), figure.t), figure.fps, 4.0))
    return signal_of(figure, x)


def rope_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    x, t = signal.values, figure.t
    size = float(np.percentile(np.abs(x), 95))
    flank = SHORE_FLANK if figure.view in ("side_left", "side_right") else FLANK
    middle = [when for when, _ in crossings(t, x, 0.0, 0.25 * size)]
    out = []
    for a, b in itertools.pairwise([float(t[0]), *middle, float(t[-1])]):
        piece, when = np.abs(between(figure, x, a, b)), between(figure, t, a, b)
        top = float(piece.max())
        wide = np.flatnonzero(piece >= flank * top)
        # Cut off by the clip's end: its widest point is not in the picture.
        if top < 0.5 * size or wide[0] == 0 or wide[-1] == len(piece) - 1:
            continue
        first = np.interp(
            flank * top, piece[wide[0] - 1 : wide[0] + 1], when[wide[0] - 1 : wide[0] + 1]
        )
        last = np.interp(
            -flank * top, -piece[wide[-1] : wide[-1] + 2], when[wide[-1] : wide[-1] + 2]
        )
        out.append(boundary((float(first) + float(last)) / 2, figure.fps))
    if by_lean(figure) and len(out) > 1:
        u = LEAN_U * float(np.median(np.diff([b.t for b in out])))
        out = [replace(b, u=float(np.hypot(b.u, u))) for b in out]
    return out


def by_lean(figure: Figure) -> bool:
    """Whether the skier's place is told by the lean, because no wakes are marked."""
    seen = figure.view in (None, "front", "rear", "above")
    return seen and not {"wake_l", "wake_r"} <= figure.points.keys()


def crossing_lean(figure: Figure) -> Array:
    """Lean of the skier across the course, degrees, + to the right, from the feet to the centre of mass."""

    def lean() -> Array:
        d = figure["com"] - figure["mid_ankle"]
        return lowpass(np.degrees(np.arctan2(d[:, 0], d[:, 2])), figure.fps, LEAN_HZ)

    return figure.once("crossing_lean", lean)


def edge_change(
    figure: Figure, lean: Array, centre: float, start: float, end: float
) -> tuple[float, float]:
    """Start and end of the change of edge: |lean| under 30 % of the smaller of its two peaks."""
    t = between(figure, figure.t, start, end)
    x = between(figure, lean, start, end)
    loading = (t < centre + 0.45) & (t > start + LOAD_FROM * (end - start))
    load = float(np.max(np.where(loading, x, -np.inf)))
    turn = float(np.max(np.where(t > centre - 0.1, -x, -np.inf)))
    level = TRANSITION_SHARE * min(load, turn)
    if not np.isfinite(level) or level <= 0:
        return float("nan"), float("nan")
    peak = int(np.argmax(np.where(loading, x, -np.inf)))
    below = np.flatnonzero(x[peak:] < level)
    under = np.flatnonzero(x[peak:] < -level)
    if not len(below) or not len(under):
        return float("nan"), float("nan")
    i, j = peak + below[0], peak + under[0]
    first = np.interp(-level, [-x[i - 1], -x[i]], [t[i - 1], t[i]])
    last = np.interp(level, [-x[j - 1], -x[j]], [t[j - 1], t[j]])
    return float(first), float(last)


def rope_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    x = rope_signal(figure).values
    front_left = figure.front_foot == "l"
    seen = figure.view in (None, "front", "rear")
    out = []
    for n, (a, b) in enumerate(itertools.pairwise(sorted(boundaries, key=lambda k: k.t)), start=1):
        piece, t = between(figure, x, a.t, b.t), between(figure, figure.t, a.t, b.t)
        way = 1.0 if piece[-1] > piece[0] else -1.0
        rising = np.maximum.accumulate(piece * way)
        near = 0.15 * float(np.abs(piece).max())
        centre = float(np.interp(-near, rising, t) + np.interp(near, rising, t)) / 2
        events = {"centre": centre, "way": way}
        phases = {
            k: (a.t + lo * (b.t - a.t), a.t + hi * (b.t - a.t)) for k, (lo, hi) in SHARES.items()
        }
        if seen:
            first, last = edge_change(figure, way * crossing_lean(figure), centre, a.t, b.t)
            if np.isfinite(first) and np.isfinite(last):
                events |= {"edge_start": first, "edge_end": last}
                rest = b.t - last
                phases |= {
                    "load": (phases["turn_in"][1], first), "edge_change": (first, last), "reach": (last, last + 0.4 * rest),
                    "pre_turn": (last + 0.4 * rest, last + 0.75 * rest), "ball": (last + 0.75 * rest, b.t),
                }  # fmt: skip
        # A crossing to the right ends in a turn to the left.
        side: Literal["left", "right"] = "left" if way > 0 else "right"
        hand: Literal["onside", "offside"] | None = None
        if figure.front_foot is not None:
            # common practice: with the left foot in front the turn to the right is the onside one.
            hand = "onside" if (side == "right") == front_left else "offside"
        out.append(Unit(n, a, b, phases, side=side, hand_side=hand, events=events))
    return out
