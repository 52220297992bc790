"""What the coach's eye saw: notes of observations and of faults, unit by unit.

A note of some units says that the run was looked at: the other units (of its side) are clean for that id. A note with
no unit holds for every unit (of its side). ``seen: false`` says that the coach looked and it is not there.
The most exact note speaks: of the unit, then of its side, then of the run.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping

from proklisis.core.playbook.front_foot import SIDE_WORDS
from proklisis.core.shapes.run_sheet import Observation, Segment

#: A coach's "maybe" counts as likely.
UNSURE_P = 0.85
EVERY_SIDE = ""


def words_for_sides(s: Segment) -> set[str]:
    """Every word for the side of a unit."""
    return {SIDE_WORDS.get(x, x) for x in (s.side, s.edge_side, s.hand_side, s.face) if x}


def at_phase(note: str, phase: str | None) -> str:
    """The name under which a note of one phase is kept; without a phase the note's own."""
    return f"{note}@{phase}" if phase else note


class Notes:
    """Notes on a run, asked by id and unit."""

    def __init__(
        self,
        observations: Iterable[Observation],
        segments: Mapping[int, Segment],
        own_id: Mapping[str, str],
    ) -> None:
        self._sides = {n: words_for_sides(s) for n, s in segments.items()}
        self._units: dict[str, dict[int, float]] = defaultdict(dict)
        self._of_side: dict[str, dict[str, float]] = defaultdict(dict)
        self._looked: dict[str, set[str]] = defaultdict(set)
        for o in observations:
            note = own_id.get(o.id, o.id)
            if o.phase is not None:
                self._keep(at_phase(note, o.phase), o)
            # Seen at one phase is seen in the unit; looked for in vain at one phase says nothing of the others.
            if o.phase is None or o.seen:
                self._keep(note, o)
        #: Ids of which something was noted.
        self.ids = frozenset({*self._units, *self._of_side})

    def _keep(self, note: str, o: Observation) -> None:
        p = 0.0 if not o.seen else 1.0 if o.sure else UNSURE_P
        side = SIDE_WORDS.get(o.side or "", o.side) or EVERY_SIDE
        if o.numbers is None:
            self._of_side[note][side] = max(p, self._of_side[note].get(side, 0.0))
            return
        for n in o.numbers:
            self._units[note][n] = max(p, self._units[note].get(n, 0.0))
        if o.seen:
            self._looked[note].add(side)

    def p(self, note: str, unit: int | None) -> float | None:
        """Probability that it is there in a unit by the coach's eye; None where the coach did not look."""
        if note not in self.ids:
            return None
        if unit in self._units[note]:
            return self._units[note][unit]
        sides = self._sides.get(unit or 0, set())
        for side in (*sides, EVERY_SIDE):
            if side in self._of_side[note]:
                return self._of_side[note][side]
        return 0.0 if self._looked[note] & {*sides, EVERY_SIDE} else None

    def seen(self, note: str) -> bool:
        """Whether it was seen anywhere on the run."""
        return any(
            p > 0
            for p in (*self._units.get(note, {}).values(), *self._of_side.get(note, {}).values())
        )
