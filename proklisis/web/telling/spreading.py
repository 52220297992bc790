"""A Telling that was told on one run, put on others with their own frames and numbers."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from proklisis.core.errors import InputError
from proklisis.core.shapes.telling import Telling as Told
from proklisis.core.telling.played import played
from proklisis.core.telling.spread import spread
from proklisis.web.analysis.reviewing import reviewed
from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Recording, RecordingPiece, Run
from proklisis.web.runs.writing import one_writer
from proklisis.web.telling import recordings
from proklisis.web.telling.models import Telling
from proklisis.web.telling.telling import parsed, proposed, seen_of, stands


def put_on(source: Run, to: Run, by: Any, feet: bool) -> None:
    """Put what a coach told to all on another run. InputError where it was told of nothing or of another thing, Conflict where
    the other run was told already."""
    now = stands(source, feet)
    if now.row is None:
        raise InputError("nobody has told that run yet", "run", "speak over it first")
    if source.discipline != to.discipline:
        raise InputError(
            "the two runs are of different disciplines", "run", "choose a run of the same one"
        )
    done = reviewed(to)
    seen = seen_of(done)
    ready = proposed(source, reviewed(source), now.seen, feet)
    told = spread(now.told, ready, proposed(to, done, seen, feet))
    with transaction.atomic(), one_writer(to):
        if Telling.objects.filter(run=to).exists():
            raise Conflict(f"{to.rider.name}'s run was told already. What was told stays.")
        told = parsed(_with_own_sound(told, to, by))
        played(told, seen)
        Telling.objects.create(run=to, body=told, version=1, made_on=to.result.made, by=by)
        recordings.put_to_use(to, told)


def _with_own_sound(told: Told, to: Run, by: Any) -> dict[str, Any]:
    """The same with copies of its recordings, so that each run keeps what is said on it."""
    copies: dict[int, int] = {}
    passages: list[dict[str, Any]] = []
    for p in told["passages"]:
        sound = p.get("sound")
        if not sound:
            passages.append({**p})
            continue
        if sound["recording"] not in copies:
            was = Recording.objects.get(pk=sound["recording"])
            copy = Recording.objects.create(run=to, kind=was.kind, by=by)
            data = was.content()
            RecordingPiece.objects.create(recording=copy, begin=0, size=len(data), data=data)
            copies[was.pk] = copy.pk
        passages.append({**p, "sound": {**sound, "recording": copies[sound["recording"]]}})
    return {**told, "passages": passages}
