"""Puts jobs into the queue by their names. What a job does stands in ``tasks``, which knows all who work; nobody needs to know it."""

from __future__ import annotations

from contextlib import suppress

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued


def put(name: str, **ids: str | int) -> None:
    """Put a job into the queue."""
    app.configure_task(name, allow_unknown=False).defer(**ids)


def put_once(name: str, lock: str, **ids: str | int) -> None:
    """Put a job into the queue, unless one of the same ``lock`` waits there already."""
    # What the queue refuses undoes no more than the asking.
    with suppress(AlreadyEnqueued), transaction.atomic():
        app.configure_task(name, allow_unknown=False, queueing_lock=lock).defer(**ids)
