"""Several clips of one run or of several passes, read as one sheet.

Clips of one pass show the same units, under the same numbers. A value that several of them show is their mean
weighted by 1/u² (the best linear estimate of independent readings); where they differ by more than their u allow,
the u of the mean grows by the Birge ratio, √(χ²/(n − 1)). What one clip shows comes from that one. Other passes are
further units. Inside the judge units are counted through; ``Places`` says which clip's unit each was.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import inf, sqrt

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Playbook
from proklisis.core.shapes.run_sheet import Clip, Observation, RunSheet, Segment, SheetMeasure


@dataclass(frozen=True)
class Places:
    """Where the units of a judged sheet stand: unit → clip and the number that it has there."""

    of: dict[int, tuple[str, int]] = field(default_factory=dict)

    def number(self, unit: int | None) -> int | None:
        return self.of[unit][1] if unit in self.of else unit

    def clip(self, unit: int | None) -> str | None:
        return self.of[unit][0] if unit in self.of else None


def one_run(sheet: RunSheet, book: Playbook) -> tuple[RunSheet, Places]:
    """Return the sheet as one run, and where its units came from.

    Values are left out in the units whose stated view hides them: that of the unit, else that of its clip among several.
    """
    if not sheet.clips:
        hidden = {s.n for s in sheet.segments if s.view is not None}
        if not hidden:
            return sheet, Places()
        own = {s.n: s.view for s in sheet.segments}
        kept = [
            m
            for m in sheet.measures
            if m.segment not in hidden or shown(book, m.id, own[m.segment])
        ]
        return sheet.model_copy(update={"measures": kept}), Places()
    passes = {c.id: c.pass_ for c in sheet.clips}
    first = sheet.clips[0].id
    rows: dict[tuple[int, int], list[Segment]] = {}
    for s in sheet.segments:
        rows.setdefault((passes[s.clip or first], s.n), []).append(s)
    several = len(set(passes.values())) > 1
    ordered = sorted(rows)
    unit = {key: k if several else key[1] for k, key in enumerate(ordered, 1)}
    clip_of = {
        key: rows[key][0].clip or next(c for c, p in passes.items() if p == key[0])
        for key in ordered
    }
    segments = [_merged(rows[key], unit[key]) for key in ordered]
    views = {(s.clip or first, s.n): s.view for s in sheet.segments if s.view is not None}
    clip_views = {c.id: c.view for c in sheet.clips}

    def seen(m: SheetMeasure) -> bool:
        view = views.get((m.clip or first, m.segment or 0)) or clip_views.get(m.clip or "")
        return shown(book, m.id, view)

    groups: dict[tuple[str, str | None, int | None, str | None], list[SheetMeasure]] = {}
    for m in sheet.measures:
        if seen(m):
            where = None if m.segment is None else unit[passes[m.clip or first], m.segment]
            groups.setdefault((m.id, m.limb, where, m.phase), []).append(m)
    measures = [combined(g, where) for (_, _, where, _), g in groups.items()]
    notes = [_note(o, passes, unit) for o in sheet.observations]
    places = Places({unit[key]: (clip_of[key], key[1]) for key in ordered})
    rates = [c.fps for c in sheet.clips if c.fps is not None]
    return sheet.model_copy(
        update={
            "clip": Clip(fps=min(rates, default=None)),
            "segments": segments,
            "measures": measures,
            "observations": notes,
        }
    ), places


def shown(book: Playbook, measure: str, view: str | None) -> bool:
    """Whether a view can show a measure of this discipline; a view that is not said hides nothing."""
    views = REGISTRY[measure].seen_from(book.sideways)
    return view is None or not views or view in views


def combined(rows: Sequence[SheetMeasure], segment: int | None) -> SheetMeasure:
    """One value from several of the same thing, weighted by 1/u²; an exact one stands for all."""
    weights = [1 / m.u**2 if m.u > 0 else inf for m in rows]
    exact = [m for m in rows if m.u == 0]
    if exact or len(rows) == 1:
        m = exact[0] if exact else rows[0]
        value, u = m.value, m.u
    else:
        m, total = rows[0], sum(weights)
        value = sum(w * x.value for w, x in zip(weights, rows, strict=True)) / total
        chi2 = sum(w * (x.value - value) ** 2 for w, x in zip(weights, rows, strict=True))
        u = sqrt(1 / total) * max(1.0, sqrt(chi2 / (len(rows) - 1)))
    return SheetMeasure(id=m.id, limb=m.limb, segment=segment, phase=m.phase, value=value, u=u)


def _merged(rows: list[Segment], n: int) -> Segment:
    """One unit as several clips describe it, the first that says a thing first."""
    said = {
        k: v
        for s in reversed(rows)
        for k, v in s.model_dump(exclude_unset=True).items()
        if v is not None
    }
    conditions = {k: v for s in reversed(rows) for k, v in s.conditions.items()}
    return Segment.model_validate({**said, "n": n, "conditions": conditions})


def _note(o: Observation, passes: dict[str, int], unit: dict[tuple[int, int], int]) -> Observation:
    if o.numbers is None:
        return o
    of = passes[o.clip] if o.clip is not None else min(passes.values())
    return o.model_copy(
        update={"segment": None, "segments": [unit[of, n] for n in o.numbers if (of, n) in unit]}
    )
