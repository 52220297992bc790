"""A film of two runs beside each other: made by a job, kept for a while."""

from __future__ import annotations

import logging
import tempfile
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.core.files import File
from django.utils import timezone

from proklisis.core.errors import InputError
from proklisis.footage.limited import limited
from proklisis.footage.paired import Half, paired
from proklisis.web.clips.footage import footage_of
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import PairFilm, Run
from proklisis.web.stored import on_disk

logger = logging.getLogger(__name__)
#: Processor time for each frame of either clip that is decoded on the way, seconds, and besides.
FRAME_CPU_S, BESIDES_S = 1.0, 120.0
#: A film that was made is kept so long; it can be made again.
KEPT = timedelta(days=7)
#: The longest film, frames.
MOST_FRAMES = 3600


class Cancelled(Exception):
    """The coach does not want the film any more."""


def ask(a: Run, b: Run, fps: float, halves: dict[str, Any]) -> PairFilm:
    """Put a film into the queue. Raises InputError for one that is too long or whose clip is not there."""
    for run in (a, b):
        if not hasattr(run, "clip") or not run.clip.working:
            raise InputError(
                f"{run.rider.name}'s run has no clip here", "", "choose a run with its clip"
            )
    if len(halves["a"]["numbers"]) > MOST_FRAMES:
        raise InputError(
            f"the film would have {len(halves['a']['numbers'])} frames", "", f"take single units; {MOST_FRAMES} frames is the most"
        )  # fmt: skip
    film = PairFilm.objects.create(
        club=a.club, a=a, b=b, fps=fps, halves=halves, state=PairFilm.State.QUEUED
    )
    put("pair_film", film_id=film.pk)
    return film


def make(film_id: int) -> None:
    """Make the film, unless it is not wanted any more."""
    film = (
        PairFilm.objects.select_related("a__clip__film", "b__clip__film").filter(pk=film_id).first()
    )
    if film is None or film.state not in (PairFilm.State.QUEUED, PairFilm.State.WORKING):
        return
    PairFilm.objects.filter(pk=film_id).update(state=PairFilm.State.WORKING, progress=0.0)

    def progress(share: float) -> None:
        wanted = PairFilm.objects.filter(pk=film_id, cancel_asked=False).update(progress=share)
        if not wanted:
            raise Cancelled

    def still_wanted() -> None:
        if not PairFilm.objects.filter(pk=film_id, cancel_asked=False).exists():
            raise Cancelled

    a, b = film.a.clip, film.b.clip
    with (
        on_disk(a.source) as of_a,
        on_disk(b.source) as of_b,
        tempfile.TemporaryDirectory() as folder,
    ):
        out = Path(folder) / "pair.mp4"
        halves = [
            Half(footage_of(clip, path), **film.halves[key])
            for key, clip, path in (("a", a, of_a), ("b", b, of_b))
        ]
        frames = sum(max(h.numbers) - min(h.numbers) + 1 for h in halves)
        try:
            limited(
                paired, *halves, film.fps, out, name=f"{a.name} beside {b.name}",
                seconds=BESIDES_S + FRAME_CPU_S * frames, progress=progress, alive=still_wanted,
            )  # fmt: skip
        except Cancelled:
            PairFilm.objects.filter(pk=film_id).update(state=PairFilm.State.CANCELLED)
            return
        except InputError as e:
            PairFilm.objects.filter(pk=film_id).update(state=PairFilm.State.FAILED, problem=str(e)[:500])  # fmt: skip
            return
        except RuntimeError:
            logger.exception("film of a pair %s", film_id)
            PairFilm.objects.filter(pk=film_id).update(
                state=PairFilm.State.FAILED, problem="The film could not be made. Try again; if it fails again, keep a still."
            )  # fmt: skip
            return
        with out.open("rb") as made:
            film.file.save("pair.mp4", File(made), save=False)
    done = PairFilm.objects.filter(pk=film_id, cancel_asked=False).update(
        state=PairFilm.State.READY, progress=1.0, file=film.file.name
    )
    if not done:
        film.file.storage.delete(film.file.name or "")
        PairFilm.objects.filter(pk=film_id).update(state=PairFilm.State.CANCELLED)


def purge() -> None:
    """Let go of films that were made long ago."""
    PairFilm.objects.filter(added__lt=timezone.now() - KEPT).delete()
