"""Boards: how wide to stand, and the arc of a gybe."""

from __future__ import annotations

import math
from collections.abc import Mapping
from statistics import fmean, stdev

from proklisis.core.physics.sail import (
    SLOWS_MS2,
    beaufort,
    gybe_arc,
    seconds_planing,
    slow_from,
    usual_board_speed,
)
from proklisis.core.reckoner.declared import (
    Calculator,
    Known,
    Number,
    Numbers,
    Plot,
    Quantities,
    Word,
    quantity,
    rule,
)
from proklisis.core.reckoner.words import plain, with_u

#: Width over height, by use (common practice: 58 cm in powder, 60 cm on crust and 62 cm for landings at 183 cm).
WIDTHS = {"powder": 58 / 183, "crust": 60 / 183, "freestyle": 62 / 183}
#: Narrowest and widest stance over height (house choice).
BOUNDS = (0.30, 0.34)
#: What is felt, cm (common practice).
FELT_CM = 2.0
MS_PER_KN = 1852 / 3600


class StanceOf(Quantities):
    height_cm: Number = quantity("Rider's height", "cm", fact="height_cm", ge=80, le=230, span=(100.0, 220.0))  # fmt: skip
    landings_cm: Numbers = quantity("Landings of the last jump-squats, foot to foot", "cm", takes="numbers")  # fmt: skip
    use: Word = quantity("For", default="powder", choices=tuple(WIDTHS))
    now_cm: Number = quantity("Stance as it is now", "cm", ge=20, le=100)
    width_cm: Number = quantity("Stance to try", "cm", ge=20, le=100)
    low_cm: Number = quantity("Narrowest", "cm", gt=0)
    high_cm: Number = quantity("Widest", "cm", gt=0)


def _landed(landings_cm: list[float]) -> float | None:
    return fmean(landings_cm) if landings_cm else None


def _stance_u(k: Known) -> dict[str, float]:
    """Of a mean of landings: their spread ÷ √n (JCGM 100, 4.2.3)."""
    landings = k.get("landings_cm") or []
    return {"width_cm": stdev(landings) / math.sqrt(len(landings))} if len(landings) > 1 else {}


def _stance_says(k: Known, u: Mapping[str, float]) -> list[str]:
    if "width_cm" not in k:
        return []
    out = []
    if k.get("landings_cm"):
        n = len(k["landings_cm"])
        out.append(f"Your feet land {with_u(k['width_cm'], u.get('width_cm', 0), 'cm')} apart (mean of {n}).")  # fmt: skip
    else:
        out.append(f"For {k['use']} at {plain(k['height_cm'])} cm, start at {with_u(k['width_cm'], u.get('width_cm', 0), 'cm')}; three or four jump-squats tell better.")  # fmt: skip
    if "low_cm" in k:
        out.append(f"Riders of this height stand between {plain(k['low_cm'])} and {plain(k['high_cm'])} cm.")  # fmt: skip
        if not k["low_cm"] <= k["width_cm"] <= k["high_cm"]:
            out.append("This lies outside: measure the landings again before drilling anything.")
    if k["use"] == "freestyle":
        out.append("So wide is steady for landings and tiring all day.")
    if "now_cm" in k:
        off = k["width_cm"] - k["now_cm"]
        if abs(off) < FELT_CM:
            out.append(
                f"Now {plain(k['now_cm'])} cm: less than {FELT_CM:g} cm away, which is hardly felt. Leave it."
            )
        else:
            out.append(f"Now {plain(k['now_cm'])} cm: go {'wider' if off > 0 else 'narrower'} by {FELT_CM:g} cm at a time, and note after each half day what you felt.")  # fmt: skip
    return out


STANCE = Calculator(
    id="stance", disciplines=("snowboard",), title="Stance width", doc="How far apart the feet stand on a snowboard, from where they land by themselves or from height and use.",
    formula="mean of the last landings; else height × 58/183 in powder, 60/183 on crust, 62/183 for landings; bounds 0.30 to 0.34 of the height",
    source="common practice (58 cm in powder and 60 cm on crust at 183 cm; 62 cm is wide; 2 cm is felt); bounds: house choice",
    of=StanceOf, answers=("width_cm", "low_cm", "high_cm"),
    rules=(
        rule("width_cm", _landed, binding=False),
        rule("width_cm", lambda height_cm, use: height_cm * WIDTHS[use], binding=False),
        rule("height_cm", lambda width_cm, use: width_cm / WIDTHS[use], binding=False),
        rule("low_cm", lambda height_cm: height_cm * BOUNDS[0]),
        rule("high_cm", lambda height_cm: height_cm * BOUNDS[1]),
        rule("height_cm", lambda low_cm: low_cm / BOUNDS[0]),
        rule("height_cm", lambda high_cm: high_cm / BOUNDS[1]),
    ),
    own_doubt=_stance_u, says=_stance_says,
    example={"height_cm": "5'9", "landings_cm": "54 cm, 56 cm, 55.5 cm", "use": "powder", "now_cm": "60 cm"}, plots=(Plot("height_cm", "width_cm", ("use",)),),
)  # fmt: skip


class GybeOf(Quantities):
    wind_kn: Number = quantity("Wind", "kn", condition="wind_kn", gt=0, le=70, span=(10.0, 40.0))
    wind_ms: Number = quantity("Wind", "m/s", gt=0, le=36)
    water: Word = quantity("Water", default="flat", condition="water", choices=tuple(SLOWS_MS2))
    board_speed_kn: Number = quantity(
        "Board's speed", "kn", usual=True, gt=0, le=60, span=(5.0, 40.0)
    )
    entry_deg: Number = quantity("Course off the wind going in", "deg", gt=0, le=180)
    exit_deg: Number = quantity("Course off the wind coming out", "deg", gt=0, le=180)
    slow_from_deg: Number = quantity("Slow zone from, off the wind", "deg", ge=0, le=180)
    slow_to_deg: Number = quantity("Slow zone to, counted on past straight downwind", "deg", ge=180, le=360)  # fmt: skip
    slow_allowed_s: Number = quantity("Time that may pass in the slow zone", "s", ge=0)


def _gybe_says(k: Known, u: Mapping[str, float]) -> list[str]:
    if "entry_deg" not in k:
        return []
    wind = with_u(k["wind_kn"], u["wind_kn"], "kn")
    turn = 360 - k["exit_deg"] - k["entry_deg"]
    arc = gybe_arc(k["wind_kn"])
    out = [
        f"In {wind} (force {beaufort(k['wind_kn'])}) go in at {plain(k['entry_deg'])}° off the wind and out at {plain(k['exit_deg'])}° on the other side, a turn of {plain(turn)}°. {arc.words}"
    ]
    if "slow_from_deg" in k:
        out.append(f"From {with_u(k['slow_from_deg'], u['slow_from_deg'], 'deg')} to the same course on the other side the wind that you feel no longer drives the board for long: {with_u(k['slow_allowed_s'], u['slow_allowed_s'], 's')} at most.")  # fmt: skip
        out.append(
            "Bear away before it, tighten through it." if k["slow_from_deg"] >= k["entry_deg"] - 5
            else "At this speed you are in it from the start: more speed first, on a reach, or more wind."
        )  # fmt: skip
    else:
        out.append("At this speed and wind no course is slow: keep the arc even.")
    return out


GYBE = Calculator(
    id="gybe", disciplines=("windsurf_gybe",), title="Arc of a gybe", doc="Courses into and out of a gybe, where the board slows, and how long that may last.",
    formula="felt wind = √(W² + V² + 2·W·V·cos θ); slow where it is less than what a just planing board feels at 100°; time = (V − 9 kn) ÷ slowing (1.2 m/s² flat, 1.6 chop, 2.0 waves)",
    source="vector sum of winds; common practice: just planing fastest near 100° and slower beyond, at 25 kn on flat water 90° between broad reaches; the rest house choice; Beaufort: World Meteorological Organization",
    of=GybeOf, answers=("entry_deg", "exit_deg", "slow_from_deg", "slow_to_deg", "slow_allowed_s"),
    rules=(
        rule("wind_kn", lambda wind_ms: wind_ms / MS_PER_KN),
        rule("wind_ms", lambda wind_kn: wind_kn * MS_PER_KN),
        rule("board_speed_kn", lambda wind_kn: max(usual_board_speed(wind_kn), 1.0), binding=False),
        rule("entry_deg", lambda wind_kn: gybe_arc(wind_kn).entry),
        rule("exit_deg", lambda wind_kn: 360 - gybe_arc(wind_kn).exit),
        rule("slow_from_deg", lambda wind_kn, board_speed_kn: slow_from(wind_kn, board_speed_kn)),
        rule("slow_to_deg", lambda slow_from_deg: 360 - slow_from_deg),
        rule("slow_allowed_s", lambda board_speed_kn, water: seconds_planing(board_speed_kn, water)),
    ),
    says=_gybe_says,
    cautions=lambda k: [
        "Over 25 kn: smaller sail, buoyancy vest and helmet, somebody ashore who knows, and never alone offshore."
    ] if k.get("wind_kn", 0) > 25 else ["Wear a buoyancy vest, know your way out, and keep clear of swimmers."] if "wind_kn" in k else [],
    example={"wind_kn": "force 4", "water": "flat"}, plots=(Plot("wind_kn", "slow_from_deg"), Plot("wind_kn", "entry_deg"),),
)  # fmt: skip
