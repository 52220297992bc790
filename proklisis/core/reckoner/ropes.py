"""Behind a boat: rope, speed, and what is left to reach."""

from __future__ import annotations

import math
from collections.abc import Mapping

from proklisis.core.physics.rope import (
    BALL_OFF_M,
    BALLS_APART_M,
    COURSE_M,
    MILE_M,
    ROPES_M,
    course_time,
    handle_off,
    length_class,
    reach_needed,
)
from proklisis.core.playbook.conditions import rope_words
from proklisis.core.reckoner.declared import (
    Calculator,
    Known,
    Number,
    Plot,
    Quantities,
    quantity,
    rule,
)
from proklisis.core.reckoner.words import plain, with_u

KMH_PER_MPH = MILE_M / 1000
#: Reach beyond which nobody of usual build gets from the handle to the ball's line, metres (house choice).
FAR_M = 2.2


class RopeOf(Quantities):
    rope_m: Number = quantity("Rope", "m", condition="rope_m", gt=0, le=23, span=(9.75, 18.25))
    rope_off_ft: Number = quantity("Rope, feet off", "ft_off", ge=0, le=60)
    boat_kmh: Number = quantity("Boat's speed", "km/h", condition="boat_kmh", gt=0, le=120, span=(20.0, 80.0))  # fmt: skip
    boat_mph: Number = quantity("Boat's speed", "mph", gt=0, le=75)
    angle_deg: Number = quantity("Rope's angle off the boat's line at the ball", "deg", ge=0, le=110, span=(1.0, 90.0))  # fmt: skip
    pass_time_s: Number = quantity("Time through the course", "s", gt=0, le=120)
    ball_time_s: Number = quantity("Time from ball to ball", "s", gt=0, le=20)
    reach_needed_m: Number = quantity("Reach still needed", "m", ge=-12, le=11.5)
    handle_ms: Number = quantity("Handle's mean speed from ball to ball", "m/s", gt=0, le=60)


def _loop_m(rope_off_ft: float) -> float | None:
    return ROPES_M.get(rope_off_ft)


def _loop_off(rope_m: float) -> float | None:
    return next((ft for ft, m in ROPES_M.items() if m == rope_m), None)


def _angle(rope_m: float, reach_needed_m: float) -> float | None:
    share = (BALL_OFF_M - reach_needed_m) / rope_m
    return math.degrees(math.asin(share)) if 0 <= share <= 1 else None


def _length(angle_deg: float, reach_needed_m: float) -> float | None:
    sine = math.sin(math.radians(angle_deg))
    return (BALL_OFF_M - reach_needed_m) / sine if sine > 0 else None


def _handle(rope_m: float, angle_deg: float, ball_time_s: float) -> float:
    return math.hypot(BALLS_APART_M, 2 * handle_off(rope_m, angle_deg)) / ball_time_s


#: A wider angle that is told as a way out, degrees (house choice).
WIDER_DEG = 5.0


def _wider(k: Known) -> str:
    """What a wider angle would save of the reach."""
    wider = k["angle_deg"] + WIDER_DEG
    if wider > 90:
        return ""
    left = reach_needed(k["rope_m"], wider)
    return (
        f"; {WIDER_DEG:g}° wider would leave {plain(left, 2)} m"
        if left > 0
        else f"; {WIDER_DEG:g}° wider needs none"
    )


def _says(k: Known, u: Mapping[str, float]) -> list[str]:
    out = []
    if "rope_m" in k:
        name = (
            rope_words(k["rope_m"])
            if k["rope_m"] in ROPES_M.values()
            else f"{plain(k['rope_m'], 4)} m"
        )
        words = f"On {name}, {'an' if length_class(k['rope_m'])[0] in 'aeiou' else 'a'} {length_class(k['rope_m'])} rope"
        if "reach_needed_m" in k:
            reach, doubt = k["reach_needed_m"], u["reach_needed_m"]
            if doubt and abs(reach) <= 2 * doubt:
                out.append(f"{words}, whether the handle gets to the ball's line at {with_u(k['angle_deg'], u['angle_deg'], 'deg')} cannot be told: {with_u(reach, doubt, 'm')} of reach.")  # fmt: skip
            elif reach > 0:
                out.append(f"{words}, at {with_u(k['angle_deg'], u['angle_deg'], 'deg')} the handle is {with_u(reach, doubt, 'm')} short of the ball's line: that is yours to reach{_wider(k)}.")  # fmt: skip
            else:
                out.append(f"{words}, at {with_u(k['angle_deg'], u['angle_deg'], 'deg')} the handle is {with_u(-reach, doubt, 'm')} past the ball's line.")  # fmt: skip
        elif k["rope_m"] >= BALL_OFF_M:
            out.append(f"{words}, the handle is over the ball's line at {plain(math.degrees(math.asin(BALL_OFF_M / k['rope_m'])))}° off the boat's line.")  # fmt: skip
        else:
            out.append(f"{words}, {plain(BALL_OFF_M - k['rope_m'])} m are yours to reach even straight beside the boat.")  # fmt: skip
    if "pass_time_s" in k and "boat_kmh" in k:
        out.append(f"At {with_u(k['boat_kmh'], u['boat_kmh'], 'km/h')} ({with_u(k['boat_mph'], u['boat_mph'], 'mph')}) the course takes {with_u(k['pass_time_s'], u['pass_time_s'], 's')}, {with_u(k['ball_time_s'], u['ball_time_s'], 's')} from ball to ball.")  # fmt: skip
    if "handle_ms" in k:
        out.append(f"The handle goes at {with_u(k['handle_ms'], u['handle_ms'], 'm/s')} in the mean, if it went straight from side to side.")  # fmt: skip
    return out


ROPE = Calculator(
    id="rope", disciplines=("slalom_ski",), title="Rope and boat", doc="The slalom course behind a boat: rope in both ways of counting, times, and what reach is left at the ball.",
    formula=f"reach = {BALL_OFF_M:g} m − rope × sin(angle); time = {COURSE_M:g} m ÷ speed; ball to ball {BALLS_APART_M:g} m along the course; handle's mean speed = √(41² + (2·rope·sin angle)²) ÷ that time",
    source="international tournament rules for the course and the rope's loops (values from memory)",
    of=RopeOf, answers=("rope_m", "rope_off_ft", "pass_time_s", "ball_time_s", "reach_needed_m"),
    rules=(
        rule("rope_m", _loop_m),
        rule("rope_off_ft", _loop_off),
        rule("boat_kmh", lambda boat_mph: boat_mph * KMH_PER_MPH),
        rule("boat_mph", lambda boat_kmh: boat_kmh / KMH_PER_MPH),
        rule("pass_time_s", lambda boat_kmh: course_time(boat_kmh)),
        rule("boat_kmh", lambda pass_time_s: COURSE_M / pass_time_s * 3.6),
        rule("ball_time_s", lambda boat_kmh: BALLS_APART_M / (boat_kmh / 3.6)),
        rule("boat_kmh", lambda ball_time_s: BALLS_APART_M / ball_time_s * 3.6),
        rule("reach_needed_m", lambda rope_m, angle_deg: reach_needed(rope_m, angle_deg)),
        rule("angle_deg", _angle),
        rule("rope_m", _length),
        rule("handle_ms", _handle),
    ),
    says=_says,
    cautions=lambda k: [
        f"{plain(k['reach_needed_m'])} m is more than a body reaches: a longer rope, or a wider angle, before shortening further."
    ] if k.get("reach_needed_m", 0) > FAR_M else [],
    example={"rope_off_ft": "28 off", "boat_mph": "34.2 mph", "angle_deg": "48"}, plots=(Plot("angle_deg", "reach_needed_m", ("rope_m",)), Plot("boat_kmh", "pass_time_s"),),
)  # fmt: skip
