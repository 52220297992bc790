"""The rope slalom course: where the rope ends, what reach is needed, and the units that people say.

Figures of the course are those of the international tournament rules (values from memory).
"""

from __future__ import annotations

import math

from proklisis.core.errors import InputError

#: From the centre line to a ball, metres (tournament rules).
BALL_OFF_M = 11.5
#: From ball to ball along the course, metres (tournament rules).
BALLS_APART_M = 41.0
#: From the gate to the first and from the last ball, metres (tournament rules).
GATE_TO_BALL_M = 27.0
#: From gate to gate, metres (tournament rules).
COURSE_M = 259.0
#: Width of the gate, metres (tournament rules).
GATE_WIDE_M = 2.5
#: Rope lengths in metres, by the feet that are taken off a line of 75 ft.
ROPES_M: dict[float, float] = {
    15: 18.25, 22: 16.0, 28: 14.25, 32: 13.0, 35: 12.0, 38: 11.25, 39.5: 10.75, 41: 10.25, 43: 9.75,
}  # fmt: skip
FULL_LINE_FT = 75.0
#: A foot in metres (exact).
FOOT_M = 0.3048
#: A mile in metres (exact).
MILE_M = 1609.344


def rope_m(feet_off: float) -> float:
    """Length in metres of a rope that is so many feet "off": the tournament's, else by arithmetic."""
    if feet_off in ROPES_M:
        return ROPES_M[feet_off]
    if not 0 <= feet_off < FULL_LINE_FT:
        raise InputError(
            f"{feet_off:g} off a {FULL_LINE_FT:g} ft line leaves no rope",
            "rope",
            "give feet from 0 to 74",
        )
    return (FULL_LINE_FT - feet_off) * FOOT_M


def mph(kmh: float) -> float:
    """Miles an hour of a speed in kilometres an hour."""
    return kmh * 1000 / MILE_M


def handle_off(rope: float, angle_deg: float) -> float:
    """Metres that the handle is off the boat's line at a rope angle: R·sin θ."""
    return rope * math.sin(math.radians(angle_deg))


def reach_needed(rope: float, angle_deg: float = 90.0) -> float:
    """Metres of the rider's own reach from the handle to the ball's line; 0 or less where none is."""
    return BALL_OFF_M - handle_off(rope, angle_deg)


def course_time(kmh: float) -> float:
    """Seconds from the entrance gate to the exit gate at the boat's speed."""
    if not kmh > 0:
        raise InputError(
            f"a boat at {kmh:g} km/h does not get there", "boat_kmh", "give a speed above 0"
        )
    return COURSE_M / (kmh / 3.6)


def length_class(rope: float) -> str:
    """``long`` from 16 m, ``middle`` around 14.25 m, ``short`` from 13 m down (common practice)."""
    return "long" if rope >= 16 else "short" if rope <= 13.5 else "middle"
