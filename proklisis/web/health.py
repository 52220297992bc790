"""Whether all parts do their work: the database, the workers, the queue and the disk."""

from __future__ import annotations

import shutil
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from django.conf import settings
from django.db import OperationalError, connection
from django.http import HttpRequest, JsonResponse
from django.utils import timezone

if TYPE_CHECKING:
    from procrastinate.contrib.django.models import ProcrastinateJob

#: A worker is heard of every ten seconds; a job that waits longer, or a disk with less room, needs a look.
UNHEARD = timedelta(seconds=45)
OLDEST_WAITING = timedelta(minutes=10)
LEAST_FREE = 2 * 1024**3


def live(request: HttpRequest) -> JsonResponse:
    """Answer 200 when the database answers too."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except OperationalError:
        return JsonResponse({"status": "the database does not answer"}, status=503)
    return JsonResponse({"status": "ok"})


def health(request: HttpRequest) -> JsonResponse:
    """Answer 200 when every part works, else 503 with what does not, and the figures in both cases."""
    from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker

    folder = settings.MEDIA_ROOT if settings.MEDIA_ROOT.exists() else settings.ROOT
    free = shutil.disk_usage(folder).free
    figures: dict[str, object] = {"disk_free_gb": round(free / 1024**3, 1)}
    wrong = ["the disk is nearly full"] if free < LEAST_FREE else []
    now = timezone.now()
    try:
        workers = ProcrastinateWorker.objects.filter(last_heartbeat__gt=now - UNHEARD).count()
        waiting = ProcrastinateJob.objects.filter(status="todo", queue_name="clips")
        due = [j.scheduled_at or _put(j) for j in waiting.order_by("id")[:200]]
        oldest = max((now - at for at in due if at is not None and at < now), default=timedelta(0))
        figures |= {
            "workers": workers,
            "waiting": waiting.count(),
            "oldest_waiting_s": round(oldest.total_seconds()),
        }
    except OperationalError:
        return JsonResponse({"status": "the database does not answer", **figures}, status=503)
    if not workers:
        wrong.append("no worker has been heard of")
    if oldest > OLDEST_WAITING:
        wrong.append("work has been waiting for long")
    return JsonResponse(
        {"status": "; ".join(wrong) or "ok", **figures}, status=503 if wrong else 200
    )


def _put(job: ProcrastinateJob) -> datetime | None:
    """When a job was put into the queue."""
    event = job.procrastinateevent_set.filter(type="deferred").first()
    return event.at if event else None
