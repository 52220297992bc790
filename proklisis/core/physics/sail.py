"""Wind, courses off it, and the arc of a gybe."""

from __future__ import annotations

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
