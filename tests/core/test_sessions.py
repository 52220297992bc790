"""Ladders on days, held against every way there is; groups held against every group there could be."""

from __future__ import annotations

import itertools
from datetime import date, timedelta

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.core.planning.sessions import DAY, Session, laid_out, together

MONDAY = date(2026, 11, 30)
STAGES = ("still", "slow", "speed", "full")


def hours(**days: list[tuple[int, int]]) -> list[list[tuple[int, int]]]:
    """A week by its days' names, in hours; the others are off."""
    names = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
    return [[(60 * a, 60 * b) for a, b in days.get(n, [])] for n in names]


def test_a_ladder_goes_over_the_days_that_both_have_with_rest_between_hard_ones():
    free = hours(tue=[(17, 19)], wed=[(17, 19)], thu=[(17, 19)], sat=[(9, 17)], sun=[(9, 17)])
    place = hours(wed=[(16, 21)], thu=[(16, 21)], fri=[(16, 21)], sat=[(10, 16)], sun=[(10, 16)])
    plan = laid_out(STAGES, MONDAY, free, place, 60)
    assert plan is not None
    assert [(s.step, s.day.strftime("%a %d"), s.at // 60) for s in plan] == [
        (0, "Tue 01", 17),  # at home, though the place is closed
        (1, "Wed 02", 17),
        (2, "Thu 03", 17),
        (3, "Sat 05", 10),  # a day of rest; Friday the rider cannot
        (
            4,
            "Wed 09",
            17,
        ),  # not on Sunday, the day after a hard one; the clip is on the next day that both have
    ]


def test_what_the_rider_has_else_is_kept_clear_of():
    other = [Session(0, MONDAY + timedelta(days=2), 600, 45)]
    plan = laid_out(("still", "speed"), MONDAY, None, None, 45, other)
    assert plan is not None
    days = [(s.day - MONDAY).days for s in plan]
    # A step at home may stand beside a hard day, but not on it; a hard one rests a day from it.
    assert days == [1, 4, 6]


@pytest.mark.parametrize("seed", range(40))
def test_no_other_way_of_laying_it_out_ends_earlier(seed):
    rng = np.random.default_rng(seed)
    stages = [str(s) for s in rng.choice(STAGES, rng.integers(1, 4))]

    def week() -> list[list[tuple[int, int]]]:
        out = []
        for _ in range(7):
            start = int(rng.integers(6, 18)) * 60
            long = int(rng.integers(1, 5)) * 30
            out.append([(start, start + long)] if rng.random() < 0.6 else [])
        return out

    free, place, minutes = week(), week(), 60
    taken = [
        Session(0, MONDAY + timedelta(days=int(d)), 600, 45)
        for d in rng.choice(12, 2, replace=False) + 1
    ]
    plan = laid_out(stages, MONDAY, free, place, minutes, taken)
    allowed = 18
    # Every way: each stage and the clip on any of the days ahead, checked by itself against what is asked.
    whole = [*stages, "clip"]
    busy = {(s.day - MONDAY).days for s in taken}
    hard = [s in ("speed", "full", "clip") for s in whole]

    def may(stage: str, ahead: int) -> bool:
        weekday = ahead % 7
        for a, b in free[weekday]:
            for c, d in [(0, DAY)] if stage == "still" else place[weekday]:
                if min(b, d) - max(a, c) >= minutes:
                    return ahead not in busy
        return False

    best = None
    for days in itertools.combinations(range(1, allowed + 1), len(whole)):
        if not all(may(s, d) for s, d in zip(whole, days, strict=True)):
            continue
        hards = [d for d, h in zip(days, hard, strict=True) if h]
        near = any(abs(d - e) <= 1 for d in hards for e in busy)
        if near or any(b - a <= 1 for a, b in itertools.pairwise(hards)):
            continue
        best = days[-1] if best is None else min(best, days[-1])
    found = None if plan is None else (plan[-1].day - MONDAY).days
    if best is None:
        assert found is None or found > allowed
    else:
        assert found == best


def test_no_step_is_put_at_midnight_where_nobody_has_said_when_the_rider_can():
    plan = laid_out(("still", "slow"), MONDAY, None, hours(tue=[(16, 21)], thu=[(16, 21)]))
    assert plan is not None and {s.at for s in plan} == {16 * 60}


def test_where_nobody_is_ever_free_nothing_is_promised():
    assert laid_out(("slow",), MONDAY, hours(), None) is None
    assert laid_out(("slow",), MONDAY, hours(mon=[(9, 10)]), hours(mon=[(10, 12)]), 30) is None
    assert laid_out((), MONDAY, hours(mon=[(9, 10)]), None, 30) is not None


@pytest.mark.parametrize(("week", "words"), [
    ([[]] * 6, "seven days"), ([[(600, 500)]] + [[]] * 6, "end after"), ([[(0, 1500)]] + [[]] * 6, "end after"),
    ([[(0, 100), (50, 200)]] + [[]] * 6, "cross"),
])  # fmt: skip
def test_hours_that_cannot_be_are_refused(week, words):
    with pytest.raises(InputError, match=words):
        laid_out(("slow",), MONDAY, week)


def test_riders_of_one_step_come_together_and_who_cannot_is_left_out():
    free = {
        1: hours(tue=[(17, 19)], sat=[(10, 12)]),
        2: hours(tue=[(18, 20)]),
        3: hours(sat=[(10, 13)]),
        4: hours(sat=[(11, 13)]),
        5: hours(sun=[(8, 9)]),
    }
    groups = together(free, MONDAY, place=hours(tue=[(16, 22)], sat=[(9, 18)]), minutes=60)
    assert [(g.day.strftime("%a"), g.at // 60, g.riders) for g in groups] == [
        ("Sat", 11, (1, 3, 4))
    ]
    # Rider 2 could come with rider 1 alone, who is in the larger group already.
    assert together({1: None}, MONDAY) == []
    assert len(together(dict.fromkeys(range(9)), MONDAY, most=4)[0].riders) == 4


@pytest.mark.parametrize("seed", range(25))
def test_no_larger_group_could_be_made_of_them(seed):
    rng = np.random.default_rng(100 + seed)
    free = {}
    for rider in range(5):
        week: list[list[tuple[int, int]]] = [[] for _ in range(7)]
        for day in rng.choice(7, 3, replace=False):
            start = int(rng.integers(8, 18)) * 60
            week[day] = [(start, start + int(rng.integers(2, 8)) * 30)]
        free[rider] = week
    groups = together(free, MONDAY, minutes=60, within=7)
    largest = 0
    for size in range(2, 6):
        for riders in itertools.combinations(range(5), size):
            for day in range(7):
                for at in range(0, DAY - 60, 30):
                    if all(any(a <= at and at + 60 <= b for a, b in free[r][day]) for r in riders):
                        largest = max(largest, size)
    assert max((len(g.riders) for g in groups), default=0) == largest
    seen = [r for g in groups for r in g.riders]
    assert len(seen) == len(set(seen))
