"""A Script's ladder and the day of the next clip as a calendar file (RFC 5545, by icalendar)."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from django.utils import timezone
from icalendar import Calendar, Event

from proklisis.core.planning.sessions import ANYWHERE
from proklisis.web.scripts.models import Script
from proklisis.web.scripts.practice import STAGES, begins_at, planned, steps_of


def calendar(script: Script, host: str) -> bytes:
    """The sessions of an approved Script and the day of the next clip.

    Where it is known when the rider can and the place is open, each at its hour; else spread evenly over the days until the next clip.
    """
    body, approved_at = script.approved, script.approved_at
    assert body is not None and approved_at is not None
    today = timezone.localdate(approved_at)
    again = date.fromisoformat(body["retest_on"])
    out = Calendar()
    out.add("prodid", "-//Proklisis//Script//EN")
    out.add("version", "2.0")
    main = body["prescription"]["main"]
    steps = steps_of(body)
    rider = script.run.rider
    plan = planned(rider, body, today)
    # The day of the clip is the coach's, or was set before the rider's days changed: no session comes after it.
    if plan is not None and any(s.day >= again for s in plan[:-1]):
        plan = None
    place = str(rider.practises_at or "")
    first, days = today + timedelta(days=1), max((again - today).days - 1, 0)
    for n, (drill, k, step) in enumerate(steps):
        words = (
            f"{step['text']}\n{step['dose']}\n\nIt works when: {drill['sign']}\nCue: {main['cue']}"
        )
        title = f"{STAGES.get(step['stage'], step['stage'])}: {drill['title']}"
        name = f"{drill['id']}-{k}"
        if plan is None:
            on = first + timedelta(days=days * n // max(len(steps), 1))
            out.add_component(_event(script, name, on, on + timedelta(days=1), title, words, host))
        else:
            begin = begins_at(plan[n])
            event = _event(script, name, begin, begin + timedelta(minutes=plan[n].minutes), title, words, host)  # fmt: skip
            if place and step["stage"] != ANYWHERE:
                event.add("location", place)
            out.add_component(event)
    targets = "\n".join(body["targets"])
    out.add_component(_event(script, "film", again, again + timedelta(days=1), "Film again", targets, host))  # fmt: skip
    made: bytes = out.to_ical()
    return made


def _event(
    script: Script, name: str, begin: date, end: date, title: str, words: str, host: str
) -> Any:
    event = Event()
    event.add("uid", f"{script.pk}-{name}@{host}")
    event.add("dtstamp", script.approved_at)
    event.add("dtstart", begin)
    event.add("dtend", end)
    event.add("summary", title)
    event.add("description", words)
    return event
