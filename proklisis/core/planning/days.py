"""On which day what waits will be answered, with so many minutes on each day of the week."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from statistics import median, quantiles

from proklisis.core.errors import InputError

#: A review takes about so long, minutes, where nothing is known of this coach's (house choice).
USUAL_MIN = 12.0
#: So many reviews are needed before they say how long one takes (house choice).
FEWEST = 4
#: Nothing is planned further ahead than this, days.
HORIZON = 365


@dataclass(frozen=True)
class Minutes:
    """How long a review takes.

    Attributes
    ----------
    each : minutes, the median
    low, high : minutes between which half of them lie
    n : reviews that it was learnt from; 0 where it is taken for granted
    """

    each: float
    low: float
    high: float
    n: int


def minutes_of(took: Sequence[float]) -> Minutes:
    """Learn how long a review takes from how long others took, minutes; the usual where too few are known."""
    if len(took) < FEWEST:
        return Minutes(USUAL_MIN, USUAL_MIN / 2, USUAL_MIN * 2, 0)
    low, _, high = quantiles(took, n=4, method="inclusive")
    return Minutes(median(took), low, high, len(took))


def answered_on(needed: Sequence[float], week: Sequence[float], today: date) -> list[date | None]:
    """Return on which day each review is done; None for what is not within a year.

    Parameters
    ----------
    needed : minutes of each review, in the order in which they are done
    week : (7,) minutes that there are on Monday to Sunday
    today : the first day whose minutes are used

    A review that does not fit into what is left of a day is begun there and done on the next day that has minutes.

    Raises
    ------
    InputError : not seven days, or minutes below 0 or beyond a day
    """
    if len(week) != 7:
        raise InputError("a week has seven days", "week", "give minutes for Monday to Sunday")
    if any(not 0 <= m <= 24 * 60 for m in week) or any(m < 0 for m in needed):
        raise InputError("minutes go from 0 to those of a day", "week", "give 0 for a day off")
    done: list[date | None] = []
    day, left = today, week[today.weekday()]
    for minutes in needed:
        while minutes > left + 1e-9:
            minutes -= left
            day += timedelta(days=1)
            left = week[day.weekday()]
            if (day - today).days > HORIZON or sum(week) == 0:
                return [*done, *[None] * (len(needed) - len(done))]
        left -= minutes
        done.append(day)
    return done
