"""One declaration per measure: id, unit, phases, views, formula, words.

The declaration feeds the pipeline, the playbook check, the API, the help on screen and the
docs, so a measure is described in one place only.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Literal, TypeVar

import numpy as np
from numpy.typing import NDArray

from proklisis.core.declaration import Declaration
from proklisis.core.measures.counted import counted_in
from proklisis.core.rider.figure import Figure
from proklisis.core.tracks.landmarks import BLADES

Array = NDArray[np.float64]
Stat = Literal["mean", "max", "min", "rise"]
#: What one value is of. A function over frames gives a series, or a series and its own standard uncertainty.
Over = Literal["frame", "phase", "unit", "run"]
Read = Callable[..., Any]
F = TypeVar("F", bound=Callable[..., Any])

TURN_PHASES = ("transition", "entry", "belly", "finish")
TILT_VIEWS = ("front", "rear")
SIDE_VIEWS = ("side_left", "side_right")
HEADING_VIEWS = ("front", "rear", "above")


@dataclass(frozen=True, kw_only=True)
class Measure(Declaration):
    """A number of the trade.

    Attributes
    ----------
    unit : what it is counted in
    views : camera views that show it (3-D tracks show everything)
    phases : phases it is read in; empty for one value per unit or run
    limbs : limbs it is read for; empty where it has none
    stat : how the frames of a phase become one number
    points : landmarks that must be tracked
    signed : multiply by the turn's side so that + is to the inside of the turn
    model_u : standard uncertainty of the model itself, in ``unit``
    over : what one value is of; a measure over frames has a value in each, which phases are read from
    read : the function that works it out (None where it comes on run sheets only), see :func:`measure`
    angle : the points whose line is drawn on the picture while this is read
    """

    unit: str
    views: tuple[str, ...]
    phases: tuple[str, ...] = ()
    limbs: tuple[str, ...] = ()
    stat: Stat = "mean"
    points: tuple[str, ...] = ()
    signed: bool = False
    model_u: float = 0.0
    over: Over = "unit"
    read: Read | None = None
    angle: tuple[str, ...] = ()
    #: Views that show it on a rider who stands sideways on a board, where they differ.
    board_views: tuple[str, ...] = ()
    #: Landmarks that it needs on such a rider.
    board_points: tuple[str, ...] = ()
    #: Lowest and highest value that anybody can have; what lies outside was read or said wrongly.
    possible: tuple[float, float] | None = None
    #: Read at the gates of a course, where there are any.
    at_gates: bool = False
    #: Rests on the clock though its unit does not say so.
    by_clock: bool = False

    @property
    def each_frame(self) -> bool:
        """Whether it is read in every frame."""
        return self.read is not None and self.over == "frame"

    @property
    def at_once(self) -> bool:
        """Whether it is read as one number of a phase, a unit or a run."""
        return self.read is not None and self.over != "frame"

    @property
    def of(self) -> str:
        """What a ratio or a count is counted in; "" where the unit says it."""
        return counted_in(self.id, self.unit, self.formula)

    @property
    def clocked(self) -> bool:
        """Whether it rests on the clock: what plays slower than life makes it wrong."""
        return self.by_clock or self.unit in ("s", "hz", "deg/s", "m/s")

    def seen_from(self, board: bool) -> tuple[str, ...]:
        """Views that show it; ``board`` for a rider who stands sideways on one."""
        return self.board_views if board and self.board_views else self.views

    def needs(self, board: bool) -> tuple[str, ...]:
        """Landmarks it is read from."""
        return self.board_points if board and self.board_points else self.points


REGISTRY: dict[str, Measure] = {}


def declare(**facts: Any) -> Measure:
    """Add a measure that is worked out per unit or run, not per frame."""
    m = Measure(**facts)
    if m.id in REGISTRY:
        raise ValueError(f"measure {m.id} is declared twice")
    REGISTRY[m.id] = m
    return m


def declare_table(text: str) -> None:
    """Declare measures that come on run sheets: ``id | unit | title | what | views | phases`` a line.

    Views and phases are separated by commas; no view means any. ``*`` as the phases stands for
    every phase of a turn, which playbooks of other families may read as their own phases.
    """
    for line in text.strip().splitlines():
        fields = [field.strip() for field in line.split("|")]
        measure_id, unit, title, what, views, phases = [*fields, ""][:6]
        declare(
            id=measure_id,
            unit=unit,
            title=title,
            doc=f"{what[0].upper()}{what[1:]}.",
            formula=what,
            views=_words(views),
            phases=TURN_PHASES if phases == "*" else _words(phases),
        )


def _words(text: str) -> tuple[str, ...]:
    return tuple(word.strip() for word in text.split(",") if word.strip())


def measure(measure_id: str, *, over: Over = "unit", **facts: Any) -> Callable[[F], F]:
    """Say how a measure is read: by the decorated function.

    Over frames it is called as ``f(figure)`` and gives a value in each (and perhaps their own standard
    uncertainties beside them), over a unit as ``f(figure, unit)``, over a phase as ``f(figure, unit,
    phase)``, over a run as ``f(figure, units)``, with a limb behind where the measure has limbs; NaN
    where there is nothing to read. A measure that no table declares is declared here, with the
    function's docstring as its text.
    """

    def attach(function: F) -> F:
        if measure_id not in REGISTRY:
            words = (function.__doc__ or "").strip().split("\n\n")[0]
            declare(id=measure_id, doc=" ".join(words.split()), **facts)
        REGISTRY[measure_id] = replace(REGISTRY[measure_id], read=function, over=over, **facts)
        return function

    return attach


def get(measure_id: str) -> Measure:
    return REGISTRY[measure_id]


def on_the_ice(m: Measure) -> bool:
    """Tell whether a measure is read off the blade's trace alone."""
    return m.points == BLADES


def shows(m: Measure, figure: Figure) -> bool:
    """Tell whether this figure's view can show the measure at all."""
    views = m.seen_from(figure.sideways)
    return figure.view is None or not views or figure.view in views
