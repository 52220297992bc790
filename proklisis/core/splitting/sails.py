"""Carve gybes, through the slow zone: from 120° off the wind on one tack to 120° on the other.

The general way of travel y is straight downwind, so a course is told by its angle to y. From above
the board shows it; from ahead by how far the board points across; from the side by how long it
looks, which tells the angle but not to which side.
"""

from __future__ import annotations

import itertools
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import full_trunk
from proklisis.core.signals import lowpass, runs
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import between, boundary, bridged, crossings, signal_of
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.core.splitting.wheels import paired

Array = NDArray[np.float64]
#: Angle to straight downwind at which the slow zone begins, degrees (house choice).
ZONE_DEG = 60.0
#: Off downwind by this much the board is on a reach, and by less than that it goes through it, degrees (house choice).
REACHING_DEG, THROUGH_DEG = 35.0, 15.0
#: The sail is open from this angle to the board, degrees (house choice).
OPEN_DEG = 50.0
#: Length of a usual board, metres (common practice).
BOARD_M = 2.35
#: The change of feet, or of the rig, is read so long after it begins, seconds (house choice).
CHANGE_S = 0.25
#: The carve in begins so long before the slow zone, seconds (house choice).
CARVE_S = 0.8
#: A foot this high over the board is stepping, trunk lengths (house choice).
STEP = 0.16
#: A step is looked for so long after, seconds (house choice).
STEP_LATE_S = 2.6


def course(figure: Figure) -> Array:
    """(n,) angle of the board to straight downwind, degrees, + to the right; unsigned from the side."""

    def work() -> Array:
        d = np.stack(
            [bridged(x, figure.t) for x in (figure["board_nose"] - figure["board_tail"]).T], axis=1
        )
        d = lowpass(d, figure.fps, 5.0)
        if figure.view in (None, "above"):
            return np.degrees(np.arctan2(d[:, 0], d[:, 1]))
        if figure.view in ("front", "rear"):
            full = _board_length(figure, d[:, 0])
            seen = np.degrees(np.arcsin(np.clip(d[:, 0] / full, -1, 1)))
            off = figure.facts["offset"]
            return np.asarray(seen + off if figure.view == "front" else seen - off)
        full = float(np.percentile(np.abs(d[:, 1]), 99))
        seen = np.degrees(np.arccos(np.clip(np.abs(d[:, 1]) / full, 0, 1)))
        return _from_off_the_line(seen, abs(figure.facts["offset"]))

    return figure.once("course", work)


def _from_off_the_line(seen: Array, off_deg: float) -> Array:
    """(n,) unsigned angle to downwind from the one that a camera beside the line shows: both tacks reach about as far off it.

    Which tack is which does not show from the side, so that the answer is taken in which they are alike.
    """
    if off_deg < 1 or not np.isfinite(seen).all():
        return seen
    tack = np.ones_like(seen)
    # Between two reaches the board goes through the camera's own line, where the angle is least.
    for (_, a), (b, _) in itertools.pairwise(runs(seen > REACHING_DEG)):
        lowest = a + int(np.argmin(seen[a:b]))
        if seen[lowest] < THROUGH_DEG:
            tack[lowest:] *= -1
    both = [tack * seen + off for off in (off_deg, -off_deg)]
    uneven = [abs(_middle(h[h > REACHING_DEG]) + _middle(h[h < -REACHING_DEG])) for h in both]
    return (
        np.asarray(np.abs(both[int(np.nanargmin(uneven))])) if np.isfinite(uneven).any() else seen
    )


def _middle(x: Array) -> float:
    return float(np.median(x)) if len(x) else float("nan")


def _board_length(figure: Figure, across: Array) -> float:
    """Full length of a board that is only seen across the picture.

    Length and width show as L·sin h and w·cos h, so that over a gybe (x/L)² + (x'/w)² = 1.
    """
    if "base_in" in figure.points and "base_out" in figure.points:
        wide = bridged((figure["base_out"] - figure["base_in"])[:, 0], figure.t)
        wide = lowpass(wide, figure.fps, 5.0)
        fit, *_ = np.linalg.lstsq(
            np.stack([across**2, wide**2], axis=1), np.ones(len(wide)), rcond=None
        )
        if fit[0] > 0:
            return float(fit[0] ** -0.5)
    scale = figure.facts["scale"]
    return (
        BOARD_M * scale if np.isfinite(scale) else float(np.percentile(np.abs(across), 98)) / 0.95
    )


def gybe_signal(figure: Figure) -> EventSignal:
    if "board_nose" not in figure.points or "board_tail" not in figure.points:
        return signal_of(figure, np.full(len(figure.t), np.nan))
    return signal_of(figure, course(figure))


def gybe_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    found = crossings(figure.t, np.abs(signal.values), ZONE_DEG, 3.0)
    out: list[Boundary] = []
    for (a, way), (b, _) in itertools.pairwise(found):
        if way < 0 and b - a > 0.5:
            out += [boundary(a, figure.fps), boundary(b, figure.fps)]
    return out


def boom(figure: Figure) -> Array:
    """From the front of the boom to its end, (n, 3)."""
    return np.asarray(figure["boom_end"] - figure["boom_front"])


def _opened(figure: Figure, unit: tuple[float, float], turn: float) -> float:
    """When the boom is first open to the board."""
    a, b = unit
    board, sail = figure["board_nose"] - figure["board_tail"], boom(figure)
    if figure.view in (None, "above"):
        aft = np.degrees(np.arctan2(-board[:, 0], -board[:, 1]))
        angle = np.abs((np.degrees(np.arctan2(sail[:, 0], sail[:, 1])) - aft + 180) % 360 - 180)
        x = lowpass(bridged(angle, figure.t), figure.fps, 5.0)
    elif figure.view in ("side_left", "side_right"):
        # The boom's own length is known from when it points straight downwind.
        y = bridged(sail[:, 1], figure.t)
        full = float(np.percentile(np.abs(y), 99))
        bearing = np.degrees(np.arccos(np.clip(lowpass(y, figure.fps, 5.0) / full, -1, 1)))
        x = 180.0 - np.abs(course(figure)) - bearing
    else:
        # From ahead an opening boom looks as long as before: it opens early in the arc.
        return a + 0.10 * (b - a)
    piece, t = between(figure, x, a - 0.6, b), between(figure, figure.t, a - 0.6, b)
    over = np.flatnonzero(piece > OPEN_DEG)
    if not len(over) or over[0] == 0:
        return float("nan")
    k = int(over[0])
    return float(np.interp(OPEN_DEG, piece[k - 1 : k + 1], t[k - 1 : k + 1]))


def _swung(figure: Figure, a: float, b: float) -> float:
    """When the boom points straight downwind: the rig is half-way over."""
    sail = boom(figure)
    t = between(figure, figure.t, a, b + 1.2)
    if figure.view in ("side_left", "side_right"):
        y = between(figure, lowpass(bridged(sail[:, 1], figure.t), figure.fps, 5.0), a, b + 1.2)
        high = np.flatnonzero(y >= 0.9 * y.max())
        if not len(high):
            return float("nan")
        return float(t[high[0]] + t[high[-1]]) / 2
    x = between(figure, bridged(sail[:, 0], figure.t), a, b + 1.2)
    turned = np.flatnonzero(x[:-1] * x[1:] < 0)
    return float(t[turned[-1]]) if len(turned) else float("nan")


def _stepped(figure: Figure, a: float, b: float) -> float:
    """When the feet change places on the board."""
    board = figure["board_nose"] - figure["board_tail"]
    late = min(b + STEP_LATE_S, float(figure.t[-1]))
    t = between(figure, figure.t, a, late)
    if figure.view in ("front", "rear"):
        low = np.minimum(figure["l_ankle"][:, 2], figure["r_ankle"][:, 2])
        up = (np.maximum(figure["l_ankle"][:, 2], figure["r_ankle"][:, 2]) - low) / full_trunk(
            figure
        )
        x = between(figure, lowpass(bridged(up, figure.t), figure.fps, 5.0), a, late)
        high = np.flatnonzero(x > max(STEP, 0.5 * float(x.max())))
        return float(t[high[0]] + t[high[-1]]) / 2 if len(high) else float("nan")
    d = np.nan_to_num(figure["l_ankle"] - figure["r_ankle"])
    along = (d * np.nan_to_num(board)).sum(axis=1)
    x = between(figure, lowpass(along, figure.fps, 5.0), a, late)
    turned = np.flatnonzero(x[:-1] * x[1:] < 0)
    return float(t[turned[0]]) if len(turned) else float("nan")


def gybe_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    h = course(figure)
    rigged = all(p in figure.points for p in ("boom_front", "boom_end"))
    out = []
    for n, (a, b) in enumerate(paired(boundaries), start=1):
        piece = between(figure, h, a.t, b.t)
        signed = figure.view not in ("side_left", "side_right")
        turn = (1.0 if piece[-1] > piece[0] else -1.0) if signed else 0.0
        side: Literal["left", "right"] | None = (
            None if not signed else "right" if turn > 0 else "left"
        )
        events = {"start": a.t, "end": b.t, "turn": turn, "feet": _stepped(figure, a.t, b.t)}
        if rigged:
            events |= {"open": _opened(figure, (a.t, b.t), turn), "rig": _swung(figure, a.t, b.t)}
        phases = {
            "set_up": (a.t - 1.2, a.t - 0.4),
            "carve_in": (a.t - CARVE_S, a.t - 0.1),
            "power_up": (b.t, b.t + 0.8),
        }
        for name, event in (("open", "open"), ("foot_change", "feet"), ("rig_change", "rig")):
            if np.isfinite(events.get(event, np.nan)):
                phases[name] = (
                    events[event] - (0.05 if name == "open" else CHANGE_S / 2),
                    events[event] + CHANGE_S,
                )
        out.append(Unit(n, a, b, phases, side=side, events=events))
    return out
