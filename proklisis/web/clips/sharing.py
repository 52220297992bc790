"""One file for several runs: kept once, let go with the last run that needs it."""

from __future__ import annotations

from typing import TypedDict

from django.db import transaction

from proklisis.web.clips import uploading
from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Clip, Film, Run
from proklisis.web.runs.queueing import enqueue


class Aim(TypedDict):
    """Where somebody is once in a film: seconds from its first frame, and left, top, right, bottom in pixels."""

    s: float
    box: list[float]


def as_film(clip: Clip) -> Film:
    """The film that a clip is of; its own file becomes one, where it lies, when it is asked for the first time."""
    if clip.film is not None:
        return clip.film
    film = Film.objects.create(
        club=clip.run.club,
        name=clip.name,
        size=clip.size,
        sha256=clip.sha256,
        file=clip.original.name,
    )
    # Past the row's own saving, which would delete the file that it lets go of.
    Clip.objects.filter(pk=clip.pk).update(film=film, original="")
    clip.refresh_from_db()
    return film


def use(
    film: Film,
    run: Run,
    from_s: float | None = None,
    to_s: float | None = None,
    aim: Aim | None = None,
) -> Run:
    """Make a film, or the part of it from one time to another, the clip of a run, and queue its analysis.

    ``aim``: where the rider is once, where others may be in the picture too.
    """
    uploading.may_have(run)
    with transaction.atomic():
        uploading.let_go_of_clip(run)
        Clip.objects.create(
            run=run,
            film=film,
            name=film.name,
            size=film.size,
            sha256=film.sha256,
            from_s=from_s,
            to_s=to_s,
            aim=aim,
        )
        run = Run.objects.select_related("rider", "clip").get(pk=run.pk)
        enqueue(run)
    return run


def share(source: Run, run: Run) -> Run:
    """Use the clip of one run for another, too. Conflict where it has none, or both are one."""
    if source.pk == run.pk or not hasattr(source, "clip"):
        raise Conflict("That run has no clip that this one could use.")
    with transaction.atomic():
        film = as_film(Clip.objects.select_for_update(of=("self",)).get(run=source))
        return use(film, run, source.clip.from_s, source.clip.to_s, source.clip.aim)
