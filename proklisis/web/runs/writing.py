"""One writer at a time on a run, and nobody's text under somebody else's."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from django.db import connection, transaction

from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Run

#: The first half of the database's lock; the run's number is the second.
LOCK = 0x50524F4B


class Changed(Conflict):
    """Somebody else has changed what this change started from; ``theirs`` is what stands there now."""

    def __init__(self, theirs: Mapping[str, Any]) -> None:
        what = " and ".join(k.replace("_", " ") for k in theirs)
        super().__init__(f"Somebody else has changed the {what} meanwhile. Nothing of either is lost: choose which is to stand.")
        self.theirs = dict(theirs)


def nothing_changed(was: Mapping[str, Any] | None, now: Mapping[str, Any], new: Mapping[str, Any]) -> None:
    """Raise Changed where a value is no longer what a change started from, nor already what it wants."""
    theirs = {k: now[k] for k, v in (was or {}).items() if k in now and now[k] != v and now[k] != new.get(k, v)}
    if theirs:
        raise Changed(theirs)


@contextmanager
def one_writer(run: Run) -> Iterator[None]:
    """Hold a run against every other writer until this transaction ends, and bring ``run`` up to date first.

    The row itself is not locked: workers go on reporting how far they are while something is worked out.
    """
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, %s)", [LOCK, run.pk])
        run.refresh_from_db()
        yield
