"""What one run has of a measure, side by side: a point of a plot over many runs."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from math import sqrt
from typing import Any, NamedTuple

#: The side of units that have none, and of values of a whole run.
NO_SIDE = "both"


class Place(NamedTuple):
    """Which value of a run: a measure in a phase, on a limb, in the units of a side."""

    measure: str
    phase: str | None
    limb: str | None
    side: str


class Point(NamedTuple):
    """Mean over ``n`` units; ``u`` is its standard uncertainty, in the measure's unit."""

    value: float
    u: float
    n: int


def points(
    readings: Iterable[Mapping[str, Any]], sides: Mapping[int, str | None]
) -> dict[Place, Point]:
    """Means of what the Bench shows of a run (:class:`ShownReading`), by place.

    ``sides`` are units' numbers → their side. The units share camera and model, so their u does not average out.
    """
    groups: dict[Place, list[tuple[float, float]]] = {}
    for r in readings:
        side = sides.get(r["unit"] or 0) or NO_SIDE
        place = Place(r["measure"], r["phase"], r["limb"], side)
        groups.setdefault(place, []).append((r["value"], r["u"]))
    return {
        place: Point(sum(v for v, _ in g) / len(g), sqrt(sum(u**2 for _, u in g) / len(g)), len(g))
        for place, g in groups.items()
    }
