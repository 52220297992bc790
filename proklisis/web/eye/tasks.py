"""The job that makes items while nothing else waits."""

from __future__ import annotations

from procrastinate.contrib.django import app

from proklisis.web.eye.pool import make_next


# One at a time, so that clips never wait for all workers; one that fails is not tried again, the next opening asks again.
@app.task(name="make_eye_item", queue="clips", priority=-5, lock="make_eye_item")
def make_eye_item(discipline: str = "") -> None:
    """Make one item of the Eye; it asks for the next one itself, so that clips come between."""
    make_next(discipline)
