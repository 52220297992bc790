"""Kept files where a program can read them, wherever Django's storage keeps them."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from django.db.models.fields.files import FieldFile


@contextmanager
def on_disk(file: FieldFile) -> Iterator[Path]:
    """A path of the file's content: where it lies if the storage is a disk, else a copy for as long as it is used."""
    try:
        path = Path(file.path)
    except NotImplementedError:
        with TemporaryDirectory(prefix="proklisis-") as folder:
            path = Path(folder) / Path(file.name or "file").name
            with file.storage.open(file.name or "", "rb") as kept, path.open("wb") as copy:
                shutil.copyfileobj(kept, copy, 1024 * 1024)
            yield path
    else:
        yield path
