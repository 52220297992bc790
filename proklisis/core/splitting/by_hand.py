"""Units that a coach cut by hand, or only counted, where nothing could be split: numbered, with sides as said, without phases."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from proklisis.core.splitting.units import Boundary, Unit

#: Word for a side → the field of a unit that holds it.
FIELDS = {
    "left": "side", "right": "side", "toe": "edge_side", "heel": "edge_side", "onside": "hand_side",
    "offside": "hand_side", "front_hand": "face", "back_hand": "face",
}  # fmt: skip
OTHER = {
    "left": "right", "right": "left", "toe": "heel", "heel": "toe", "onside": "offside", "offside": "onside",
}  # fmt: skip
#: Units that go from one side to the other by turns.
BY_TURNS = frozenset({"turn", "crossing", "push", "step"})


@dataclass(frozen=True)
class SideSaid:
    """A coach's word that the unit around a moment, seconds, is of a side."""

    t: float
    side: str


def counted_units(
    n: int, begin: float, end: float, kind: str, said: Iterable[SideSaid] = ()
) -> list[Unit]:
    """As many units as a coach counted, in their order over a clip from ``begin`` to ``end``, seconds. When each was is not known."""
    even = [Boundary(begin + (end - begin) * k / n, 0.0, source="coach") for k in range(n + 1)]
    return [replace(u, counted=True) for u in units_between(even, kind, said)]


def units_between(
    boundaries: Iterable[Boundary], kind: str, said: Iterable[SideSaid] = ()
) -> list[Unit]:
    """Units from each boundary to the next, in time order.

    Where units of this ``kind`` go by turns, one side that was said tells those around it, up to the next that was said.
    """
    units = [
        Unit(n, a, b, {})
        for n, (a, b) in enumerate(pairwise(sorted(boundaries, key=lambda b: b.t)), 1)
    ]
    sides: dict[int, str] = {}
    for s in said:
        at = next((i for i, u in enumerate(units) if u.start.t <= s.t < u.end.t), None)
        if at is not None:
            sides[at] = s.side
    if kind in BY_TURNS and sides:
        told = sorted(sides)
        for i in range(len(units)):
            near = max((k for k in told if k <= i), default=told[0])
            side = sides[near]
            sides.setdefault(i, side if (i - near) % 2 == 0 else OTHER.get(side, side))
    named: dict[int, dict[str, Any]] = {i: {FIELDS[s]: s} for i, s in sides.items()}
    return [replace(u, **named.get(i, {})) for i, u in enumerate(units)]
