"""A judged run in the open format ``prescription/1``."""

from __future__ import annotations

from typing import Annotated, Literal, NotRequired

from pydantic import ConfigDict, Field, with_config
from typing_extensions import TypedDict

closed = with_config(ConfigDict(extra="forbid"))

#: Lower and upper edge; null where it is open.
Edges = Annotated[list[float | None], Field(min_length=2, max_length=2)]
VerdictWord = Literal["clear", "likely", "unclear"]
UntoldReason = Literal["view", "frame_rate", "blur", "not_measured"]
FollowedWord = Literal["in_band", "better", "no_change", "worse", "cannot_tell"]
AnswerWord = Literal["done", "partly", "not_yet", "cannot_tell"]


@closed
class Strength(TypedDict):
    id: str
    text: str


@closed
class Intention(TypedDict):
    """What the rider meant to do, and whether it was done."""

    text: str
    answer: AnswerWord
    why: str


#: A value that a verdict rests on; ``with`` names the faults of the same unit beside an effect.
Evidence = TypedDict(
    "Evidence",
    {
        "measure": str,
        "limb": str | None,
        "segment": int | None,
        "phase": str | None,
        "value": float,
        "u": float,
        "band": Edges,
        "p": float,
        "clip": NotRequired[str],
        "with": NotRequired[list[str]],
    },
)
closed(Evidence)


@closed
class Eye(TypedDict):
    """What the coach's eye says where the measures say otherwise."""

    seen: bool
    segments: list[int | None]


@closed
class MeasuredThere(TypedDict):
    there: bool
    evidence: list[Evidence]


@closed
class OtherSide(TypedDict):
    """The same scale missed on its other side, in so many units."""

    title: str
    units: int


@closed
class Finding(TypedDict):
    fault: str
    title: str
    status: Literal["root", "symptom", "episode", "unclear"]
    verdict: VerdictWord
    side: str
    share: float
    severity: float
    phase: str | None
    explains: list[str]
    because_of: list[str]
    evidence: list[Evidence]
    eye: NotRequired[Eye]
    measured: NotRequired[MeasuredThere]
    other_side: NotRequired[OtherSide]


@closed
class WouldBe(TypedDict):
    """What the software would have said where the coach chose."""

    fault: str
    side: str
    cue: str | None
    drill: str | None
    why: str


@closed
class Rival(TypedDict):
    """A cause that cannot be told apart from the main thing."""

    fault: str
    title: str
    kind: Annotated[
        Literal["as_heavy", "behind"],
        Field(
            description="it weighs as much within its ±, or may be what the main thing comes from"
        ),
    ]
    says: str
    parts: Annotated[str, Field(description="what would part the two")]


@closed
class MainThing(TypedDict):
    fault: str
    side: str
    verdict: VerdictWord
    title: str
    why: str
    cue: str
    by: Literal["software", "coach"]
    would_be: NotRequired[WouldBe | None]
    rivals: NotRequired[list[Rival]]


@closed
class Disagreement(TypedDict):
    """Where the coach's eye and the measures differ on a fault, both with what they rest on."""

    fault: str
    eye: Eye
    measured: MeasuredThere


@closed
class Cue(TypedDict):
    fault: str
    cue: str


@closed
class DrillStep(TypedDict):
    stage: Literal["still", "slow", "speed", "full"]
    text: str
    dose: str


@closed
class Drill(TypedDict):
    id: str
    fault: str
    title: str
    steps: Annotated[list[DrillStep], Field(min_length=1)]
    sign: str
    worse_first: str | None
    reason: NotRequired[str]


@closed
class GearRow(TypedDict):
    text: str
    because_of: str
    explains: list[str]
    first: Annotated[bool, Field(description="it explains the main thing and comes before it")]


@closed
class Target(TypedDict):
    measure: str
    limb: str | None
    phase: str | None
    side: str
    target: Edges


@closed
class Read(TypedDict):
    value: float
    u: float


@closed
class Followed(Target):
    """A target of the last prescription, and what became of it."""

    before: Read | None
    now: Read | None
    verdict: FollowedWord


@closed
class WeakerHalf(TypedDict):
    half: str
    stronger: str
    why: str


@closed
class Limit(TypedDict):
    """What was noted of the run that limits what can be said of it."""

    observation: str
    text: str


@closed
class Unlock(TypedDict):
    """What it costs to tell a fault: so many presses on these points, or a view."""

    presses: int
    points: list[str]
    view: str | None
    also_unlocks: list[str]


@closed
class CannotTell(TypedDict):
    fault: str
    reason: UntoldReason
    film_next: str
    unlock: Unlock


@closed
class Prescription(TypedDict):
    """``prescription/1``: strengths, the main thing and why, its ladder, what cannot be told."""

    format: Literal["prescription/1"]
    discipline: str
    level: str
    strengths: Annotated[list[Strength], Field(max_length=3)]
    intention: Intention | None
    main: MainThing | None
    findings: list[Finding]
    disagreements: list[Disagreement]
    cues: list[Cue]
    drills: list[Drill]
    gear: list[GearRow]
    cautions: list[str]
    retest: list[Target]
    followup: list[Followed]
    weaker_half: WeakerHalf | None
    limits: list[Limit]
    beside: list[str]
    fairness: list[str]
    cannot_tell: list[CannotTell]
    unlock: Annotated[str, Field(description="the cheapest way to tell more, in one sentence")]


@closed
class VerdictChange(TypedDict):
    """What a change did to a verdict; lists of titles."""

    main_before: str | None
    main_now: str | None
    main_changed: bool
    gone: list[str]
    new: list[str]
    surer: list[str]
    less_sure: list[str]
