"""The fair draw and the days on which what waits is answered."""

from __future__ import annotations

from collections import Counter
from datetime import date, timedelta

import numpy as np
import pytest
from scipy import stats

from proklisis.core.errors import InputError
from proklisis.core.planning.days import FEWEST, USUAL_MIN, answered_on, minutes_of
from proklisis.core.planning.draw import Entry, fair_draw

MONDAY = date(2026, 11, 30)


class TestDraw:
    def test_comes_out_the_same_from_its_seed_whatever_the_order(self):
        entries = [Entry(k, k % 3, k % 5 == 0) for k in range(30)]
        drawn = fair_draw(entries, 8, "winter")
        assert fair_draw(entries[::-1], 8, "winter") == drawn
        assert fair_draw(entries, 8, "summer") != drawn
        assert fair_draw(entries, 30, "winter")[:8] == drawn

    def test_draws_in_proportion_to_the_chances(self):
        """One place, chances 1 : 2 : 4: the first drawn is a sample of them (chi-square, 7,000 draws)."""
        entries = [Entry(1, 0), Entry(2, 1), Entry(3, 2)]
        n = 7000
        first = Counter(fair_draw(entries, 1, str(k))[0] for k in range(n))
        expected = [n / 7, 2 * n / 7, 4 * n / 7]
        assert stats.chisquare([first[1], first[2], first[3]], expected).pvalue > 0.001

    def test_is_fair_over_ten_thousand_weeks_and_nobody_waits_for_ever(self):
        """Twelve riders, three places a week: all are drawn equally often, and the longest wait stays short."""
        riders, places, weeks = range(12), 3, 10_000
        missed, last = dict.fromkeys(riders, 0), set()
        times, longest, twice = Counter(), 0, 0
        for week in range(weeks):
            drawn = fair_draw([Entry(r, missed[r], r in last) for r in riders], places, f"w{week}")
            twice += len(last & set(drawn))
            times.update(drawn)
            last = set(drawn)
            missed = {r: 0 if r in last else missed[r] + 1 for r in riders}
            longest = max(longest, *missed.values())
        assert stats.chisquare([times[r] for r in riders]).pvalue > 0.001
        # Where chances only stayed equal, somebody would wait for 32 weeks.
        assert longest <= 8
        assert twice == 0

    def test_takes_whoever_was_drawn_the_last_time_only_where_places_are_left(self):
        entries = [Entry(1, 0, True), Entry(2), Entry(3)]
        for k in range(50):
            assert set(fair_draw(entries, 2, str(k))) == {2, 3}
            assert fair_draw(entries, 3, str(k))[2] == 1

    @pytest.mark.parametrize(("entries", "places", "words"), [([], 1, "nobody"), ([Entry(1)], 0, "place"), ([Entry(1), Entry(1)], 1, "twice")])  # fmt: skip
    def test_that_cannot_be_is_refused(self, entries, places, words):
        with pytest.raises(InputError, match=words):
            fair_draw(entries, places, "x")


class TestDays:
    def test_worked_by_hand(self):
        """30 minutes on Monday and Wednesday: 20, 20 and 45 minutes are done on Monday, Wednesday and the next Monday."""
        week = [30, 0, 30, 0, 0, 0, 0]
        wednesday = MONDAY + timedelta(days=2)
        assert answered_on([20, 20, 45], week, MONDAY) == [MONDAY, wednesday, MONDAY + timedelta(days=7)]  # fmt: skip
        assert answered_on([], week, MONDAY) == []

    def test_agrees_with_counting_minute_by_minute(self):
        rng = np.random.default_rng(8)
        for _ in range(200):
            week = [float(x) for x in rng.choice([0, 10, 25, 60], 7)]
            needed = [float(x) for x in rng.integers(1, 90, rng.integers(1, 6))]
            today = MONDAY + timedelta(days=int(rng.integers(0, 7)))
            assert answered_on(needed, week, today) == minute_by_minute(needed, week, today)

    def test_nothing_is_promised_where_there_is_no_time(self):
        assert answered_on([5, 5], [0] * 7, MONDAY) == [None, None]
        assert answered_on([10, 10_000], [10, 0, 0, 0, 0, 0, 0], MONDAY) == [MONDAY, None]

    @pytest.mark.parametrize("week", [[60] * 6, [-1, *[60] * 6], [1441, *[0] * 6]])
    def test_a_week_that_cannot_be_is_refused(self, week):
        with pytest.raises(InputError):
            answered_on([1], week, MONDAY)


class TestMinutes:
    def test_are_assumed_until_enough_is_known(self):
        assert minutes_of([3.0] * (FEWEST - 1)).each == USUAL_MIN
        assert minutes_of([3.0] * (FEWEST - 1)).n == 0

    def test_are_the_median_and_the_middle_half(self):
        known = minutes_of([4, 6, 8, 10, 90])
        assert (known.each, known.low, known.high, known.n) == (8, 6, 10, 5)


def minute_by_minute(needed, week, today) -> list[date | None]:
    done, k, left = [], 0, needed[0]
    for day in (today + timedelta(days=d) for d in range(366)):
        for _ in range(int(week[day.weekday()])):
            left -= 1
            if left == 0:
                done.append(day)
                k += 1
                if k == len(needed):
                    return done
                left = needed[k]
    return [*done, *[None] * (len(needed) - len(done))]
