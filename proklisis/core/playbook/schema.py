"""A discipline as data: what is judged, what causes what, and what to say about it.

One YAML file per discipline is read into these models. They also give the JSON Schema that
`docs/schemas/playbook.json` publishes, so that a coach's editor can check a file.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from proklisis.core.shapes.run_sheet import Level

LEVELS: tuple[Level, ...] = ("novice", "intermediate", "advanced", "elite")
Band = tuple[float | None, float | None]
Stage = Literal["still", "slow", "speed", "full"]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Range(Strict):
    """A number from ``min`` to below ``max``; an end that is left out is open."""

    min: float | None = None
    max: float | None = None
    or_unknown: bool = False

    def holds(self, value: object) -> bool:
        if value is None:
            return self.or_unknown
        if isinstance(value, bool) or not isinstance(value, int | float):
            return False
        return (self.min is None or value >= self.min) and (self.max is None or value < self.max)


#: Values of a condition under which something is judged: a range of numbers, or a list of values. ``null`` in
#: the list, or ``or_unknown`` of a range, stands for a condition that was not given.
Wanted = Range | tuple[str | bool | None, ...]


class Condition(Strict):
    """Something that makes a fault fire: a measure outside its band, or an observation.

    ``band`` is good inside; give one for all levels or one per level (a level that is left
    out is not judged). ``over`` divides by a second measure of the same unit, ``minus`` takes
    one away; ``less_best`` takes away the best (least) value of the run's units of the same side,
    ``less_wanted`` the value that the named condition asks for. ``inside`` turns the test round:
    it fires when the value lies in the band.

    ``side`` limits it to units of one side, ``given`` to units whose conditions hold one of the
    listed values or a number in a range, ``school`` to runs under an option of a school.

    ``any`` fires when one part does, ``all`` when all do. ``pattern`` is one picture over several
    phases: it fires when one part does, and is right only where every part was read.
    """

    measure: str | None = None
    over: str | None = None
    minus: str | None = None
    less_best: bool = False
    less_wanted: str | None = None
    side: str | None = None
    given: dict[str, Wanted] = {}
    school: dict[str, str] = {}
    #: Of a measure, where it is read; of an observation, where in the unit it was seen.
    phase: str | None = None
    limb: str | None = None
    band: Band | dict[Level, Band] | None = None
    scale: float | None = Field(default=None, gt=0)
    inside: bool = False
    observation: str | None = None
    severity: float = 1.0
    any: tuple[Condition, ...] = ()
    all: tuple[Condition, ...] = ()
    pattern: tuple[Condition, ...] = ()
    #: Conditions of the run that it hangs on and that were not given. Filled in for a run, not written in a file.
    hangs_on: tuple[str, ...] = ()
    #: A side condition that is taken to hold where it was not read.
    unread_holds: bool = False

    @model_validator(mode="after")
    def _one_kind(self) -> Condition:
        kinds = [
            self.measure is not None,
            self.observation is not None,
            *map(bool, (self.any, self.all, self.pattern)),
        ]
        if sum(kinds) != 1:
            raise ValueError("a condition is one of: measure, observation, any, all, pattern")
        if (
            sum(
                (
                    self.over is not None,
                    self.minus is not None,
                    self.less_best,
                    self.less_wanted is not None,
                )
            )
            > 1
        ):
            raise ValueError(
                f"the condition on {self.measure} takes one of over, minus, less_best, less_wanted"
            )
        if self.measure is not None and self.band is None:
            raise ValueError(f"the condition on {self.measure} needs a band")
        bands = (
            self.band.values() if isinstance(self.band, dict) else [self.band] if self.band else []
        )
        for lo, hi in bands:
            if lo is None and hi is None:
                raise ValueError(f"the band of {self.measure} is open at both ends")
            if lo is not None and hi is not None and lo > hi:
                raise ValueError(f"the band of {self.measure} is upside down")
            if (lo is None or hi is None) and self.scale is None and not self.inside:
                raise ValueError(f"the open band of {self.measure} needs a scale")
        return self

    def band_for(self, level: Level) -> Band | None:
        """Band at a level, or None when this level is not judged."""
        return self.band.get(level) if isinstance(self.band, dict) else self.band

    def scale_for(self, level: Level) -> float:
        """How far outside the band counts as one: given, else half the band's width."""
        if self.scale is not None:
            return self.scale
        band = self.band_for(level)
        assert band is not None and band[0] is not None and band[1] is not None
        return (band[1] - band[0]) / 2 or 1.0

    @property
    def parts(self) -> tuple[Condition, ...]:
        """The conditions that it is made of; none for a measured or an observed one."""
        return (*self.any, *self.all, *self.pattern)

    def leaves(self) -> list[Condition]:
        """All measured and observed conditions below this one."""
        return [leaf for c in self.parts for leaf in c.leaves()] if self.parts else [self]

    def rebuilt(self, change: Callable[[Condition], Condition | None]) -> Condition | None:
        """The condition with ``change`` done to each leaf; None where nothing is left of it.

        A part of ``any`` or ``pattern`` for which ``change`` gives None is left out; of ``all`` it takes the whole along.
        """
        if not self.parts:
            return change(self)
        kept = {k: [x.rebuilt(change) for x in getattr(self, k)] for k in ("any", "all", "pattern")}
        if None in kept["all"]:
            return None
        new = self.model_copy(
            update={k: tuple(x for x in v if x is not None) for k, v in kept.items()}
        )
        return new if new.parts else None


class DrillStep(Strict):
    stage: Stage
    text: str
    dose: str


class Drill(Strict):
    """A ladder from standing still to the real thing."""

    title: str
    steps: Annotated[tuple[DrillStep, ...], Field(min_length=3)]
    sign: str
    caution: str | None = None


Way = Literal["below", "above"]


class Link(Strict):
    """What a fault can lead to, where the link holds only so.

    ``given``: under these conditions; ``side``: in units of this side; ``way``: when the band is missed
    on this side; ``unless``: not where this fires in the units of the fault that would be explained.
    """

    to: str
    given: dict[str, Wanted] = {}
    side: str | None = None
    way: Way | None = None
    unless: Condition | None = None


class Missed(Strict):
    """What is said where a fault's band is missed on one of its sides."""

    title: str
    cues: Annotated[tuple[str, ...], Field(min_length=1)]
    drills: tuple[str, ...] = ()


class Heavier(Strict):
    """A factor of the ranking under some conditions of the run."""

    given: dict[str, Wanted]
    by: float = Field(gt=0)


class Fault(Strict):
    """Something to put right. ``title`` and ``seen`` are said of it, ``when`` it is there.

    ``role``: a ``reason`` explains others and is never the main thing; an ``effect`` hangs from others,
    never is the main thing, and alone only says where to look. ``tolerated``: conditions under which it is
    told and never the main thing. ``below`` and ``above``: other words where its band is missed on that side.
    """

    title: str
    seen: str
    when: Condition
    leads_to: tuple[str | Link, ...] = ()
    levels: tuple[Level, ...] = LEVELS
    weight: dict[Level, float] = {}
    heavier: tuple[Heavier, ...] = ()
    safety: bool = False
    role: Literal["cause", "reason", "effect"] = "cause"
    tolerated: dict[str, Wanted] = {}
    below: Missed | None = None
    above: Missed | None = None
    cues: Annotated[tuple[str, ...], Field(min_length=1)]
    drills: Annotated[tuple[str, ...], Field(min_length=1)]
    worse_first: str | None = None
    cautions: tuple[str, ...] = ()

    @property
    def links(self) -> tuple[Link, ...]:
        """What it leads to, plain names among them as links that always hold."""
        return tuple(Link(to=x) if isinstance(x, str) else x for x in self.leads_to)

    def missed(self, way: Way | None) -> Missed:
        """The words for a side of the band, or those for both."""
        own = self.below if way == "below" else self.above if way == "above" else None
        own = own or Missed(title=self.title, cues=self.cues)
        return own if own.drills else own.model_copy(update={"drills": self.drills})


class BandShift(Strict):
    """How a school moves the bands of one measure: added to each closed end."""

    fault: str
    measure: str
    by: float


class SchoolOption(Strict):
    title: str
    reason: str
    shifts: tuple[BandShift, ...] = ()
    drops: tuple[str, ...] = ()
    cues: dict[str, str] = {}
    #: Fault → phases in which this option does not judge it.
    not_at: dict[str, tuple[str, ...]] = {}
    #: Drills that belong to this option and to no other.
    drills: tuple[str, ...] = ()


class School(Strict):
    question: str
    options: dict[str, SchoolOption]
    default: str | dict[Level, str]
    default_reason: str

    def default_for(self, level: Level) -> str:
        return self.default if isinstance(self.default, str) else self.default[level]


class Strength(Strict):
    text: str
    when: Condition
    levels: tuple[Level, ...] = LEVELS


class ObservationEntry(Strict):
    """What a coach's eye may see. ``also``: other ids under which a run sheet may name the same."""

    title: str
    good: bool = False
    also: tuple[str, ...] = ()


class GearAdvice(Strict):
    """What to change in the gear, where it was seen; ``explains`` the faults that it then stands before."""

    observation: str
    text: str
    explains: tuple[str, ...] = ()
    #: Before anything else, whatever the main thing is.
    always_first: bool = False


class Limit(Strict):
    """What makes measures less sure: their u grows by ``factor``, and the answer says why."""

    observation: str
    measures: tuple[str, ...]
    factor: float = Field(gt=1)
    text: str


class Fairness(Strict):
    """What is said beside the verdict under some conditions of the run."""

    given: dict[str, Wanted]
    text: str


class Easier(Strict):
    """A drill that goes with every new movement under some conditions of the run."""

    drill: str
    given: dict[str, Wanted]
    reason: str


class FrontFoot(Strict):
    """What cannot be told on a board while the rider's front foot is not known."""

    measures: tuple[str, ...] = ()
    limbs: tuple[str, ...] = ("front", "back")
    #: The side of a turn to the right with the left foot in front, and the other one.
    right_turn: str
    left_turn: str
    #: The key of a segment that holds it.
    key: Literal["edge_side", "hand_side", "face"]


#: Units that go to the left or to the right, or are of one foot.
SIDED = frozenset({"turn", "loop", "push", "step", "corner", "crossing", "gybe", "roll"})


class Playbook(Strict):
    """Everything the software knows about one discipline."""

    format: Literal["playbook/1"]
    discipline: str
    title: str
    family: Literal["turns", "cycles", "flights", "trace", "gybe", "wave", "drop", "wheels"]
    #: What a run is made of, for one and for several.
    unit: str
    units: str
    #: Usual speed in metres a second and time of one unit in seconds, for plans of filming (common practice, rough).
    speed_ms: float = Field(default=8.0, gt=0)
    unit_s: float = Field(default=1.5, gt=0)
    front_foot: FrontFoot | None = None
    #: Whether the rider stands sideways on a board: legs and trunk then show from other views.
    sideways: bool = False
    #: How runs are split from tracks (see ``core/splitting``); without it they come on run sheets.
    split: str | None = None
    phases: tuple[str, ...]
    measures: tuple[str, ...]
    #: Measures of it that come on run sheets only: tracks do not give them in this discipline.
    by_hand: tuple[str, ...] = ()
    conditions: tuple[str, ...] = ()
    #: Landmarks without which a measure says nothing here, though elsewhere it does: the edge of a boat is not that of the shins.
    needs: dict[str, tuple[str, ...]] = {}
    #: What is taken where the sheet does not say.
    condition_defaults: dict[str, str | float | bool] = {}
    observations: dict[str, ObservationEntry] = {}
    faults: dict[str, Fault]
    drills: dict[str, Drill]
    schools: dict[str, School] = {}
    strengths: dict[str, Strength] = {}
    gear: tuple[GearAdvice, ...] = ()
    #: Skis, boards and the like that are looked for on a clip (see ``core/gear``).
    found_gear: tuple[str, ...] = ()
    limits: tuple[Limit, ...] = ()
    fairness: tuple[Fairness, ...] = ()
    #: Pairs of measures: the first told beside the second, group of units by group.
    beside: tuple[tuple[str, str], ...] = ()
    easier: tuple[Easier, ...] = ()
    #: Two parts of a unit whose faults are weighed against each other: title → faults.
    halves: dict[str, tuple[str, ...]] = {}
    #: Faults that coaches mostly see rather than measure, the likeliest first.
    by_eye: tuple[str, ...] = ()
    #: What can be told from where, and which two views go together.
    views: str = ""
    cautions: tuple[str, ...]

    @property
    def noted(self) -> dict[str, str]:
        """Every id by which something seen may be noted, of an observation, a fault or a strength → its own id."""
        return {
            **{i: i for i in self.strengths},
            **{i: i for i in self.faults},
            **{name: i for i, o in self.observations.items() for name in (i, *o.also)},
        }

    @property
    def sides(self) -> tuple[str, ...]:
        """The sides that a coach names the units by: toe and heel, onside and offside, else left and right; none where none."""
        if self.front_foot:
            return (self.front_foot.left_turn, self.front_foot.right_turn)
        return ("left", "right") if self.unit in SIDED else ()

    def counted(self, n: int) -> str:
        """The word for ``n`` units: turn, turns; push, pushes."""
        return self.unit if n == 1 else self.units

    @property
    def asked(self) -> frozenset[str]:
        """Measures that a fault or a strength asks for, or that are told beside each other."""
        whens = (
            *(f.when for f in self.faults.values()),
            *(x.when for x in self.strengths.values()),
        )
        judged = {
            m for when in whens for c in when.leaves() for m in (c.measure, c.over, c.minus) if m
        }
        return frozenset(judged.union(*self.beside))

    @cached_property
    def asked_under(self) -> frozenset[str]:
        """Conditions of the run under which something is judged."""
        return frozenset(
            key for f in self.faults.values() for c in f.when.leaves() for key in c.given
        )

    @property
    def from_tracks(self) -> bool:
        """Whether clips and tracks of it can be split and measured."""
        return self.split is not None
