"""Wind, courses off it, and the arc of a gybe."""

from __future__ import annotations

import math
from dataclasses import dataclass

from proklisis.core.errors import InputError

#: Upper ends of the Beaufort scale's forces in knots, from force 0 on (World Meteorological Organization).
BEAUFORT_KN = (0.99, 3.0, 6.0, 10.0, 16.0, 21.0, 27.0, 33.0, 40.0, 47.0, 55.0, 63.0)
#: A beam reach, degrees off the wind.
BEAM_REACH = 90.0
#: The range of broad reaches, degrees off the wind.
BROAD_REACH = (100.0, 160.0)
#: Wind in which a board just planes, knots (common practice).
JUST_PLANING_KN = 15.0
#: Wind in which a turn of 90° is enough, knots (common practice).
STRONG_KN = 25.0
#: Turn of a gybe when just planing, degrees (common practice).
ARC_LIGHT = 160.0
#: Turn of a gybe in strong wind, degrees (common practice).
ARC_STRONG = 90.0


def beaufort(knots: float) -> int:
    """Force of a wind on the Beaufort scale."""
    if not knots >= 0:
        raise InputError(f"a wind of {knots:g} knots cannot be", "wind_kn", "give knots, 0 or more")
    return next((force for force, most in enumerate(BEAUFORT_KN) if knots <= most), 12)


@dataclass(frozen=True)
class GybeArc:
    """Courses off the wind in degrees; ``exit`` counts on past straight downwind (180)."""

    entry: float
    exit: float
    words: str

    @property
    def turn(self) -> float:
        return self.exit - self.entry


def gybe_arc(knots: float) -> GybeArc:
    """Plan of a gybe for a wind: wide and quick through the slow zone when just planing, short in a strong wind."""
    share = min(max((knots - JUST_PLANING_KN) / (STRONG_KN - JUST_PLANING_KN), 0.0), 1.0)
    turn = ARC_LIGHT + share * (ARC_STRONG - ARC_LIGHT)
    words = (
        "Bear away briefly for speed, then tighten through the slow zone and out on a reach." if share < 0.35
        else "From broad reach to broad reach; you need no more." if share > 0.8
        else "Enter on a broad reach at full speed and keep the arc even."
    )  # fmt: skip
    return GybeArc(180.0 - turn / 2, 180.0 + turn / 2, words)


#: Course at which a board that just planes is fastest, degrees off the wind (common practice).
FASTEST_OFF = 100.0
#: Middle of the winds in which a board just planes, knots (common practice: 14 to 15).
PLANING_KN = 14.5
#: Board speed in a wind of ``STRONG_KN``, knots (house choice); just planing it is as fast as the wind (house choice).
STRONG_BOARD_KN = 22.0
#: Speed below which a board stops planing, knots (house choice).
STOPS_PLANING_KN = 9.0
#: How a board slows with no drive, m/s², by the water (house choice).
SLOWS_MS2 = {"flat": 1.2, "chop": 1.6, "waves": 2.0}


def apparent_wind(knots: float, board_kn: float, off_deg: float) -> float:
    """Wind felt on a board, knots, that goes ``off_deg`` off the true wind: the sum of two vectors."""
    cos = math.cos(math.radians(off_deg))
    return math.sqrt(max(knots**2 + board_kn**2 + 2 * knots * board_kn * cos, 0.0))


def usual_board_speed(knots: float) -> float:
    """Board speed in knots where nobody says one: the wind's when just planing, 22 kn in a wind of 25 (house choice)."""
    slope = (STRONG_BOARD_KN - PLANING_KN) / (STRONG_KN - PLANING_KN)
    return PLANING_KN + slope * (knots - PLANING_KN)


def slow_from(knots: float, board_kn: float) -> float | None:
    """Course off the wind, degrees, past which less wind is felt than a board that just planes has at its fastest course.

    From there to the same course on the other side nothing drives the board; None where it has enough wind on
    every course. (House choice; it gives the trade's two check values: slower beyond 100° when just planing, and a
    quarter turn between broad reaches in 25 knots.)
    """
    least = apparent_wind(PLANING_KN, PLANING_KN, FASTEST_OFF)
    cos = (least**2 - knots**2 - board_kn**2) / (2 * knots * board_kn)
    if cos < -1:
        return None
    return math.degrees(math.acos(min(cos, 1.0)))


def seconds_planing(board_kn: float, water: str) -> float:
    """Seconds that a board goes on planing with no drive."""
    return max(board_kn - STOPS_PLANING_KN, 0.0) * 1852 / 3600 / SLOWS_MS2[water]
