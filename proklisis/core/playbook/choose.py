"""From fault verdicts to one main thing.

A root is a present fault with no present ancestor in the graph of ``leads_to``; a reason is named and takes nobody's
place. Roots are ranked by severity × share × (1 + faults explained) × weight × 1.5 for the rider's own intention;
safety goes first, and the earlier phase breaks a tie. Reasons, effects and what is tolerated are never the main thing
unless a coach says so.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from proklisis.core.errors import InputError
from proklisis.core.playbook.causes import ancestors
from proklisis.core.playbook.judge import FaultVerdict, Sheet, judge_fault
from proklisis.core.playbook.under import all_hold

INTENTION_WEIGHT = 1.5
MORE = 2
#: What a coach may choose among.
FOUND = ("present", "episode", "unclear")


@dataclass(frozen=True)
class Choice:
    """What was found on a run, and what comes first.

    Attributes
    ----------
    verdicts : fault → verdict, of every fault that is judged on this run
    causes, explains : fault → present faults that it hangs from, and that hang from it
    roots : present faults with no present cause, first what ranks first
    first : the main thing and at most two more, as they are given
    own : the main thing as the software ranks it
    ranks : root → (whether safety hangs on it, its score, how early it is)
    """

    verdicts: dict[str, FaultVerdict]
    causes: dict[str, list[str]]
    explains: dict[str, list[str]]
    roots: list[str]
    first: list[str]
    own: str | None
    ranks: dict[str, tuple[bool, float, int]]

    @property
    def main(self) -> str | None:
        return self.first[0] if self.first else None

    @property
    def present(self) -> set[str]:
        return {i for i, v in self.verdicts.items() if v.status == "present"}


def choose(s: Sheet, dropped: Collection[str] = (), name: str = "sheet") -> Choice:
    """Judge every fault and rank the roots; a coach's ``chosen.main`` goes first.

    ``dropped`` faults are left out as if they could not be there. InputError where what was chosen is not on the run.
    """
    book = s.book
    verdicts = {
        i: v
        for i, f in book.faults.items()
        if i not in dropped and (v := judge_fault(s, i, f)) is not None
    }
    present = {i for i, v in verdicts.items() if v.status == "present"}
    above = ancestors(s, verdicts)
    causes = {i: sorted(above[i] & present) for i in verdicts}
    explains = {i: [j for j in verdicts if j in present and i in causes[j]] for i in verdicts}

    def root(i: str) -> bool:
        causal = [c for c in causes[i] if book.faults[c].role != "reason"]
        return i in present and not causal and book.faults[i].role != "effect"

    def rank(i: str) -> tuple[bool, float, int]:
        v, f = verdicts[i], book.faults[i]
        score = v.severity * v.share * (1 + len(explains[i])) * f.weight.get(s.level, 1.0)
        for h in f.heavier:
            score *= (
                h.by if any(all_hold(h.given, s.under.given(u.segment)) for u in v.fired) else 1.0
            )
        # A rider works on a thing when the root is that thing or explains it.
        if set(s.sheet.intention.faults) & {i, *explains[i]}:
            score *= INTENTION_WEIGHT
        safety = any(book.faults[j].safety for j in (i, *explains[i]))
        return (safety, round(score, 6), -v.order)

    roots = sorted((i for i in verdicts if root(i)), key=rank, reverse=True)
    may = [i for i in roots if _may_be_main(s, verdicts[i])]
    # What is tolerated, a reason and the like stand behind what can be put right.
    roots = [*may, *(i for i in roots if i not in may)]
    own = may[0] if may else None
    chosen = s.sheet.chosen
    wanted = [*filter(None, (chosen.main or (own if chosen.also else None),)), *chosen.also]
    for i in wanted:
        v = verdicts.get(i)
        if v is None or v.status not in FOUND:
            raise InputError(
                f"{i!r} is not on this run", f"{name}: chosen.{'main' if i == chosen.main else 'also'}",
                "choose one of its findings, or note it by eye under observations",
            )  # fmt: skip
    may = list(dict.fromkeys([*wanted, *may]))
    return Choice(
        verdicts, causes, explains, roots, may[: 1 + MORE], own, {i: rank(i) for i in roots}
    )


def _may_be_main(s: Sheet, v: FaultVerdict) -> bool:
    f = s.book.faults[v.fault]
    tolerated = bool(f.tolerated) and all(
        all_hold(f.tolerated, s.under.given(u.segment)) for u in v.fired
    )
    return f.role == "cause" and not tolerated
