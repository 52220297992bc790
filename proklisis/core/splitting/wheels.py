"""On wheels: corners by sitting and standing, features of a trail by the dip of the ground."""

from __future__ import annotations

import itertools
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from proklisis.core.rider.figure import Figure
from proklisis.core.signals import lowpass
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import between, boundary, bridged, crossings, leg, signal_of
from proklisis.core.splitting.units import Boundary, Unit

Array = NDArray[np.float64]
#: The change into the seat, and out of it, lasts so long to either side, seconds (house choice).
CHANGE_S = 0.25
#: Standing up is read so long after it begins, seconds (house choice).
STAND_S = 0.45
#: The approach begins so long before the corner, seconds (house choice).
APPROACH_S = 0.9
#: A bike that leans more than this is in a corner, degrees.
UPRIGHT_DEG = 4.0
#: Slower changes of height are the trail itself and no feature, hertz.
TRAIL_HZ = 0.18


def paired(cuts: list[Boundary]) -> list[tuple[Boundary, Boundary]]:
    """Boundaries that come in pairs, a start and its end."""
    ordered = sorted(cuts, key=lambda b: b.t)
    return list(zip(ordered[::2], ordered[1::2], strict=False))


def pairs_from(figure: Figure, found: list[tuple[float, int]], opens: int) -> list[Boundary]:
    """Whole pairs of crossings, each opening in the direction ``opens``."""
    out: list[Boundary] = []
    for (a, way), (b, _) in itertools.pairwise(found):
        if way == opens:
            out += [boundary(a, figure.fps), boundary(b, figure.fps)]
    return out


def seat_signal(figure: Figure) -> EventSignal:
    """Height of the hips over the feet, leg lengths."""
    return signal_of(figure, (figure["mid_hip"] - figure["mid_ankle"])[:, 2] / leg(figure))


def middle_of(x: Array) -> tuple[float, float]:
    """Middle level of a signal and its swing, without its odd ends."""
    low, high = np.percentile(x, [5, 95])
    return float((low + high) / 2), float(high - low)


def corner_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    level, swing = middle_of(signal.values)
    if swing < 0.08:
        return []
    return pairs_from(figure, crossings(figure.t, signal.values, level, 0.2 * swing), -1)


def machine_lean(figure: Figure) -> Array:
    """Lean of the machine, degrees, + to the right, from the axles to the middle of the bars."""
    bars = (figure["bar_end_l"] + figure["bar_end_r"]) / 2
    d = bars - (figure["front_axle"] + figure["rear_axle"]) / 2
    return np.asarray(np.degrees(np.arctan2(d[:, 0], d[:, 2])))


def corner_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    out = []
    leans = (
        figure.view in (None, "front", "rear")
        and "front_axle" in figure.points
        and "bar_end_l" in figure.points
    )
    for n, (a, b) in enumerate(paired(boundaries), start=1):
        seated = (a.t + CHANGE_S, max(b.t - CHANGE_S, a.t + CHANGE_S))
        out_at = seated[0] + 0.55 * (seated[1] - seated[0])
        phases = {
            "approach": (a.t - APPROACH_S, a.t - CHANGE_S), "seat_change": (a.t - 0.8 * CHANGE_S, a.t + CHANGE_S),
            "mid_corner": (seated[0], out_at), "exit": (out_at, seated[1]), "stand_up": (b.t - 0.8 * CHANGE_S, b.t + STAND_S),
        }  # fmt: skip
        side: Literal["left", "right"] | None = None
        if leans:
            lean = float(np.nanmean(between(figure, machine_lean(figure), *seated)))
            side = None if abs(lean) < UPRIGHT_DEG else "right" if lean > 0 else "left"
        out.append(Unit(n, a, b, phases, side=side, events={"sit": a.t, "stand": b.t}))
    return out


def trail_signal(figure: Figure) -> EventSignal:
    """Height of the feet over the ground's general run, leg lengths."""
    z = bridged(figure.path("mid_ankle")[:, 2], figure.t)
    slope, rise = np.polyfit(figure.t, z, 1)
    flat = z - (slope * figure.t + rise)
    return signal_of(figure, (flat - lowpass(flat, figure.fps, TRAIL_HZ)) / leg(figure))


def feature_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    level, swing = middle_of(signal.values)
    if swing < 0.15:
        return []
    return pairs_from(figure, crossings(figure.t, signal.values, level, 0.15 * swing), -1)


def feature_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    z = trail_signal(figure).values
    out = []
    for n, (a, b) in enumerate(paired(boundaries), start=1):
        t = between(figure, figure.t, a.t, b.t)
        low = float(t[int(np.argmin(between(figure, z, a.t, b.t)))])
        half = min(0.12, 0.25 * (b.t - a.t))
        phases = {
            "approach": (a.t - 0.6, a.t), "roll_in": (a.t, low - half), "compress": (low - half, low + half),
            "roll_out": (low + half, b.t),
        }  # fmt: skip
        out.append(Unit(n, a, b, phases, events={"lowest": low}))
    return out
