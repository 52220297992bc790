"""Queue again the runs that no job is left for. Run before workers start.

A job whose worker was killed is not lost: another worker takes it up (``tasks.take_up_lost``).
"""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand
from procrastinate.contrib.django.models import ProcrastinateJob

from proklisis.web.runs.models import Run
from proklisis.web.runs.work import enqueue


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        waiting = set(
            ProcrastinateJob.objects.filter(status__in=["todo", "doing"], args__has_key="run_id").values_list(
                "args__run_id", "args__attempt"
            )
        )
        for run in Run.objects.filter(state__in=[Run.State.QUEUED, Run.State.WORKING]):
            if (run.pk, run.attempt) not in waiting:
                enqueue(run)
                self.stdout.write(f"Run {run.pk} goes on from where it was.")
