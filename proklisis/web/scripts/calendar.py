"""A Script's ladder and the day of the next clip as a calendar file (RFC 5545, by icalendar)."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from django.utils import timezone
from icalendar import Calendar, Event

from proklisis.web.scripts.models import Script

STAGES = {"still": "Standing", "slow": "Slowly", "speed": "At speed", "full": "For real"}


def calendar(script: Script, host: str) -> bytes:
    """The sessions of an approved Script, spread evenly over the days until the next clip, and that day itself."""
    body, approved_at = script.approved, script.approved_at
    assert body is not None and approved_at is not None
    first = timezone.localdate(approved_at) + timedelta(days=1)
    again = date.fromisoformat(body["retest_on"])
    out = Calendar()
    out.add("prodid", "-//Proklisis//Script//EN")
    out.add("version", "2.0")
    main = body["prescription"]["main"]
    drills = [d for d in body["prescription"]["drills"] if main and d["fault"] == main["fault"]]
    begins = body.get("begins", {})
    # A ladder that goes on begins where it does.
    steps = [
        (d, k, s) for d in drills for k, s in enumerate(d["steps"]) if k >= begins.get(d["id"], 0)
    ]
    days = max((again - first).days, 0)
    for n, (drill, k, step) in enumerate(steps):
        on = first + timedelta(days=days * n // max(len(steps), 1))
        words = (
            f"{step['text']}\n{step['dose']}\n\nIt works when: {drill['sign']}\nCue: {main['cue']}"
        )
        title = f"{STAGES.get(step['stage'], step['stage'])}: {drill['title']}"
        out.add_component(_day(script, f"{drill['id']}-{k}", on, title, words, host))
    targets = "\n".join(body["targets"])
    out.add_component(_day(script, "film", again, "Film again", targets, host))
    made: bytes = out.to_ical()
    return made


def _day(script: Script, name: str, on: date, title: str, words: str, host: str) -> Any:
    event = Event()
    event.add("uid", f"{script.pk}-{name}@{host}")
    event.add("dtstamp", script.approved_at)
    event.add("dtstart", on)
    event.add("dtend", on + timedelta(days=1))
    event.add("summary", title)
    event.add("description", words)
    return event
