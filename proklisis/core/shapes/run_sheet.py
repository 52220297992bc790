"""The run sheet: one measured run, in the open format ``run-sheet/1``."""

from __future__ import annotations

from math import isfinite
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, WithJsonSchema
from pydantic.dataclasses import dataclass

from proklisis.core.shapes.club_book import ClubBook
from proklisis.core.tracks.tracks import View

Level = Literal["novice", "intermediate", "advanced", "elite"]
Finite = Annotated[float, Field(allow_inf_nan=False)]
Positive = Annotated[float, Field(allow_inf_nan=False, ge=0)]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Rider(Strict):
    name: str = ""
    stance: Literal["regular", "goofy"] | None = None
    height_cm: Annotated[float, Field(gt=50, lt=260, allow_inf_nan=False)] | None = None


class Intention(Strict):
    text: str = ""
    faults: list[str] = []


class Clip(Strict):
    fps: Annotated[float, Field(gt=0, allow_inf_nan=False)] | None = None
    view: View | None = None
    view_offset_deg: Finite | None = None
    #: False where nothing but the file says that it plays as fast as life: times are then never clear.
    rate_sure: bool | None = None


class NamedClip(Clip):
    """One of several clips; clips of one ``pass`` show the same units."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)
    id: Annotated[str, Field(min_length=1)]
    pass_: Annotated[int, Field(ge=1, alias="pass")] = 1


def _condition(value: Any) -> Any:
    if isinstance(value, float) and not isfinite(value):
        raise ValueError("the number is not finite")
    if not isinstance(value, str | bool | int | float):
        raise ValueError("a condition is a word, a number, true or false")
    return value


Condition = Annotated[
    Any, AfterValidator(_condition), WithJsonSchema({"type": ["string", "number", "boolean"]})
]


class Segment(Strict):
    n: int = Field(ge=1)
    kind: str
    clip: str | None = None
    side: Literal["left", "right", "l", "r"] | None = None
    edge_side: Literal["toe", "heel"] | None = None
    hand_side: Literal["onside", "offside"] | None = None
    face: Literal["front_hand", "back_hand"] | None = None
    ball: int | None = None
    #: The blade of the last stroke over a drop.
    last_stroke: Literal["left", "right"] | None = None
    start_s: Finite | None = None
    end_s: Finite | None = None
    #: Where the view changes on the way.
    view: View | None = None
    view_offset_deg: Finite | None = None
    #: What differs here from the run's conditions.
    conditions: dict[str, Condition] = {}


Limb = Literal["l", "r", "outside", "inside", "front", "back"]


# A sheet has thousands of these: a dataclass with slots is read in half the time of a model.
@dataclass(config=ConfigDict(extra="forbid"), slots=True, kw_only=True)
class SheetMeasure:
    id: str
    limb: Limb | None = None
    segment: int | None = None
    phase: str | None = None
    value: Finite
    u: Positive = 0.0
    clip: str | None = None


class Observation(Strict):
    """What a coach saw, or looked for and did not see: the id of an observation or of a fault."""

    id: str
    segment: int | None = None
    segments: Annotated[list[int], Field(min_length=1)] | None = None
    #: Where in the unit; without it, anywhere.
    phase: str | None = None
    side: str | None = None
    clip: str | None = None
    sure: bool = True
    seen: bool = True

    @property
    def numbers(self) -> list[int] | None:
        """The units it names, or None."""
        return self.segments if self.segment is None else [self.segment]


class Chosen(Strict):
    """The coach's own choice in place of the software's."""

    main: str | None = None
    #: Findings that are given beside the main thing, the first first.
    also: list[str] = []
    cue: Annotated[str, Field(min_length=1)] | None = None
    drill: str | None = None


class Before(Strict):
    value: Finite
    u: Positive


class Aim(Strict):
    """A retest row of the last prescription, with what was measured then."""

    measure: str
    limb: Limb | None = None
    phase: str | None = None
    side: str = "both"
    target: tuple[Finite | None, Finite | None]
    before: Before | None = None


class Refused(Strict):
    """A measure that the clip could not give: why, in words, and the points that would have to be marked for it."""

    measure: str
    reason: Literal["view", "frame_rate", "blur", "not_measured"]
    words: str
    points: list[str] = []


class RunSheet(Strict):
    """Everything that is known of one run. Each measure has one unit, which docs/formats.md lists."""

    format: Literal["run-sheet/1"]
    discipline: str
    level: Level = "intermediate"
    rider: Rider
    intention: Intention = Intention()
    schools: dict[str, str] = {}
    conditions: dict[str, Condition] = {}
    gear: dict[str, Any] = {}
    clip: Clip = Clip()
    clips: list[NamedClip] = []
    segments: list[Segment] = []
    measures: list[SheetMeasure] = []
    refused: list[Refused] = []
    observations: list[Observation] = []
    chosen: Chosen = Chosen()
    #: What the club whose run it is changes in the playbook.
    club_book: ClubBook | None = None
    previous: list[Aim] = []
