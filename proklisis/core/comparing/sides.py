"""What is held against what: each side's units, and which of one is which of the other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from proklisis.core.errors import InputError
from proklisis.core.shapes.run_sheet import RunSheet, Segment, SheetMeasure

#: A value's place within its unit.
Place = tuple[str, str | None, str | None]
_OTHER = {"left": "right", "right": "left", "l": "r", "r": "l"}


@dataclass(frozen=True)
class Side:
    """One run, or one unit of it.

    Attributes
    ----------
    sheet : its run sheet, with the units that are compared
    clip : what tells its clip from others; both sides of one clip share its camera
    frame : (measure, unit, phase, limb) → the frame to look at, where there are tracks
    """

    sheet: RunSheet
    clip: str
    frame: Callable[[str, int | None, str | None, str | None], int | None] = lambda *_: None

    @property
    def units(self) -> list[Segment]:
        return self.sheet.segments

    @cached_property
    def _by_unit(self) -> dict[int | None, dict[Place, SheetMeasure]]:
        out: dict[int | None, dict[Place, SheetMeasure]] = {}
        for m in self.sheet.measures:
            out.setdefault(m.segment, {})[place(m)] = m
        return out

    def rows(self, unit: int | None) -> dict[Place, SheetMeasure]:
        """Values of one unit, or of the run, by their place."""
        return self._by_unit.get(unit, {})

    def only(self, unit: int) -> Side:
        """The side with one unit alone; InputError where it has none of that number."""
        if unit not in {s.n for s in self.units}:
            known = ", ".join(str(s.n) for s in self.units) or "none"
            raise InputError(f"there is no unit {unit}", self.clip, f"the units are {known}")
        kept = {
            "segments": [s for s in self.units if s.n == unit],
            "measures": [m for m in self.sheet.measures if m.segment == unit],
        }
        return replace(self, sheet=self.sheet.model_copy(update=kept))


def place(m: SheetMeasure) -> Place:
    return m.id, m.phase, m.limb


def mirrored_place(p: Place) -> Place:
    """The place in a mirrored picture: left and right limbs change places."""
    return p[0], p[1], _OTHER.get(p[2] or "", p[2])


def side_word(s: Segment) -> str | None:
    """Left or right of a unit, or None."""
    return {"l": "left", "r": "right"}.get(s.side or "", s.side)


def pairs(a: Sequence[Segment], b: Sequence[Segment], mirror: bool) -> list[tuple[int, int]]:
    """Numbers of the units that are the same in both, in order: the first with the first, of the same side.

    Where one run begins a unit earlier, or on the other side, its first is left out. A single unit is held against a
    single unit whatever the sides.
    """
    if len(a) == 1 and len(b) == 1:
        return [(a[0].n, b[0].n)]

    def alike(x: Segment, y: Segment) -> bool:
        one, other = side_word(x), side_word(y)
        if one is None or other is None:
            return True
        return one == (_OTHER[other] if mirror else other)

    best: list[tuple[int, int]] = []
    for skip in (0, 1, -1):
        one, other = a[max(0, skip) :], b[max(0, -skip) :]
        found = [(x.n, y.n) for x, y in zip(one, other, strict=False) if alike(x, y)]
        if len(found) > len(best):
            best = found
    return best
