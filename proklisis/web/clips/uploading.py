"""Clips on their way in: in pieces that are kept as they come, checked before anything is decoded."""

from __future__ import annotations

import hashlib
import shutil
from contextlib import suppress
from datetime import timedelta
from typing import Any, BinaryIO

from django.conf import settings
from django.core.files import File
from django.db import transaction
from django.db.models import RestrictedError, Sum
from django.utils import timezone

from proklisis.core.errors import InputError
from proklisis.footage.sniff import ACCEPTED, ENDINGS, container_of
from proklisis.web.clips import arriving
from proklisis.web.clips.arriving import CHUNK, Busy, Readable, place, received
from proklisis.web.errors import Conflict, DiskFull
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import Clip, Film, Run, Upload
from proklisis.web.runs.queueing import enqueue
from proklisis.web.runs.writing import judged_anew

#: An upload that nobody goes on with is kept so long.
KEPT = timedelta(days=2)
#: One that was not gone on with for so long takes nobody's place.
QUIET = timedelta(minutes=15)
#: So many bytes tell what a file is.
HEAD = 64
#: Room that is left on the disk for everything else, bytes.
RESERVE = 512 * 1024**2
#: Room a clip needs beside itself for its copy, as a share of it.
COPY_SHARE = 0.5


__all__ = ["Busy", "place", "received"]


class AlreadyHere(Conflict):
    """The club has this very clip; ``run`` is where it is."""

    def __init__(self, run: Run) -> None:
        removed = run.removed_at is not None
        where = f"run {run.pk} of {run.rider.name}"
        super().__init__(
            f"This very clip is already in {where}"
            + (
                ", which was removed. Bring that run back."
                if removed
                else ". Open that run, or use its clip for this one too."
            )
        )
        self.run = run.pk


class Arrived(File):  # type: ignore[type-arg]
    """A whole file on this disk, which the storage takes over by moving it and not by copying."""

    def temporary_file_path(self) -> str:
        return str(self.name)


def may_be_judged(run: Run) -> None:
    """Refuse to follow a rider for whom somebody has said no."""
    if not run.rider.may_be_judged:
        raise Conflict(
            f"Clips of {run.rider.name} are judged no more: that was withdrawn. Note on the Riders page who agrees again, if somebody does."
        )


def may_have(run: Run) -> None:
    """Refuse a clip for a run that has a good one, or of a rider who does not want to be judged any more."""
    may_be_judged(run)
    if hasattr(run, "clip") and run.state not in (
        Run.State.FAILED,
        Run.State.CANCELLED,
        Run.State.WAITING,
    ):
        raise Conflict("This run has its clip already. Make a new run for another clip.")


def check(name: str, size: int) -> None:
    """Refuse by name and size what cannot be a clip, or has no room here."""
    if not name.lower().endswith(ENDINGS):
        raise InputError("this is not a video file", name, f"send {ACCEPTED}")
    if size == 0:
        raise InputError("the file is empty", name, "send it again; the upload may have broken off")
    if size > settings.LARGEST_UPLOAD:
        raise InputError(
            f"the file is larger than {settings.LARGEST_UPLOAD // 1024**2} MB",
            name,
            "cut it to the run",
        )
    if not arriving.on_a_disk():
        return
    settings.MEDIA_ROOT.mkdir(parents=True, exist_ok=True)
    if shutil.disk_usage(settings.MEDIA_ROOT).free < RESERVE + size * (1 + COPY_SHARE):
        raise DiskFull(
            "The server's disk has no room for this clip. Make room on it and send the clip again."
        )


def begin(into: Run | Film, name: str, size: int) -> Upload:
    """Make room for a file that will come in pieces, as the clip of a run or as a film."""
    if isinstance(into, Run):
        may_have(into)
    elif into.file:
        raise Conflict("This film is here already.")
    check(name, size)
    club = into.club
    under_way = Upload.objects.filter(club=club)
    if under_way.filter(changed__gt=timezone.now() - QUIET).count() >= settings.MOST_UPLOADS:
        raise Conflict(
            f"{settings.MOST_UPLOADS} clips are on their way already. Wait until some have arrived, or cancel one."
        )
    own = Clip.objects.filter(run__club=club, film=None)
    kept = sum(rows.aggregate(sum=Sum("size"))["sum"] or 0 for rows in (own, club.films))
    coming = under_way.aggregate(sum=Sum("size"))["sum"] or 0
    if kept + coming + size > settings.CLUB_ROOM:
        raise DiskFull(
            f"The club's clips fill the {settings.CLUB_ROOM // 1024**3} GB that it has. Erase runs that nobody needs and send this again."
        )
    run, film = (into, None) if isinstance(into, Run) else (None, into)
    upload = Upload.objects.create(club=club, run=run, film=film, name=name[:255], size=size)
    arriving.begin(upload)
    return upload


def append(upload: Upload, offset: int, stream: Readable, most: int) -> int:
    """Write up to ``most`` bytes at the end and return how many are here; what came before a break is kept.

    Raises Busy while another request writes, Conflict when ``offset`` is not the end, DiskFull, and
    InputError when the first bytes show that this is no video.
    """
    arriving.append(upload, offset, stream, most)
    now = received(upload)
    if offset < HEAD <= now or now == upload.size:
        container_of(arriving.first_bytes(upload, HEAD), upload.name)
    Upload.objects.filter(pk=upload.pk).update(changed=timezone.now())
    return now


def finish(upload: Upload) -> None:
    """Make the whole file what it was sent as."""
    with arriving.whole(upload) as path, path.open("rb") as f:
        file = Arrived(f, str(path))
        if upload.run is not None:
            accept(upload.run, upload.name, file, upload.size)
        elif upload.film is not None:
            keep(upload.film, upload.name, file, upload.size)
    discard(upload)


def discard(upload: Upload) -> None:
    arriving.discard(upload)
    Upload.objects.filter(pk=upload.pk).delete()


def let_go_of_empty(run: Run | None) -> None:
    """Delete a run that was made for a clip which never came."""
    if run is not None and not Clip.objects.filter(run=run.pk).exists():
        Run.objects.filter(pk=run.pk, uploads=None).delete()


def accept(run: Run, name: str, file: Any, size: int) -> Run:
    """Keep a whole file untouched as the run's clip, and queue its analysis.

    Raises Conflict when the run has one already, or the club has this very clip.
    """
    may_have(run)
    digest = _new_digest(run.club_id, file, run)
    with transaction.atomic():
        let_go_of_clip(run)
        clip = Clip(run=run, name=name[:255], size=size, sha256=digest)
        clip.original.save(name, file, save=False)
        clip.save()
        run = Run.objects.select_related("rider", "clip").get(pk=run.pk)
        enqueue(run)
    return run


def keep(film: Film, name: str, file: Any, size: int) -> None:
    """Keep a whole file untouched as a film, and have its goes found.

    Raises Conflict when the club has this very film already.
    """
    digest = _new_digest(film.club_id, file)
    with transaction.atomic():
        film.name, film.size, film.sha256 = name[:255], size, digest
        film.file.save(name, file, save=True)
        put("film_is_here", film_id=film.pk)


def _new_digest(club: int, file: Any, run: Run | None = None) -> str:
    """What a file is told by; Conflict where the club has the very file, elsewhere than in ``run``."""
    digest = _digest(file.file if hasattr(file, "file") else file)
    runs = Run.objects.filter(club=club, clip__sha256=digest).select_related("rider")
    if (same := (runs.exclude(pk=run.pk) if run else runs).first()) is not None:
        raise AlreadyHere(same)
    if (film := Film.objects.filter(club=club, sha256=digest).first()) is not None:
        raise Conflict(f"This very film is here already, as session film “{film.name}”.")
    return digest


def let_go_of_clip(run: Run) -> None:
    """Make room for another clip: what was followed, marked and said on the old one says nothing of the new one."""
    if not hasattr(run, "clip"):
        return
    for rows in (run.track_sets, run.pieces, run.edits, run.carried):
        rows.all().delete()
    film = run.clip.film
    run.clip.delete()
    let_go(film)
    run.camera, run.follow_again = {}, False
    run.save(update_fields=["camera", "follow_again"])
    unmatch(run)


def unmatch(run: Run) -> None:
    """Forget how a run's clip lies over others in time: it is another clip now, or runs on another clock."""
    rows = Run.objects.filter(pk=run.pk) | Run.objects.filter(part_of=run)
    rows.update(offset_s=None, offset_u_s=None, offset_by="")
    judged_anew(run__in=[run.pk, run.part_of_id])


def let_go(film: Film | None) -> None:
    """Delete a film that nothing needs any more."""
    if film is not None:
        with suppress(RestrictedError):
            film.delete()


def check_whole(name: str, file: Any) -> None:
    """As :func:`check` for a file that came in one request, by its first bytes too."""
    check(name, file.size)
    container_of(file.read(HEAD), name)
    file.seek(0)


def clear_old() -> None:
    """Discard uploads that nobody went on with."""
    for upload in Upload.objects.filter(changed__lt=timezone.now() - KEPT).select_related("run"):
        discard(upload)
        # A run that a coach made waits for its clip; one that only a sent clip made is nobody's.
        if upload.run is not None and hasattr(upload.run, "sent_back"):
            let_go_of_empty(upload.run)


def _digest(f: BinaryIO) -> str:
    f.seek(0)
    digest = hashlib.sha256()
    while data := f.read(CHUNK):
        digest.update(data)
    f.seek(0)
    return digest.hexdigest()
