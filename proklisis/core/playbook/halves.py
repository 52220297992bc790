"""Which half of a unit is the weaker one: the distances from their bands, summed over the faults of each."""

from __future__ import annotations

from collections.abc import Mapping
from math import hypot

from proklisis.core.playbook.judge import FaultVerdict, Sheet
from proklisis.core.shapes.prescription import WeakerHalf


def weaker_half(s: Sheet, verdicts: Mapping[str, FaultVerdict]) -> WeakerHalf | None:
    """The half whose faults are further outside their bands by more than the doubt of both; None where that cannot be said.

    Distances are in scales of the bands. The units share a camera: their doubts do not average out.
    """
    if len(s.book.halves) != 2:
        return None
    sums = {title: _sum(verdicts, faults) for title, faults in s.book.halves.items()}
    (first, (a, ua)), (second, (b, ub)) = sums.items()
    if abs(a - b) <= 2 * hypot(ua, ub) or a == b:
        return None
    weak, strong = (first, second) if a > b else (second, first)
    more, less = max(a, b), min(a, b)
    u = 2 * hypot(ua, ub)
    why = f"The {weak} is the weaker half: {more:.1f} band scales outside in all, against {less:.1f} of the {strong} (difference {more - less:.1f} ± {u:.1f})."
    return {"half": weak, "stronger": strong, "why": why}


def _sum(verdicts: Mapping[str, FaultVerdict], faults: tuple[str, ...]) -> tuple[float, float]:
    total, doubt = 0.0, 0.0
    for i in faults:
        v = verdicts.get(i)
        if v is None or not v.units:
            continue
        units = [u for u in v.units if u.p is not None]
        if not units:
            continue
        total += sum(u.severity for u in units if u.fires) / len(units)
        worst = [max(u.evidence, key=lambda e: e.severity) for u in units if u.fires and u.evidence]
        scales = [e.u * e.severity / off for e in worst if (off := _off(e.value, e.band)) > 0]
        doubt = hypot(doubt, sum(scales) / len(units))
    return total, doubt


def _off(value: float, band: tuple[float | None, float | None]) -> float:
    lo, hi = band
    return max(lo - value if lo is not None else 0.0, value - hi if hi is not None else 0.0, 0.0)
