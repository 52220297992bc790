"""The long work on a run, step by step: look at the clip, copy it, track it, measure and judge."""

from __future__ import annotations

import logging
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

from django.core.files import File
from django.db.models import F

from proklisis.core.errors import InputError
from proklisis.core.tracks import ClipFacts
from proklisis.footage.probe import Clip as Footage
from proklisis.footage.probe import probe
from proklisis.footage.working_copy import make_working_copy
from proklisis.web.runs.blobs import pack
from proklisis.web.runs.models import Clip, Run, TrackSet
from proklisis.web.runs.reviewing import refresh

T = TypeVar("T")
log = logging.getLogger(__name__)
REPORT_EVERY_S = 0.4
#: Share of the whole work each step takes on a usual clip.
COPY, TRACK = (0.02, 0.15), (0.15, 0.97)


class Stopped(Exception):
    """A coach cancelled, or a newer attempt has taken over."""


class Reporter:
    """Writes progress to the run's row now and then, and stops the work when asked to."""

    def __init__(self, run: Run) -> None:
        self.run, self.attempt, self.last = run, run.attempt, 0.0

    def step(self, words: str, progress: float) -> None:
        self.last = 0.0
        self._write(step=words, progress=progress)

    def share(self, span: tuple[float, float]) -> Callable[[float], None]:
        def report(done: float) -> None:
            if time.monotonic() - self.last > REPORT_EVERY_S:
                self._write(progress=span[0] + (span[1] - span[0]) * done)

        return report

    def _write(self, **values: object) -> None:
        self.last = time.monotonic()
        mine = Run.objects.filter(pk=self.run.pk, attempt=self.attempt, cancel_asked=False)
        if not mine.update(state=Run.State.WORKING, **values):
            raise Stopped


def enqueue(run: Run) -> None:
    """Put a run into the queue as a new attempt; an older attempt stops at its next report."""
    from proklisis.web.runs.tasks import analyse

    Run.objects.filter(pk=run.pk).update(
        attempt=F("attempt") + 1, state=Run.State.QUEUED, step="", progress=0.0, problem="", cancel_asked=False
    )
    run.refresh_from_db()
    analyse.configure(lock=f"run-{run.pk}").defer(run_id=run.pk, attempt=run.attempt)


def analyse_run(run_id: int, attempt: int) -> None:
    """Do the whole work for one attempt; the run's row always ends in a state a coach can read."""
    run = Run.objects.select_related("rider", "clip").filter(pk=run_id, attempt=attempt).first()
    if run is None:
        return
    reporter = Reporter(run)
    mine = Run.objects.filter(pk=run_id, attempt=attempt)
    try:
        _all_steps(run, reporter)
    except Stopped:
        mine.update(state=Run.State.CANCELLED, step="", problem="")
    except InputError as e:
        mine.update(state=Run.State.FAILED, step="", problem=str(e)[:500])
    except Exception:
        log.exception("run %s could not be analysed", run_id)
        mine.update(
            state=Run.State.FAILED, step="",
            problem="Something went wrong on our side; the clip is kept. Try again, and report it if it happens twice.",
        )  # fmt: skip
    else:
        mine.update(state=Run.State.READY, step="", progress=1.0, problem="")


def _all_steps(run: Run, reporter: Reporter) -> None:
    clip = run.clip
    reporter.step("Looking at the clip", 0.0)
    footage = _named(probe, clip)
    clip.codec, clip.width, clip.height = footage.codec, footage.width, footage.height
    clip.fps, clip.frames = footage.fps, len(footage.t)
    clip.missing_after = [int(i) for i in footage.gaps]
    clip.save()
    if not clip.working:
        reporter.step("Making a copy to step through", COPY[0])
        _copy(clip, footage, reporter)
    if not run.track_sets.exists():
        reporter.step("Following the rider", TRACK[0])
        # The tracker loads for seconds, and only a worker needs it.
        from proklisis.footage.follow import follow

        share = reporter.share(TRACK)
        height = run.rider.height_cm / 100 if run.rider.height_cm else None
        facts = ClipFacts(fps=footage.fps, view=run.view)  # type: ignore[arg-type]
        tracks = _named(lambda path: follow(footage, facts, height, lambda done, n: share(done / n)), clip)
        TrackSet.objects.create(run=run, data=pack(tracks))
    reporter.step("Measuring and judging", TRACK[1])
    refresh(run)


def _named(work: Callable[[Path], T], clip: Clip) -> T:
    """Do ``work`` on the stored file, and call the file by the name the coach knows it by."""
    path = Path(clip.original.path)
    try:
        return work(path)
    except InputError as e:
        raise InputError(e.what, clip.name if e.where == path.name else e.where, e.mend) from e


def _copy(clip: Clip, footage: Footage, reporter: Reporter) -> None:
    with tempfile.TemporaryDirectory(prefix="proklisis-") as folder:
        out = Path(folder) / "working.mp4"
        size = _named(lambda path: make_working_copy(footage, out, reporter.share(COPY)), clip)
        with out.open("rb") as f:
            clip.working.save("working.mp4", File(f), save=False)
        clip.play_width, clip.play_height = size
        clip.save()
