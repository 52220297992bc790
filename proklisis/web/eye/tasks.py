"""The job that makes items while nothing else waits."""

from __future__ import annotations

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from proklisis.web.eye.pool import make_next


@app.task(name="make_eye_item", queue="clips", retry=RetryStrategy(max_attempts=2, wait=5), priority=-5)  # fmt: skip
def make_eye_item(discipline: str = "") -> None:
    """Make one item of the Eye; it asks for the next one itself, so that clips come between."""
    make_next(discipline)
