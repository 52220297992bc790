"""A Script's ladder laid on days: where its rider is free and their place is open."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from typing import Any, NamedTuple

from proklisis.core.planning.sessions import Session, laid_out
from proklisis.web.riders.models import Rider
from proklisis.web.scripts.models import Script

STAGES = {"still": "Standing", "slow": "Slowly", "speed": "At speed", "full": "For real"}


class Step(NamedTuple):
    """One step of a drill of the main thing."""

    drill: dict[str, Any]
    number: int
    step: dict[str, Any]


def steps_of(body: dict[str, Any]) -> list[Step]:
    """The steps that a Script gives, in order; a ladder that goes on begins where it does."""
    main, begins = body["prescription"]["main"], body.get("begins", {})
    drills = [d for d in body["prescription"]["drills"] if main and d["fault"] == main["fault"]]
    return [
        Step(d, k, s)
        for d in drills
        for k, s in enumerate(d["steps"])
        if k >= begins.get(d["id"], 0)
    ]


def planned(rider: Rider, body: dict[str, Any], today: date) -> list[Session] | None:
    """A session for each step and one for the next clip; None where nobody has said when the rider can or the place is open,
    or no year is long enough."""
    place = rider.practises_at
    if rider.free is None and place is None:
        return None
    stages = [s.step["stage"] for s in steps_of(body)]
    return laid_out(stages, today, rider.free, place.week if place is not None else None)


def held_to(plan: list[Session] | None, again: date) -> list[Session] | None:
    """A plan in which every session comes before the day of the next clip; None for one in which they do not.

    That day is the coach's, or was set before the rider's days changed.
    """
    return None if plan is None or any(s.day >= again for s in plan[:-1]) else plan


def begins_at(session: Session) -> datetime:
    """When a session begins, by whatever clock hangs where it is."""
    return datetime.combine(session.day, time()) + timedelta(minutes=session.at)


def next_step(script: Script) -> Step | None:
    """The first step of an approved Script that the rider has not ticked; None where all are."""
    body = script.approved
    assert body is not None
    done = {(t.drill, t.step) for t in script.ticks.all()}
    return next((s for s in steps_of(body) if (s.drill["id"], s.number) not in done), None)
