"""The bands a level is held against, one list for every screen that shows a reading."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from proklisis.core.playbook.schema import Band, Condition, Playbook
from proklisis.core.playbook.under import Under
from proklisis.core.shapes.run_sheet import Level


@dataclass(frozen=True)
class WantedBand:
    """A measure is good inside [lo, hi]; an end may be open. ``phase`` None: any phase."""

    measure: str
    phase: str | None
    limb: str | None
    band: Band
    fault: str


def wanted_bands(book: Playbook, level: Level) -> list[WantedBand]:
    """Bands of every fault that this level is judged for (apply the schools first)."""
    return [
        b
        for i, f in book.faults.items()
        if level in f.levels
        for b in _bands(f.when.leaves(), i, level)
    ]


def bands_in(
    book: Playbook, under: Under, level: Level, unit: int, side: str | None
) -> list[WantedBand]:
    """The bands that hold in one unit of a run, on its side and under its conditions (apply the schools first)."""
    out = []
    for i, f in book.faults.items():
        when = under.when(i, unit) if level in f.levels else None
        leaves = (
            []
            if when is None
            else [c for c in when.leaves() if not c.hangs_on and c.side in (None, side)]
        )
        out += _bands(leaves, i, level)
    return out


def _bands(leaves: Iterable[Condition], fault: str, level: Level) -> list[WantedBand]:
    out = []
    for leaf in leaves:
        if leaf.measure is None or leaf.inside or leaf.over is not None or leaf.minus is not None:
            continue
        # What is held against another value has no band of its own.
        if leaf.less_best or leaf.less_wanted is not None:
            continue
        band = leaf.band_for(level)
        if band is not None:
            out.append(WantedBand(leaf.measure, leaf.phase, leaf.limb, band, fault))
    return out
