"""A discipline as data: what is judged, what causes what, and what to say about it.

One YAML file per discipline is read into these models. They also give the JSON Schema that
`docs/schemas/playbook.json` publishes, so that a coach's editor can check a file.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Level = Literal["novice", "intermediate", "advanced", "elite"]
LEVELS: tuple[Level, ...] = ("novice", "intermediate", "advanced", "elite")
Band = tuple[float | None, float | None]
Stage = Literal["still", "slow", "speed", "full"]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Range(Strict):
    """A number from ``min`` to below ``max``; an end that is left out is open."""

    min: float | None = None
    max: float | None = None

    def holds(self, value: object) -> bool:
        if isinstance(value, bool) or not isinstance(value, int | float):
            return False
        return (self.min is None or value >= self.min) and (self.max is None or value < self.max)


Wanted = Range | tuple[str | bool, ...]


class Condition(Strict):
    """Something that makes a fault fire: a measure outside its band, or an observation.

    ``band`` is good inside; give one for all levels or one per level (a level that is left
    out is not judged). ``over`` divides by a second measure of the same unit, ``minus`` takes
    one away. ``inside`` turns the test round: it fires when the value lies in the band.

    ``side`` limits it to units of one side, ``given`` to runs whose conditions hold one of the
    listed values or a number in a range, ``school`` to runs under an option of a school.
    """

    measure: str | None = None
    over: str | None = None
    minus: str | None = None
    side: str | None = None
    given: dict[str, Wanted] = {}
    school: dict[str, str] = {}
    phase: str | None = None
    limb: str | None = None
    band: Band | dict[Level, Band] | None = None
    scale: float | None = Field(default=None, gt=0)
    inside: bool = False
    observation: str | None = None
    severity: float = 1.0
    any: tuple[Condition, ...] = ()
    all: tuple[Condition, ...] = ()

    @model_validator(mode="after")
    def _one_kind(self) -> Condition:
        kinds = [self.measure is not None, self.observation is not None, bool(self.any), bool(self.all)]
        if sum(kinds) != 1:
            raise ValueError("a condition is one of: measure, observation, any, all")
        if self.over is not None and self.minus is not None:
            raise ValueError(f"the condition on {self.measure} takes over or minus, not both")
        if self.measure is not None and self.band is None:
            raise ValueError(f"the condition on {self.measure} needs a band")
        bands = self.band.values() if isinstance(self.band, dict) else [self.band] if self.band else []
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

    def leaves(self) -> list[Condition]:
        """All measured and observed conditions below this one."""
        if self.any or self.all:
            return [leaf for c in (*self.any, *self.all) for leaf in c.leaves()]
        return [self]


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


class Fault(Strict):
    title: str
    seen: str
    when: Condition
    leads_to: tuple[str, ...] = ()
    levels: tuple[Level, ...] = LEVELS
    weight: dict[Level, float] = {}
    safety: bool = False
    cues: Annotated[tuple[str, ...], Field(min_length=1)]
    drills: Annotated[tuple[str, ...], Field(min_length=1)]
    worse_first: str | None = None
    gear: str | None = None
    cautions: tuple[str, ...] = ()


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


class ObservationEntry(Strict):
    """What a coach's eye may see. ``also``: other ids under which a run sheet may name the same."""

    title: str
    good: bool = False
    also: tuple[str, ...] = ()


class GearAdvice(Strict):
    observation: str
    text: str
    explains: tuple[str, ...] = ()


class Playbook(Strict):
    """Everything the software knows about one discipline."""

    format: Literal["playbook/1"]
    discipline: str
    title: str
    family: Literal["turns", "cycles", "flights", "trace", "gybe", "wave", "drop", "wheels"]
    unit: str
    edge_sides: bool = False
    #: How runs are split from tracks (see ``core/splitting``); without it they come on run sheets.
    split: str | None = None
    phases: tuple[str, ...]
    measures: tuple[str, ...]
    conditions: tuple[str, ...] = ()
    #: What is taken where the sheet does not say.
    condition_defaults: dict[str, str | float | bool] = {}
    observations: dict[str, ObservationEntry] = {}
    faults: dict[str, Fault]
    drills: dict[str, Drill]
    schools: dict[str, School] = {}
    strengths: dict[str, Strength] = {}
    gear: tuple[GearAdvice, ...] = ()
    cautions: tuple[str, ...]

    @property
    def observation_ids(self) -> dict[str, str]:
        """Every id under which an observation may be named → its own id."""
        return {name: i for i, o in self.observations.items() for name in (i, *o.also)}

    @property
    def asked(self) -> frozenset[str]:
        """Measures that a fault or a strength asks for."""
        whens = (*(f.when for f in self.faults.values()), *(x.when for x in self.strengths.values()))
        return frozenset(m for when in whens for c in when.leaves() for m in (c.measure, c.over, c.minus) if m)

    @property
    def from_tracks(self) -> bool:
        """Whether clips and tracks of it can be split and measured."""
        return self.split is not None
