"""``reckoning/1``: a calculator's question and answer."""

from __future__ import annotations

from typing import Literal

from typing_extensions import TypedDict

from proklisis.core.shapes.prescription import closed


@closed
class Reckoned(TypedDict):
    """One quantity: a number with its standard uncertainty in its unit; words and rows have no uncertainty."""

    value: float | int | str | list[float] | None
    u: float | None
    unit: str


@closed
class Reckoning(TypedDict):
    """What was asked, every input as understood, what follows, and why."""

    format: Literal["reckoning/1"]
    name: str
    inputs: dict[str, Reckoned]
    answers: dict[str, Reckoned]
    says: str
    formula: str
    source: str
