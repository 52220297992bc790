"""Runs that wait for their analysis: put in, stopped, and taken up again where their job was lost."""

from __future__ import annotations

from django.db import transaction
from django.db.models import F

from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import Run
from proklisis.web.runs.reporting import BUSY


def enqueue(run: Run) -> None:
    """Put a run into the queue as a new attempt; the parts of an older attempt stop at their next report."""
    with transaction.atomic():
        Run.objects.filter(pk=run.pk).update(
            attempt=F("attempt") + 1, state=Run.State.QUEUED, step="", progress=0.0, problem="", cancel_asked=False,
            joining=False, following_since=None,
        )  # fmt: skip
        run.refresh_from_db()
        put("analyse", run_id=run.pk, attempt=run.attempt)


def cancel(run: Run) -> None:
    """Stop a run's work: at once where no worker has it, else at the worker's next report."""
    busy = Run.objects.filter(pk=run.pk, state__in=BUSY)
    busy.update(cancel_asked=True)
    if run.state == Run.State.QUEUED or (run.pk, run.attempt) not in with_jobs():
        busy.update(state=Run.State.CANCELLED, step="", problem="")
    run.refresh_from_db()


def with_jobs() -> set[tuple[int, int]]:
    """Runs and their attempts that a job waits for or works on."""
    from procrastinate.contrib.django.models import ProcrastinateJob

    jobs = ProcrastinateJob.objects.filter(status__in=["todo", "doing"], args__has_key="attempt")
    return set(jobs.values_list("args__run_id", "args__attempt"))


def resume() -> list[int]:
    """Queue again the runs that no job is left for, or end them where that was asked; their numbers."""
    # Drawn runs have jobs of their own.
    left = Run.objects.filter(state__in=BUSY, club__drawn=False)
    known = with_jobs()
    lost = [run for run in left if (run.pk, run.attempt) not in known]
    for run in lost:
        if run.cancel_asked:
            left.filter(pk=run.pk).update(state=Run.State.CANCELLED, step="", problem="")
        else:
            enqueue(run)
    return [run.pk for run in lost]
