"""Two units, runs or riders held against each other, in the open format ``comparison/1``."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

from proklisis.core.shapes.prescription import Read, closed


@closed
class Matched(TypedDict):
    """By phase, or by an event and an offset in seconds from it; ``mirror`` where left and right are swapped."""

    by: Literal["phase", "event"]
    event: NotRequired[str]
    offset_s: NotRequired[float]
    mirror: bool


@closed
class ComparedRow(TypedDict):
    """``difference`` is a − b; ``p`` that the difference is real."""

    measure: str
    phase: str | None
    limb: str | None
    a: Read
    b: Read
    difference: float
    u: float
    p: float
    verdict: Literal["differs", "may_differ", "same", "cannot_tell"]


@closed
class FirstDifference(TypedDict):
    """The earliest matched moment from which a signal stays apart, and the faults that follow from it."""

    measure: str
    phase: str | None
    at: float
    frame_a: int | None
    frame_b: int | None
    difference: float
    u: float
    p: float
    says: str
    chain: list[str]


@closed
class BestUnit(TypedDict):
    segment: int
    side: str | None
    score: float
    u: float
    rank: int


@closed
class Comparison(TypedDict):
    """``comparison/1``: ``a`` and ``b`` say which run, rider and units each side is."""

    format: Literal["comparison/1"]
    a: dict[str, Any]
    b: dict[str, Any]
    matched: Matched
    rows: list[ComparedRow]
    first_difference: FirstDifference | None
    best_units: list[BestUnit]
    fairness: list[str]
