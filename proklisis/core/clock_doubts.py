"""What is asked of a clip's clock where it speaks against the load, the fall in the air or the course."""

from __future__ import annotations

import numpy as np

from proklisis.core.doubts import Choice, Doubt
from proklisis.core.physics.rope import BALLS_APART_M

#: Buoy to buoy ÷ what the boat needs (house choice).
COURSE = (0.7, 1.5)
#: Turning ÷ what the lean stands against lies here at the true clock (simulated runs of all levels and faults: 1.04 to 1.85; a
#: clock that is wrong by two moves it fourfold).
CLOCK = (0.55, 2.7)
#: Where it lies as a rule (the same runs).
AS_A_RULE = 1.25


def rate_doubt(slower: float, why: str, fps: float) -> Doubt:
    """A question where everything moves ``slower`` times too slowly for life, or too fast where that is below 1."""
    how = f"{slower:g} times slower" if slower > 1 else f"{1 / slower:g} times faster"
    filmed = round(fps * slower)
    return Doubt(
        "rate", f"{why}: the clip seems to play {how} than life", "At what rate was it filmed?",
        (Choice(f"At {filmed} frames a second", str(filmed)), Choice("It plays as it was")),
    )  # fmt: skip


def fall_doubt(slower: float, fps: float) -> Doubt:
    """A question where bodies in the air fall as on a clip that plays ``slower`` times slower than life."""
    why = (
        f"bodies in the air fall {slower**2:g} times too slowly"
        if slower > 1
        else f"bodies in the air fall {slower**-2:g} times too fast"
    )
    return rate_doubt(slower, why, fps)


def course_doubt(unit_s: float, boat_kmh: float, fps: float) -> Doubt | None:
    """A question where the buoys of a slalom course come too slowly, or too fast, for the boat's speed.

    ``unit_s``: median seconds from buoy to buoy, which stand 41 m apart along the course (tournament rules; docs/trade.md).
    """
    needed = BALLS_APART_M / (boat_kmh / 3.6)
    k = unit_s / needed
    if not np.isfinite(k) or COURSE[0] <= k <= COURSE[1]:
        return None
    slower = max(2, round(k)) if k > 1 else 1 / max(2, round(1 / k))
    return rate_doubt(
        slower, f"a buoy takes {unit_s:.1f} s where the boat needs {needed:.1f} s", fps
    )


def clock_doubt(share: float, fps: float) -> Doubt | None:
    """A question where the turning does not go with the lean against it.

    ``share``: turning that is seen ÷ turning that the lean stands against. Lengths are as they are; times k times
    too long make an acceleration k² times too small.
    """
    if not np.isfinite(share) or CLOCK[0] <= share <= CLOCK[1] or share <= 0:
        return None
    k = float(np.sqrt(AS_A_RULE / share))
    if k > 1:
        return rate_doubt(max(2, round(k)), "the rider leans far more than this turning needs", fps)
    return rate_doubt(
        1 / max(2, round(1 / k)), "the rider turns far harder than the lean stands against", fps
    )
