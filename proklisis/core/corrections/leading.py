"""The fewest presses that tell more: which points to mark in which frames, one after the other."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

import numpy as np

from proklisis.core.corrections.asking import SAME_S
from proklisis.core.review import Review, playbook
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.splitting.library import splitter
from proklisis.core.tracks.landmarks import BODY

#: Where there are no units yet, a point is marked so often, seconds: it is carried between the marks.
EVERY_S = 0.5


@dataclass(frozen=True)
class Step:
    """A point to be marked in a frame."""

    frame: int
    landmark: str


@dataclass(frozen=True)
class Leading:
    """What is marked next, in order; what it settles.

    ``faults`` are told once all of it is marked; with none, the run cannot be split before. ``done`` marks are there already.
    """

    steps: tuple[Step, ...]
    points: tuple[str, ...]
    faults: tuple[str, ...]
    done: int


def leading(
    done: Review,
    discipline: str,
    prescription: Prescription,
    marked: Iterable[tuple[int, str]],
    markable: Collection[str],
) -> Leading | None:
    """The cheapest way on by marks; None where no mark would tell more.

    ``marked``: (frame, landmark) of the marks in force; ``markable``: points that a hand may mark on this clip.
    """
    marked = list(marked)
    points, faults = _wanted(done, discipline, prescription, markable)
    if not points:
        return None
    frames = _frames(done)
    t = done.tracks.t

    def there(step: Step) -> bool:
        return any(
            m == step.landmark and abs(t[f] - t[step.frame]) <= SAME_S
            for f, m in marked
            if f < len(t)
        )

    every = [Step(f, p) for f in frames for p in points]
    left = tuple(s for s in every if not there(s))
    return Leading(left, points, faults, len(every) - len(left)) if left else None


def _wanted(
    done: Review, discipline: str, prescription: Prescription, markable: Collection[str]
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Points that the run is split by and that are nowhere, else those that settle most faults for a press."""
    book = playbook(discipline)
    needs = splitter(book.split or "").marks if book.split else ()
    lacking = tuple(
        p for p in needs if p not in done.tracks.index and p not in BODY and p in markable
    )
    if lacking and not done.units:
        return lacking, ()
    rows = [
        c
        for c in prescription["cannot_tell"]
        if c["unlock"]["points"]
        and not c["unlock"]["view"]
        and set(c["unlock"]["points"]) <= set(markable)
    ]
    if not rows:
        return (), ()
    best = max(
        rows, key=lambda c: (len(c["unlock"]["also_unlocks"]) + 1) / len(c["unlock"]["points"])
    )
    return tuple(best["unlock"]["points"]), (best["fault"], *best["unlock"]["also_unlocks"])


def _frames(done: Review) -> list[int]:
    """One frame in the middle of each unit; without units, one every half second."""
    t = done.tracks.t
    if done.units:
        moments = [(u.start.t + u.end.t) / 2 for u in done.units]
    else:
        moments = list(np.arange(t[0] + EVERY_S / 2, t[-1], EVERY_S)) or [float(t[len(t) // 2])]
    return sorted({int(np.argmin(np.abs(t - m))) for m in moments})
