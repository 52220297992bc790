"""A Script's ladder and the day of the next clip as a calendar file (RFC 5545, by icalendar)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date, timedelta
from typing import Any

from django.utils import timezone
from icalendar import Calendar, Event

from proklisis.core.planning.sessions import ANYWHERE
from proklisis.web.scripts.models import Script
from proklisis.web.scripts.practice import STAGES, begins_at, held_to, planned, steps_of

#: A program that subscribes is asked to look again so often.
AGAIN = timedelta(hours=1)


def calendar(scripts: Iterable[Script], host: str, name: str = "") -> bytes:
    """The sessions of approved Scripts and the days of the next clips; with a ``name`` to subscribe to."""
    out = Calendar()
    out.add("prodid", "-//Proklisis//Script//EN")
    out.add("version", "2.0")
    if name:
        out.add("x-wr-calname", name)
        out.add("refresh-interval", AGAIN, parameters={"VALUE": "DURATION"})
    for script in scripts:
        for event in _events(script, host):
            out.add_component(event)
    made: bytes = out.to_ical()
    return made


def _events(script: Script, host: str) -> Iterator[Any]:
    """The sessions of an approved Script and the day of the next clip.

    Where it is known when the rider can and the place is open, each at its hour; else spread evenly over the days until the next clip.
    """
    body, approved_at = script.approved, script.approved_at
    assert body is not None and approved_at is not None
    today = timezone.localdate(approved_at)
    again = date.fromisoformat(body["retest_on"])
    main = body["prescription"]["main"]
    steps = steps_of(body)
    rider = script.run.rider
    plan = held_to(planned(rider, body, today), again)
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
            yield _event(script, name, on, on + timedelta(days=1), title, words, host)
        else:
            begin = begins_at(plan[n])
            event = _event(script, name, begin, begin + timedelta(minutes=plan[n].minutes), title, words, host)  # fmt: skip
            if place and step["stage"] != ANYWHERE:
                event.add("location", place)
            yield event
    targets = "\n".join(body["targets"])
    yield _event(script, "film", again, again + timedelta(days=1), "Film again", targets, host)


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
