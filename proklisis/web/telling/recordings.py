"""Recordings as they come in, piece by piece."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from django.db import IntegrityError, models, transaction

from proklisis.core.errors import InputError
from proklisis.core.shapes.telling import Telling as Told
from proklisis.footage.limited import limited
from proklisis.footage.told import loudness
from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Recording, RecordingPiece, Run

#: What browsers record.
KINDS = ("audio/webm", "audio/ogg", "audio/mp4")
#: The largest piece and recording, bytes: half an hour is about 14 MB.
PIECE, MOST = 2**21, 48 * 2**20
#: So loud a tenth of a second is, against the loudest, is somebody speaking (house choice).
SPEAKS = 0.08
#: What is left before and after speech, seconds.
ROOM_S = 0.25


def begin(run: Run, kind: str, by: Any) -> Recording:
    """A new recording; InputError for a kind that cannot be read."""
    plain = kind.split(";")[0].strip().lower()
    if plain not in KINDS:
        raise InputError(f"{plain or 'nothing'} is no kind of recording", "Content-Type", f"send {', '.join(KINDS)}")  # fmt: skip
    return Recording.objects.create(run=run, kind=plain, by=by)


def add(recording: Recording, begin: int, data: bytes) -> int:
    """Keep a piece that begins at a byte; the bytes kept so far. A piece that is there already is let be; Conflict where one is missing before it."""
    if len(data) > PIECE or begin + len(data) > MOST:
        raise InputError("this recording is too long", "", "stop, and go on in a new passage")
    have = recording.size
    if begin + len(data) <= have:
        return have
    if begin != have:
        raise Conflict(f"This recording goes on at byte {have}.")
    try:
        with transaction.atomic():
            RecordingPiece.objects.create(recording=recording, begin=begin, size=len(data), data=data)  # fmt: skip
    except IntegrityError:
        return recording.size  # the same piece was sent twice at once
    return have + len(data)


def put_to_use(run: Run, told: Told | None) -> None:
    """Mark which recordings of a run a kept Telling has; the others are let go after a while."""
    heard = {s["recording"] for p in (told["passages"] if told else []) if (s := p.get("sound"))}
    run.recordings.update(used=models.Q(pk__in=heard))


def speech(recording: Recording) -> tuple[float, float, float]:
    """From when to when somebody speaks, and how long the recording is, seconds; all of it where it is even."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "recording"
        path.write_bytes(recording.content())
        loud, length = limited(loudness, path, name="the recording", seconds=120)
    at = np.flatnonzero(np.asarray(loud) > SPEAKS * max(loud, default=0.0))
    if not len(at):
        return 0.0, length, length
    first, last = at[0] * 0.1 - ROOM_S, (at[-1] + 1) * 0.1 + ROOM_S
    return round(max(0.0, float(first)), 2), round(min(length, float(last)), 2), length
