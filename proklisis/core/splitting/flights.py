"""Flights, from the last contact to the first, by the height of the lower foot over the ground."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import percentile_filter, uniform_filter1d

from proklisis.core.physics.flight import GRAVITY
from proklisis.core.rider.figure import Figure
from proklisis.core.signals import derivative
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import (
    between,
    boundary,
    bridged,
    crossings,
    ground_level,
    leg,
    signal_of,
)
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.core.splitting.wheels import paired
from proklisis.core.uncertainty import Value

Array = NDArray[np.float64]
#: A foot this high is in the air, leg lengths (house choice).
AIRBORNE = 0.06
#: A shorter hop is none, seconds (house choice).
SHORTEST_S = 0.18
#: Height of a foot in the air where the ground is not marked but followed in the background, leg lengths (house choice).
UNMARKED = 0.16
#: Standard uncertainty of take-off and landing then, seconds (house choice).
UNMARKED_U_S = 0.06
#: The position set after the take-off is read so long after it (common practice on the ice).
SET_S = 0.20
#: Over so long a rider who jumps stands about half of the time.
CONTACT_S = 2.0
#: The position opens so long before the landing, seconds (house choice).
OPEN_S = 0.12
#: The landing lasts so long, seconds (house choice).
LANDING_S = 0.40
#: The approach lasts so long, seconds (house choice).
APPROACH_S = 0.60


def lower_foot(figure: Figure) -> Array:
    """(n,) height of the lowest point of both feet over the ground, leg lengths."""
    low = np.min([figure[f"{s}_{p}"][:, 2] for s in "lr" for p in ("heel", "toe")], axis=0)
    up = (low - _ground(figure, low)) / leg(figure)
    return np.asarray(up - np.nanpercentile(up, 20))


def _ground(figure: Figure, low: Array) -> Array:
    """(n,) height of the ground: the marked line, else what the lower foot (``low``) stands on most of the time.

    The second stays where it is in the scene while the camera follows the rider, so it is looked for there.
    """
    if ground_marked(figure) or "scene_drift" not in figure.points:
        return ground_level(figure)
    drift = figure["scene_drift"][:, 2]
    in_scene = bridged(low - drift, figure.t)
    frames = 2 * round(CONTACT_S * figure.fps / 2) + 1
    stood = percentile_filter(in_scene, 45, size=frames, mode="nearest")
    return np.asarray(uniform_filter1d(stood, frames // 2, mode="nearest") + drift)


def ground_marked(figure: Figure) -> bool:
    """Whether the ground is known to the centimetre: in space, or by a line on it."""
    return figure.view is None or (
        "surface_a" in figure.points and bool(np.isfinite(figure.points["surface_a"][:, 2]).any())
    )


def flight_signal(figure: Figure) -> EventSignal:
    return signal_of(figure, lower_foot(figure))


def flight_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    up = bridged(signal.values, figure.t)
    sure = AIRBORNE if ground_marked(figure) else UNMARKED
    found = crossings(figure.t, up, sure, sure / 3)
    rate = np.abs(derivative(up, figure.t))
    out: list[Boundary] = []
    for (a, way), (b, _) in itertools.pairwise(found):
        if way > 0 and b - a >= SHORTEST_S:
            # Where only a higher foot is surely in the air, it left the ground a little before, at the speed it has there.
            off, on = (
                (sure - AIRBORNE) / max(float(np.interp(when, figure.t, rate)), 1.0)
                for when in (a, b)
            )
            pair = [boundary(a - off, figure.fps), boundary(b + on, figure.fps)]
            out += (
                pair
                if sure == AIRBORNE
                else [replace(x, u=float(np.hypot(x.u, UNMARKED_U_S))) for x in pair]
            )
    return out


def flight_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    out = []
    for n, (a, b) in enumerate(paired(boundaries), start=1):
        set_end = min(a.t + SET_S, b.t)
        opens = max(b.t - OPEN_S, set_end)
        phases = {
            "approach": (a.t - APPROACH_S, a.t - 0.1), "takeoff": (a.t - 0.1, a.t), "set": (a.t, set_end),
            "spin": (set_end, opens), "open": (opens, b.t), "landing": (b.t, b.t + LANDING_S),
        }  # fmt: skip
        out.append(Unit(n, a, b, phases, events={"takeoff": a.t, "landing": b.t}))
    return out


#: Free fall that gives a scale well, seconds (house choice).
LONG_FALL_S = 0.25
#: The shortest that gives one, seconds (house choice).
SHORT_FALL_S = 0.1
#: Short flights that agree no better than this share say nothing (house choice).
SHORT_FALL_U = 0.15


def free_fall_scale(figure: Figure, units: list[Unit]) -> Value | None:
    """Scale from gravity: the centre of mass falls freely in flight, at 9.80665 m/s².

    Returns the figure's units per metre with its standard uncertainty over the flights, or None where no
    flight is long enough. Short flights serve only where no long one is, as on a clip that plays too fast.
    """
    if "com" not in figure.points:
        return None
    up = figure.path("com")[:, 2]
    long: list[float] = []
    short: list[float] = []
    for unit in units:
        a, b = unit.start.t + 0.04, unit.end.t - 0.04
        t, z = between(figure, figure.t, a, b), between(figure, up, a, b)
        if b - a > SHORT_FALL_S and np.isfinite(z).all() and len(t) > 6:
            (long if b - a > LONG_FALL_S else short).append(
                float(-2 * np.polyfit(t - t[0], z, 2)[0] / GRAVITY)
            )
    scales, alone, least = (long, 0.1, 0.02) if long else (short, 0.2, 0.05)
    if not scales:
        return None
    mean = float(np.mean(scales))
    spread = float(np.std(scales, ddof=1)) if len(scales) > 1 else alone * abs(mean)
    found = Value(mean, max(spread / len(scales) ** 0.5, least * abs(mean)))
    return found if long or found.u <= SHORT_FALL_U * found.value else None


#: Slow motion that cameras make, as how many times slower than life it plays.
SLOWER = (0.25, 0.5, 2, 3, 4, 5, 8, 10, 16)


def play_rate(fallen: Value, px_per_m: float, rel_u: float) -> float | None:
    """How many times slower than life a clip plays (below 1: faster), from the fall in the air beside a known scale.

    Time that is stretched k-fold makes bodies fall k² times slower. None where the fall fits life, or fits no
    slow motion of :data:`SLOWER` clearly.
    """
    if not (np.isfinite(px_per_m) and px_per_m > 0 and fallen.value > 0):
        return None
    slower = float((px_per_m / fallen.value) ** 0.5)
    u = slower * 0.5 * float(np.hypot(fallen.u / fallen.value, rel_u))
    best = min(SLOWER, key=lambda k: abs(k - slower))
    fits = abs(best - slower) <= max(2 * u, 0.15 * best) and abs(slower - 1) > 4 * u
    return best if fits and not 0.7 < slower <= 1.5 else None


def scale_notes(figure: Figure, fallen: Value) -> tuple[str, ...]:
    """What the fall of the centre of mass (``fallen``) says of the scale that was marked, in a sentence."""
    if figure.view in (None, "above"):
        return ()
    words = f"{fallen.value:.0f} ± {2 * fallen.u:.0f} pixels a metre"
    marked, marked_u = figure.facts["scale"], figure.facts_u["scale"]
    if not np.isfinite(marked):
        return (f"No scale was marked; the fall in the air gives {words}.",)
    if np.isclose(fallen.value, marked, rtol=1e-3):
        return ()  # the scale in force is this one
    off = abs(fallen.value - marked) / float(np.hypot(fallen.u, marked_u))
    if off > 3:
        return (
            f"The marked scale of {marked:.0f} pixels a metre does not fit the fall in the air, which gives {words}. Mark the known length again.",
        )
    return (f"The fall in the air gives {words}, which fits the marked scale.",)
