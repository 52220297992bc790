"""Two units, runs or riders held against each other: the open format ``comparison/1``."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from proklisis.core.comparing.best import best_units
from proklisis.core.comparing.fairness import fairness
from proklisis.core.comparing.first import first_difference
from proklisis.core.comparing.rows import combined_u, compared_rows, real, scales, told, verdict_of
from proklisis.core.comparing.sides import Side, mirrored_place, pairs
from proklisis.core.errors import InputError
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.schema import Playbook
from proklisis.core.review import Review, book_of, run_sheet
from proklisis.core.shapes.comparison import ComparedRow, Comparison, Matched
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.splitting.units import Unit

#: Two curves are apart over no shorter stretch, a share of the unit (house choice).
SHORTEST_APART = 0.08
#: Events that every unit has, beside the beginnings of its phases.
BEGINS, ENDS = "start", "end"


@dataclass(frozen=True)
class Event:
    """A moment of every unit: its start or end, or where a phase begins; ``offset_s`` seconds after it."""

    name: str
    offset_s: float = 0.0


@dataclass(frozen=True)
class Run:
    """A run to be compared: its sheet, and the review behind it where there are tracks; ``name`` tells its clip from others."""

    name: str
    sheet: RunSheet
    review: Review | None = None

    def side(self, unit: int | None) -> Side:
        one = Side(self.sheet, self.name, self._frame if self.review else lambda *_: None)
        return one if unit is None else one.only(unit)

    def _frame(
        self, measure: str, unit: int | None, phase: str | None, limb: str | None
    ) -> int | None:
        assert self.review is not None
        for r in self.review.readings:
            if (r.id, r.segment, r.phase, r.limb) == (
                measure,
                unit,
                phase,
                limb,
            ) and r.t is not None:
                return int(self.review.tracks.frames[np.abs(self.review.tracks.t - r.t).argmin()])
        return None


def of_review(name: str, done: Review, discipline: str, about: dict[str, Any] | None = None) -> Run:
    """A measured run, with its tracks."""
    return Run(name, run_sheet(done, discipline, about), done)


def pair(
    a: Run,
    b: Run,
    unit_a: int | None = None,
    unit_b: int | None = None,
    event: Event | None = None,
    mirror: bool = False,
) -> Comparison:
    """Hold ``a`` against ``b``: differences are a − b.

    Without units all units are held against each other, the first against the first. Raises InputError for runs of two
    disciplines, units that are not there, or an event that needs tracks and has none.
    """
    if a.sheet.discipline != b.sheet.discipline:
        raise InputError(
            f"one run is {a.sheet.discipline}, the other {b.sheet.discipline}", b.name, "compare runs of one discipline"
        )  # fmt: skip
    if (unit_a is None) != (unit_b is None):
        raise InputError(
            "a unit of only one run is named", "--unit-a" if unit_a is None else "--unit-b",
            "name a unit of both, or of neither",
        )  # fmt: skip
    book = book_of(a.sheet)
    one, other = a.side(unit_a), b.side(unit_b)
    same = pairs(one.units, other.units, mirror)
    if one.units and other.units and not same:
        raise InputError(
            "no unit of the one is as any of the other",
            b.name,
            "name a unit of each, or mirror one",
        )
    matched: Matched = {"by": "phase", "mirror": mirror}
    if event is None:
        rows = compared_rows(one, other, same, book, mirror)
        first = first_difference(one, other, same, book, mirror)
    else:
        matched = {"by": "event", "event": event.name, "offset_s": event.offset_s, "mirror": mirror}
        rows, first = _at_event(a, b, same, event, book, mirror), None
    return {
        "format": "comparison/1", "a": _who(a, unit_a), "b": _who(b, unit_b), "matched": matched, "rows": rows,
        "first_difference": first, "best_units": best_units(a.side(None), book), "fairness": fairness(one, other, mirror),
    }  # fmt: skip


def _who(run: Run, unit: int | None) -> dict[str, Any]:
    out: dict[str, Any] = {
        "clip": run.name,
        "rider": run.sheet.rider.name,
        "view": run.sheet.clip.view,
    }
    return out if unit is None else {**out, "unit": unit}


def _at_event(
    a: Run, b: Run, same: list[tuple[int, int]], event: Event, book: Playbook, mirror: bool
) -> list[ComparedRow]:
    """A row for each signal that both have in every frame, at one moment of the units."""
    for run in (a, b):
        if run.review is None:
            raise InputError(
                "a sheet has no frames to look at around an event",
                run.name,
                "give tracks, or match by phase",
            )
    assert a.review is not None and b.review is not None
    check_event(event.name, book)
    known, one_camera = scales(book), a.name == b.name
    out: list[ComparedRow] = []
    for key in sorted(a.review.traces):
        at = (key[0], None, key[1] or None)
        other = mirrored_place(at) if mirror else at
        if (other[0], other[2] or "") not in b.review.traces:
            continue
        read = [
            (_read(a.review, key, x, event), _read(b.review, (other[0], other[2] or ""), y, event))
            for x, y in same
        ]  # fmt: skip
        both = [(p, q) for p, q in read if p is not None and q is not None]
        if not both:
            continue
        (va, ua), (vb, ub) = (
            (
                float(np.mean([r[k][0] for r in both])),
                float(np.sqrt(np.mean([r[k][1] ** 2 for r in both]))),
            )
            for k in (0, 1)
        )
        u = combined_u(key[0], ua, ub, one_camera)
        out.append(
            {
                "measure": key[0], "phase": None, "limb": at[2], "a": {"value": round(va, 4), "u": round(ua, 4)},
                "b": {"value": round(vb, 4), "u": round(ub, 4)}, "difference": round(va - vb, 4), "u": round(u, 4),
                "p": round(real(va - vb, u), 4), "verdict": told(verdict_of(va - vb, u, known.get((key[0], None))), key[0], a.side(None), b.side(None)),
            }
        )  # fmt: skip
    return out


def _read(
    done: Review, key: tuple[str, str], unit: int, event: Event
) -> tuple[float, float] | None:
    u = next(x for x in done.units if x.n == unit)
    begins = _moment(u, event)
    when = np.nan if begins is None else begins + event.offset_s
    if not done.tracks.t[0] <= when <= done.tracks.t[-1]:
        return None
    row = int(np.abs(done.tracks.t - when).argmin())
    series = done.traces[key]
    value, spread = float(series.value[row]), float(series.u[row])
    return (value, spread) if np.isfinite(value) and np.isfinite(spread) else None


def check_event(name: str, book: Playbook) -> None:
    """Raise InputError for an event that no unit of a discipline has."""
    known = [BEGINS, ENDS, *book.phases]
    if name not in known:
        raise InputError(f"there is no event {name!r}", "--event", nearest(name, known))


def _moment(u: Unit, event: Event) -> float | None:
    """When an event of a unit is, seconds from the clip's first frame; None where this unit has no such phase."""
    if event.name in (BEGINS, ENDS):
        return u.start.t if event.name == BEGINS else u.end.t
    return float(u.phases[event.name][0]) if event.name in u.phases else None


def shared_phases(a: Unit, b: Unit) -> list[str]:
    """The phases that both units have: only what both went through can be matched."""
    return [phase for phase in a.phases if phase in b.phases]


def edges(unit: Unit, phases: Sequence[str]) -> list[float]:
    """Start of a unit, begin of each of these phases but the first, and its end, seconds from the clip's first frame, rising."""
    begins = [unit.phases[phase][0] for phase in phases[1:]]
    at = np.clip([unit.start.t, *begins, unit.end.t], unit.start.t, unit.end.t)
    return [round(float(t), 5) for t in np.maximum.accumulate(at)]


def curves(
    a: Run,
    b: Run,
    unit_a: int,
    unit_b: int,
    measure: str,
    limb: str = "",
    mirror: bool = False,
    points: int = 100,
) -> dict[str, list[float | None]]:
    """A signal of two units on matched time: each phase stretched to the same length.

    Returns
    -------
    at : share of the unit, 0 to 1; a, a_u, b, b_u : values and standard uncertainties there, null where unseen;
    t_a, t_b : seconds in each clip
    """
    if a.review is None or b.review is None:
        raise InputError("a sheet has no frames", a.name, "give tracks")
    other = mirrored_place((measure, None, limb or None))[2] or "" if mirror else limb
    out: dict[str, list[float | None]] = {
        "at": [round(float(x), 4) for x in np.linspace(0, 1, points)]
    }
    units = [
        next((x for x in run.review.units if x.n == n), None)
        for run, n in ((a, unit_a), (b, unit_b))
        if run.review
    ]
    phases = shared_phases(units[0], units[1]) if units[0] and units[1] else []
    for word, run, n, which, unit in (
        ("a", a, unit_a, limb, units[0]), ("b", b, unit_b, other, units[1]),
    ):  # fmt: skip
        done = run.review
        assert done is not None
        series = done.traces.get((measure, which))
        if unit is None or series is None:
            what = (
                f"unit {n}"
                if unit is None
                else REGISTRY[measure].title
                if measure in REGISTRY
                else measure
            )
            raise InputError(
                f"{what} is not read in every frame of {run.name}", "measure", "choose another"
            )
        at = edges(unit, phases)
        when = np.interp(np.linspace(0, 1, points), np.linspace(0, 1, len(at)), at)
        t = done.tracks.t
        out[f"t_{word}"] = [round(float(x), 5) for x in when]
        for name, values in ((word, series.value), (f"{word}_u", series.u)):
            here = np.interp(when, t, np.where(np.isfinite(values), values, np.nan))
            out[name] = [round(float(v), 4) if np.isfinite(v) else None for v in here]
    return out


def apart(
    drawn: dict[str, list[float | None]], measure: str, one_camera: bool
) -> list[tuple[float, float]]:
    """The stretches of two curves, shares of the unit, over which they lie apart beyond their combined U.

    A stretch that is shorter than :data:`SHORTEST_APART` may be chance, since every place of a curve is looked at.
    """
    at = [x for x in drawn["at"] if x is not None]
    beyond = []
    for va, ua, vb, ub in zip(drawn["a"], drawn["a_u"], drawn["b"], drawn["b_u"], strict=True):
        known = va is not None and ua is not None and vb is not None and ub is not None
        beyond.append(known and abs(va - vb) > 2 * combined_u(measure, ua, ub, one_camera))  # type: ignore[operator, arg-type]
    out: list[tuple[float, float]] = []
    begin: int | None = None
    for k, far in enumerate([*beyond, False]):
        if far and begin is None:
            begin = k
        elif not far and begin is not None:
            if at[k - 1] - at[begin] >= SHORTEST_APART:
                out.append((at[begin], at[k - 1]))
            begin = None
    return out
