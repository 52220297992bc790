"""A ladder's steps laid on days: where the rider is free and the place is open, with rest between hard ones; and who can practise together."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from proklisis.core.errors import InputError
from proklisis.core.planning.days import HORIZON

#: Minutes since midnight, from and to.
Span = tuple[int, int]
#: Spans of Monday to Sunday.
Week = Sequence[Sequence[Span]]

DAY = 24 * 60
#: A session takes so long, minutes, where nobody says otherwise (house choice).
USUAL_MIN = 45
#: Steps that ask for rest before the next of them, and how many days of it (house choice).
HARD = frozenset({"speed", "full"})
REST_DAYS = 1
#: The step that needs no place: a room, a wall, a rail.
ANYWHERE = "still"


@dataclass(frozen=True)
class Session:
    """One step on one day.

    Attributes
    ----------
    step : which step of the ladder, from 0; the ladder's length for the next clip
    day, at : the day, and minutes since its midnight at which it begins
    minutes : how long it is
    """

    step: int
    day: date
    at: int
    minutes: int


def everywhere(week: Week | None, called: str) -> list[list[Span]]:
    """Seven days of spans that follow each other; the whole day of each where ``week`` is None.

    Raises
    ------
    InputError : not seven days, or spans that end before they begin, cross, or leave the day
    """
    if week is None:
        return [[(0, DAY)] for _ in range(7)]
    if len(week) != 7:
        raise InputError("a week has seven days", called, "give hours for Monday to Sunday")
    out = []
    for spans in week:
        ordered = sorted((int(a), int(b)) for a, b in spans)
        if any(not 0 <= a < b <= DAY for a, b in ordered):
            raise InputError("hours end after they begin, on the same day", called, "give from and to")  # fmt: skip
        if any(b > c for (_, b), (c, _) in itertools.pairwise(ordered)):
            raise InputError("hours of one day cross", called, "give each stretch once")
        out.append(ordered)
    return out


def both(one: Sequence[Span], other: Sequence[Span]) -> list[Span]:
    """What lies in both of two days' spans."""
    cut = [(max(a, c), min(b, d)) for a, b in one for c, d in other]
    return sorted((a, b) for a, b in cut if a < b)


def laid_out(
    stages: Sequence[str], today: date, free: Week | None = None, place: Week | None = None,
    minutes: int = USUAL_MIN, taken: Sequence[Session] = (),
) -> list[Session] | None:  # fmt: skip
    """Return a session for each step in turn and one for the next clip, each as early as may be; None where a year is too short.

    Parameters
    ----------
    stages : the stage of each step that is still to do: still, slow, speed, full
    today : nothing is planned before the day after it
    free : when the rider can, Monday to Sunday; whenever where None
    place : when the place is open; a step without skis, board or wheels needs none
    minutes : of one session
    taken : the rider's other sessions: one a day, and hard ones count for the rest

    One session a day, in the order of the ladder, at least ``REST_DAYS`` days between two hard ones. The clip comes on a
    later day than the last step, rested. As every session only asks for what comes after the one before, the earliest of
    each is the earliest of all.
    """
    if not 5 <= minutes <= DAY:
        raise InputError("a session takes from 5 minutes to a day", "minutes", "give its minutes")
    own, there = everywhere(free, "free days"), everywhere(place, "the place's hours")
    busy = {s.day for s in taken}
    # Others of theirs are taken as hard: nothing is known of them.
    hard_days = set(busy)
    out: list[Session] = []
    day = today
    for step, stage in enumerate([*stages, "clip"]):
        hard = stage in HARD or stage == "clip"
        while True:
            day += timedelta(days=1)
            if (day - today).days > HORIZON:
                return None
            if day in busy or (hard and _unrested(day, hard_days)):
                continue
            of_day = own[day.weekday()]
            # Where nobody has said when the rider can, the place's hours are all that is known.
            at_home = stage == ANYWHERE and free is not None
            spans = of_day if at_home else both(of_day, there[day.weekday()])
            fits = [a for a, b in spans if b - a >= minutes]
            if fits:
                break
        out.append(Session(step, day, fits[0], minutes))
        if hard:
            hard_days.add(day)
    return out


def _unrested(day: date, hard_days: set[date]) -> bool:
    return any(abs((day - d).days) <= REST_DAYS for d in hard_days)


@dataclass(frozen=True)
class Group:
    """Who practises the same step together, and when."""

    day: date
    at: int
    minutes: int
    riders: tuple[int, ...]


def together(
    free: Mapping[int, Week | None], today: date, place: Week | None = None, coach: Week | None = None,
    minutes: int = USUAL_MIN, within: int = 14, most: int = 8,
) -> list[Group]:  # fmt: skip
    """Return group sessions in which every rider who can come at all comes once, larger groups first, then earlier ones.

    Parameters
    ----------
    free : rider → when they can; whenever where None
    place, coach : when the place is open and the coach is there
    within : days from tomorrow on that are looked at
    most : riders of one group

    The largest group of all is taken, the earliest of several, and then the largest of those who are left. A group of one is
    none: who cannot come with another is left out.
    """
    if most < 2:
        raise InputError("a group has two riders at least", "most", "give two or more")
    own = {r: everywhere(w, f"free days of rider {r}") for r, w in free.items()}
    there, here = everywhere(place, "the place's hours"), everywhere(coach, "the coach's hours")
    left, out = set(free), []
    used: set[date] = set()
    while len(left) > 1:
        best: Group | None = None
        for ahead in range(1, within + 1):
            day = today + timedelta(days=ahead)
            if day in used:
                continue
            open_ = both(there[day.weekday()], here[day.weekday()])
            of = {r: both(open_, own[r][day.weekday()]) for r in left}
            # The best moment to begin is one at which somebody's time begins.
            for at in sorted({a for spans in of.values() for a, _ in spans}):
                come = sorted(r for r, spans in of.items() if any(a <= at and at + minutes <= b for a, b in spans))  # fmt: skip
                if len(come) > 1 and (best is None or min(len(come), most) > len(best.riders)):
                    best = Group(day, at, minutes, tuple(come[:most]))
        if best is None:
            break
        out.append(best)
        used.add(best.day)
        left -= set(best.riders)
    return sorted(out, key=lambda g: (g.day, g.at))
