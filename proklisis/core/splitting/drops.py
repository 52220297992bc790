"""River drops, from where the boat begins to fall to where it lands, and the strokes around them."""

from __future__ import annotations

import itertools
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import full_trunk
from proklisis.core.signals import derivative, lowpass
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import bridged, crossings, ground_level, signal_of
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.core.splitting.wheels import paired, pairs_from

Array = NDArray[np.float64]
#: A boat falls when it goes down faster than this, trunk lengths a second (house choice).
FALLING = 2.2
#: Low-pass of that speed, hertz (house choice).
FALL_HZ = 5.0
#: The lead-in begins so long before the lip, seconds (house choice).
LEAD_S = 2.2
#: The approach begins so long before the lip, seconds (house choice).
APPROACH_S = 1.0
#: The lip lasts so long to either side, seconds (house choice).
LIP_S = 0.12
#: The landing lasts so long, seconds (house choice).
LANDING_S = 0.30
#: The run-out lasts so long, seconds (house choice).
RUN_OUT_S = 1.2
#: A boat begins to fall when its middle is over the lip: half a short boat at about 5 m/s after the bow, seconds.
BOW_TO_MIDDLE_S = 0.25
#: The last stroke is the last one caught before the boat lands, but no earlier than this before the lip, seconds (house choice).
NEAR_LIP_S = 0.8
#: A stroke this close to the landing is already the landing's, seconds (house choice).
BEFORE_LANDING_S = 0.15
#: A boat is read where its ends are followed in this share of the frames (house choice).
MOSTLY = 0.8
#: A blade this deep in the water, trunk lengths, has caught it.
CAUGHT = 0.12


def boat_middle(figure: Figure) -> Array:
    return (figure["bow"] + figure["stern"]) / 2


def falls(figure: Figure) -> Array:
    """(n, 3) what falls: the middle of the boat where its ends are followed, else the hips of who sits in it."""
    if not has_boat(figure):
        return figure["mid_hip"]
    return boat_middle(figure)


def has_boat(figure: Figure) -> bool:
    """Whether both ends of the boat are followed through most of the run."""
    ends = [figure.points[p][:, 2] for p in ("bow", "stern") if p in figure.points]
    return len(ends) == 2 and bool(np.isfinite(ends[0] + ends[1]).mean() >= MOSTLY)


def drop_signal(figure: Figure) -> EventSignal:
    """Speed of the boat downward, or of who sits in it, trunk lengths a second."""
    at = falls(figure)
    if "scene_drift" in figure.points:
        at = at - figure["scene_drift"]
    z = bridged(at[:, 2], figure.t)
    down = -derivative(lowpass(z, figure.fps, FALL_HZ), figure.t)
    return signal_of(figure, down / full_trunk(figure))


def drop_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    return pairs_from(figure, crossings(figure.t, signal.values, FALLING, 0.3 * FALLING), +1)


def catches(figure: Figure) -> list[tuple[float, float, str]]:
    """(catch, exit, blade) of every stroke: while a blade is under the water's surface."""
    if "blade_l" not in figure.points or "blade_r" not in figure.points:
        return []
    out = []
    for side in ("l", "r"):
        deep = bridged(
            (ground_level(figure) - figure[f"blade_{side}"][:, 2]) / full_trunk(figure), figure.t
        )
        found = crossings(figure.t, deep, CAUGHT, 0.05)
        out += [(a, b, side) for (a, way), (b, _) in itertools.pairwise(found) if way > 0]
    return sorted(out)


def drop_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    out = []
    ahead = None
    if (
        "lip" in figure.points
        and has_boat(figure)
        and figure.view in (None, "side_left", "side_right", "above")
    ):
        ahead = bridged((figure["bow"] - figure["lip"])[:, 1], figure.t)
    for n, (a, b) in enumerate(paired(boundaries), start=1):
        # From the front or behind nothing shows when the bow passes the lip; the fall does.
        lip = a.t - BOW_TO_MIDDLE_S
        if ahead is not None:
            passed = [
                t
                for t, way in crossings(figure.t, ahead, 0.0, 1e-6)
                if way > 0 and a.t - 1.0 < t < b.t
            ]
            lip = passed[-1] if passed else lip
        phases = {
            "lead_in": (lip - LEAD_S, lip - APPROACH_S), "approach": (lip - APPROACH_S, lip - 2 * LIP_S),
            "lip": (lip - LIP_S, lip + LIP_S), "fall": (a.t, b.t), "landing": (b.t, b.t + LANDING_S),
            "run_out": (b.t + LANDING_S, b.t + RUN_OUT_S),
        }  # fmt: skip
        last = last_stroke(figure, lip, b.t)
        blade: Literal["left", "right"] | None = (
            None if last is None else "left" if last[2] == "l" else "right"
        )
        out.append(Unit(n, a, b, phases, events={"lip": lip, "landing": b.t}, last_stroke=blade))
    return out


def strokes_between(figure: Figure, a: float, b: float) -> list[tuple[float, float, str]]:
    """Strokes whose catch lies within [a, b]."""
    return [s for s in figure.once("catches", lambda: catches(figure)) if a <= s[0] <= b]


def last_stroke(figure: Figure, lip: float, landing: float) -> tuple[float, float, str] | None:
    """The last stroke over a drop: catch and exit in seconds, and its blade (l, r); None where none was found."""
    near = strokes_between(figure, lip - NEAR_LIP_S, landing - BEFORE_LANDING_S)
    return near[-1] if near else None
