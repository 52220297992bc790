"""Whether all parts do their work: the database, the workers, the queue, the disk, the store and the cache."""

from __future__ import annotations

import dataclasses
import shutil
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, NamedTuple

from django.conf import settings
from django.core.cache import cache
from django.core.files.storage import default_storage
from django.db import OperationalError, connection
from django.http import HttpRequest, JsonResponse
from django.utils import timezone
from health_check.base import HealthCheck
from health_check.checks import Database
from health_check.exceptions import HealthCheckException, ServiceUnavailable

if TYPE_CHECKING:
    from procrastinate.contrib.django.models import ProcrastinateJob

#: A worker is heard of every ten seconds; a job that waits longer, or a disk with less room, needs a look.
UNHEARD = timedelta(seconds=45)
OLDEST_WAITING = timedelta(minutes=10)
LEAST_FREE = 2 * 1024**3


class Queue(NamedTuple):
    """What waits, and who works."""

    workers: int
    waiting: int
    oldest: timedelta


def queue() -> Queue:
    """Workers that were heard of, jobs that wait, and for how long the oldest does."""
    from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker

    now = timezone.now()
    workers = ProcrastinateWorker.objects.filter(last_heartbeat__gt=now - UNHEARD).count()
    waiting = ProcrastinateJob.objects.filter(status="todo", queue_name="clips")
    due = [j.scheduled_at or _put(j) for j in waiting.order_by("id")[:200]]
    oldest = max((now - at for at in due if at is not None and at < now), default=timedelta(0))
    return Queue(workers, waiting.count(), oldest)


def disk_free() -> int:
    """Bytes left where clips are kept."""
    folder = settings.MEDIA_ROOT if settings.MEDIA_ROOT.exists() else settings.ROOT
    return shutil.disk_usage(folder).free


@dataclasses.dataclass
class Disk(HealthCheck):  # type: ignore[misc]
    """The disk has room."""

    def run(self) -> None:
        if disk_free() < LEAST_FREE:
            raise ServiceUnavailable("the disk is nearly full")


@dataclasses.dataclass
class Workers(HealthCheck):  # type: ignore[misc]
    """Somebody works."""

    def run(self) -> None:
        if not queue().workers:
            raise ServiceUnavailable("no worker has been heard of")


@dataclasses.dataclass
class Waiting(HealthCheck):  # type: ignore[misc]
    """Nothing waits for long."""

    def run(self) -> None:
        if queue().oldest > OLDEST_WAITING:
            raise ServiceUnavailable("work has been waiting for long")


@dataclasses.dataclass
class Store(HealthCheck):  # type: ignore[misc]
    """Where files are kept answers."""

    def run(self) -> None:
        try:
            default_storage.exists("health")
        except Exception as e:
            raise ServiceUnavailable("the store of files does not answer") from e


@dataclasses.dataclass
class SharedCache(HealthCheck):  # type: ignore[misc]
    """What all web servers share is there."""

    def run(self) -> None:
        cache.set("health", 1, 10)
        if cache.get("health") != 1:
            raise ServiceUnavailable("the shared cache keeps nothing")


#: Looked at one after the other, in the request's own thread and connection.
CHECKS: tuple[HealthCheck, ...] = (Disk(), Workers(), Waiting(), Store(), SharedCache())


def live(request: HttpRequest) -> JsonResponse:
    """Answer 200 when the database answers too."""
    try:
        Database().run()
    except HealthCheckException:
        return JsonResponse({"status": "the database does not answer"}, status=503)
    return JsonResponse({"status": "ok"})


def health(request: HttpRequest) -> JsonResponse:
    """Answer 200 when every part works, else 503 with what does not, and the figures in both cases."""
    figures: dict[str, object] = {"disk_free_gb": round(disk_free() / 1024**3, 1)}
    wrong = []
    try:
        connection.ensure_connection()
        seen = queue()
        figures |= {
            "workers": seen.workers,
            "waiting": seen.waiting,
            "oldest_waiting_s": round(seen.oldest.total_seconds()),
        }
        for check in CHECKS:
            try:
                check.run()
            except HealthCheckException as e:
                wrong.append(e.message)
    except OperationalError:
        return JsonResponse({"status": "the database does not answer", **figures}, status=503)
    return JsonResponse(
        {"status": "; ".join(wrong) or "ok", **figures}, status=503 if wrong else 200
    )


def _put(job: ProcrastinateJob) -> datetime | None:
    """When a job was put into the queue."""
    event = job.procrastinateevent_set.filter(type="deferred").first()
    return event.at if event else None
