"""The map of a run: what was measured, seen from where no camera was, as plain lines, marks and areas."""

from __future__ import annotations

from typing import Annotated, Literal

from typing_extensions import TypedDict

from proklisis.core.shapes.prescription import closed
from proklisis.core.shapes.shown import said

#: A place on the map, in the units of its axes.
Place = Annotated[list[float], said("x, y in the units of the axes")]


@closed
class MapAxis(TypedDict):
    title: str
    unit: Annotated[str, said("empty where it is no length, time or angle")]
    lo: float
    hi: float
    ticks: Annotated[list[float], said("places at which the axis is marked; may be empty")]
    words: Annotated[list[str], said("what stands at the ticks; empty: their numbers")]


@closed
class MapLine(TypedDict):
    """A line of one unit. ``u``, ``width`` and ``t`` hold one value for each place."""

    unit: int | None
    side: str | None
    kind: Literal["path", "strong", "body", "plain", "usual"]
    at: list[Place]
    u: Annotated[list[list[float]], said("U, about 95 %, along x and along y; empty: it has none")]
    width: Annotated[
        list[float], said("how much there is of what the width shows, 0 to 1; empty: one width")
    ]
    t: Annotated[list[float], said("seconds in the clip; empty: the line is at no time")]
    words: str


@closed
class MapMark(TypedDict):
    unit: int | None
    side: str | None
    kind: Literal["dot", "ring", "gate", "tick", "costs"]
    at: Place
    u: Annotated[
        list[float], said("U to both sides, along x and y; zero where it is not known by itself")
    ]
    t: float | None
    words: str


@closed
class MapArea(TypedDict):
    at: list[Place]
    kind: Literal["wanted", "zone", "water"]
    words: str


@closed
class RunMap(TypedDict):
    """``equal``: a step is as long along x as along y. ``lacking`` says why there is none."""

    title: str
    x: MapAxis
    y: MapAxis
    equal: bool
    scale_bar: Annotated[
        float | None, said("its length in the units of the axes; null where there is no scale")
    ]
    scale_words: str
    areas: list[MapArea]
    lines: list[MapLine]
    marks: list[MapMark]
    says: Annotated[list[str], said("how to read it, and what it cannot show")]
    lacking: str
