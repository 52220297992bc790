"""Air: how long, how high, how many turns."""

from __future__ import annotations

import math
from collections.abc import Mapping

from proklisis.core.errors import InputError
from proklisis.core.physics.flight import GRAVITY, flight_height
from proklisis.core.physics.rotation import OVERHEAD_S, overhead, period_needed
from proklisis.core.reckoner.declared import (
    Calculator,
    Known,
    Number,
    Plot,
    Quantities,
    quantity,
    rule,
)
from proklisis.core.reckoner.words import plain, small_length, turns, with_u

#: Rise from which landings want care, metres (house choice).
HIGH_M = 1.5


class FlightOf(Quantities):
    frames: Number = quantity("Frames in the air", u=1 / math.sqrt(6), ge=0, le=1e5, span=(0.0, 2000.0))  # fmt: skip
    fps: Number = quantity("Frame rate", "hz", gt=0, le=1e5, fact="fps", span=(1.0, 2000.0))
    air_time_s: Number = quantity("Time in the air", "s", measure="air_time", gt=0, le=10, span=(0.01, 5.0))  # fmt: skip
    height_m: Number = quantity("Rise above take-off", "m", measure="flight_height", ge=0, le=60, span=(0.0, 10.0))  # fmt: skip
    drop_m: Number = quantity("Landing below take-off", "m", default=0.0, ge=-20, le=60, span=(-5.0, 20.0))  # fmt: skip
    up_s: Number = quantity("Time on the way up", "s", ge=0, le=5)


def _height(air_time_s: float, drop_m: float) -> float:
    if drop_m == 0:
        return flight_height(air_time_s)
    up = air_time_s / 2 - drop_m / (GRAVITY * air_time_s)
    if up < 0:
        needed = math.sqrt(2 * drop_m / GRAVITY)
        raise InputError(
            f"a fall of {drop_m:g} m alone takes {needed:.3g} s, more than {air_time_s:g} s",
            "air_time_s", "give more time or less drop",
        )  # fmt: skip
    return GRAVITY * up**2 / 2


def _air_time(height_m: float, drop_m: float) -> float:
    if height_m + drop_m < 0:
        raise InputError(
            f"a rise of {height_m:g} m does not reach a landing {-drop_m:g} m up", "height_m", "give more rise or a lower landing",
        )  # fmt: skip
    return math.sqrt(2 * height_m / GRAVITY) + math.sqrt(2 * (height_m + drop_m) / GRAVITY)


def _drop(air_time_s: float, height_m: float) -> float | None:
    down = air_time_s - math.sqrt(2 * height_m / GRAVITY)
    return GRAVITY * down**2 / 2 - height_m if down >= 0 else None


def _flight_says(k: Known, u: Mapping[str, float]) -> list[str]:
    if not {"air_time_s", "height_m"} <= k.keys():
        return []
    out = [
        f"{with_u(k['air_time_s'], u['air_time_s'], 's')} in the air is a rise of {with_u(k['height_m'], u['height_m'], 'm')}."
    ]
    if k.get("drop_m"):
        where = "below" if k["drop_m"] > 0 else "above"
        out.append(f"The landing is {small_length(abs(k['drop_m']))} {where} take-off; {plain(k['up_s'])} s of it go up.")  # fmt: skip
    if "frames" in k and "fps" in k:
        out.append(
            f"Counted in frames at {plain(k['fps'])} a second, the time is good to ±{plain(2 / (k['fps'] * math.sqrt(6)), 2)} s."
        )
    return out


FLIGHT = Calculator(
    id="flight", disciplines=("figure_jump", "kite_roll"), title="Flight", doc="Time in the air and height, one from the other.",
    formula="rise = g × (time up)² ÷ 2; h = g·t²/8 from level to level; t = (v + √(v² + 2·g·d))/g to a landing d lower; frames: u = 1/(fps·√6)",
    source="free fall with standard gravity, 9.80665 m/s² (3rd CGPM, 1901); an interval read by frames: two edges, each uniform over one frame (JCGM 100, 4.3.7)",
    of=FlightOf, answers=("height_m", "air_time_s", "up_s"),
    rules=(
        rule("air_time_s", lambda frames, fps: frames / fps),
        rule("height_m", _height),
        rule("air_time_s", _air_time),
        rule("drop_m", _drop),
        rule("up_s", lambda height_m: math.sqrt(2 * height_m / GRAVITY)),
        rule("height_m", lambda up_s: GRAVITY * up_s**2 / 2),
        rule("frames", lambda air_time_s, fps: air_time_s * fps),
    ),
    says=_flight_says,
    cautions=lambda k: [
        f"From {HIGH_M:g} m on a landing loads knees and back hard: build up to it, with a soft landing and a coach beside it."
    ] if k.get("height_m", 0) + max(k.get("drop_m", 0), 0) > HIGH_M else [],
    example={"frames": "52 frames at 60"}, plots=(Plot("frames", "height_m", ("fps", "drop_m")), Plot("air_time_s", "height_m", ("drop_m",)), Plot("height_m", "air_time_s", ("drop_m",)),),
)  # fmt: skip


class RotationOf(Quantities):
    rotations: Number = quantity("Planned turns", condition="planned_rotations", ge=0.5, le=6, span=(0.5, 6.0))  # fmt: skip
    period_s: Number = quantity("Time of one turn at full spin", "s", measure="peak_rotation_period", gt=0, le=2, span=(0.05, 1.0))  # fmt: skip
    air_time_s: Number = quantity("Time in the air", "s", measure="air_time", gt=0, le=10, span=(0.05, 3.0))  # fmt: skip
    overhead_s: Number = quantity("Time for closing and opening", "s", usual=True, ge=0, le=1)
    needed_s: Number = quantity("Time needed", "s", gt=0, le=12)
    missing_s: Number = quantity("Time missing", "s")
    missing_deg: Number = quantity("Angle missing", "deg")
    period_needed_s: Number = quantity("Turn that would fit", "s", gt=0)
    height_needed_m: Number = quantity("Rise needed", "m", gt=0)


def _rotations(needed_s: float, period_s: float) -> float | None:
    """Turns that fit a time, where closing and opening takes what their number takes."""
    for least, taken in OVERHEAD_S:
        count = (needed_s - taken) / period_s
        if count >= least:
            return count
    return None


def _period_needed(rotations: float, air_time_s: float, overhead_s: float) -> float | None:
    """A turn's time that fits; None where closing and opening alone take longer than the flight."""
    return period_needed(rotations, air_time_s, overhead_s) if air_time_s > overhead_s else None


def _rotation_says(k: Known, u: Mapping[str, float]) -> list[str]:
    if not {"rotations", "period_s", "needed_s"} <= k.keys():
        if {"rotations", "period_needed_s"} <= k.keys():
            return [f"{turns(k['rotations']).capitalize()} in {plain(k['air_time_s'])} s leave {with_u(k['period_needed_s'], u['period_needed_s'], 's')} a turn."]  # fmt: skip
        return []
    what = f"{turns(k['rotations'])} at {plain(k['period_s'])} s each"
    if "missing_s" not in k:
        return [
            f"{what[0].upper()}{what[1:]} need {with_u(k['needed_s'], u['needed_s'], 's')} in the air, a rise of {with_u(k['height_needed_m'], u['height_needed_m'], 'm')}."
        ]
    missing, doubt = k["missing_s"], 2 * u["missing_s"]
    if doubt and abs(missing) <= doubt:
        return [
            f"Whether the time is enough for {what} cannot be told: {with_u(missing, u['missing_s'], 's')} missing."
        ]
    pm = f" ± {plain(doubt, 2)}" if doubt else ""
    if abs(missing) < 5e-4:
        return [f"Just enough for {what}, with nothing to spare."]
    if missing <= 0:
        return [
            f"{plain(-missing)}{pm} s more than {what} need: {plain(abs(k['missing_deg']))}° to spare."
        ]
    more = k["height_needed_m"] - flight_height(k["air_time_s"])
    ways = [f"{small_length(more)} more height than now"]
    if "period_needed_s" in k:
        ways.append(f"{k['period_needed_s']:.3f} s a turn")
    if missing < k["overhead_s"]:
        ways.append(f"opening {plain(missing)} s later")
    return [
        f"{plain(missing)}{pm} s too short for {what}, {plain(k['missing_deg'])}° missing: {', or '.join(ways)}."
    ]


def _rotation_cautions(k: Known) -> list[str]:
    out = []
    if k.get("missing_s", 0) > 0:
        out.append("Do not make up missing time by opening late over a hard landing: take a turn off, or train the height first.")  # fmt: skip
    if k.get("rotations", 0) >= 3:
        out.append("Turns of this number belong on a harness or a soft landing first, with a qualified coach.")  # fmt: skip
    return out


ROTATION = Calculator(
    id="rotation", disciplines=("figure_jump",), title="Rotation", doc="Whether the time in the air is enough for the planned turns, and the ways out where it is not.",
    formula="needed = turns × time of one turn + closing and opening; missing = needed − air time; angle = missing ÷ time of one turn × 360°; rise needed = g·needed²/8",
    source="closing and opening 0.18 s from four turns, 0.10 s at three, 0.05 s below (house choice, fitted to the trade's check values)",
    of=RotationOf, answers=("needed_s", "missing_s", "missing_deg", "period_needed_s", "height_needed_m"),
    rules=(
        rule("overhead_s", lambda rotations: overhead(rotations), binding=False),
        rule("needed_s", lambda rotations, period_s, overhead_s: rotations * period_s + overhead_s),
        rule("missing_s", lambda needed_s, air_time_s: needed_s - air_time_s),
        rule("missing_deg", lambda missing_s, period_s: missing_s / period_s * 360),
        rule("missing_s", lambda missing_deg, period_s: missing_deg * period_s / 360),
        rule("needed_s", lambda air_time_s, missing_s: air_time_s + missing_s),
        rule("air_time_s", lambda needed_s, missing_s: needed_s - missing_s),
        rule("period_needed_s", _period_needed),
        rule("air_time_s", lambda rotations, period_needed_s, overhead_s: rotations * period_needed_s + overhead_s),
        rule("height_needed_m", lambda needed_s: GRAVITY * needed_s**2 / 8),
        rule("needed_s", lambda height_needed_m: math.sqrt(8 * height_needed_m / GRAVITY)),
        rule("rotations", lambda needed_s, period_s, overhead_s: (needed_s - overhead_s) / period_s),
        rule("rotations", _rotations, binding=False),
        rule("period_s", lambda rotations, needed_s, overhead_s: (needed_s - overhead_s) / rotations),
    ),
    says=_rotation_says, cautions=_rotation_cautions,
    example={"rotations": "4.5", "period_s": "0.15 s", "air_time_s": "0.81 s"}, plots=(Plot("air_time_s", "missing_deg", ("rotations", "period_s", "overhead_s")), Plot("period_s", "needed_s", ("rotations", "overhead_s")), Plot("air_time_s", "period_needed_s", ("rotations", "overhead_s")),),
)  # fmt: skip
