"""On the flat and over a lip: poling, drops, wheels."""

from __future__ import annotations

import math
from collections.abc import Mapping

from proklisis.core.errors import InputError
from proklisis.core.physics.carve import balanced_lean
from proklisis.core.physics.flight import GRAVITY
from proklisis.core.reckoner.declared import (
    Calculator,
    Known,
    Number,
    Plot,
    Quantities,
    Word,
    quantity,
    rule,
)
from proklisis.core.reckoner.words import plain, small_length, with_u
from proklisis.core.review import playbook

#: A change of cadence whose worth is told, a second, and of cycle length, metres (house choice).
MORE_HZ, MORE_M = 0.05, 0.10
#: Drop from which a landing is no exercise, metres (house choice).
HIGH_DROP_M = 4.0
#: Friction of tyres on usual ground (common practice; dry and wet asphalt, gravel, loose earth).
FRICTION = "0.7–0.8 on dry asphalt, 0.4–0.5 wet, 0.35–0.5 on gravel, 0.3–0.4 on loose earth"
OTHER_SIDE = {"left": "right", "right": "left"}


class PolingOf(Quantities):
    cadence_hz: Number = quantity("Cadence", "hz", measure="cadence", gt=0, le=3, span=(0.3, 2.5))
    cycle_m: Number = quantity("Cycle length", "m", gt=0, le=20, span=(1.0, 15.0))
    speed_ms: Number = quantity("Speed", "m/s", condition="speed_ms", gt=0, le=20, span=(0.5, 15.0))
    without_poles_pct: Number = quantity("Share of the cycle without poles on the ground", "pct", measure="reposition_share", ge=0, lt=100, span=(0.0, 95.0))  # fmt: skip
    push_s: Number = quantity("Push", "s", gt=0, le=5)
    distance_m: Number = quantity("Distance", "m", condition="distance_m", gt=0, le=300_000, span=(100.0, 100_000.0))  # fmt: skip
    time_s: Number = quantity("Time over the distance", "s", gt=0, le=200_000)
    effort: Word = quantity("Effort", condition="effort", usual=True, choices=("sprint", "race", "long"))  # fmt: skip
    without_poles_most_pct: Number = quantity("Most of the cycle without poles, at this effort", "pct", ge=0, le=100)  # fmt: skip


#: Longest distance of a sprint and of a race, m (house choice; common practice: a race is about 15 km).
SPRINT_M, RACE_M = 2_000.0, 20_000.0
#: What an effort asks for (common practice).
EFFORTS = {
    "sprint": "a full fall onto the poles and a rise onto the toes",
    "race": "a moderate fall and rise",
    "long": "little fall and rise: they are paid for over a long way",
}


def _effort(distance_m: float) -> str:
    return "sprint" if distance_m <= SPRINT_M else "race" if distance_m <= RACE_M else "long"


def most_without_poles(effort: str) -> float | None:
    """Percent of the cycle that the playbook allows without poles at an effort."""
    for fault in playbook("double_pole").faults.values():
        for leaf in fault.when.leaves():
            if leaf.measure == "reposition_share" and effort in leaf.given.get("effort", ()):  # type: ignore[operator]
                band = leaf.band_for("intermediate")
                return None if band is None else band[1]
    return None


def clock(seconds: float) -> str:
    """ "12:05" from a minute on, "42.5 s" below."""
    if seconds < 60:
        return f"{plain(seconds)} s"
    minutes, rest = divmod(round(seconds), 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02d}:{rest:02d} h" if hours else f"{minutes}:{rest:02d} min"


def _poling_says(k: Known, u: Mapping[str, float]) -> list[str]:
    out = []
    if {"cadence_hz", "cycle_m", "speed_ms"} <= k.keys():
        out.append(f"{with_u(k['cadence_hz'], u['cadence_hz'], 'hz')} times {with_u(k['cycle_m'], u['cycle_m'], 'm')} is {with_u(k['speed_ms'], u['speed_ms'], 'm/s')}.")  # fmt: skip
    if "push_s" in k:
        out.append(f"The poles push for {with_u(k['push_s'], u['push_s'], 's')} of each cycle.")
    if "effort" in k:
        words = (
            f"A {k['effort']} effort asks for {EFFORTS[k['effort']]}"
            if k["effort"] != "long"
            else f"A long way asks for {EFFORTS['long']}"
        )
        most = k.get("without_poles_most_pct")
        if most is not None:
            words += f", and for poles on the ground again after {plain(most)} % of the cycle at the latest"
            if k.get("without_poles_pct", 0) - 2 * u.get("without_poles_pct", 0) > most:
                words += f"; {plain(k['without_poles_pct'])} % is too long"
        out.append(f"{words}.")
    if {"distance_m", "time_s", "cadence_hz", "cycle_m"} <= k.keys():
        d, t = k["distance_m"], k["time_s"]
        faster = t - d / ((k["cadence_hz"] + MORE_HZ) * k["cycle_m"])
        longer = t - d / (k["cadence_hz"] * (k["cycle_m"] + MORE_M))
        out.append(f"Over {plain(d)} m that is {clock(t)}; {MORE_HZ:g} a second more cadence is worth {clock(faster)}, {small_length(MORE_M)} more of each cycle {clock(longer)}.")  # fmt: skip
    return out


POLING = Calculator(
    id="poling", disciplines=("double_pole",), title="Poling pace", doc="Cadence, cycle length, speed and the push, and what a change is worth over a distance.",
    formula="speed = cadence × cycle length; push = (100 % − share without poles) ÷ cadence; time = distance ÷ speed; effort by distance: sprint to 2 km, race to 20 km, long beyond",
    source="Holmberg et al. 2005, Med Sci Sports Exerc 37: speed is cadence times cycle length; 1.0–1.2 Hz at race pace (from memory)",
    of=PolingOf, answers=("speed_ms", "cycle_m", "push_s"),
    rules=(
        rule("speed_ms", lambda cadence_hz, cycle_m: cadence_hz * cycle_m),
        rule("cycle_m", lambda speed_ms, cadence_hz: speed_ms / cadence_hz),
        rule("cadence_hz", lambda speed_ms, cycle_m: speed_ms / cycle_m),
        rule("push_s", lambda cadence_hz, without_poles_pct: (1 - without_poles_pct / 100) / cadence_hz),
        rule("without_poles_pct", lambda push_s, cadence_hz: 100 * (1 - push_s * cadence_hz)),
        rule("cadence_hz", lambda push_s, without_poles_pct: (1 - without_poles_pct / 100) / push_s),
        rule("effort", _effort),
        rule("without_poles_most_pct", most_without_poles),
        rule("time_s", lambda distance_m, speed_ms: distance_m / speed_ms),
        rule("speed_ms", lambda distance_m, time_s: distance_m / time_s),
        rule("distance_m", lambda speed_ms, time_s: speed_ms * time_s),
    ),
    says=_poling_says,
    cautions=lambda k: ["Stop on pain in elbow, shoulder or back, and raise pace or length one at a time."] if k.get("cadence_hz", 0) > 1.3 else [],
    example={"cadence_hz": "1.05", "cycle_m": "5.2 m", "without_poles_pct": "62 %", "distance_m": "15 km"}, plots=(Plot("cadence_hz", "speed_ms", ("cycle_m",)), Plot("cadence_hz", "push_s", ("without_poles_pct",)), Plot("speed_ms", "time_s", ("distance_m",)),),
)  # fmt: skip


class DropOf(Quantities):
    height_m: Number = quantity("Height of the drop", "m", condition="height_m", gt=0, le=60, span=(0.1, 30.0))  # fmt: skip
    speed_ms: Number = quantity("Speed at the lip", "m/s", condition="speed_ms", gt=0, le=20, span=(0.2, 15.0))  # fmt: skip
    fall_s: Number = quantity("Time of the fall", "s", gt=0, le=4)
    reach_m: Number = quantity("Landing out from the lip", "m", gt=0, le=80)
    nose_deg: Number = quantity("Nose below level at the landing, if not lifted", "deg", ge=0, lt=90)  # fmt: skip
    approach_m: Number = quantity("Way to the lip", "m", gt=0, le=200, span=(1.0, 100.0))
    strokes_hz: Number = quantity("Stroke rate", "hz", measure="stroke_rate", gt=0, le=4, span=(0.3, 3.0))  # fmt: skip
    last: Word = quantity("Last stroke at the lip", condition="wanted_last_stroke", choices=("left", "right"))  # fmt: skip
    strokes: Number = quantity("Strokes on the way", ge=0)
    first: Word = quantity("First stroke", choices=("left", "right"))
    first_at_m: Number = quantity("First stroke before the lip", "m", ge=0)


def _strokes(approach_m: float, speed_ms: float, strokes_hz: float) -> float:
    """Whole strokes that there is time for on the way."""
    count = math.floor(approach_m / speed_ms * strokes_hz + 1e-9)
    if count < 1:
        raise InputError(
            f"{approach_m:g} m at {speed_ms:g} m/s leave no time for a stroke at {strokes_hz:g} a second", "approach_m",
            "give a longer way, or more strokes a second",
        )  # fmt: skip
    return count


def _same_or_other(side: str, strokes: float) -> str:
    return side if round(strokes) % 2 else OTHER_SIDE[side]


def _drop_says(k: Known, u: Mapping[str, float]) -> list[str]:
    out = []
    if {"height_m", "fall_s"} <= k.keys():
        words = f"A drop of {with_u(k['height_m'], u['height_m'], 'm')} falls for {with_u(k['fall_s'], u['fall_s'], 's')}"
        if "reach_m" in k:
            words += f" and lands {with_u(k['reach_m'], u['reach_m'], 'm')} out at {with_u(k['speed_ms'], u['speed_ms'], 'm/s')}, nose {plain(k['nose_deg'])}° down if nothing lifts it"
        out.append(f"{words}.")
    if "strokes" in k:
        n = round(k["strokes"])
        words = f"There is time for {n} stroke{'s' if n != 1 else ''}"
        if "first" in k:
            words += f": begin on the {k['first']}, {plain(k['first_at_m'])} m before the lip, and the last one falls on the {k['last']}"
        out.append(
            f"{words}. One stroke held back, or two on one side, changes the side of the last."
        )
    return out


DROP = Calculator(
    id="drop", disciplines=("drop_boof",), title="Drop", doc="Fall, landing and the strokes that lead to the lip.",
    formula="t = √(2h/g), out = v·t, nose = atan(g·t/v); strokes = way ÷ speed × strokes a second, whole ones, alternating, counted back from the lip",
    source="free fall with standard gravity from a level lip; strokes: common practice",
    of=DropOf, answers=("fall_s", "reach_m", "strokes", "first"),
    rules=(
        rule("fall_s", lambda height_m: math.sqrt(2 * height_m / GRAVITY)),
        rule("height_m", lambda fall_s: GRAVITY * fall_s**2 / 2),
        rule("reach_m", lambda speed_ms, fall_s: speed_ms * fall_s),
        rule("fall_s", lambda reach_m, speed_ms: reach_m / speed_ms),
        rule("speed_ms", lambda reach_m, fall_s: reach_m / fall_s),
        rule("nose_deg", lambda speed_ms, fall_s: math.degrees(math.atan2(GRAVITY * fall_s, speed_ms))),
        rule("strokes", _strokes),
        rule("first", lambda last, strokes: _same_or_other(last, strokes)),
        rule("last", lambda first, strokes: _same_or_other(first, strokes)),
        rule("first_at_m", lambda strokes, speed_ms, strokes_hz: (strokes - 1) * speed_ms / strokes_hz),
    ),
    own_doubt=lambda k: {"strokes": 0.0} if "strokes" in k else {},
    says=_drop_says,
    cautions=lambda k: [
        "Look at lip, landing and what lies under it before every drop; helmet, buoyancy, someone with a line below, and a way to walk round."
        + (" This height breaks backs on flat water: it is no exercise." if k["height_m"] > HIGH_DROP_M else "")
    ] if "height_m" in k else [],
    example={"height_m": "2.2 m", "speed_ms": "2.5 m/s", "approach_m": "9 m", "strokes_hz": "1.4", "last": "left"}, plots=(Plot("height_m", "reach_m", ("speed_ms",)), Plot("height_m", "fall_s"), Plot("approach_m", "strokes", ("speed_ms", "strokes_hz")),),
)  # fmt: skip


class WheelsOf(Quantities):
    speed_ms: Number = quantity("Speed", "m/s", condition="speed_ms", gt=0, le=80, span=(0.5, 50.0))
    radius_m: Number = quantity("Radius of the corner", "m", gt=0, le=500, span=(1.0, 200.0))
    friction: Number = quantity("Friction of tyre on ground", gt=0, le=1.5, span=(0.1, 1.2))
    reaction_s: Number = quantity("Time until the brake is on", "s", ge=0, le=10, span=(0.0, 5.0))
    lean_deg: Number = quantity("Lean of the line from contact to centre of mass", "deg", gt=0, lt=90)  # fmt: skip
    stop_m: Number = quantity("Way until it stands", "m", gt=0, le=2000)


def _wheels_says(k: Known, u: Mapping[str, float]) -> list[str]:
    out = []
    if "lean_deg" in k:
        out.append(f"At {with_u(k['speed_ms'], u['speed_ms'], 'm/s')} round {with_u(k['radius_m'], u['radius_m'], 'm')} bike and body together lean {with_u(k['lean_deg'], u['lean_deg'], 'deg')}.")  # fmt: skip
        if "friction" in k and math.tan(math.radians(k["lean_deg"])) > k["friction"]:
            out.append(f"With a friction of {plain(k['friction'])} the tyres slide from {plain(math.degrees(math.atan(k['friction'])))}° on a level corner: {plain(math.sqrt(k['friction'] * GRAVITY * k['radius_m']))} m/s at the most, or a line of {plain(k['speed_ms'] ** 2 / (k['friction'] * GRAVITY))} m and wider.")  # fmt: skip
    if "stop_m" in k:
        later = k["speed_ms"] * 0.5
        out.append(f"It stands after {with_u(k['stop_m'], u['stop_m'], 'm')}; looking half a second late adds {small_length(later)}.")  # fmt: skip
    return out


WHEELS = Calculator(
    id="wheels", disciplines=("moto_stance", "trail_stance"), title="Corner and stop", doc="Lean in a level corner, and the way until a wheel stands.",
    formula="tan(lean) = v²/(g·r); way = v × reaction + v²/(2·friction·g)",
    source=f"balance of gravity and turning; sliding friction, {FRICTION} (common practice)",
    of=WheelsOf, answers=("lean_deg", "stop_m"),
    rules=(
        rule("lean_deg", lambda speed_ms, radius_m: balanced_lean(speed_ms, radius_m)),
        rule("speed_ms", lambda lean_deg, radius_m: math.sqrt(GRAVITY * radius_m * math.tan(math.radians(lean_deg)))),
        rule("radius_m", lambda lean_deg, speed_ms: speed_ms**2 / (GRAVITY * math.tan(math.radians(lean_deg)))),
        rule("stop_m", lambda speed_ms, friction, reaction_s: speed_ms * reaction_s + speed_ms**2 / (2 * friction * GRAVITY)),
    ),
    says=_wheels_says,
    cautions=lambda k: ["Try it on a closed flat place with protection first; on the road the law and the view ahead set the speed."] if "speed_ms" in k else [],
    example={"speed_ms": "18 km/h", "radius_m": "6 m", "friction": "0.4", "reaction_s": "1 s"}, plots=(Plot("speed_ms", "stop_m", ("friction", "reaction_s")), Plot("speed_ms", "lean_deg", ("radius_m",)),),
)  # fmt: skip
