"""How a calculator is declared: its quantities, the rules between them, its words.

A calculator is a set of quantities and rules. A rule works out one quantity from others; what is not given and
can be worked out by any chain of rules is an answer, so that the same declaration serves in every direction.
The declaration feeds the command line, the API, the fields and help on screen, and the docs.
"""

from __future__ import annotations

import inspect
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from proklisis.core.declaration import Declaration

#: What a field takes: a number, numbers in a row, or one of some words.
Takes = Literal["number", "numbers", "choice"]
Known = dict[str, Any]
Number = float | None
Numbers = list[float] | None
Word = str | None


class Quantities(BaseModel):
    """Everything a calculator deals in; each field carries its title, unit, limits and where a run has it."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, strict=False)


@dataclass(frozen=True)
class Origin:
    """Where a quantity stands in a run: a measure's mean over the run, a condition, a fact of the clip or rider."""

    measure: str = ""
    condition: str = ""
    fact: str = ""
    #: Where the measure is read first.
    phase: str = ""


@dataclass(frozen=True)
class About:
    """What a field says beside its title and limits.

    Attributes
    ----------
    unit : the unit that its key ends in, as readings write it; "" for a plain number
    default : taken where it is left out and no rule gives it
    u : standard uncertainty where none is said
    origin : where a run has it
    span : range that an unknown is looked for in, and a plot runs over
    """

    unit: str = ""
    default: Any = None
    u: float = 0.0
    origin: Origin = Origin()
    span: tuple[float, float] | None = None
    choices: tuple[str, ...] = ()
    takes: Takes = "number"
    whole: bool = False
    #: Worked out by a rule of thumb where nobody says it: an input as understood, not an answer.
    usual: bool = False


def quantity(
    title: str, unit: str = "", *, default: Any = None, u: float = 0.0, measure: str = "", condition: str = "", fact: str = "", phase: str = "",
    span: tuple[float, float] | None = None, choices: tuple[str, ...] = (), takes: Takes = "number", whole: bool = False, usual: bool = False,
    gt: float | None = None, ge: float | None = None, lt: float | None = None, le: float | None = None,
) -> Any:  # fmt: skip
    """A field of :class:`Quantities`, with limits (``gt`` over, ``ge`` from, ``lt`` under, ``le`` to)."""
    about = About(
        unit, default, u, Origin(measure, condition, fact, phase), span, choices, "choice" if choices else takes, whole, usual
    )  # fmt: skip
    made: Any = Field(
        None, title=title, gt=gt, ge=ge, lt=lt, le=le, json_schema_extra={"unit": unit}
    )
    made.metadata.append(about)
    return made


@dataclass(frozen=True)
class Rule:
    """``target`` worked out by ``read`` from the quantities that its parameters are named after; those of ``takes`` may be unknown.

    One that is not ``binding`` is a rule of thumb: who says otherwise does not contradict it.
    """

    target: str
    needs: tuple[str, ...]
    takes: tuple[str, ...]
    read: Callable[..., Any]
    binding: bool = True


@dataclass(frozen=True)
class Plot:
    """``y`` drawn over ``x`` while ``fixed`` stay as they are."""

    x: str
    y: str
    fixed: tuple[str, ...] = ()


Says = Callable[[Known, Mapping[str, float]], list[str]]


@dataclass(frozen=True, kw_only=True)
class Calculator(Declaration):
    """One calculator.

    Attributes
    ----------
    of : the quantities, all optional; those of ``answers`` are what it is asked for
    rules : every way from some quantities to another, the plainest first
    says : the answer as sentences, from what is known and the standard uncertainties
    cautions : what to heed where a number tempts to something dangerous
    example : the worked example that it opens with (demo data, as typed)
    disciplines : those whose runs it is opened for first
    plots : what may be drawn; the first of them all of whose quantities are known is
    own_doubt : standard uncertainties that the usual way would get wrong
    """

    of: type[Quantities]
    answers: tuple[str, ...]
    rules: tuple[Rule, ...]
    says: Says
    cautions: Callable[[Known], list[str]] = field(default=lambda known: [])
    example: dict[str, str] = field(default_factory=dict)
    disciplines: tuple[str, ...] = ()
    plots: tuple[Plot, ...] = ()
    own_doubt: Callable[[Known], dict[str, float]] | None = None

    def about(self, key: str) -> About:
        return next(m for m in self.of.model_fields[key].metadata if isinstance(m, About))

    def field_title(self, key: str) -> str:
        return self.of.model_fields[key].title or key

    @property
    def keys(self) -> tuple[str, ...]:
        return tuple(self.of.model_fields)


def rule(target: str, read: Callable[..., Any], binding: bool = True) -> Rule:
    """A rule whose needs are the names of the function's parameters; those with a default may be left out."""
    named = inspect.signature(read).parameters.values()
    needs = tuple(p.name for p in named if p.default is p.empty)
    takes = tuple(p.name for p in named if p.default is not p.empty)
    return Rule(target, needs, takes, read, binding)
