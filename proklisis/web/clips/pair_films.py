"""A film of two runs beside each other: made by a job, kept for a while."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.utils import timezone

from proklisis.core.errors import InputError
from proklisis.footage.paired import Half, Lay, paired
from proklisis.web.clips.filming import make_film
from proklisis.web.clips.footage import footage_of
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import PairFilm, Run
from proklisis.web.stored import on_disk

#: Processor time for each frame of either clip that is decoded on the way, seconds, and besides.
FRAME_CPU_S, BESIDES_S = 1.0, 120.0
#: A film that was made is kept so long; it can be made again.
KEPT = timedelta(days=7)
#: The longest film, frames.
MOST_FRAMES = 3600


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
    if film is None or not film.busy:
        return
    a, b = film.a.clip, film.b.clip
    with on_disk(a.source) as of_a, on_disk(b.source) as of_b:
        halves = [
            Half(footage_of(clip, path), **film.halves[key])
            for key, clip, path in (("a", a, of_a), ("b", b, of_b))
        ]
        lay = Lay(**film.halves.get("lay", {}))
        frames = sum(max(h.numbers) - min(h.numbers) + 1 for h in halves)
        make_film(film, f"{a.name} beside {b.name}", BESIDES_S + FRAME_CPU_S * frames, paired, *halves, film.fps, lay)  # fmt: skip


def purge() -> None:
    """Let go of films that were made long ago."""
    PairFilm.objects.filter(added__lt=timezone.now() - KEPT).delete()
