"""Which faults hang from which: the graph of ``leads_to`` as it holds on one run."""

from __future__ import annotations

from collections.abc import Mapping

from proklisis.core.playbook.judge import FaultVerdict, Sheet, judge_condition
from proklisis.core.playbook.schema import Link
from proklisis.core.playbook.under import all_hold


def ancestors(s: Sheet, verdicts: Mapping[str, FaultVerdict]) -> dict[str, set[str]]:
    """For each fault of the playbook, every fault from which it can follow on this run."""
    parents: dict[str, set[str]] = {}
    for i, f in s.book.faults.items():
        for link in f.links:
            if link_holds(s, verdicts, i, link):
                parents.setdefault(link.to, set()).add(i)
    out: dict[str, set[str]] = {}
    for i in s.book.faults:
        found: set[str] = set()
        queue = [i]
        while queue:
            for parent in parents.get(queue.pop(), set()) - found:
                found.add(parent)
                queue.append(parent)
        out[i] = found
    return out


def link_holds(s: Sheet, verdicts: Mapping[str, FaultVerdict], cause: str, link: Link) -> bool:
    """Whether what a link asks for is there: in the units in which the cause fires, or anywhere where it does not."""
    v = verdicts.get(cause)
    units = [u.segment for u in v.fired] if v is not None and v.fired else s.units()
    if link.given and not any(all_hold(link.given, s.under.given(u)) for u in units):
        return False
    if link.side is not None and not any(s.side_of(u) == link.side for u in units):
        return False
    if link.way is not None and (v is None or v.way != link.way):
        return False
    child = verdicts.get(link.to)
    if link.unless is not None and child is not None and child.fired:
        outcomes = [judge_condition(s, link.unless, u.segment).fires for u in child.fired]
        return sum(outcomes) * 2 < len(outcomes)
    return True
