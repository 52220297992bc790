"""Numbers and limits in a coach's words."""

from __future__ import annotations

import math
from typing import Any

import annotated_types as at

from proklisis.core.reckoner.declared import Calculator
from proklisis.core.uncertainty import digits

#: Unit as a reading writes it → as a sentence does.
IN_WORDS = {
    "deg": "°",
    "hz": "a second",
    "pct": "%",
    "bw": "times the body weight",
    "ft_off": "off",
}
PLURALS = {"s": "seconds", "m": "metres", "cm": "centimetres", "deg": "degrees", "pct": "percent", "hz": "a number a second", "kn": "knots"}  # fmt: skip
HALVES = ("", "one", "two", "three", "four", "five", "six")
#: Digits that count of a number that nobody gave a doubt (house choice).
COUNT = 3


def plain(value: float, count: int = COUNT) -> str:
    """A number with a few digits that count and no power of ten."""
    if value == 0 or not math.isfinite(value):
        return f"{value:g}"
    places = max(count - 1 - math.floor(math.log10(abs(value))), 0)
    text = f"{value:.{places}f}"
    return (text.rstrip("0").rstrip(".") if "." in text else text).replace("-", "−")


def with_u(value: float, u: float, unit: str) -> str:
    """ "0.91 ± 0.04 m": a value with U = 2u, or alone where nothing was said of its doubt."""
    behind = IN_WORDS.get(unit, unit)
    gap = "" if behind in ("°", "") else " "
    if u <= 0:
        return f"{plain(value)}{gap}{behind}"
    return f"{digits(value, u)} ± {digits(2 * u, u)}{gap}{behind}"


def turns(count: float) -> str:
    """Turns in the air as they are said: "four and a half turns"."""
    whole, rest = int(count), count - int(count)
    if (not math.isclose(rest, 0.5) and not math.isclose(rest, 0.0, abs_tol=1e-9)) or whole >= len(HALVES):  # fmt: skip
        return f"{plain(count)} turns"
    if math.isclose(rest, 0.5):
        return f"{HALVES[whole]} and a half turns" if whole else "half a turn"
    return f"{HALVES[whole]} turn{'s' if whole != 1 else ''}"


def small_length(metres: float) -> str:
    """A difference of heights or ways: centimetres below a metre."""
    return f"{plain(100 * metres, 2)} cm" if abs(metres) < 1 else f"{plain(metres)} m"


def limits(calc: Calculator, key: str) -> str:
    """What a field takes, as the mend of an error."""
    about = calc.about(key)
    low = high = ""
    for m in calc.of.model_fields[key].metadata:
        if isinstance(m, at.Gt):
            low = f"above {_edge(m.gt)}"
        elif isinstance(m, at.Ge):
            low = f"from {_edge(m.ge)}"
        elif isinstance(m, at.Lt):
            high = f"and under {_edge(m.lt)}"
        elif isinstance(m, at.Le):
            high = f"and up to {_edge(m.le)}" if low else f"up to {_edge(m.le)}"
    what = "whole numbers" if about.whole else PLURALS.get(about.unit, about.unit or "a number")
    return " ".join(x for x in ("give", what, low, high) if x)


def _edge(limit: Any) -> str:
    return f"{limit:g}"
