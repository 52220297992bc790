"""One declaration per measure: id, unit, phases, views, formula, words.

The declaration feeds the pipeline, the playbook check, the API, the help on screen and the
docs, so a measure is described in one place only.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.counted import counted_in
from proklisis.core.rider.figure import Figure
from proklisis.core.tracks.landmarks import BLADES

Array = NDArray[np.float64]
Stat = Literal["mean", "max", "min", "rise"]
#: Series per frame, or series and their own standard uncertainty per frame.
Series = Callable[..., Any]
#: A figure and a unit (its phase too, or all units), and a limb where there are any, to a number.
Compute = Callable[..., float]
Scope = Literal["unit", "phase", "run"]

TURN_PHASES = ("transition", "entry", "belly", "finish")
TILT_VIEWS = ("front", "rear")
SIDE_VIEWS = ("side_left", "side_right")
HEADING_VIEWS = ("front", "rear", "above")


@dataclass(frozen=True)
class Measure:
    """A number of the trade.

    Attributes
    ----------
    id, unit, title, doc, formula : what it is, in words and symbols
    views : camera views that show it (3-D tracks show everything)
    phases : phases it is read in; empty for one value per unit or run
    limbs : limbs it is read for; empty where it has none
    stat : how the frames of a phase become one number
    points : landmarks that must be tracked
    signed : multiply by the turn's side so that + is to the inside of the turn
    model_u : standard uncertainty of the model itself, in ``unit``
    series : per-frame function of a :class:`Figure` (None where it is worked out per unit)
    angle : the points whose line is drawn on the picture while this is read
    """

    id: str
    unit: str
    title: str
    doc: str
    formula: str
    views: tuple[str, ...]
    phases: tuple[str, ...] = ()
    limbs: tuple[str, ...] = ()
    stat: Stat = "mean"
    points: tuple[str, ...] = ()
    signed: bool = False
    model_u: float = 0.0
    series: Series | None = None
    angle: tuple[str, ...] = ()
    #: Views that show it on a rider who stands sideways on a board, where they differ.
    board_views: tuple[str, ...] = ()
    #: Landmarks that it needs on such a rider.
    board_points: tuple[str, ...] = ()
    #: Value of one unit, of a phase in it, or of the run, for families measured by repeated draws.
    compute: Compute | None = None
    scope: Scope = "unit"
    #: Lowest and highest value that anybody can have; what lies outside was read or said wrongly.
    possible: tuple[float, float] | None = None
    #: Read at the gates of a course, where there are any.
    at_gates: bool = False
    #: Rests on the clock though its unit does not say so.
    by_clock: bool = False

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


def measure(**facts: Any) -> Callable[[Series], Series]:
    """Declare the decorated per-frame function; its docstring's first line is the measure's text."""

    def register(function: Series) -> Series:
        doc = (function.__doc__ or "").strip().split("\n\n")[0].replace("\n", " ")
        declare(doc=" ".join(doc.split()), series=function, **facts)
        return function

    return register


def computed(measure_id: str, scope: Scope = "unit", **facts: Any) -> Callable[[Compute], Compute]:
    """Attach to a declared measure the function that works it out for one unit, phase or run.

    It is called as ``f(figure, unit)``, ``f(figure, unit, phase)`` or ``f(figure, units)``, with a
    limb behind where the measure has limbs, and gives NaN where there is nothing to read.
    """

    def attach(function: Compute) -> Compute:
        REGISTRY[measure_id] = replace(REGISTRY[measure_id], compute=function, scope=scope, **facts)
        return function

    return attach


def per_frame(measure_id: str, **facts: Any) -> Callable[[Series], Series]:
    """Attach to a declared measure the function that gives its value in every frame."""

    def attach(function: Series) -> Series:
        REGISTRY[measure_id] = replace(REGISTRY[measure_id], series=function, **facts)
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
