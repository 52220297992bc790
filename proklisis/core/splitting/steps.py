"""Pushes and steps, from one foot's touch-down to the other's, by the feet's heights over the ground."""

from __future__ import annotations

import itertools
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from proklisis.core.rider.figure import Figure
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import (
    boundary,
    bridged,
    crossings,
    ground_level,
    leg,
    signal_of,
)
from proklisis.core.splitting.units import Boundary, Unit

Array = NDArray[np.float64]
#: A foot this much higher than the other, in leg lengths, is off the ground (house choice).
LIFTED = 0.035
OTHER = {"l": "r", "r": "l"}
SIDE: dict[str, Literal["left", "right"]] = {"l": "left", "r": "right"}


def foot_height(figure: Figure, s: str) -> Array:
    """(n,) height of the middle of a foot's sole."""
    return np.asarray((figure[f"{s}_heel"][:, 2] + figure[f"{s}_toe"][:, 2]) / 2)


def steps_signal(figure: Figure) -> EventSignal:
    """Left foot's height over the right one's, leg lengths."""
    return signal_of(figure, (foot_height(figure, "l") - foot_height(figure, "r")) / leg(figure))


def touches(figure: Figure, signal: EventSignal) -> list[tuple[float, str, bool]]:
    """(time, foot, down) of every touch-down and lift, in time order."""
    out = []
    for s, sign in (("l", 1.0), ("r", -1.0)):
        up = sign * signal.values
        if "surface_a" in figure.points:
            # Over the ground's own line, so that both feet may be in the air at once.
            up = bridged((foot_height(figure, s) - ground_level(figure)) / leg(figure), figure.t)
            up = up - np.percentile(up, 10)
        for when, way in crossings(figure.t, up, LIFTED, 0.4 * LIFTED):
            out.append((when, s, way < 0))
    return sorted(out)


def steps_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    return [boundary(when, figure.fps) for when, _, down in touches(figure, signal) if down]


def steps_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    events = figure.once("touches", lambda: touches(figure, steps_signal(figure)))
    out: list[Unit] = []
    for n, (a, b) in enumerate(itertools.pairwise(sorted(boundaries, key=lambda x: x.t)), start=1):
        landings = [(abs(when - a.t), s) for when, s, down in events if down]
        s = min(landings)[1] if landings else "l"
        lift = next(
            (when for when, foot, down in events if foot == s and not down and when > a.t),
            float("nan"),
        )
        free = next(
            (
                when
                for when, foot, down in events
                if foot == OTHER[s] and not down and a.t - 0.5 < when < b.t
            ),
            a.t,
        )
        landed = next(
            (when for when, foot, down in events if foot == s and down and when > lift),
            float("nan"),
        )
        found = {"touchdown": a.t, "lift": lift, "other_lift": free, "landed": landed}
        phases: dict[str, tuple[float, float]] = {}
        if np.isfinite(lift):
            push = lift - a.t
            phases = {
                "touchdown": (a.t, a.t + 0.1 * push), "pressure": (a.t + 0.1 * push, lift - 0.2 * push),
                "push_end": (lift - 0.2 * push, lift),
            }  # fmt: skip
            if np.isfinite(landed):
                phases["recovery"] = (lift, landed)
        out.append(Unit(n, a, b, phases, side=SIDE[s], events=found, limb=s))
    return out


def foot_of(unit: Unit) -> tuple[str, str]:
    """The foot that a unit belongs to, and the other."""
    s = "l" if unit.side == "left" else "r"
    return s, OTHER[s]
