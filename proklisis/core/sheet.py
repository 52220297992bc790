"""The run sheet: one measured run, in the open format ``run-sheet/1``."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from pydantic.dataclasses import dataclass

from proklisis.core.errors import InputError
from proklisis.core.measures.shared import SHARED
from proklisis.core.playbook.check import first_problem, nearest
from proklisis.core.playbook.schema import Level, Playbook
from proklisis.core.tracks import View

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


class Segment(Strict):
    n: int = Field(ge=1)
    kind: str
    side: Literal["left", "right", "l", "r"] | None = None
    edge_side: Literal["toe", "heel"] | None = None
    hand_side: Literal["onside", "offside"] | None = None
    face: Literal["front_hand", "back_hand"] | None = None
    ball: int | None = None
    start_s: Finite | None = None
    end_s: Finite | None = None


# A sheet has thousands of these: a dataclass with slots is read in half the time of a model.
@dataclass(config=ConfigDict(extra="forbid"), slots=True, kw_only=True)
class SheetMeasure:
    id: str
    limb: str | None = None
    segment: int | None = None
    phase: str | None = None
    value: Finite
    u: Positive = 0.0


class Observation(Strict):
    id: str
    segment: int | None = None
    sure: bool = True


class RunSheet(Strict):
    """Everything that is known of one run. Units are fixed per measure by the handbook."""

    format: Literal["run-sheet/1"]
    discipline: str
    level: Level = "intermediate"
    rider: Rider
    intention: Intention = Intention()
    schools: dict[str, str] = {}
    conditions: dict[str, str | bool | Finite] = {}
    gear: dict[str, Any] = {}
    clip: Clip = Clip()
    segments: list[Segment] = []
    measures: list[SheetMeasure] = []
    observations: list[Observation] = []


def parse_sheet(data: str | bytes | dict[str, Any], name: str = "sheet") -> RunSheet:
    """Read a run sheet; raise InputError with the path of the first bad key."""
    if not isinstance(data, dict):
        try:
            data = json.loads(data)
        except ValueError as e:
            raise InputError(f"not readable as JSON ({e})", name) from e
        if not isinstance(data, dict):
            raise InputError("the top of a run sheet is an object", name)
    try:
        return RunSheet.model_validate(data)
    except ValidationError as e:
        path, words = first_problem(e)
        raise InputError(words, f"{name}: {path}", "see docs/schemas/run-sheet.json") from e


def check_ids(sheet: RunSheet, book: Playbook, name: str = "sheet") -> None:
    """Refuse ids that the discipline does not know, naming the nearest known ones."""

    def known(word: str, ids: Any, where: str) -> None:
        if word not in ids:
            raise InputError(f"{word!r} is not known in {book.discipline}", f"{name}: {where}", nearest(word, ids))

    numbers = {s.n for s in sheet.segments}
    if len(numbers) != len(sheet.segments):
        raise InputError("two segments have the same number", f"{name}: segments")
    for i, s in enumerate(sheet.segments):
        if s.kind != book.unit:
            raise InputError(f"{s.kind!r} is not a unit of {book.discipline}", f"{name}: segments.{i}.kind",
                             f"its unit is {book.unit!r}")  # fmt: skip
    # A sheet has thousands of values: they are gone through one by one only where one is wrong.
    ids, phases, where = {m.id for m in sheet.measures}, {m.phase for m in sheet.measures}, {m.segment for m in sheet.measures}
    measures = {*book.measures, *SHARED}
    wrong = not (ids <= measures and phases <= {None, *book.phases} and where <= {None, *numbers})
    for i, m in enumerate(sheet.measures if wrong else ()):
        known(m.id, measures, f"measures.{i}.id")
        if m.phase is not None:
            known(m.phase, book.phases, f"measures.{i}.phase")
        if m.segment is not None and m.segment not in numbers:
            raise InputError(f"there is no segment {m.segment}", f"{name}: measures.{i}.segment",
                             "list it under segments or leave the key out")  # fmt: skip
    for i, o in enumerate(sheet.observations):
        known(o.id, book.observation_ids, f"observations.{i}.id")
        if o.segment is not None and o.segment not in numbers:
            raise InputError(f"there is no segment {o.segment}", f"{name}: observations.{i}.segment",
                             "list it under segments or leave the key out")  # fmt: skip
    for i, fault in enumerate(sheet.intention.faults):
        known(fault, book.faults, f"intention.faults.{i}")
    for question, option in sheet.schools.items():
        known(question, book.schools, f"schools.{question}")
        known(option, book.schools[question].options, f"schools.{question}")
    for key in sheet.conditions:
        known(key, book.conditions, f"conditions.{key}")
