"""One measure told beside another, group of units by group: what the one did for the other.

A value of the second measure belongs to all units since the one before it: a gain in speed to the steps that made it.
"""

from __future__ import annotations

from itertools import combinations
from math import hypot

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.judge import Sheet
from proklisis.core.playbook.words import lower_first, unit_words
from proklisis.core.uncertainty import Value, digits


def told_beside(s: Sheet) -> list[str]:
    """A sentence for each group of units that has both measures of a pair, and one on which of them went together."""
    return [text for first, second in s.book.beside for text in _pair(s, first, second)]


def _pair(s: Sheet, first: str, second: str) -> list[str]:
    rows = _groups(s, first, second)
    out = [
        f"{_units(s, numbers)}: {_said(first, a)}, {lower_first(_said(second, b))}."
        for numbers, a, b in rows
    ]
    told = [_together(x[1], x[2], y[1], y[2]) for x, y in combinations(rows, 2)]
    more = [t for t in told if t is not None]
    if more and len(set(more)) == 1:
        way = "more" if more[0] else "less"
        out.append(
            f"Where {lower_first(REGISTRY[first].title)} was larger, {lower_first(REGISTRY[second].title)} was {way}."
        )
    return out


def _groups(s: Sheet, first: str, second: str) -> list[tuple[list[int], Value, Value]]:
    values, ends = s.by_measure.get(first, {}), s.by_measure.get(second, {})
    numbers = [n for n in s.units() if n is not None]
    out, since = [], 0
    for end in sorted(n for n in ends if n is not None) or numbers[-1:]:
        group = [n for n in numbers if since < n <= end]
        rows, last = [m for n in group for m in values.get(n, ())], ends.get(end) or ends.get(None)
        since = end
        if rows and last:
            # The steps share a camera: their doubts do not average out.
            out.append(
                (
                    group,
                    Value(sum(m.value for m in rows) / len(rows), max(m.u for m in rows)),
                    Value(last[0].value, last[0].u),
                )
            )
    return out


def _together(a: Value, b: Value, c: Value, d: Value) -> bool | None:
    """Whether the larger of two came with more of the other; None where a difference is within its doubt."""
    one, two = a.value - c.value, b.value - d.value
    if abs(one) <= 2 * hypot(a.u, c.u) or abs(two) <= 2 * hypot(b.u, d.u) or not one or not two:
        return None
    return (one > 0) == (two > 0)


def _units(s: Sheet, numbers: list[int]) -> str:
    if len(numbers) == 1:
        return f"{s.book.unit.capitalize()} {numbers[0]}"
    return f"{s.book.units.capitalize()} {numbers[0]} to {numbers[-1]}"


def _said(measure: str, v: Value) -> str:
    spread = f" ± {digits(2 * v.u, v.u)}" if v.u else ""
    return f"{REGISTRY[measure].title} {digits(v.value, v.u)}{spread}{unit_words(measure)}"
