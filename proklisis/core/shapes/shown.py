"""What the Bench shows of a measured run. Times are seconds from the clip's first frame."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field
from typing_extensions import TypedDict

from proklisis.core.shapes.prescription import UntoldReason, closed


def said(words: str) -> object:
    return Field(description=words)


@closed
class ShownUnit(TypedDict):
    n: int
    side: Annotated[str | None, said("left or right, where the discipline has sides")]
    finest_side: Annotated[str | None, said("toe or heel, onside or offside, the hands")]
    outside: Annotated[str | None, said("the outside foot of a turn on skis")]
    start: float
    start_u: float
    end: float
    confidence: float
    by: Annotated[Literal["auto", "coach"], said("who set its start")]
    counted: Annotated[bool, said("a coach only counted it: its times are its share of the clip")]
    phases: dict[str, list[float]]


@closed
class ShownBoundary(TypedDict):
    t: float
    u: float
    confidence: float
    by: Literal["auto", "coach"]


@closed
class RibbonBand(TypedDict):
    signal: Annotated[str, said("what swings the band")]
    unit: str
    swing: list[float | None]
    swing_u: list[float | None]
    edge: list[float | None] | None
    graded: Annotated[bool, said("false where only the side of the signal can be trusted")]
    look: Annotated[list[int], said("frames in which the rider was lost")]


@closed
class ShownReading(TypedDict):
    measure: str
    value: float
    u: Annotated[float, said("standard uncertainty; ± on screen is twice this")]
    unit: Annotated[int | None, said("number of the unit; null for the run")]
    phase: str | None
    limb: str | None
    t: float | None
    words: Annotated[str, said("the value with the digits its uncertainty bears")]
    pm: Annotated[str, said("U = 2u in the same digits")]


@closed
class ShownSideMean(TypedDict):
    """Mean over all units of one side."""

    measure: str
    side: str
    phase: str | None
    limb: str | None
    value: float
    words: str
    pm: str


@closed
class OneSide(TypedDict):
    side: str
    words: str


@closed
class ShownSideGap(TypedDict):
    """How far the two sides of a measure lie apart, the first less the second; the surest gap comes first."""

    measure: str
    phase: str | None
    limb: str | None
    sure: Annotated[bool, said("more than the camera and the tracking could make of nothing")]
    words: str
    pm: str
    first: OneSide
    second: OneSide


@closed
class ShownRefusal(TypedDict):
    measure: str
    reason: UntoldReason
    words: str


@closed
class WantedBand(TypedDict):
    measure: str
    phase: str | None
    limb: str | None
    lo: float | None
    hi: float | None
    fault: str


@closed
class MeasureWords(TypedDict):
    title: str
    unit: str
    doc: str
    formula: str
    views: Annotated[str, said("from where it shows, in words")]
    points: list[str]
    phases: list[str]
    limbs: list[str]
    each_frame: Annotated[bool, said("whether it is read in every frame")]


@closed
class DoubtChoice(TypedDict):
    words: str
    value: Annotated[str | None, said("what it would be set to; null where it is as said")]


@closed
class ShownDoubt(TypedDict):
    """What the picture says against what was said of it; nothing is judged until it is answered."""

    kind: Literal["view", "front_foot", "rate"]
    says: str
    asks: str
    choices: list[DoubtChoice]


@closed
class Shown(TypedDict):
    """One run, measured."""

    t: list[float]
    phases: list[str]
    unit: Annotated[str, said("the word for one unit")]
    unit_plural: Annotated[str, said("the word for several")]
    units: list[ShownUnit]
    boundaries: list[ShownBoundary]
    ribbon: RibbonBand
    readings: list[ShownReading]
    sides: list[ShownSideMean]
    gaps: list[ShownSideGap]
    notes: Annotated[list[str], said("what to know of the clip, in sentences")]
    doubt: ShownDoubt | None
    rate_sure: Annotated[bool, said("whether the picture or the coach bears out the rate")]
    plays_slower: Annotated[float | None, said("how many times slower than life it seems to play")]
    fallen: Annotated[
        list[float] | None,
        said("pixels a metre by the fall in the air, and its standard uncertainty"),
    ]
    roll_deg: Annotated[
        float, said("degrees by which the picture is turned counter-clockwise to stand upright")
    ]
    roll_u_deg: Annotated[float, said("its standard uncertainty")]
    level_by_ride: Annotated[bool, said("whether the ride itself shows how the picture stands")]
    view: Annotated[
        str | None, said("from where it is taken to be filmed; null while that is open")
    ]
    view_offset_deg: float
    off_line_deg: Annotated[
        list[float] | None,
        said("degrees off the line of its view, toward the rider's right, at which the body shows the camera to stand; its standard uncertainty"),
    ]  # fmt: skip
    strain: Annotated[
        float | None, said("by how much of their length the rider's limbs seem to stretch")
    ]
    refusals: list[ShownRefusal]
    bands: list[WantedBand]
    measures: dict[str, MeasureWords]
