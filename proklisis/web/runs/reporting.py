"""How far the work on a run has got, written to its row; and stopping it when a coach asks."""

from __future__ import annotations

import errno
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from logging import getLogger

from django.db.models import Sum
from django.utils import timezone
from psycopg.errors import DiskFull

from proklisis.core.errors import InputError
from proklisis.web.runs.models import Piece, Run, Worked
from proklisis.web.watching.failing import keep

log = getLogger(__name__)
REPORT_EVERY_S = 0.4
#: Share of the whole work at which the rider is begun to be followed, and at which that is done.
FOLLOW = (0.08, 0.97)
DISK_FULL = "The server's disk is full; the clip is kept. Make room on it and try again."
OUR_FAULT = "Something went wrong on our side; the clip is kept. Try again, and report it if it happens twice."
BUSY = (Run.State.QUEUED, Run.State.WORKING)


class Stopped(Exception):
    """A coach cancelled, another part failed, or a newer attempt has taken over."""


class Reporter:
    """Writes progress to the row of a run, or of what else is worked on, now and then, and stops the work when asked to."""

    def __init__(self, run_id: int, attempt: int, of: type[Worked] = Run) -> None:
        self.run_id, self.attempt, self.last = run_id, attempt, 0.0
        self.rows = of._default_manager

    def step(self, words: str, progress: float) -> None:
        self._write(step=words, progress=progress)

    def alive(self) -> None:
        """Raise Stopped when this attempt is not wanted any more."""
        if time.monotonic() - self.last > REPORT_EVERY_S:
            self._write()

    def share(self, first: float, last: float) -> Callable[[int, int], None]:
        """A ``progress(done, all)`` for a step that goes from one share of the whole to another."""

        def report(done: int, of: int) -> None:
            if time.monotonic() - self.last > REPORT_EVERY_S:
                self._write(progress=first + (last - first) * done / max(of, 1))

        return report

    def followed(self, piece: Piece) -> Callable[[int, int], None]:
        """A ``progress(done, all)`` for one of the pieces that are followed side by side."""

        def report(done: int, of: int) -> None:
            if time.monotonic() - self.last > REPORT_EVERY_S:
                Piece.objects.filter(pk=piece.pk).update(done=done)
                self._write(progress=followed_share(self.run_id))

        return report

    def _write(self, **values: object) -> None:
        self.last = time.monotonic()
        mine = self.rows.filter(
            pk=self.run_id, attempt=self.attempt, cancel_asked=False, state__in=BUSY
        )
        if not mine.update(state=Run.State.WORKING, **values):
            raise Stopped


def followed_share(run_id: int) -> float:
    """Share of the whole work that is done while the pieces are followed."""
    sums = Piece.objects.filter(run=run_id).aggregate(
        done=Sum("done"), first=Sum("first"), stop=Sum("stop")
    )
    frames = (sums["stop"] or 0) - (sums["first"] or 0)
    return FOLLOW[0] + (FOLLOW[1] - FOLLOW[0]) * (sums["done"] or 0) / max(frames, 1)


def seconds_left(run: Run) -> float | None:
    """About how long the following will still take, from how long it took so far; None when it cannot be told."""
    done = run.progress - FOLLOW[0]
    if run.state != Run.State.WORKING or run.following_since is None or done < 0.02:
        return None
    since = (timezone.now() - run.following_since).total_seconds()
    return max(1.0, since * (FOLLOW[1] - run.progress) / done)


@contextmanager
def ending_readably(run_id: int, attempt: int, of: type[Worked] = Run) -> Iterator[None]:
    """Whatever happens to a part of the work, the row ends in a state a coach can read."""
    mine = of._default_manager.filter(pk=run_id, attempt=attempt, state__in=BUSY)
    try:
        yield
    except Stopped:
        mine.filter(cancel_asked=True).update(state=Run.State.CANCELLED, step="", problem="")
    except InputError as e:
        mine.update(state=Run.State.FAILED, step="", problem=str(e)[:500])
    except Exception as e:
        log.exception("%s %s could not be analysed", of.__name__, run_id)
        keep(e)
        mine.update(
            state=Run.State.FAILED, step="", problem=DISK_FULL if _disk_full(e) else OUR_FAULT
        )


def _disk_full(e: Exception) -> bool:
    """Whether a file could not be written for want of room, or the database said so of its own."""
    return isinstance(e.__cause__, DiskFull) or (isinstance(e, OSError) and e.errno == errno.ENOSPC)
