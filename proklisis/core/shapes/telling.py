"""A spoken review of a run as timed acts, in the open format ``telling/1``.

A Telling is a row of passages, each a sentence or two with what is shown meanwhile; its times count from its own begin, in seconds.
Frames count as the Bench counts them; points are pixels of the clip.
"""

from __future__ import annotations

from typing import Annotated, Literal, NotRequired

from pydantic import Field
from typing_extensions import TypedDict

from proklisis.core.shapes.prescription import closed

Seconds = Annotated[float, Field(ge=0, le=1800, allow_inf_nan=False)]
Frame = Annotated[int, Field(ge=0, le=2_000_000)]
Pixel = Annotated[float, Field(ge=-20_000, le=40_000, allow_inf_nan=False)]
Points = Annotated[
    list[Annotated[list[Pixel], Field(min_length=2, max_length=2)]],
    Field(min_length=1, max_length=400),
]
Words = Annotated[str, Field(max_length=500)]


@closed
class Stop(TypedDict):
    """The picture stands on a frame until the next stop or play."""

    act: Literal["stop"]
    at_s: Seconds
    frame: Frame


@closed
class Play(TypedDict):
    """The run plays from one frame to another, and stands on that one; ``speed`` 1 is as it was."""

    act: Literal["play"]
    at_s: Seconds
    frame: Frame
    to_frame: Frame
    speed: Annotated[float, Field(gt=0, le=4)]


@closed
class Measured(TypedDict):
    """The line of a measure, with its number."""

    act: Literal["measure"]
    at_s: Seconds
    until_s: Seconds
    measure: Annotated[str, Field(max_length=60)]
    unit: Annotated[int, Field(ge=1)] | None
    limb: Annotated[str, Field(max_length=12)] | None
    words: Words


@closed
class Drawn(TypedDict):
    """What the coach drew on a frame: it stays where it is, or goes with the rider's middle."""

    act: Literal["draw"]
    at_s: Seconds
    until_s: Seconds
    kind: Literal["line", "arrow", "angle", "circle", "free", "text"]
    points: Points
    words: Words
    frame: Frame
    follows: bool


@closed
class FigureShown(TypedDict):
    """The figure of a fault, right beside wrong."""

    act: Literal["figure"]
    at_s: Seconds
    until_s: Seconds
    fault: Annotated[str, Field(max_length=60)]


@closed
class GhostShown(TypedDict):
    """The rider's own figure with the main thing mended."""

    act: Literal["ghost"]
    at_s: Seconds
    until_s: Seconds
    frame: Frame
    joints: dict[str, Annotated[list[Pixel], Field(min_length=2, max_length=2)]]


@closed
class Card(TypedDict):
    """A few lines to read, as of a drill."""

    act: Literal["card"]
    at_s: Seconds
    until_s: Seconds
    title: Words
    lines: Annotated[list[Words], Field(max_length=12)]


Box = Annotated[
    list[Pixel], Field(min_length=4, max_length=4, description="left, top, width, height")
]


@closed
class Beside(TypedDict):
    """Two frames that are the same moment of a movement, and what is shown of each."""

    frame: Frame
    other: Annotated[Frame, Field(description="of the other run, as its Bench counts them")]
    box: Box
    other_box: Box


@closed
class PairShown(TypedDict):
    """Another run, or another unit of this one, in the right half; between the rows frames and boxes go evenly."""

    act: Literal["pair"]
    at_s: Seconds
    until_s: Seconds
    run: Annotated[
        int, Field(ge=1, description="the other run; this one where it is another unit of it")
    ]
    made: Annotated[
        str,
        Field(max_length=40, description="when the other run's numbers came out as they are here"),
    ]
    mirror: bool
    words: Annotated[
        list[Words], Field(min_length=2, max_length=2, description="whose each half is")
    ]
    rows: Annotated[list[Beside], Field(min_length=1, max_length=200)]


Act = Annotated[
    Stop | Play | Measured | Drawn | FigureShown | GhostShown | Card | PairShown,
    Field(discriminator="act"),
]


@closed
class Sound(TypedDict):
    """What is heard: a part of a recording."""

    recording: int
    from_s: Seconds
    to_s: Seconds


@closed
class Passage(TypedDict):
    id: Annotated[str, Field(min_length=1, max_length=40)]
    caption: Annotated[str, Field(max_length=1000)]
    length_s: Annotated[float, Field(gt=0, le=1800)]
    acts: Annotated[list[Act], Field(max_length=500)]
    sound: NotRequired[Sound | None]


@closed
class Telling(TypedDict):
    """``telling/1``: what is shown, said and read, passage by passage."""

    format: Literal["telling/1"]
    discipline: str
    passages: Annotated[list[Passage], Field(max_length=200)]


Tone = Literal["measure", "coach", "ghost"]


@closed
class Mark(TypedDict):
    """One shape on the picture, in pixels of the clip."""

    kind: Literal["line", "arrow", "circle", "text", "body"]
    points: Annotated[
        list[Annotated[list[Pixel], Field(min_length=2, max_length=2)]], Field(max_length=400)
    ]
    words: Words
    tone: Tone


@closed
class Stretch(TypedDict):
    """From when to when the picture shows which frames; times count from the Telling's begin."""

    from_s: float
    to_s: float
    frame: int
    to_frame: int
    speed: Annotated[float, Field(description="0 while it stands")]


@closed
class OtherHalf(TypedDict):
    """What the right half shows while a frame is shown in the left one."""

    other: int
    box: Box
    other_box: Box


@closed
class PairOver(TypedDict):
    """Two halves in place of the picture."""

    run: int
    made: str
    mirror: bool
    words: list[str]
    at: Annotated[dict[int, OtherHalf], Field(description="frame → its other half")]


@closed
class Overlay(TypedDict):
    """What lies over the picture for a while."""

    from_s: float
    to_s: float
    marks: Annotated[dict[int, list[Mark]], Field(description="frame → shapes")]
    figure: str
    title: str
    lines: list[str]
    pair: NotRequired[PairOver]


@closed
class Caption(TypedDict):
    from_s: float
    to_s: float
    text: str


@closed
class Heard(TypedDict):
    """A part of a recording, and when it is heard."""

    at_s: float
    recording: int
    from_s: float
    to_s: float


@closed
class Played(TypedDict):
    """A Telling laid out in time, as a film or a page shows it."""

    length_s: float
    stretches: list[Stretch]
    overlays: list[Overlay]
    captions: list[Caption]
    heard: list[Heard]
