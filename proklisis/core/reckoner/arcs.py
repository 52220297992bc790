"""Turns on snow: sidecut, edge, speed and lean; the line through gates."""

from __future__ import annotations

import math
from collections.abc import Mapping

from proklisis.core.errors import InputError
from proklisis.core.physics.carve import carving_radius, sidecut_radius
from proklisis.core.physics.course import GATES, set_problems
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

#: Speed from which a fall on a slope hurts badly, m/s (house choice, 50 km/h).
FAST_MS = 14.0
#: Load from which legs have to be trained for it, body weights (house choice).
HEAVY_BW = 2.5


class CarveOf(Quantities):
    sidecut_m: Number = quantity("Sidecut radius", "m", gt=0, le=100, span=(5.0, 60.0))
    tip_mm: Number = quantity("Width at the tip", "mm", gt=0, le=500)
    waist_mm: Number = quantity("Width at the waist", "mm", gt=0, le=400)
    tail_mm: Number = quantity("Width at the tail", "mm", gt=0, le=500)
    contact_m: Number = quantity("Contact length", "m", gt=0, le=2.5)
    edge_deg: Number = quantity("Edge against the snow", "deg", measure="edge", phase="belly", ge=0, lt=90, span=(0.0, 85.0))  # fmt: skip
    speed_ms: Number = quantity("Speed", "m/s", condition="speed_ms", gt=0, le=70, span=(0.5, 45.0))
    radius_m: Number = quantity("Radius of the arc", "m", gt=0, le=500, span=(1.0, 200.0))
    slope_deg: Number = quantity("Slope, where the turn ends across it", "deg", default=0.0, condition="slope_deg", ge=0, le=60, span=(0.0, 55.0))  # fmt: skip
    lean_deg: Number = quantity("Balanced lean from square to the snow", "deg", gt=0, lt=90)
    load_bw: Number = quantity("Load on the legs", "bw", gt=0, le=50)
    speed_held_ms: Number = quantity("Speed that this edge holds", "m/s", gt=0)


def _sidecut(tip_mm: float, waist_mm: float, tail_mm: float, contact_m: float) -> float:
    return sidecut_radius(tip_mm / 1000, waist_mm / 1000, tail_mm / 1000, contact_m)


def _radius(sidecut_m: float, edge_deg: float) -> float:
    return carving_radius(sidecut_m, edge_deg)


def _edge(sidecut_m: float, radius_m: float) -> float:
    if radius_m > sidecut_m:
        raise InputError(
            f"an arc of {radius_m:g} m is wider than the sidecut of {sidecut_m:g} m carves flat", "radius_m",
            "a carved arc is tighter than its sidecut; give a smaller radius",
        )  # fmt: skip
    return math.degrees(math.acos(radius_m / sidecut_m))


def _sidecut_of(radius_m: float, edge_deg: float) -> float:
    return radius_m / math.cos(math.radians(edge_deg))


def _lean(speed_ms: float, radius_m: float, slope_deg: float) -> float:
    """Lean from square to the surface, where the turn's centre lies straight up the slope."""
    slope = math.radians(slope_deg)
    across = speed_ms**2 / radius_m + GRAVITY * math.sin(slope)
    return math.degrees(math.atan(across / (GRAVITY * math.cos(slope))))


def _turning(lean_deg: float, slope_deg: float) -> float | None:
    """v²/r that a lean balances, m/s²; None where the slope alone asks for more lean."""
    slope = math.radians(slope_deg)
    a = GRAVITY * (math.cos(slope) * math.tan(math.radians(lean_deg)) - math.sin(slope))
    return a if a > 0 else None


def _speed(lean_deg: float, radius_m: float, slope_deg: float) -> float | None:
    a = _turning(lean_deg, slope_deg)
    return None if a is None else math.sqrt(a * radius_m)


def _arc(lean_deg: float, speed_ms: float, slope_deg: float) -> float | None:
    a = _turning(lean_deg, slope_deg)
    return None if a is None else speed_ms**2 / a


def _load(lean_deg: float, slope_deg: float) -> float:
    return math.cos(math.radians(slope_deg)) / math.cos(math.radians(lean_deg))


def _lean_of_load(load_bw: float, slope_deg: float) -> float:
    share = math.cos(math.radians(slope_deg)) / load_bw
    if share > 1:
        raise InputError(f"a load of {load_bw:g} body weights is less than standing still", "load_bw", "give 1 or more")  # fmt: skip
    return math.degrees(math.acos(share))


def _held(edge_deg: float, radius_m: float, slope_deg: float) -> float | None:
    return _speed(edge_deg, radius_m, slope_deg) if edge_deg > 0 else None


def _edge_that_holds(speed_held_ms: float, sidecut_m: float, slope_deg: float) -> float | None:
    """Edge whose own carved arc holds a speed on level snow: sin(edge) = v²/(g·R)."""
    sine = speed_held_ms**2 / (GRAVITY * sidecut_m)
    return math.degrees(math.asin(sine)) if slope_deg == 0 and sine < 1 else None


def _ways_to_hold(k: Known) -> str:
    """What would hold this speed: more edge on the same sidecut, or a wider arc at the same edge."""
    a = _turning(k["edge_deg"], k["slope_deg"])
    wider = "" if a is None else f", or an arc of {plain(k['speed_ms'] ** 2 / a)} m at this edge"
    sine = k["speed_ms"] ** 2 / (GRAVITY * k["sidecut_m"]) if "sidecut_m" in k else 2.0
    if k["slope_deg"] == 0 and sine < 1:
        return f": {plain(math.degrees(math.asin(sine)))}° of edge would hold it{wider}"
    return f": {wider.removeprefix(', or ')}" if wider else ""


def _carve_says(k: Known, u: Mapping[str, float]) -> list[str]:
    out = []
    if "tip_mm" in k and "sidecut_m" in k:
        out.append(f"These widths are a sidecut of {with_u(k['sidecut_m'], u['sidecut_m'], 'm')}.")
    if {"sidecut_m", "edge_deg", "radius_m"} <= k.keys():
        out.append(f"A sidecut of {with_u(k['sidecut_m'], u['sidecut_m'], 'm')} on {with_u(k['edge_deg'], u['edge_deg'], 'deg')} of edge carves {with_u(k['radius_m'], u['radius_m'], 'm')}, on firm snow at best.")  # fmt: skip
    if {"speed_ms", "lean_deg"} <= k.keys():
        out.append(f"At {with_u(k['speed_ms'], u['speed_ms'], 'm/s')} that balances at {with_u(k['lean_deg'], u['lean_deg'], 'deg')} of lean, {with_u(k['load_bw'], u['load_bw'], 'bw')} on the legs.")  # fmt: skip
    if k.get("slope_deg"):
        out.append(f"Reckoned where the turn ends across a slope of {plain(k['slope_deg'])}°: gravity's part along the slope, {plain(math.sin(math.radians(k['slope_deg'])))} of the weight, is added to the turning.")  # fmt: skip
    if "speed_held_ms" in k:
        held = f"This edge holds up to {with_u(k['speed_held_ms'], u['speed_held_ms'], 'm/s')}"
        if "speed_ms" in k and k["speed_ms"] > k["speed_held_ms"]:
            held += f": at {plain(k['speed_ms'])} m/s it slips{_ways_to_hold(k)}"
        out.append(f"{held}.")
    elif {"edge_deg", "radius_m"} <= k.keys() and k["edge_deg"] > 0:
        out.append("On this slope so little edge does not hold at any speed.")
    return out


def _carve_cautions(k: Known) -> list[str]:
    out = []
    if max(k.get("speed_ms", 0), k.get("speed_held_ms", 0) if "speed_ms" not in k else 0) > FAST_MS:
        out.append("Such speeds belong on a closed, groomed slope with protection, never among others.")  # fmt: skip
    if k.get("load_bw", 0) > HEAVY_BW:
        out.append(f"Over {HEAVY_BW:g} body weights wants trained legs and a warm-up.")
    return out


CARVE = Calculator(
    id="carve", disciplines=("alpine_carve", "snowboard"), title="Carved arc", doc="What a sidecut carves, and the lean, load and speed that go with the arc.",
    formula="r = R·cos(edge); tan(lean) = (v²/r + g·sin β) ÷ (g·cos β), on level snow v²/(g·r); load = cos β ÷ cos(lean), on level snow 1/cos(lean); held speed: the lean that equals the edge; R = L²/(8·d), d = (tip + tail − 2·waist)/4",
    source="Lind & Sanders, The Physics of Skiing; Howe, The New Skiing Mechanics (ideal, firm snow); ISO 6289 names the widths (from memory)",
    of=CarveOf, answers=("radius_m", "lean_deg", "load_bw", "speed_held_ms"),
    rules=(
        rule("sidecut_m", _sidecut), rule("radius_m", _radius),
        rule("lean_deg", _lean), rule("load_bw", _load), rule("speed_held_ms", _held), rule("edge_deg", _edge_that_holds),
        rule("lean_deg", _lean_of_load), rule("speed_ms", _speed), rule("radius_m", _arc), rule("edge_deg", _edge), rule("sidecut_m", _sidecut_of),
    ),
    says=_carve_says, cautions=_carve_cautions,
    example={"sidecut_m": "13 m", "edge_deg": "55", "speed_ms": "9 m/s"}, plots=(Plot("edge_deg", "radius_m", ("sidecut_m",)), Plot("speed_ms", "lean_deg", ("radius_m", "slope_deg")), Plot("edge_deg", "speed_held_ms", ("sidecut_m", "slope_deg")),),
)  # fmt: skip


class LineOf(Quantities):
    gate_distance_m: Number = quantity("From gate to gate, down the slope", "m", gt=0, le=100, span=(4.0, 60.0))  # fmt: skip
    gate_offset_m: Number = quantity("From gate to gate, across the slope", "m", gt=0, le=40, span=(0.5, 20.0))  # fmt: skip
    room_m: Number = quantity("Room above the gate, on its rise line", "m", ge=0, le=60, span=(0.05, 40.0))  # fmt: skip
    speed_ms: Number = quantity("Speed", "m/s", gt=0, le=45, condition="speed_ms", span=(1.0, 40.0))
    set: Word = quantity("Course", condition="set", choices=tuple(sorted(GATES)))
    radius_m: Number = quantity("Radius of the arc", "m", ge=0, le=500)
    path_m: Number = quantity("Way from gate to gate", "m", gt=0)
    extra_m: Number = quantity("More than straight from gate to gate", "m", ge=0)
    extra_s: Number = quantity("Time that it costs", "s", ge=0)


def half_turn(gate_distance_m: float, gate_offset_m: float, room_m: float) -> float:
    """Angle of the straight part off the fall line, radians: it goes from one gate to the next one's rise line.

    A turn begins ``room_m`` above its gate on the gate's rise line and ends at the gate; by symmetry the arc comes in as far
    off the fall line as it goes out, so that its chord is the room.
    """
    down = gate_distance_m - room_m
    if down < 0:
        raise InputError(
            f"{room_m:g} m of room is more than the {gate_distance_m:g} m between the gates", "room_m", "give less room",
        )  # fmt: skip
    return math.atan2(gate_offset_m, down)


def _line_radius(gate_distance_m: float, gate_offset_m: float, room_m: float) -> float:
    return room_m / (2 * math.sin(half_turn(gate_distance_m, gate_offset_m, room_m)))


def _path(gate_distance_m: float, gate_offset_m: float, room_m: float) -> float:
    half = half_turn(gate_distance_m, gate_offset_m, room_m)
    return math.hypot(gate_offset_m, gate_distance_m - room_m) + room_m * half / math.sin(half)


def _extra(path_m: float, gate_distance_m: float, gate_offset_m: float) -> float:
    return path_m - math.hypot(gate_distance_m, gate_offset_m)


def _line_says(k: Known, u: Mapping[str, float]) -> list[str]:
    if "radius_m" not in k or "path_m" not in k:
        return []
    out = [
        f"With {with_u(k['room_m'], u['room_m'], 'm')} of room the turn is an arc of {with_u(k['radius_m'], u['radius_m'], 'm')}; "
        f"from gate to gate that is {with_u(k['path_m'], u['path_m'], 'm')}, {small_length(k['extra_m'])} more than straight."
    ]
    if "extra_s" in k:
        out.append(f"At {plain(k['speed_ms'])} m/s the way alone costs {with_u(k['extra_s'], u['extra_s'], 's') if u['extra_s'] else plain(k['extra_s'], 2) + ' s'} a gate.")  # fmt: skip
        need = math.degrees(math.atan(k["speed_ms"] ** 2 / (GRAVITY * max(k["radius_m"], 0.01))))
        out.append(f"A later start saves way and asks for a tighter arc: this one already leans {plain(need)}° on level snow.")  # fmt: skip
    if k.get("set"):
        out += [f"Against the rules: {p}." for p in set_problems(k["set"], None, math.hypot(k["gate_distance_m"], k["gate_offset_m"]))]  # fmt: skip
    return out


LINE = Calculator(
    id="line", disciplines=("alpine_gates",), title="Line through gates", doc="What room above the gate makes of the arc and of the way, and what it costs.",
    formula="straight from a gate to the next one's rise line, then an arc whose chord is the room: half turn a = atan(offset ÷ (distance − room)), r = room ÷ (2·sin a), way = √(offset² + (distance − room)²) + 2·r·a",
    source="geometry of arcs and tangents; a turn begins on its gate's rise line and ends at the gate (house choice)",
    of=LineOf, answers=("radius_m", "path_m", "extra_m", "extra_s"),
    rules=(
        rule("radius_m", _line_radius), rule("path_m", _path), rule("extra_m", _extra),
        rule("path_m", lambda extra_m, gate_distance_m, gate_offset_m: extra_m + math.hypot(gate_distance_m, gate_offset_m)),
        rule("extra_s", lambda extra_m, speed_ms: extra_m / speed_ms),
        rule("speed_ms", lambda extra_m, extra_s: extra_m / extra_s if extra_s > 0 else None),
        rule("extra_m", lambda extra_s, speed_ms: extra_s * speed_ms),
    ),
    says=_line_says,
    cautions=lambda k: ["Set gates on a closed slope with room to fall and nobody below; never on open slopes."] if "radius_m" in k else [],
    example={"gate_distance_m": "24 m", "gate_offset_m": "6 m", "room_m": "7 m", "speed_ms": "14 m/s", "set": "giant_slalom"}, plots=(Plot("room_m", "radius_m", ("gate_distance_m", "gate_offset_m")),),
)  # fmt: skip
