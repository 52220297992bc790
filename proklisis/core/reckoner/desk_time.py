"""Clips that wait against hours there are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import accumulate

from proklisis.core.errors import InputError
from proklisis.core.reckoner.declared import (
    Calculator,
    Known,
    Number,
    Numbers,
    Plot,
    Quantities,
    quantity,
    rule,
)
from proklisis.core.reckoner.words import plain


class DeskOf(Quantities):
    minutes: Numbers = quantity("Minutes that each clip takes", "min", takes="numbers")
    due_days: Numbers = quantity("Days until each is due", "d", takes="numbers")
    minutes_a_day: Number = quantity("Minutes a day", "min", gt=0, le=1440, span=(1.0, 1440.0))
    order: Numbers = quantity("Order, by clip", takes="numbers")
    late: Numbers = quantity("Clips that will be late", takes="numbers")
    done_days: Numbers = quantity("Days until each is done", "d", takes="numbers")
    in_time: Number = quantity("Clips that can be promised in time", ge=0)
    minutes_needed: Number = quantity("Minutes a day that would do for all", "min", ge=0)


def earliest_due(due_days: Sequence[float]) -> list[int]:
    """Clips by their due dates, earliest first, those given first before others of the same day; counted from 1.

    No order has a smaller greatest delay (Jackson 1955).
    """
    return [i + 1 for i in sorted(range(len(due_days)), key=lambda i: (due_days[i], i))]


def most_in_time(minutes: Sequence[float], due_days: Sequence[float], a_day: float) -> int:
    """How many of them can be done in time at most (Moore & Hodgson 1968): the longest goes where one would be late."""
    kept: list[float] = []
    for i in earliest_due(due_days):
        kept.append(minutes[i - 1])
        if sum(kept) > due_days[i - 1] * a_day + 1e-9:
            kept.remove(max(kept))
    return len(kept)


def _ordered(minutes: list[float], due_days: list[float]) -> list[int]:
    if len(minutes) != len(due_days):
        raise InputError(
            f"{len(minutes)} clips and {len(due_days)} due dates", "due_days", "give one for each clip"
        )  # fmt: skip
    if any(m <= 0 for m in minutes) or any(d < 0 for d in due_days):
        raise InputError(
            "a clip of no minutes, or one due in the past, cannot be", "minutes",
            "give minutes above 0 and days from 0",
        )  # fmt: skip
    return earliest_due(due_days)


def _done(minutes: list[float], order: list[int], minutes_a_day: float) -> list[float]:
    done = dict(zip(order, accumulate(minutes[i - 1] for i in order), strict=True))
    return [done[i + 1] / minutes_a_day for i in range(len(minutes))]


def _late(done_days: list[float], due_days: list[float], order: list[int]) -> list[int]:
    return [i for i in order if done_days[i - 1] > due_days[i - 1] + 1e-9]


def _enough(minutes: list[float], due_days: list[float], order: list[int]) -> float | None:
    sums = accumulate(minutes[i - 1] for i in order)
    days = [due_days[i - 1] for i in order]
    return max(s / d for s, d in zip(sums, days, strict=True)) if min(days) > 0 else None


def _says(k: Known, u: Mapping[str, float]) -> list[str]:
    if "order" not in k:
        return []
    out = [f"Earliest due first: {', '.join(str(i) for i in k['order'])}."]
    if "late" in k:
        last = max(k["done_days"])
        out.append(f"At {plain(k['minutes_a_day'])} minutes a day all are done after {plain(last)} days.")  # fmt: skip
        if k["late"]:
            names = ", ".join(str(i) for i in k["late"])
            out.append(f"Late in this order: {names}. At most {k['in_time']:.0f} of {len(k['minutes'])} can be promised in time: draw among them, or find {plain(k['minutes_needed'])} minutes a day.")  # fmt: skip
        else:
            out.append("None will be late.")
    return out


DESK = Calculator(
    id="desk", title="Time on the Desk", doc="In which order, when each is done, what will be late, how many can be promised.",
    formula="earliest due date first; done = minutes up to it ÷ minutes a day; late where that is past its due day; in time at most: the longest goes where one would be late",
    source="Jackson 1955 (no order has a smaller greatest delay); Moore & Hodgson 1968 (fewest late ones), from memory",
    of=DeskOf, answers=("order", "late", "done_days"),
    rules=(
        rule("order", _ordered), rule("done_days", _done), rule("late", _late),
        rule("in_time", lambda minutes, due_days, minutes_a_day, order: most_in_time(minutes, due_days, minutes_a_day)),
        rule("minutes_needed", _enough),
    ),
    own_doubt=lambda k: {x: 0.0 for x in ("in_time",) if x in k},
    says=_says,
    example={"minutes": "12, 8, 15, 10, 9, 14", "due_days": "1, 2, 2, 3, 5, 5", "minutes_a_day": "25"}, plots=(Plot("minutes_a_day", "in_time", ("minutes", "due_days")),),
)  # fmt: skip
