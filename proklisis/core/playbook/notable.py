"""What a coach may note by eye on a run, the likeliest first."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from math import log1p
from typing import Literal, NamedTuple

from proklisis.core.playbook.schema import Condition, Playbook
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.run_sheet import Level

#: How much sooner something stands for what speaks for it (house choice): it belongs to the phase on screen, it is
#: open on this run, coaches mostly see it rather than measure it, and each e-fold of this coach's own notes of it.
OF_PHASE = 2.0
OPEN = {"unclear": 2.0, "cannot_tell": 1.0, "likely": 0.5}
BY_EYE = 0.5
OF_HABIT = 1.0


class Notable(NamedTuple):
    """Something that can be noted, by its own id."""

    id: str
    title: str
    kind: Literal["fault", "observation", "strength"]
    #: Phases in which it is looked for; none where it is looked for in all of a unit.
    phases: tuple[str, ...]
    #: Whether the numbers leave it open on this run.
    open: bool
    score: float


def notable(
    book: Playbook, level: Level, prescription: Prescription, habits: Mapping[str, int]
) -> list[Notable]:
    """Everything of a discipline that can be noted at a level, the likeliest first.

    ``habits``: id → how often this coach noted it on other runs of the discipline.
    """
    left_open = {c["fault"]: "cannot_tell" for c in prescription["cannot_tell"]}
    left_open |= {
        f["fault"]: "unclear" if f["status"] == "unclear" else "likely"
        for f in prescription["findings"]
        if f["verdict"] != "clear"
    }

    def row(
        i: str,
        title: str,
        kind: Literal["fault", "observation", "strength"],
        phases: tuple[str, ...],
    ) -> Notable:
        score = OPEN.get(left_open.get(i, ""), 0.0) + OF_HABIT * log1p(habits.get(i, 0))
        return Notable(i, title, kind, phases, i in left_open, score + BY_EYE * (i in book.by_eye))

    def asked_in(leaves: Iterable[Condition]) -> tuple[str, ...]:
        return tuple(p for p in book.phases if p in {leaf.phase for leaf in leaves})

    rows = [
        row(i, f.title, "fault", asked_in(f.when.leaves()))
        for i, f in book.faults.items()
        if level in f.levels
    ]
    taken = {r.id for r in rows}
    rows += [
        row(i, o.title, "observation", ()) for i, o in book.observations.items() if i not in taken
    ]
    taken |= set(book.observations)
    rows += [
        row(i, x.text, "strength", asked_in(x.when.leaves()))
        for i, x in book.strengths.items()
        if level in x.levels and i not in taken and x.when.observation is None
    ]
    return sorted(rows, key=lambda r: -r.score)


def in_phase(rows: list[Notable], phase: str) -> list[str]:
    """Ids of ``rows`` as they stand while a phase is looked at."""
    return [r.id for r in sorted(rows, key=lambda r: -(r.score + OF_PHASE * (phase in r.phases)))]
