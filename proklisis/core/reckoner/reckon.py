"""Ask a calculator: what is said in, ``reckoning/1`` out."""

from __future__ import annotations

import difflib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from proklisis.core.errors import InputError
from proklisis.core.reckoner.declared import Calculator, Known
from proklisis.core.reckoner.library import CALCULATORS, for_keys
from proklisis.core.reckoner.solve import OUTSIDE, spread
from proklisis.core.reckoner.typed import read_all
from proklisis.core.reckoner.words import limits, with_u
from proklisis.core.shapes.reckoning import Reckoned, Reckoning

#: Digits that a computed number keeps in a file.
DIGITS = 10


@dataclass(frozen=True)
class Asked:
    """One question put to a calculator, and what came of it.

    Attributes
    ----------
    given, assumed : what was said and what was taken where nothing was, in the keys' units
    us : standard uncertainties of everything that is known
    understood : key → text, where what was typed had another unit
    says, cautions : sentences
    """

    calc: Calculator
    given: Known
    assumed: Known
    known: Known
    us: dict[str, float]
    understood: dict[str, str]
    says: list[str]
    cautions: list[str]

    @property
    def inputs(self) -> list[str]:
        """Keys that were given, or taken where nothing was said."""
        return [
            k for k in self.calc.keys
            if k in self.given or k in self.assumed or (k in self.known and self.calc.about(k).usual)
        ]  # fmt: skip

    @property
    def answers(self) -> list[str]:
        """Keys that were asked for or worked out, in the calculator's order."""
        inputs = set(self.inputs)
        order = dict.fromkeys((*self.calc.answers, *self.calc.keys))
        return [k for k in order if k in self.known and (k in self.calc.answers or k not in inputs)]


def calculator(name: str) -> Calculator:
    """A calculator by its name; InputError names the nearest."""
    if name not in CALCULATORS:
        near = difflib.get_close_matches(name, CALCULATORS, n=2, cutoff=0.4)
        mend = f"did you mean {' or '.join(near)}? " if near else ""
        raise InputError(f"{name!r} is no calculator", "reckon", f"{mend}there are {', '.join(CALCULATORS)}")  # fmt: skip
    return CALCULATORS[name]


def ask(name: str, said: Mapping[str, Any], unknown: str | None = None) -> Asked:
    """Put a question to a calculator.

    Parameters
    ----------
    said : key → number, numbers or text; ``KEY_u`` → standard uncertainty
    unknown : the quantity wanted, which then takes no default

    Raises
    ------
    InputError
        For what is impossible, contradicts itself or is not known, by name.
    """
    calc = for_keys(calculator(name).id, said)
    given, us, understood = read_all(calc, said)
    if not given:
        raise InputError("nothing is given", name, f"give some of {', '.join(calc.keys)}")
    _possible(calc, given)
    try:
        also: dict[str, float] = {}
        known, assumed, out = spread(calc, given, us, unknown, also)
    except InputError:
        raise
    except OUTSIDE:
        raise InputError("these numbers cannot be together", name, "change one of them")
    _found_possible(calc, known, given)
    # Two values may answer; that the lower one is shown is no reason to keep the other back.
    twice = [
        f"{with_u(value, 0.0, calc.about(key).unit)} of {calc.field_title(key).lower()} does it too."
        for key, value in also.items()
    ]
    says = [*calc.says(known, out), *twice]
    return Asked(calc, given, assumed, known, out, understood, says, calc.cautions(known))


def reckoning(asked: Asked) -> Reckoning:
    """A question and its answer as ``reckoning/1``."""

    def row(key: str) -> Reckoned:
        value = asked.known[key]
        number = isinstance(value, int | float)
        return {
            "value": _rounded(value),
            "u": _rounded(asked.us.get(key, 0.0)) if number else None,
            "unit": asked.calc.about(key).unit,
        }

    return {
        "format": "reckoning/1",
        "name": asked.calc.id,
        "inputs": {k: row(k) for k in asked.inputs},
        "answers": {k: row(k) for k in asked.answers},
        "says": " ".join([*asked.says, *asked.cautions]),
        "formula": asked.calc.formula,
        "source": asked.calc.source,
    }


def _rounded(value: Any) -> Any:
    if isinstance(value, float):
        return float(f"{value:.{DIGITS}g}") + 0.0
    if isinstance(value, list):
        return [_rounded(v) for v in value]
    return value


def _possible(calc: Calculator, given: Known) -> None:
    """Refuse what lies outside a field's limits, by its name."""
    try:
        calc.of.model_validate(given)
    except ValidationError as e:
        problem = e.errors()[0]
        key = str(problem["loc"][0])
        raise InputError(f"{calc.field_title(key).lower()} of {_shown(given[key])} cannot be", key, limits(calc, key)) from e  # fmt: skip


def possible(calc: Calculator, key: str, value: float) -> bool:
    """Whether a field takes a value at all."""
    try:
        calc.of.model_validate({key: value})
    except ValidationError:
        return False
    return True


def _found_possible(calc: Calculator, known: Known, given: Known) -> None:
    """Refuse answers that nothing can be, such as a negative height."""
    for key in known:
        if key in given:
            continue
        try:
            calc.of.model_validate({key: known[key]})
        except ValidationError as e:
            raise InputError(f"this would need {calc.field_title(key).lower()} of {_shown(known[key])}", key, f"that cannot be; {limits(calc, key)}") from e  # fmt: skip


def _shown(value: Any) -> str:
    return f"{value:.4g}" if isinstance(value, int | float) else str(value)
