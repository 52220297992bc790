"""Hold each condition of a playbook against a run sheet, unit by unit.

p is the probability that the true value lies outside the band (normal, value ± u):
clear ≥ 0.95, likely ≥ 0.80, absent ≤ 0.20, else unclear; *cannot tell* without a value.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from math import hypot
from typing import Literal, NamedTuple

import numpy as np

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.notes import Notes, at_phase
from proklisis.core.playbook.schema import (
    LEVELS,
    Band,
    Condition,
    Fault,
    Playbook,
    Way,
)
from proklisis.core.playbook.under import Under
from proklisis.core.shapes.run_sheet import Level, RunSheet, Segment, SheetMeasure
from proklisis.core.uncertainty import Value, probability_outside

Verdict = Literal["clear", "likely", "unclear", "absent", "cannot_tell"]
#: Probability from which a fault is clear (house choice).
CLEAR = 0.95
#: Probability from which it is likely (house choice).
LIKELY = 0.80
#: Probability up to which it is absent (house choice).
ABSENT = 0.20
MAX_SEVERITY = 3.0
#: No verdict on a time is surer than this while only the file says at what rate it plays (house choice).
BY_THE_FILE = 0.94
#: A best unit is named among so many of its kind.
OF_KIND = 3


class Evidence(NamedTuple):
    """One reading held against one band in one unit (``segment`` None: the whole run)."""

    measure: str
    value: float
    u: float
    band: Band
    p: float
    severity: float
    segment: int | None
    phase: str | None
    limb: str | None
    order: int = 0  # place in the list of phases, for breaking ties
    inside: bool = False  # a side condition: it holds while the value lies in the band


class UnitVerdict(NamedTuple):
    """A condition in one unit. ``p`` is None when it cannot be told."""

    segment: int | None
    p: float | None
    severity: float
    evidence: tuple[Evidence, ...]
    observed: tuple[str, ...] = ()
    #: Where the coach's eye and the measures differ: what was measured (``p`` is then the eye's).
    against: UnitVerdict | None = None

    @property
    def verdict(self) -> Verdict:
        if self.p is None:
            return "cannot_tell"
        if self.p >= CLEAR:
            return "clear"
        if self.p >= LIKELY:
            return "likely"
        return "absent" if self.p <= ABSENT else "unclear"

    @property
    def fires(self) -> bool:
        return self.p is not None and self.p >= LIKELY


@dataclass(frozen=True)
class FaultVerdict:
    """A fault over the whole run, or on one side of it."""

    fault: str
    status: Literal["present", "episode", "unclear", "absent", "cannot_tell"]
    verdict: Verdict
    side: str
    share: float
    severity: float
    units: tuple[UnitVerdict, ...]
    phase: str | None
    order: int
    #: On which side of its band it is missed in most units, and in how many it is missed on the other.
    way: Way | None = None
    other_way: int = 0

    @property
    def evidence(self) -> list[Evidence]:
        return [e for u in self.units if u.fires for e in u.evidence]

    @property
    def fired(self) -> list[UnitVerdict]:
        return [u for u in self.units if u.fires]


class Sheet:
    """A run sheet, indexed for judging under its schools and conditions."""

    def __init__(self, sheet: RunSheet, book: Playbook, under: Under | None = None) -> None:
        self.sheet, self.book = sheet, book
        self.under = under or Under(book, sheet, {})
        self.level: Level = sheet.level
        self.by_measure: dict[str, dict[int | None, list[SheetMeasure]]] = {}
        # What no band asks for is on the sheet for a coach to read; there may be thousands of it.
        asked = book.asked
        for m in sheet.measures:
            if m.id in asked:
                self.by_measure.setdefault(m.id, {}).setdefault(m.segment, []).append(m)
        self.unsure_clock = sheet.clip.rate_sure is False
        #: What each condition asks for at this level; conditions live as long as the playbook.
        self.held: dict[int, _Held] = {}
        self.segments: dict[int, Segment] = {s.n: s for s in sheet.segments}
        self.notes = Notes(sheet.observations, self.segments, book.noted)
        self._units: list[int | None] = sorted(self.segments) or [None]  # type: ignore[assignment]
        self._places: dict[str | None, int] = {phase: k for k, phase in enumerate(book.phases)}
        self._sides = {n: self._side(s) for n, s in self.segments.items()}

    def units(self) -> list[int | None]:
        """Units in order; a sheet with no segments is judged as one whole."""
        return self._units

    def values(self, c: Condition, measure: str, unit: int | None) -> list[SheetMeasure]:
        """Values for a condition in a unit: the phase asked for, else one given with no phase.

        A condition that names no phase takes a value with none, else the value of every phase.
        """
        here = self.by_measure.get(measure, {}).get(unit)
        if not here:
            return []
        if c.limb:
            # A value of no limb is of the worse one, and stands in only where the limb's own was not read.
            here = [m for m in here if m.limb == c.limb] or [m for m in here if m.limb is None]
        if c.phase:
            return [m for m in here if m.phase == c.phase] or [m for m in here if m.phase is None]
        return [m for m in here if m.phase is None] or here

    def best(self, c: Condition, unit: int | None) -> SheetMeasure | None:
        """The least value of a condition's measure among the units of this one's side; None where they are too few."""
        mine = [n for n in self._units if n is None or self.side_of(n) == self.side_of(unit)]
        rows = [v[0] for n in mine if (v := self.values(c, c.measure or "", n))]
        return min(rows, key=lambda m: m.value) if len(rows) >= OF_KIND else None

    def place_of(self, phase: str | None) -> int:
        """Place of a phase in the unit; 0 for none."""
        return self._places.get(phase, 0)

    def side_of(self, unit: int | None) -> str | None:
        """The finest side the discipline has for a unit, or None."""
        return self._sides.get(unit) if unit is not None else None

    @staticmethod
    def _side(s: Segment) -> str | None:
        side = s.edge_side or s.hand_side or s.face or s.side
        return {"l": "left", "r": "right"}.get(side or "", side)


def _severity(value: float, band: Band, scale: float) -> float:
    lo, hi = band
    out = max(lo - value if lo is not None else 0.0, value - hi if hi is not None else 0.0, 0.0)
    return min(out / scale, MAX_SEVERITY)


def _over(top: SheetMeasure, bottom: SheetMeasure) -> Value:
    """A quotient with its uncertainty to first order (JCGM 100:2008, 5.1.2)."""
    share = top.value / bottom.value
    return Value(share, hypot(top.u / bottom.value, share * bottom.u / bottom.value))


class _Held(NamedTuple):
    """What a measured condition asks for at the level of a sheet, looked up once for all units."""

    band: Band | None
    scale: float
    name: str


def _held(s: Sheet, c: Condition) -> _Held:
    band = c.band_for(s.level)
    less = c.minus or ("best" if c.less_best else "wanted" if c.less_wanted else "")
    name = f"{c.measure}/{c.over}" if c.over else f"{c.measure}-{less}" if less else str(c.measure)
    s.held[id(c)] = out = _Held(
        band, 1.0 if c.inside or band is None else c.scale_for(s.level), name
    )
    return out


def _compared(
    s: Sheet, c: Condition, unit: int | None, read: list[SheetMeasure]
) -> list[tuple[SheetMeasure, Value]]:
    """Each value that was read with what is held against the band: its difference or its quotient."""
    if c.less_wanted is not None:
        wanted = s.under.given(unit).get(c.less_wanted)
        return (
            [(m, Value(m.value - wanted, m.u)) for m in read]
            if isinstance(wanted, int | float)
            else []
        )
    if c.less_best:
        best = s.best(c, unit)
        return (
            [
                (m, Value(m.value - best.value, 0.0 if m is best else hypot(m.u, best.u)))
                for m in read
            ]
            if best
            else []
        )
    if c.minus is not None:
        less = s.values(c, c.minus, unit)
        return [(m, Value(m.value - less[0].value, hypot(m.u, less[0].u))) for m in read if less]
    below = s.values(c, c.over or "", unit)
    return [(m, _over(m, below[0])) for m in read if below and below[0].value > 0]


def compared_rows(s: Sheet, c: Condition, unit: int | None) -> list[Value]:
    """What a measured condition holds against its band in a unit: one value for each limb or phase that was read."""
    read = s.values(c, c.measure or "", unit)
    if not (c.minus or c.over or c.less_best or c.less_wanted):
        return [Value(m.value, m.u) for m in read]
    return [v for _, v in _compared(s, c, unit, read)]


def _measured(s: Sheet, c: Condition, unit: int | None) -> UnitVerdict:
    assert c.measure is not None
    band, scale, name = s.held.get(id(c)) or _held(s, c)
    if (
        c.hangs_on
        or (c.measure not in s.by_measure and band is not None)
        or (c.side is not None and s.side_of(unit) != c.side)
    ):
        return UnitVerdict(unit, None, 0.0, ())
    if band is None:
        return UnitVerdict(unit, 0.0, 0.0, ())
    lo, hi = band
    worst, told = (-1.0, 0.0), None
    read = s.values(c, c.measure, unit)
    # A value by itself serves as it is: it has ``value`` and ``u`` too.
    for m, v in zip(read, read, strict=True) if name == c.measure else _compared(s, c, unit, read):
        if lo is not None and hi is not None and 2 * v.u > hi - lo:
            continue  # wider than its band: no verdict can rest on it
        outside = probability_outside(v.value, v.u, lo, hi)
        if s.unsure_clock and REGISTRY[c.measure].clocked:
            outside = min(max(outside, 1 - BY_THE_FILE), BY_THE_FILE)
        bad = (1 - outside, 1.0) if c.inside else (outside, _severity(v.value, band, scale))
        # The worst limb or phase speaks for the unit.
        if bad > worst:
            worst, told = bad, (m, v)
    if told is None:
        return UnitVerdict(unit, None, 0.0, ())
    (m, v), (p, severity) = told, worst
    e = Evidence(
        name, v.value, v.u, band, p, severity, unit, m.phase, m.limb, s.place_of(m.phase), c.inside
    )
    return UnitVerdict(unit, p, severity, (e,))


def judge_condition(s: Sheet, c: Condition, unit: int | None) -> UnitVerdict:
    """Judge one condition, with its parts, in one unit."""
    if c.observation is not None:
        p = (
            None
            if c.hangs_on or (c.side is not None and s.side_of(unit) != c.side)
            else s.notes.p(at_phase(c.observation, c.phase), unit)
        )
        return UnitVerdict(unit, p, c.severity if p else 0.0, (), (c.observation,) if p else ())
    if c.measure is not None:
        return _measured(s, c, unit)
    parts = [judge_condition(s, part, unit) for part in c.parts]
    if c.all:
        parts = [
            p._replace(p=1.0) if part.unread_holds and p.p is None else p
            for p, part in zip(parts, c.all, strict=True)
        ]
    told = [p for p in parts if p.p is not None]
    if c.any or c.pattern:
        if c.pattern and len(told) < len(parts) and not any(p.fires for p in told):
            return UnitVerdict(
                unit, None, 0.0, ()
            )  # a picture is right only where all of it was seen
        if len(told) < 2:
            return told[0] if told else UnitVerdict(unit, None, 0.0, ())
        top = max(told, key=lambda p: (p.fires, p.p or 0.0, p.severity))
        fired = [p for p in told if p.fires] or [top]
        return UnitVerdict(
            unit, top.p, max(p.severity for p in fired),
            tuple(e for p in fired for e in p.evidence), tuple(o for p in fired for o in p.observed),
        )  # fmt: skip
    told = [_sorted_out(p, told) for p in told]
    weakest = min(told, key=lambda p: p.p or 0.0, default=None)
    if len(told) < len(parts) and (weakest is None or (weakest.p or 0.0) > ABSENT):
        return UnitVerdict(unit, None, 0.0, ())
    assert weakest is not None
    measured = [
        p.severity
        for p, part in zip(parts, c.all, strict=True)
        if not part.inside and not part.unread_holds
    ]
    return UnitVerdict(
        unit, weakest.p, sum(measured) / len(measured) if measured else 1.0,
        tuple(e for p in told for e in p.evidence), tuple(o for p in told for o in p.observed),
    )  # fmt: skip


def _sorted_out(part: UnitVerdict, told: list[UnitVerdict]) -> UnitVerdict:
    """Decide a side condition on the very value that the other part judges by that value alone.

    Such a side condition only sorts one fault from its neighbour on the same scale ("too little, while
    above zero"). A value at the border is surely one of the two: its doubt belongs to the other part.
    """
    e = part.evidence[0] if len(part.evidence) == 1 else None
    if e is None or not e.inside:
        return part
    same = (e.measure, e.phase, e.limb)
    if not any(
        (o.measure, o.phase, o.limb) == same for p in told for o in p.evidence if not o.inside
    ):
        return part
    lo, hi = e.band
    holds = (lo is None or e.value >= lo) and (hi is None or e.value <= hi)
    return part._replace(p=1.0 if holds else 0.0)


def _combined(told: Iterable[UnitVerdict]) -> Verdict:
    """The verdict over units. Units of one clip share its errors: those that are unclear speak as loud as those that fire."""
    looks = [v.p or 0.0 for v in told if v.fires or v.verdict == "unclear"]
    return "clear" if looks and float(np.median(looks)) >= CLEAR else "likely"


def judge_unit(s: Sheet, fault_id: str, unit: int | None) -> UnitVerdict | None:
    """A fault in one unit: as it was measured, or as the coach's eye has it; None where it is not judged there."""
    when = s.under.when(fault_id, unit)
    if when is None:
        return None
    eye = s.notes.p(fault_id, unit)
    if eye is None:
        return judge_condition(s, when, unit)
    own = [leaf.severity for leaf in when.leaves() if leaf.observation == fault_id]
    rest = s.under.measured(fault_id, unit)
    read = judge_condition(s, rest, unit) if rest is not None else UnitVerdict(unit, None, 0.0, ())
    if not eye:
        return UnitVerdict(unit, 0.0, 0.0, (), (), read if read.fires else None)
    if read.fires:
        return read._replace(
            p=max(eye, read.p or 0.0),
            severity=max(read.severity, own[0] if own else 1.0),
            observed=(*read.observed, fault_id),
        )
    against = read if read.p is not None and read.p <= ABSENT else None
    return UnitVerdict(unit, eye, own[0] if own else 1.0, (), (fault_id,), against)


def _way(counted: Iterable[UnitVerdict]) -> tuple[Way | None, int]:
    """On which side of their bands most units lie, and how many lie on the other."""
    ways: list[Way] = []
    for u in counted:
        missed = [e for e in u.evidence if not e.inside and e.severity > 0]
        if missed:
            worst = max(missed, key=lambda e: e.severity)
            ways.append(
                "below" if worst.band[0] is not None and worst.value < worst.band[0] else "above"
            )
    if not ways:
        return None, 0
    way: Way = "below" if ways.count("below") * 2 > len(ways) else "above"
    return way, len(ways) - ways.count(way)


def judge_fault(s: Sheet, fault_id: str, fault: Fault) -> FaultVerdict | None:
    """Judge one fault over all units; None when this level, or this run, is not judged for it."""
    if s.level not in fault.levels:
        return None
    judged = [judge_unit(s, fault_id, u) for u in s.units()]
    units = [u for u in judged if u is not None]
    if not units:
        return None
    if s.segments:
        whole = judge_unit(s, fault_id, None)
        # A value or observation for the whole run stands beside the units it was not given for.
        if whole is not None and whole.p is not None and all(u.p is None for u in units):
            units = [whole]
    told = [u for u in units if u.p is not None]
    fired = [u for u in told if u.fires]
    sides: dict[str, list[UnitVerdict]] = defaultdict(list)
    for u in told:
        side = s.side_of(u.segment)
        if side:
            sides[side].append(u)

    def present(group: list[UnitVerdict]) -> bool:
        n = sum(u.fires for u in group)
        return bool(group) and n / len(group) >= 0.5 and (n >= 2 or len(units) <= 2)

    bad_sides = [side for side, group in sides.items() if present(group)]
    side = bad_sides[0] if len(bad_sides) == 1 and len(sides) > 1 else "both"
    if len(sides) == 1 and bad_sides and len(units) > 1:
        side = bad_sides[0]
    group = sides.get(side, told)
    on_group = [u for u in group if u.fires]
    share = len(on_group) / len(group) if group else 0.0
    if not told:
        status: Literal["present", "episode", "unclear", "absent", "cannot_tell"] = "cannot_tell"
    elif bad_sides or present(told):
        status = "present"
    elif fired:
        status = "episode"
    elif sum(u.verdict == "unclear" for u in told) >= 0.5 * len(told):
        status = "unclear"
    else:
        status = "absent"
    counted = on_group if status == "present" else fired
    severity = float(np.mean([u.severity for u in counted])) if counted else 0.0
    orders = [(e.order, e.phase) for u in counted for e in u.evidence]
    order, phase = min(orders, key=lambda x: x[0]) if orders else (len(s.book.phases), None)
    looks = group if status == "present" else told
    verdict: Verdict = _combined(looks) if counted else "unclear"
    if not counted and (status == "absent" or status == "cannot_tell"):
        verdict = status
    return FaultVerdict(
        fault_id, status, verdict, side, share, severity, tuple(units), phase, order, *_way(counted)
    )


def strengths(s: Sheet) -> list[str]:
    """Ids of the strengths shown: inside the band clearly on 80 % of units, or observed."""
    out = []
    for strength_id, strength in s.book.strengths.items():
        if s.level not in strength.levels:
            continue
        c = strength.when
        if strength_id in s.notes.ids:  # what the coach's eye says of it stands
            if s.notes.seen(strength_id):
                out.append(strength_id)
            continue
        if c.observation is not None:
            if s.notes.seen(c.observation):
                out.append(strength_id)
            continue
        results = [judge_condition(s, c, u) for u in s.units()]
        told = [r for r in results if r.p is not None and r.evidence]
        inside = [r for r in told if r.p is not None and r.p <= 1 - CLEAR]
        if told and len(inside) >= 0.8 * len(results):
            out.append(strength_id)
    return out


__all__ = ["LEVELS", "Evidence", "FaultVerdict", "Sheet", "UnitVerdict", "judge_fault", "strengths"]
