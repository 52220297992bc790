"""Which item comes next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from math import log


@dataclass(frozen=True)
class Candidate:
    """An item of the pool: its topic is exercise, discipline and what is trained; ``seen`` how often this coach had it."""

    item: int
    topic: tuple[str, str, str]
    size: float
    seen: int


def choose(
    pool: Sequence[Candidate], due: Mapping[tuple[str, str, str], datetime], wanted: Mapping[tuple[str, str, str], float],
    now: datetime, last: Candidate | None,
) -> Candidate | None:  # fmt: skip
    """The next item, or None where there is none.

    A topic that is due comes first, the longest overdue before others, then one that was never asked, then the one that is due
    soonest. Of its items one that was seen least, of those the one nearest to the size that is ``wanted``. Never the
    item just had, and another exercise than the last where there is one.
    """
    rest = [c for c in pool if last is None or c.item != last.item]
    if not rest:
        return None
    never = datetime.max.replace(tzinfo=now.tzinfo)

    def order(c: Candidate) -> tuple[bool, int, float, int, float, int]:
        at = due.get(c.topic)
        rank = 1 if at is None else 0 if at <= now else 2
        again = last is not None and c.topic[0] == last.topic[0]
        size = wanted.get(c.topic)
        off = abs(log(max(c.size, 0.1)) - log(size)) if size else 0.0
        # Something seen before teaches less than something new.
        return (again, rank + (1 if c.seen else 0), (at or never).timestamp() if rank != 1 else 0.0, c.seen, off, c.item)  # fmt: skip

    return min(rest, key=order)
