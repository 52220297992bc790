"""A run at one glance: every unit in a row, its phases in columns, and what stands out of its like."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot

import numpy as np

from proklisis.core.comparing.pair import Run
from proklisis.core.comparing.rows import SURE
from proklisis.core.errors import InputError
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.bands import WantedBand, bands_in
from proklisis.core.playbook.under import Under, apply_schools, chosen_schools
from proklisis.core.playbook.words import LIMBS, phase_words, unit_words
from proklisis.core.readings.readings import Reading
from proklisis.core.review import Review, book_of
from proklisis.core.shapes.turn_sheet import (
    AgainstBand,
    ChoosableColumn,
    SheetCell,
    SheetColumn,
    SheetValue,
    TurnSheet,
)
from proklisis.core.splitting.units import Unit
from proklisis.core.uncertainty import digits, normal_cdf

#: A value stands out when 0.6745·|x − median| / MAD is above this: the modified z-score of Iglewicz and Hoaglin, How to
#: Detect and Handle Outliers, 1993 (value from memory).
STANDS_OUT = 3.5
#: Of fewer values of a kind none is said to stand out (house choice).
FEWEST = 4

Key = tuple[str, str | None, str | None]


def turn_sheet(
    run: Run, main: str | None = None, show: str = "", columns: Sequence[str] = ()
) -> TurnSheet:
    """The turn sheet of a measured run.

    Parameters
    ----------
    main : a measure; the cells show it where ``show`` is empty and it is read in the phases
    show : "measure|limb" that the cells show
    columns : "measure|phase|limb" of further columns, in their order

    Raises InputError for a measure that this run was not read for.
    """
    done = run.review
    assert done is not None
    whole = book_of(run.sheet)
    schools = chosen_schools(run.sheet, whole)
    book, _ = apply_schools(whole, schools)
    under = Under(book, run.sheet, schools)
    bands = {u.n: bands_in(book, under, run.sheet.level, u.n, u.finest_side) for u in done.units}
    by_key: dict[Key, dict[int, Reading]] = {}
    for r in done.readings:
        if r.segment is not None and np.isfinite(r.value) and np.isfinite(r.u):
            by_key.setdefault((r.id, r.phase, r.limb), {})[r.segment] = r
    keys = sorted(
        by_key, key=lambda k: (list(REGISTRY).index(k[0]), _at(book.phases, k[1]), k[2] or "")
    )
    in_phases = list(dict.fromkeys((i, limb) for i, phase, limb in keys if phase is not None))
    shown = _shown(show, main, in_phases)
    values = {k: _values(by_key[k], done, k, bands) for k in keys}
    return {
        "unit": book.unit, "unit_plural": book.units, "phases": list(book.phases),
        "key": None if shown is None else "|".join((shown[0], shown[1] or "")),
        "title": "" if shown is None else title(shown[0], None, shown[1]),
        "symbol": "" if shown is None else unit_words(shown[0]),
        "rows": [
            {
                "n": u.n, "side": u.side, "finest_side": u.finest_side if u.finest_side != u.side else None,
                "start": round(u.start.t, 5), "end": round(u.end.t, 5),
                "cells": [_cell(done, u, phase, shown, by_key, values) for phase in u.phases],
            }
            for u in done.units
        ],
        "columns": [_column(done, key, keys, values) for key in columns],
        "may_show": [{"key": f"{i}|{limb or ''}", "title": title(i, None, limb)} for i, limb in in_phases],
        "may_add": [_choosable(k) for k in keys],
    }  # fmt: skip


def title(measure: str, phase: str | None, limb: str | None) -> str:
    """A measure's title with where it was read."""
    return ", ".join(
        x
        for x in (REGISTRY[measure].title, phase and phase_words(phase), limb and LIMBS.get(limb, limb))
        if x
    )  # fmt: skip


def column_key(measure: str, phase: str | None, limb: str | None) -> str:
    return f"{measure}|{phase or ''}|{limb or ''}"


def against(
    value: float, u: float, bands: Sequence[WantedBand], sure: bool = True
) -> AgainstBand | None:
    """What a value is against all its bands; None where it has none. Where its clock is not ``sure`` nothing is told."""
    if not bands:
        return None
    if not sure:
        return "unsure"
    out = []
    for b in bands:
        lo, hi = b.band
        below = 0.0 if lo is None else _below(lo - value, u)
        above = 0.0 if hi is None else _below(value - hi, u)
        out.append(below + above)
    if max(out) >= SURE:
        return "outside"
    return "inside" if max(out) <= 1 - SURE else "unsure"


def standing_out(values: Sequence[float], us: Sequence[float]) -> list[bool]:
    """Which of several values of a kind stand out: far from the median for their spread, and by more than ± explains."""
    if len(values) < FEWEST:
        return [False] * len(values)
    middle = float(np.median(values))
    spread = float(np.median(np.abs(np.asarray(values) - middle)))
    u_middle = float(np.median(us)) / len(us) ** 0.5
    return [
        0.6745 * abs(v - middle) > STANDS_OUT * spread and abs(v - middle) > 2 * hypot(u, u_middle)
        for v, u in zip(values, us, strict=True)
    ]


def _below(x: float, u: float) -> float:
    """Probability that something of mean ``x`` is above nothing."""
    return normal_cdf(x / u) if u > 0 else float(x > 0)


def _at(phases: Sequence[str], phase: str | None) -> int:
    return list(phases).index(phase) if phase is not None and phase in phases else -1


def _shown(
    show: str, main: str | None, choices: list[tuple[str, str | None]]
) -> tuple[str, str | None] | None:
    if show:
        measure, _, limb = show.partition("|")
        if (measure, limb or None) not in choices:
            what = REGISTRY[measure].title if measure in REGISTRY else measure
            raise InputError(
                f"{what} is not read in the phases of this run", "show", "choose another"
            )
        return measure, limb or None
    return next((c for c in choices if c[0] == main), None) or (choices[0] if choices else None)


def _values(
    read: dict[int, Reading], done: Review, key: Key, bands: dict[int, list[WantedBand]]
) -> dict[int, SheetValue]:
    """A measure's values by unit; sides are held apart where what stands out is looked for."""
    measure, phase, limb = key
    mine = {
        n: [b for b in some if b.measure == measure and b.phase in (None, phase) and b.limb in (None, limb)]
        for n, some in bands.items()
    }  # fmt: skip
    sure = done.rate_sure or not REGISTRY[measure].clocked
    sides: dict[str | None, list[int]] = {}
    for u in done.units:
        if u.n in read:
            sides.setdefault(u.side, []).append(u.n)
    out = {
        n
        for ns in sides.values()
        for n, far in zip(ns, standing_out([read[n].value for n in ns], [read[n].u for n in ns]), strict=True)
        if far
    }  # fmt: skip
    return {
        n: {
            "value": round(r.value, 5), "u": round(r.u, 5), "words": digits(r.value, r.u), "pm": digits(2 * r.u, r.u),
            "says": f"{digits(r.value, r.u)} ± {digits(2 * r.u, r.u)}{unit_words(measure)}",
            "band": against(r.value, r.u, mine.get(n, []), sure), "stands_out": n in out,
        }
        for n, r in read.items()
    }  # fmt: skip


def _cell(
    done: Review, unit: Unit, phase: str, shown: tuple[str, str | None] | None,
    by_key: dict[Key, dict[int, Reading]], values: dict[Key, dict[int, SheetValue]],
) -> SheetCell:  # fmt: skip
    key = None if shown is None else (shown[0], phase, shown[1])
    reading = by_key.get(key, {}).get(unit.n) if key else None
    begin, end = unit.phases[phase]
    t = reading.t if reading is not None and reading.t is not None else (begin + end) / 2
    row = int(np.abs(done.tracks.t - t).argmin())
    return {
        "phase": phase, "frame": int(done.tracks.frames[row]), "t": round(float(done.tracks.t[row]), 5),
        "read": values[key][unit.n] if reading is not None and key is not None else None,
    }  # fmt: skip


def _column(
    done: Review, key: str, known: list[Key], values: dict[Key, dict[int, SheetValue]]
) -> SheetColumn:
    found = next((k for k in known if column_key(*k) == key), None)
    if found is None:
        raise InputError(f"there is no column {key!r}", "columns", "choose one of those offered")
    return {
        "key": key, "measure": found[0], "phase": found[1], "limb": found[2], "title": title(*found),
        "unit": unit_words(found[0]), "values": [values[found].get(u.n) for u in done.units],
    }  # fmt: skip


def _choosable(key: Key) -> ChoosableColumn:
    return {"key": column_key(*key), "title": title(*key)}
