"""The bytes of uploads that are on their way: on this disk, or as parts in a store that every web server reaches."""

from __future__ import annotations

import errno
import fcntl
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO, Protocol

from django.conf import settings
from django.core.files import File
from django.core.files.storage import default_storage
from django.db import IntegrityError, transaction
from django.db.models import Sum

from proklisis.web.errors import Conflict, DiskFull
from proklisis.web.runs.models import Upload, UploadPart

CHUNK = 1024 * 1024
#: A part of this size is put into the store while more is coming, so that a server that dies takes no more than that along.
PART = 16 * CHUNK
FULL = "The server's disk is full. Make room on it and send the clip again; it goes on from here."


class Readable(Protocol):
    def read(self, size: int = ..., /) -> bytes: ...


class Busy(Exception):
    """Another request is writing to the same upload."""


def on_a_disk() -> bool:
    """Whether files are kept on a disk that this server sees."""
    try:
        default_storage.path("x")
    except NotImplementedError:
        return False
    return True


def place(upload: Upload) -> Path:
    """Where the bytes lie on a disk."""
    return Path(settings.MEDIA_ROOT) / "uploads" / str(upload.pk)


def begin(upload: Upload) -> None:
    """Make room for the first byte."""
    if on_a_disk():
        place(upload).parent.mkdir(parents=True, exist_ok=True)
        place(upload).touch()


def received(upload: Upload) -> int:
    """Bytes that are here. They themselves tell, whatever became of the request that wrote them."""
    if not on_a_disk():
        return int(upload.parts.aggregate(sum=Sum("size"))["sum"] or 0)
    try:
        return place(upload).stat().st_size
    except FileNotFoundError:
        return 0


def append(upload: Upload, offset: int, stream: Readable, most: int) -> None:
    """Write up to ``most`` bytes at the end; what came before a break is kept.

    Raises Busy while another request writes, Conflict when ``offset`` is not the end, DiskFull.
    """
    try:
        (_append_on_disk if on_a_disk() else _append_parts)(upload, offset, stream, most)
    except OSError as e:
        if e.errno == errno.ENOSPC:
            raise DiskFull(FULL) from e
        raise


def _append_on_disk(upload: Upload, offset: int, stream: Readable, most: int) -> None:
    with place(upload).open("ab") as f:
        try:
            fcntl.flock(f, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as e:
            raise Busy from e
        _at_the_end(f.tell(), offset)
        left = min(most, upload.size - offset)
        try:
            while left > 0 and (data := stream.read(min(CHUNK, left))):
                f.write(data)
                left -= len(data)
        finally:
            f.flush()
            # What is acknowledged is on the disk, whatever becomes of the machine.
            os.fsync(f.fileno())


def _append_parts(upload: Upload, offset: int, stream: Readable, most: int) -> None:
    _at_the_end(received(upload), offset)
    left = min(most, upload.size - offset)
    while left > 0:
        with TemporaryDirectory(prefix="proklisis-") as folder:
            path = Path(folder) / "part"
            ended = None
            with path.open("wb") as f:
                wanted = min(PART, left)
                while wanted > 0:
                    try:
                        data = stream.read(min(CHUNK, wanted))
                    except Exception as e:
                        # The line broke: what came is kept, and then the break is told.
                        ended = e
                        break
                    if not data:
                        break
                    f.write(data)
                    wanted -= len(data)
            size = path.stat().st_size
            if size:
                with path.open("rb") as f:
                    _keep_part(upload, offset, size, f)
            if ended is not None:
                raise ended
        if wanted > 0:
            return
        offset, left = offset + size, left - size


def _keep_part(upload: Upload, offset: int, size: int, f: IO[bytes]) -> None:
    part = UploadPart(upload=upload, offset=offset, size=size)
    part.file.save(f"{upload.pk}/{offset}", File(f), save=False)
    try:
        with transaction.atomic():
            part.save()
    except IntegrityError as e:
        # Another request put its own part there first, or the upload was given up.
        part.file.storage.delete(part.file.name or "")
        raise Busy from e


def _at_the_end(here: int, offset: int) -> None:
    if offset != here:
        raise Conflict(f"The upload goes on at byte {here}, not {offset}.")


def first_bytes(upload: Upload, most: int) -> bytes:
    """The first bytes that came, up to ``most``."""
    if on_a_disk():
        with place(upload).open("rb") as f:
            return f.read(most)
    got = b""
    for part in upload.parts.order_by("offset"):
        with part.file.storage.open(part.file.name or "", "rb") as f:
            got += f.read(most - len(got))
        if len(got) >= most:
            break
    return got


@contextmanager
def whole(upload: Upload) -> Iterator[Path]:
    """A path of all that came, for as long as it is used; it may be moved away meanwhile."""
    if on_a_disk():
        yield place(upload)
        return
    with TemporaryDirectory(prefix="proklisis-") as folder:
        path = Path(folder) / "whole"
        with path.open("wb") as out:
            for part in upload.parts.order_by("offset"):
                with part.file.storage.open(part.file.name or "", "rb") as f:
                    shutil.copyfileobj(f, out, CHUNK)
        yield path


def discard(upload: Upload) -> None:
    """Let go of the bytes."""
    with suppress(FileNotFoundError):
        place(upload).unlink()
    # Their files go with the rows.
    upload.parts.all().delete()
