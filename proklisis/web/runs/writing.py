"""One writer at a time on a run, and nobody's text under somebody else's."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any
from uuid import uuid4

from django.core.cache import cache
from django.db import connection, transaction
from django.db.models import F

from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Edit, Result, Run

#: First half of the database's lock of writing; the run's number is the second.
WRITING = 0x50524F4B
#: Whoever works a run out and dies is waited for no longer; two at a time do the work twice and nothing worse.
LEASE_S = 30
LOOK_AGAIN_S = 0.05


class Changed(Conflict):
    """Somebody else has changed what this change started from; ``theirs`` is what stands there now."""

    def __init__(self, theirs: Mapping[str, Any]) -> None:
        what = " and ".join(k.replace("_", " ") for k in theirs)
        super().__init__(
            f"Somebody else has changed the {what} meanwhile. Nothing of either is lost: choose which is to stand."
        )
        self.theirs = dict(theirs)


def nothing_changed(
    was: Mapping[str, Any] | None, now: Mapping[str, Any], new: Mapping[str, Any]
) -> None:
    """Raise Changed where a value is no longer what a change started from, nor already what it wants."""
    theirs = {
        k: now[k]
        for k, v in (was or {}).items()
        if k in now and now[k] != v and now[k] != new.get(k, v)
    }
    if theirs:
        raise Changed(theirs)


@contextmanager
def one_writer(run: Run) -> Iterator[None]:
    """Hold a run against every other writer until this transaction ends, and bring ``run`` up to date first.

    The row itself is not locked: workers go on reporting how far they are.
    """
    with transaction.atomic():
        _ask("SELECT pg_advisory_xact_lock(%s, %s)", WRITING, run.pk)
        run.refresh_from_db()
        yield


@contextmanager
def one_measuring(run: Run) -> Iterator[None]:
    """Let one at a time work a run out, and bring ``run`` up to date first. No transaction is open meanwhile, and anybody may write."""
    # Not the database's own lock: a pool may give the next question to another of its connections.
    mine, key = str(uuid4()), f"measuring/{run.pk}"
    while not cache.add(key, mine, LEASE_S):
        time.sleep(LOOK_AGAIN_S)
    try:
        run.refresh_from_db()
        yield
    finally:
        if cache.get(key) == mine:
            cache.delete(key)


def _ask(question: str, *numbers: int) -> None:
    with connection.cursor() as cursor:
        cursor.execute(question, numbers)


def put_down(run: Run, by: Any, kind: str, values: Mapping[str, Any]) -> Edit:
    """Keep one correction of a coach's; what they had undone before it is not put back any more."""
    run.corrections.filter(by=by, undone=True).delete()
    return run.edits.create(by=by, person=run.person, kind=kind, values=dict(values))


def changed(**which: Any) -> None:
    """Put down that something has changed that the numbers of these runs rest on."""
    Result.objects.filter(**which).update(stale=True, remeasure=True, changes=F("changes") + 1)


def judged_anew(**which: Any) -> None:
    """Put down that something has changed that these runs are judged by, while their numbers stand."""
    Result.objects.filter(**which).update(stale=True, changes=F("changes") + 1)
