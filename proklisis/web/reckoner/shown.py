"""A calculator and its answer as a page shows them, in the coach's units."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.imperial import OTHER, text_in_feet
from proklisis.core.reckoner.declared import Calculator
from proklisis.core.reckoner.drawn import drawn, span
from proklisis.core.reckoner.library import CALCULATORS
from proklisis.core.reckoner.reckon import Asked
from proklisis.core.reckoner.words import IN_WORDS, plain
from proklisis.core.uncertainty import digits
from proklisis.web.reckoner.examples import STORIES

#: A number, perhaps with its ±, and no unit.
BARE = re.compile(r"[\d.,\s±+−-]*\d")
#: A text that a coach types is no longer than this.
LONGEST_TEXT = 200


def _other_way(calc: Calculator, key: str) -> str | None:
    """The unit that a coach who thinks in feet is shown, where the calculator has no field of its own for it."""
    unit = calc.about(key).unit
    if calc.id == "units" or unit not in OTHER:
        return None
    stem = key.rpartition("_")[0]
    units = {calc.about(k).unit for k in calc.keys if k.rpartition("_")[0] in (stem, f"{stem}_off")}
    return None if units & {OTHER[unit][0], "ft_off"} else OTHER[unit][0]


def listed(in_feet: bool) -> list[dict[str, Any]]:
    """Every calculator with its fields."""
    return [
        {
            "id": c.id, "title": c.title, "doc": c.doc, "formula": c.formula, "source": c.source, "example": c.example, "story": STORIES[c.id], "disciplines": list(c.disciplines),
            "fields": [_field(c, key, in_feet) for key in c.keys],
        }
        for c in CALCULATORS.values()
    ]  # fmt: skip


def _field(calc: Calculator, key: str, in_feet: bool) -> dict[str, Any]:
    about = calc.about(key)
    unit = (_other_way(calc, key) if in_feet else None) or about.unit
    return {
        "key": key, "title": calc.field_title(key), "unit": IN_WORDS.get(unit, unit), "takes": about.takes,
        "choices": list(about.choices), "answer": key in calc.answers,
        "default": None if about.default is None else str(about.default),
    }  # fmt: skip


def understood(calc: Calculator, said: Mapping[str, str], in_feet: bool) -> dict[str, str]:
    """What was typed, a bare length or speed with the unit that stood beside its field, so that it stays what it was."""
    out = {}
    for key, text in said.items():
        if len(text) > LONGEST_TEXT:
            raise InputError("this is too long", key, "write a number with its unit")
        unit = None
        if key in calc.keys and key != "rope_m":
            own = calc.about(key).unit
            unit = (_other_way(calc, key) if in_feet else None) or (own if own in OTHER else None)
        parts = [x.strip() for x in text.split(",")] if unit and calc.about(key).takes == "numbers" else [text]  # fmt: skip
        out[key] = ", ".join(f"{p} {unit}" if unit and BARE.fullmatch(p) else p for p in parts)
    return out


def answered(asked: Asked, in_feet: bool) -> dict[str, Any]:
    """What follows, quantity by quantity, in words, and as a plot."""
    calc = asked.calc
    given = set(asked.inputs)

    def row(key: str) -> dict[str, Any]:
        value = asked.known[key]
        about = calc.about(key)
        other = _other_way(calc, key) if in_feet else None
        factor = OTHER[about.unit][1] if other else 1.0
        u = asked.us.get(key, 0.0) * factor
        number = isinstance(value, int | float)
        if number:
            words = digits(value * factor, u) if u > 0 else plain(value * factor, 4)
        elif isinstance(value, list):
            words = ", ".join(plain(x * factor) for x in value) or "none"
        else:
            words = str(value).replace("_", " ")
        unit = other or about.unit
        return {
            "key": key, "words": words, "pm": digits(2 * u, u) if number and u > 0 else "",
            "unit": IN_WORDS.get(unit, unit), "given": key in asked.given, "assumed": key in given and key not in asked.given,
        }  # fmt: skip

    says = [*asked.says]
    return {
        "rows": [row(k) for k in calc.keys if k in asked.known],
        "says": [text_in_feet(s) for s in says] if in_feet and calc.id != "units" else says,
        "cautions": [text_in_feet(s) for s in asked.cautions] if in_feet else asked.cautions,
        "plot": _plot(asked, in_feet),
    }


def _plot(asked: Asked, in_feet: bool) -> dict[str, Any] | None:
    plot = drawn(asked)
    if plot is None:
        return None
    calc = asked.calc

    def axis(key: str) -> tuple[dict[str, str], float]:
        other = _other_way(calc, key) if in_feet else None
        unit = other or calc.about(key).unit
        axis_ = {"key": key, "title": calc.field_title(key), "unit": IN_WORDS.get(unit, unit)}
        return axis_, OTHER[calc.about(key).unit][1] if other else 1.0

    (x, fx), (y, fy) = axis(plot.x), axis(plot.y)
    low, high = span(asked, plot.x)
    return {
        "x": x, "y": y, "points": [[a * fx, b * fy, u * fy] for a, b, u in plot.points],
        "at": [plot.at[0] * fx, plot.at[1] * fy], "low": low * fx, "high": high * fx, "moves": plot.moves,
    }  # fmt: skip
