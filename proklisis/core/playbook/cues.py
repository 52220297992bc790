"""What came of a prescription, and which cue is next where one has changed nothing."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Literal, NamedTuple

from scipy.stats import binomtest

from proklisis.core.playbook.schema import Playbook
from proklisis.core.shapes.prescription import Followed

Outcome = Literal["moved", "no_change", "worse", "cannot_tell"]
#: A cue that changed nothing in so many runs one after the other is offered for replacement.
IN_VAIN = 2


def outcome(rows: Sequence[Followed]) -> Outcome:
    """One word for all targets of a prescription: worse where any is, moved where any did."""
    said = {r["verdict"] for r in rows}
    if "worse" in said:
        return "worse"
    if said & {"in_band", "better"}:
        return "moved"
    return "no_change" if "no_change" in said else "cannot_tell"


def in_vain(outcomes: Sequence[Outcome]) -> bool:
    """Whether a cue's last runs, the newest last, show no change or worse; what cannot be told is passed over."""
    told = [o for o in outcomes if o != "cannot_tell"]
    return len(told) >= IN_VAIN and all(o in ("no_change", "worse") for o in told[-IN_VAIN:])


def next_cue(book: Playbook, fault: str, given: Collection[str]) -> str | None:
    """The fault's next cue that was not given yet; None where all were."""
    f = book.faults.get(fault)
    if f is None:
        return None
    own = [c for x in (f.above, f.below) if x and set(x.cues) & set(given) for c in x.cues]
    return next((c for c in [*own, *f.cues] if c not in given), None)


def next_drill(book: Playbook, fault: str, given: Collection[str]) -> str | None:
    """The fault's next drill, by its title, that was not given yet; None where all were."""
    f = book.faults.get(fault)
    drills = () if f is None else f.drills
    return next((book.drills[d].title for d in drills if d not in given), None)


def next_step(began: int, done: int | None, steps: int, came: Outcome) -> int:
    """The step of a ladder to begin with, counted from 0: one further than where it worked, else where it began.

    ``done`` is the furthest step that the rider has ticked, of ``steps``; None where none is.
    """
    reached = began if done is None else max(began, done)
    return max(0, min(reached + 1 if came == "moved" else began, steps - 1))


class Share(NamedTuple):
    """A share with its 95 % interval."""

    share: float
    low: float
    high: float


def share(count: int, n: int) -> Share:
    """``count`` of ``n`` with Wilson's score interval, which admits small numbers (Wilson, 1927; by SciPy)."""
    got = binomtest(count, n).proportion_ci(method="wilson")
    return Share(count / n, float(got.low), float(got.high))
