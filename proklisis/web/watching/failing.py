"""Keeping what failed: where, why and at what, and telling whoever watches over the server, without a name in it."""

from __future__ import annotations

import json
import logging
import sys
import threading
import traceback
import urllib.request
from collections.abc import Awaitable, Callable
from datetime import datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Any

import structlog
from asgiref.sync import sync_to_async
from django.apps import apps
from django.conf import settings
from django.core.signals import got_request_exception
from django.db import DatabaseError, transaction
from django.db.models import F
from django.http import HttpRequest
from django.utils import timezone

from proklisis.web.watching.models import Failure

if TYPE_CHECKING:
    from procrastinate import App, JobContext

log = logging.getLogger(__name__)
#: Whose a thing is that a task is given the number of: its model, and the way to its club.
WHOSE = {
    "run_id": ("runs.Run", "club"),
    "session_id": ("goes.SessionFilm", "club"),
    "sent_id": ("intake.Sent", "sender__intake__club"),
    "track_set_id": ("runs.TrackSet", "run__club"),
}
#: Films are told by the task that makes them.
FILMS = {
    "pair_film": ("runs.PairFilm", "club"),
    "told_film": ("runs.ToldFilm", "run__club"),
    "film_is_here": ("runs.Film", "club"),
}
#: A thing that is worked on anew counts as the same.
NOT_THE_THING = ("attempt", "of_attempt", "timestamp")
LONGEST = 1000
#: What nobody put aside and did not fail again is let go of after so long.
KEPT = timedelta(days=90)
REPORT_WAIT_S = 5


async def around_job(call: Callable[[], Awaitable[Any]], context: JobContext, worker: object) -> Any:  # fmt: skip
    """A worker's middleware: what is logged meanwhile says of which job, and what fails is kept."""
    job = context.job
    with structlog.contextvars.bound_contextvars(
        task=job.task_name, job=job.id, given=dict(job.task_kwargs)
    ):
        began = timezone.now()
        try:
            done = await call()
        except Exception as e:
            await sync_to_async(keep)(e)
            raise
        await sync_to_async(settle)(job.task_name, job.task_kwargs, began)
        return done


def around_jobs(app: App) -> None:
    """Put :func:`around_job` around whatever the workers of ``app`` do."""
    app.worker_defaults["worker_middleware"] = [around_job]


def keep(error: BaseException) -> None:
    """Keep that the job at hand failed, and report it; outside a job it is only reported."""
    about = structlog.contextvars.get_contextvars()
    report(error)
    if "task" not in about:
        return
    given = _thing(about["given"])
    reason = f"{type(error).__name__}: {error}"[:LONGEST].replace("\x00", "")
    try:
        with transaction.atomic():
            row, new = Failure.objects.get_or_create(
                task=about["task"], given=given,
                defaults={"club_id": _club(about["task"], given), "reason": reason, "place": place(error)},
            )  # fmt: skip
            if not new:
                row.reason, row.place = reason, place(error)
                row.times = F("times") + 1  # type: ignore[assignment]
                row.save()
    except DatabaseError:
        log.exception("a failure could not be kept")


def settle(task: str, given: dict[str, Any], began: datetime) -> None:
    """Let go of what failed before ``began`` and has been done since."""
    Failure.objects.filter(task=task, given=_thing(given), last__lt=began).delete()


def _thing(given: dict[str, Any]) -> dict[str, Any]:
    """What a job is about, whichever attempt it is."""
    return {k: v for k, v in given.items() if k not in NOT_THE_THING}


def clear_old() -> None:
    """Let go of what failed long ago."""
    Failure.objects.filter(last__lt=timezone.now() - KEPT).delete()


def place(error: BaseException) -> str:
    """File and line of our own code where an error was raised, or of the last of any."""
    frames = traceback.extract_tb(error.__traceback__)
    own = [f for f in frames if f"{settings.ROOT / 'proklisis'}" in f.filename] or frames
    if not own:
        return ""
    return f"{Path(own[-1].filename).name}:{own[-1].lineno} {own[-1].name}"[:200]


def report(error: BaseException) -> None:
    """Send an error to ``PROKLISIS_REPORT_TO``, where that is set: kind and place of it, the task and the numbers it was
    given, the request's number. What an error says may name a rider or a file, and stays here."""
    if not settings.REPORT_TO:
        return
    about = structlog.contextvars.get_contextvars()
    told: dict[str, Any] = {k: about[k] for k in ("task", "given", "request_id") if k in about}
    told |= {"what": type(error).__name__, "place": place(error)}
    # Nobody waits for a report, and none that cannot be sent is in anybody's way.
    threading.Thread(target=_send, args=(told,), daemon=True).start()


def _send(told: dict[str, Any]) -> None:
    request = urllib.request.Request(
        settings.REPORT_TO,
        json.dumps(told).encode(),
        {"Content-Type": "application/json"},
    )
    try:
        urllib.request.urlopen(request, timeout=REPORT_WAIT_S).close()
    except OSError as e:
        log.warning("a report of an error could not be sent: %s", type(e).__name__)


def _club(task: str, given: dict[str, Any]) -> int | None:
    name, way = next((WHOSE[k] for k in given if k in WHOSE), FILMS.get(task, ("", "")))
    if not name:
        return None
    number = next(iter(given.values()))
    rows = apps.get_model(name)._default_manager
    club: int | None = rows.filter(pk=number).values_list(way, flat=True).first()
    return club


def listen() -> None:
    """Hear of requests that failed."""
    got_request_exception.connect(_request_failed, dispatch_uid="failing")


def _request_failed(sender: Any, request: HttpRequest | None = None, **_: Any) -> None:
    if (error := sys.exc_info()[1]) is not None:
        report(error)
