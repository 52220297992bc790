"""One unit of a run: a turn, a cycle, a jump, a gybe, a ride, a drop, a corner or a loop."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from proklisis.core.uncertainty import Value

Array = NDArray[np.float64]
Interval = tuple[float, float]


@dataclass(frozen=True)
class Boundary:
    """Where one unit ends or starts: time in seconds, its standard uncertainty, confidence 0–1, origin."""

    t: float
    u: float
    confidence: float = 1.0
    source: Literal["auto", "coach"] = "auto"
    #: Part of ``u`` from a wrong level or view: it moves left and right changes opposite ways.
    shared_u: float = 0.0


#: Found boundaries → the boundaries as a coach has them.
Correct = Callable[[list[Boundary]], list[Boundary]]


@dataclass(frozen=True)
class Unit:
    """One unit. Times in seconds from the first frame.

    Attributes
    ----------
    phases : phase → (start, end); phases that this unit does not show are left out
    events : name → time of what the splitter found on its way (a plant, a lip, a take-off, the fall line)
    side, edge_side, hand_side, face : the sides that the discipline has, as a run sheet names them
    """

    n: int
    start: Boundary
    end: Boundary
    phases: dict[str, Interval]
    side: Literal["left", "right"] | None = None
    edge_side: Literal["toe", "heel"] | None = None
    hand_side: Literal["onside", "offside"] | None = None
    face: Literal["front_hand", "back_hand"] | None = None
    events: dict[str, float] = field(default_factory=dict)
    #: The blade of the last stroke over a drop.
    last_stroke: Literal["left", "right"] | None = None
    #: The limb that carries this unit; readings of the other one are left out.
    limb: str | None = None
    #: The largest size of the signal within the unit, in the signal's unit; 0 where no splitter needs it.
    peak: float = 0.0
    #: Only counted by a coach: it stands in its order, and its times are no more than its share of the clip.
    counted: bool = False

    @property
    def sign(self) -> float:
        """+1 for a right unit, −1 for a left one, 0 where units have no side."""
        return {"right": 1.0, "left": -1.0}.get(self.side or "", 0.0)

    @property
    def outside_foot(self) -> Literal["l", "r"] | None:
        return None if self.side is None else "l" if self.side == "right" else "r"

    @property
    def finest_side(self) -> str | None:
        """The side a coach names first: toe or heel, the hands, else left or right."""
        return self.edge_side or self.hand_side or self.face or self.side

    def sides(self) -> dict[str, str]:
        """The side fields that are set, as a segment of a run sheet holds them."""
        named = {
            "side": self.side,
            "edge_side": self.edge_side,
            "hand_side": self.hand_side,
            "face": self.face,
        }
        return {k: v for k, v in named.items() if v is not None}

    def strokes(self) -> dict[str, str]:
        """The blade of the last stroke, where the unit has one, as a segment of a run sheet holds it."""
        return {} if self.last_stroke is None else {"last_stroke": self.last_stroke}


def duration(a: Boundary, b: Boundary) -> Value:
    """Time from one boundary to the next; what they share adds up, since it moves them apart."""
    return Value(b.t - a.t, float(np.sqrt(a.u**2 + b.u**2 + 2 * a.shared_u * b.shared_u)))


def side_per_frame(t: Array, units: list[Unit]) -> Array:
    """(n,) +1 in right units, −1 in left ones, 0 outside any. A transition belongs to the turn
    it opens, from its first frame on."""
    side = np.zeros(len(t))
    for unit in units:
        opens = unit.phases.get("transition", (unit.start.t,))[0]
        a, b = np.searchsorted(t, [min(opens, unit.start.t), unit.end.t])
        side[a:b] = unit.sign
    return side
