"""Quantities as people type them: "34.2 mph", "15 off", "5'11", "52 frames at 60", "0.86 ± 0.02 s"."""

from __future__ import annotations

import difflib
import math
import re
from collections.abc import Mapping
from functools import cache
from typing import TYPE_CHECKING, Any

from proklisis.core.errors import InputError
from proklisis.core.physics.rope import ROPES_M
from proklisis.core.physics.sail import BEAUFORT_KN
from proklisis.core.playbook.conditions import read_rope, rope_m
from proklisis.core.reckoner.declared import About, Calculator

if TYPE_CHECKING:
    from pint import UnitRegistry

#: Suffix of a key → the unit it stands for, as the units' library names it.
SUFFIXES = {
    "ms": "meter/second", "kmh": "kilometer/hour", "mph": "mile/hour", "kn": "knot", "fts": "foot/second",
    "m": "meter", "cm": "centimeter", "mm": "millimeter", "km": "kilometer", "ft": "foot", "in": "inch", "yd": "yard", "mi": "mile",
    "s": "second", "min": "minute", "h": "hour", "deg": "degree", "rad": "radian", "hz": "hertz",
}  # fmt: skip
#: Unit as a reading writes it → the units' library's name; what is not here has no other unit.
UNITS = {
    "m": "meter", "cm": "centimeter", "s": "second", "deg": "degree", "hz": "hertz", "m/s": "meter/second", "km/h": "kilometer/hour",
    "mph": "mile/hour", "kn": "knot", "min": "minute", "mm": "millimeter", "ft": "foot", "in": "inch", "km": "kilometer", "mi": "mile",
}  # fmt: skip
LENGTHS = ("m", "cm", "mm", "km", "ft", "in", "mi")
#: As written → the units' library's name, where it would read something else or nothing.
WRITTEN = {
    "kn": "knot", "kt": "knot", "kts": "knot", "knots": "knot", "kmh": "kilometer/hour", "km/h": "kilometer/hour", "kph": "kilometer/hour",
    "mph": "mile/hour", "m/s": "meter/second", "ms": "millisecond", "°": "degree", "deg": "degree", "degrees": "degree", "'": "foot", '"': "inch",
    "hz": "hertz", "/s": "hertz", "a second": "hertz", "per second": "hertz", "/min": "1/minute", "a minute": "1/minute",
    "ft": "foot", "feet": "foot", "in": "inch", "metres": "meter", "metre": "meter", "sec": "second", "secs": "second",
}  # fmt: skip
#: Words behind a number that only name what is counted.
COUNTED = {"turns", "turn", "rotations", "rotation", "frames", "frame", "fps", "strokes", "px", "pixels", "%", "pct", "bw", "body weights", "x", "×", "days", "day"}  # fmt: skip
NUMBER = re.compile(r"[+\-−]?\d+(?:\.\d+)?(?:e[+\-]?\d+)?", re.IGNORECASE)
FEET_INCHES = re.compile(r"(\d+)\s*(?:'|′|ft\b|feet\b)\s*(\d+(?:\.\d+)?)\s*(?:\"|″|in\b|inch(?:es)?\b)?")  # fmt: skip
FRACTION = re.compile(r"(\d+(?:\.\d+)?)\s*/\s*(\d+(?:\.\d+)?)\s*(.*)")
FRAMES_AT = re.compile(r"(\d+(?:\.\d+)?)\s*(?:frames?)?\s*(?:at|@)\s*(\d+(?:\.\d+)?)\s*(?:fps|hz|frames? a second)?", re.IGNORECASE)  # fmt: skip
BEAUFORT = re.compile(r"(?:force\s*(\d+)|(\d+)\s*(?:bft|beaufort))", re.IGNORECASE)
PARTS = {"½": ".5", "¼": ".25", "¾": ".75"}


@cache
def units() -> UnitRegistry[Any]:
    """The registry of units (loaded when first asked for: it takes a fifth of a second)."""
    import pint

    return pint.UnitRegistry()


def converted(value: float, unit: str, into: str) -> float:
    """A value in another unit; both named as the units' library does."""
    found = units().Quantity(value, unit).to(into)
    return float(found.magnitude)


def read_all(
    calc: Calculator, said: Mapping[str, Any]
) -> tuple[dict[str, Any], dict[str, float], dict[str, str]]:
    """Everything that was said to a calculator.

    Parameters
    ----------
    said : key → number, numbers, or text as typed; ``KEY_u`` → its standard uncertainty; a key may end in another unit

    Returns
    -------
    given : key → value in the key's unit
    us : key → standard uncertainty
    understood : key → what a text was understood as, where it had another unit

    Raises
    ------
    InputError
        Names the key, what is wrong with it and what was meant where that is clear.
    """
    given: dict[str, Any] = {}
    us: dict[str, float] = {}
    understood: dict[str, str] = {}
    late: dict[str, Any] = {}
    for key, value in said.items():
        if value is None or (isinstance(value, str) and not value.strip()):
            continue
        if key.endswith("_u") and key not in calc.keys:
            late[key] = value
            continue
        for own, read, u in _read_key(calc, key, value):
            if own in given and given[own] != read:
                raise InputError(f"{own} is said twice", own, "leave one of them out")
            given[own] = read
            if u:
                us[own] = u
            if isinstance(value, str) and isinstance(read, float) and not _plain(value):
                understood[own] = value.strip()
    for key, value in late.items():
        own, factor = _own_key(calc, key[:-2])
        u = _number(value, key) * abs(factor)
        if u < 0:
            raise InputError(f"a doubt of {u:g} cannot be", key, "give 0 or more")
        us[own] = u
    for key in given:
        if (u := calc.about(key).u) and key not in us:
            us[key] = u
    return given, {k: u for k, u in us.items() if k in given}, understood


def _plain(text: str) -> bool:
    return NUMBER.fullmatch(text.strip().replace(",", ".")) is not None


def _read_key(calc: Calculator, key: str, value: Any) -> list[tuple[str, Any, float]]:
    """(key of ours, value, doubt) of one thing that was said; some texts say two."""
    if isinstance(value, bool):
        raise InputError(f"{value} is no number", key, "give a number")
    if key in ("frames", "air_time_s") and isinstance(value, str) and "frames" in calc.keys:
        both = FRAMES_AT.fullmatch(value.strip())
        if both:
            return [("frames", float(both[1]), 0.0), ("fps", float(both[2]), 0.0)]
    if key in ("rope_m", "rope_off_ft", "rope"):
        return _rope(calc, key, value)
    own, factor = _own_key(calc, key)
    about = calc.about(own)
    if about.takes == "choice":
        return [(own, _choice(about, own, value), 0.0)]
    if about.takes == "numbers":
        return [(own, [_with_unit(about, own, x)[0] for x in _listed(value)], 0.0)]
    if isinstance(value, int | float):
        return [(own, float(value) * factor, 0.0)]
    if own != key and not _plain(value):
        raise InputError(f"{value!r} has a unit of its own", key, f"write it as {own}")
    read, u = _with_unit(about, own, value)
    return [(own, read * factor, u * abs(factor))]


def _own_key(calc: Calculator, key: str) -> tuple[str, float]:
    """The calculator's own key of what may have been said in another unit, and the factor between them."""
    if key in calc.keys:
        return key, 1.0
    stem, _, suffix = key.rpartition("_")
    if stem and suffix in SUFFIXES:
        for own in calc.keys:
            mine, _, unit = own.rpartition("_")
            if mine == stem and unit in SUFFIXES and _same_kind(SUFFIXES[suffix], SUFFIXES[unit]):
                return own, converted(1.0, SUFFIXES[suffix], SUFFIXES[unit])
    near = difflib.get_close_matches(key, calc.keys, n=2, cutoff=0.5)
    mend = f"did you mean {' or '.join(near)}? " if near else ""
    raise InputError(f"{key!r} is not known to {calc.id}", key, f"{mend}it takes {', '.join(calc.keys)}")  # fmt: skip


def _same_kind(a: str, b: str) -> bool:
    reg = units()
    return bool(reg.Quantity(1, a).dimensionality == reg.Quantity(1, b).dimensionality)


def _rope(calc: Calculator, key: str, value: Any) -> list[tuple[str, Any, float]]:
    if "rope_m" not in calc.keys:
        _own_key(calc, key)
    try:
        if isinstance(value, int | float) or _plain(str(value)):
            number = _number(value, key)
            if key == "rope":
                found = read_rope(f"{number:g}")
            else:
                # The loop it stands for; refused by name where there is none.
                rope_m(number, "m" if key == "rope_m" else "off")
                found = {key: number}
        else:
            found = read_rope(str(value))
    except InputError as e:
        raise InputError(e.what, key, e.mend)
    if "rope_m" in found:
        return [("rope_m", rope_m(found["rope_m"], "m"), 0.0)]
    loop = rope_m(found["rope_off_ft"], "off")
    return [("rope_off_ft", next(ft for ft, m in ROPES_M.items() if m == loop), 0.0)]


def _choice(about: About, key: str, value: Any) -> str:
    word = str(value).strip().lower().replace(" ", "_")
    if word not in about.choices:
        raise InputError(f"{value!r} is not one of its words", key, f"write {', '.join(about.choices)}")  # fmt: skip
    return word


def _listed(value: Any) -> list[Any]:
    if isinstance(value, int | float):
        return [value]
    if isinstance(value, str):
        # A comma parts, so that each may have its unit; without one, blanks do.
        apart = r"[,;]" if re.search("[,;]", value) else r"\s+"
        return [x.strip() for x in re.split(apart, value.strip().strip("[]")) if x.strip()]
    return list(value)


def _number(value: Any, key: str) -> float:
    if isinstance(value, int | float) and not isinstance(value, bool):
        number = float(value)
    else:
        text = str(value).strip().replace(",", ".").replace("−", "-")
        if not NUMBER.fullmatch(text):
            raise InputError(f"{value!r} is no number", key, "write a number such as 0.86")
        number = float(text)
    if not math.isfinite(number):
        raise InputError("the number is not finite", key, "give a number")
    return number


def _with_unit(about: About, key: str, value: Any) -> tuple[float, float]:
    """A number with or without a unit, and its standard uncertainty where a ± stands in it."""
    if isinstance(value, int | float):
        return _number(value, key), 0.0
    text = str(value).strip()
    for sign, digits in PARTS.items():
        text = text.replace(sign, digits) if text[:1].isdigit() else text.replace(sign, f"0{digits}")  # fmt: skip
    first, plus_minus, second = (x.strip() for x in _parted(text))
    if not plus_minus:
        return _one(about, key, first)
    unit = re.sub(NUMBER, "", second, count=1).strip()
    value_, _ = _one(about, key, first if NUMBER.sub("", first).strip() else f"{first} {unit}")
    # A ± on screen and in what people write is U = 2u.
    return value_, abs(_scale(about, key, second, value_)) / 2


def _parted(text: str) -> tuple[str, str, str]:
    for sign in ("±", "+/-", "+-"):
        if sign in text:
            a, _, b = text.partition(sign)
            return a, sign, b
    return text, "", ""


def _scale(about: About, key: str, text: str, at: float) -> float:
    """A ± in the key's unit."""
    m = NUMBER.match(text.replace(",", "."))
    if m is None:
        raise InputError(f"{text!r} is no ±", key, "write it like 0.86 ± 0.02 s")
    zero, one = _one(about, key, f"0 {text[m.end() :]}")[0], _one(about, key, text)[0]
    return one - zero


def _one(about: About, key: str, text: str) -> tuple[float, float]:
    """One number, its unit read and turned into the key's."""
    if about.unit == "kn" and (force := BEAUFORT.fullmatch(text)):
        return _of_force(int(force[1] or force[2]), key)
    if (tall := FEET_INCHES.fullmatch(text)) and about.unit in LENGTHS:
        return converted(12 * float(tall[1]) + float(tall[2]), "inch", UNITS[about.unit]), 0.0
    plain = re.sub(r"(?<=\d),(?=\d)", ".", text)
    if (share := FRACTION.fullmatch(plain)) and float(share[2]):
        number, unit = float(share[1]) / float(share[2]), share[3]
    elif m := NUMBER.match(plain):
        number, unit = float(m[0].replace("−", "-")), plain[m.end() :]
    else:
        raise InputError(f"{text!r} is no number", key, f"write a number{f' in {about.unit}' if about.unit else ''}")  # fmt: skip
    unit = unit.strip().lower()
    if key == "slope_deg" and unit in ("%", "pct"):
        return math.degrees(math.atan(number / 100)), 0.0
    if not unit or unit in COUNTED or unit == about.unit:
        return number, 0.0
    if about.unit not in UNITS:
        raise InputError(f"{text!r} has a unit that does not belong here", key, f"write it in {about.unit or 'plain numbers'}")  # fmt: skip
    name = WRITTEN.get(unit, unit)
    # Only what can be a unit's name reaches the units' library.
    if not re.fullmatch(r"[a-z/1 ]{1,20}", name):
        raise InputError(f"{unit!r} is no unit", key, f"write it in {about.unit}")
    try:
        return converted(number, name, UNITS[about.unit]), 0.0
    except Exception:  # the library has an error for each way of not being a unit
        raise InputError(f"{unit!r} is no unit of this", key, f"write it in {about.unit}")


def _of_force(force: int, key: str) -> tuple[float, float]:
    """The middle of a Beaufort force, in knots, and half its width as a rectangular doubt (JCGM 100, 4.3.7)."""
    if not 0 <= force < len(BEAUFORT_KN):
        raise InputError(f"there is no force {force} here", key, "give force 0 to 11")
    low = BEAUFORT_KN[force - 1] if force else 0.0
    high = BEAUFORT_KN[force]
    return (low + high) / 2, (high - low) / 2 / math.sqrt(3)
