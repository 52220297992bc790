"""Conditions of a run: what each key takes, and the trade's own units read into one.

A coach may say a rope in metres or in feet off, a boat's speed in km/h or mph, wind in knots or m/s and a wave in
metres or feet. Judging knows one key of each pair, the first; the sheet keeps what was said.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.physics.rope import FOOT_M, MILE_M, ROPES_M

Given = str | bool | float


@dataclass(frozen=True)
class Kind:
    """What a key takes: one of ``choices``, a number from ``low`` to ``high`` in ``unit``, yes or no, or words."""

    title: str
    takes: str = "words"  # number | choice | yes_no | words
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    choices: tuple[str, ...] = ()


def _number(title: str, unit: str, low: float, high: float) -> Kind:
    return Kind(title, "number", unit, low, high)


def _choice(title: str, *choices: str) -> Kind:
    return Kind(title, "choice", choices=choices)


#: Every condition that a discipline knows (run-sheet/1). Limits keep out slips of the hand (house choice).
KINDS: dict[str, Kind] = {
    "slope_deg": _number("Slope", "°", 0, 60),
    "snow": Kind("Snow"),
    "set": _choice("Course", "giant_slalom", "slalom"),
    "effort": _choice("Effort", "sprint", "race", "long"),
    "terrain": _choice("Terrain", "flat", "up", "steep"),
    "speed_ms": _number("Speed", "m/s", 0, 20),
    "edge": _choice("Edge", "inside", "outside"),
    "blade_m": _number("Blade length", "m", 0.1, 0.5),
    "planned_rotations": _number("Planned turns in the air", "turns", 0.5, 6),
    "landing_side": _choice("Landing foot", "l", "r"),
    "distance_m": _number("Distance", "m", 50, 50_000),
    "corner": Kind("In a corner", "yes_no"),
    "build_limits_curl": Kind("Build does not let the blade stay straight", "yes_no"),
    "surface": Kind("Surface"),
    "on_stand": Kind("On a stand", "yes_no"),
    "grade": Kind("Grade of the trail"),
    "pedals": _choice("Pedals", "flat", "clip"),
    "feature": _choice("Feature", "roller", "drop", "corner", "rough"),
    "rope_m": _number("Rope", "m", 9, 19),
    "rope_off_ft": _number("Rope off", "ft off", 15, 43),
    "boat_kmh": _number("Boat speed", "km/h", 10, 70),
    "boat_mph": _number("Boat speed", "mph", 6, 44),
    "buoys": Kind("Round buoys", "yes_no"),
    "ball": _number("Buoy", "", 0, 6),
    "wind_kn": _number("Wind", "kn", 0, 70),
    "wind_ms": _number("Wind", "m/s", 0, 36),
    "water": _choice("Water", "flat", "chop", "waves"),
    "gybe": _choice("Kind of gybe", "carve", "step"),
    "sail_m2": _number("Sail", "m²", 1, 13),
    "hooked": Kind("Hooked in", "yes_no"),
    "wave_m": _number("Wave", "m", 0.1, 30),
    "wave_ft": _number("Wave", "ft", 0.3, 100),
    "power": _choice("Power of the wave", "weak", "moderate", "strong"),
    "height_m": _number("Height of the drop", "m", 0.1, 60),
    "level": Kind("Level of the water"),
    "boat": _choice("Boat", "full", "low_stern", "raft"),
    "move": _choice("Move", "boof", "double_boof", "back_boof", "freewheel", "slide"),
    "wanted_angle_deg": _number("Wanted angle at the lip", "°", -120, 120),
    "wanted_lead_angle_deg": _number("Wanted angle in the approach", "°", -120, 120),
    "wanted_last_stroke": _choice("Wanted last stroke", "left", "right"),
    "lead_turn": Kind("The line turns above the lip", "yes_no"),
}
#: Keys whose values a coach may also write as a word or a number.
FREE = frozenset(i for i, k in KINDS.items() if k.takes == "words")

#: Rope loops of tournament slalom: metres, and feet off.
ROPES: tuple[tuple[float, float], ...] = tuple((metres, feet) for feet, metres in ROPES_M.items())
#: How far a length in metres, by a tape, may lie from a loop, metres (house choice).
NEAR_M = 0.13
#: How far one in feet, by word of mouth, may, feet (house choice).
NEAR_FT = 0.3
ROPE_AS_TYPED = re.compile(r"(\d+(?:\.\d+)?)\s*(m|met(?:re|er)s?|off|ft|feet|(?:ft|feet)\s+off)?")
#: Kilometres an hour to a mile an hour (exact).
KMH_PER_MPH = MILE_M / 1000
#: Metres a second to a knot (exact).
MS_PER_KN = 1852 / 3600
#: Metres to a foot (exact).
M_PER_FT = FOOT_M
#: Key as said → key that is judged, and its factor.
OTHER_UNITS: dict[str, tuple[str, float]] = {
    "boat_mph": ("boat_kmh", KMH_PER_MPH), "wind_ms": ("wind_kn", 1 / MS_PER_KN), "wave_ft": ("wave_m", M_PER_FT),
}  # fmt: skip
#: Two ways of saying one thing may differ by rounding, not by more than this share.
AGREE = 0.03


def in_other_units(known: Iterable[str]) -> set[str]:
    """The keys of ``known`` with those that say the same in another unit."""
    own = set(known)
    own |= {k for k, (to, _) in OTHER_UNITS.items() if to in own}
    return own | ({"rope_off_ft"} if "rope_m" in own else set())


def rope_words(metres: float) -> str:
    """A loop in both ways of counting: "14.25 m (28 off)"."""
    off = next(ft for m, ft in ROPES if m == metres)
    return f"{metres:g} m ({off:g} off)"


def _nearest_ropes(distance: list[float]) -> str:
    order = sorted(range(len(ROPES)), key=lambda i: distance[i])[:2]
    return " and ".join(rope_words(ROPES[i][0]) for i in sorted(order))


def rope_m(value: float, counted: str) -> float:
    """The loop in metres of a rope said in ``counted`` "m" or "off"; InputError names the nearest loops."""
    k, near = (0, NEAR_M) if counted == "m" else (1, NEAR_FT)
    far = [abs(value - r[k]) for r in ROPES]
    i = min(range(len(ROPES)), key=lambda j: far[j])
    if far[i] <= near:
        return ROPES[i][0]
    said = f"{value:g} m" if counted == "m" else f"{value:g} off"
    raise InputError(f"no rope is {said}", "", f"the nearest loops are {_nearest_ropes(far)}")


def read_rope(text: str) -> dict[str, float]:
    """Read a rope as a coach writes it into a condition: ``15 off``, ``28``, ``14.25``, ``14.25 m``.

    A number with no unit is of the list that alone has it. InputError says what was not understood.
    """
    said = ROPE_AS_TYPED.fullmatch(text.strip().lower().replace(",", "."))
    if said is None:
        raise InputError(
            f"{text!r} is no rope", "rope", "write 15 off, 28 off, 14.25 m or the like"
        )
    value, unit = float(said[1]), said[2] or ""
    if unit:
        key, counted = ("rope_m", "m") if unit.startswith("m") else ("rope_off_ft", "off")
        rope_m(value, counted)
        return {key: value}
    fits = {}
    for key, counted in (("rope_m", "m"), ("rope_off_ft", "off")):
        try:
            rope_m(value, counted)
            fits[key] = value
        except InputError:
            continue
    if len(fits) == 1:
        return fits
    far = [min(abs(value - m), abs(value - ft)) for m, ft in ROPES]
    raise InputError(
        f"no rope is {value:g}, in metres or off",
        "rope",
        f"the nearest loops are {_nearest_ropes(far)}",
    )


def check_condition(key: str, value: Any, where: str) -> None:
    """Refuse a value that its key does not take; InputError says what it takes."""
    kind = KINDS[key]
    if kind.takes == "number":
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise InputError(
                f"{value!r} is not a number",
                where,
                f"{kind.title.lower()} is a number" + (f" in {kind.unit}" if kind.unit else ""),
            )
        if key in ("rope_m", "rope_off_ft"):
            try:
                rope_m(float(value), "m" if key == "rope_m" else "off")
            except InputError as e:
                raise e.at(where) from e
        elif not kind.low <= value <= kind.high:
            raise InputError(
                f"{value:g} is out of range",
                where,
                f"{kind.title.lower()} lies between {kind.low:g} and {kind.high:g} {kind.unit}".rstrip(),
            )
    elif kind.takes == "yes_no" and not isinstance(value, bool):
        raise InputError(f"{value!r} is neither true nor false", where, "write true or false")
    elif kind.takes == "choice" and value not in kind.choices:
        raise InputError(
            f"{value!r} is not one of its values", where, f"write one of {', '.join(kind.choices)}"
        )
    elif kind.takes == "words" and isinstance(value, bool):
        raise InputError(f"{value!r} is no word", where, "write it in words")


def in_one_unit(said: Mapping[str, Given], where: str = "conditions") -> dict[str, Given]:
    """Conditions with one key for each thing: ropes in metres, speeds in km/h, wind in knots, waves in metres.

    Both keys of a pair may stand where they agree; InputError names them where they do not.
    """
    out = dict(said)

    def settle(key: str, other: str, value: float) -> None:
        own = out.get(key)
        if isinstance(own, int | float) and abs(own - value) > AGREE * max(abs(value), 1e-9):
            raise InputError(
                f"{key} {own:g} and {other} {said[other]:g} are not the same",
                where,
                "leave one of them out",
            )
        out[key] = value

    if "rope_m" in out:
        out["rope_m"] = rope_m(float(out["rope_m"]), "m")
    if "rope_off_ft" in out:
        settle("rope_m", "rope_off_ft", rope_m(float(out.pop("rope_off_ft")), "off"))
    for other, (key, factor) in OTHER_UNITS.items():
        if other in out:
            settle(key, other, round(float(out.pop(other)) * factor, 4))
    return out


def replaced(old: Mapping[str, Given], new: Mapping[str, Given]) -> dict[str, Given]:
    """``old`` conditions with ``new`` ones in their place, in whatever unit each was said."""
    said = set(in_one_unit(new))
    return {**{k: v for k, v in old.items() if not set(in_one_unit({k: v})) & said}, **new}


def as_said(conditions: Mapping[str, Given]) -> str:
    """The rope in the count in which it was said, "" where none was."""
    if "rope_off_ft" in conditions:
        return f"{conditions['rope_off_ft']:g} off"
    return f"{conditions['rope_m']:g} m" if "rope_m" in conditions else ""
