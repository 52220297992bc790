"""Kept files where a program can read them, wherever Django's storage keeps them."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from django.apps import apps
from django.db import models
from django.db.models.fields.files import FieldFile

from proklisis.core.errors import InputError


@contextmanager
def on_disk(file: FieldFile, called: str = "") -> Iterator[Path]:
    """A path of the file's content: where it lies if the storage is a disk, else a copy for as long as it is used.

    Where a program that reads it finds something wrong with the file, it is ``called`` as whoever sent it calls it.
    """
    stored = Path(file.name or "file").name
    try:
        with _somewhere(file, stored) as path:
            yield path
    except InputError as e:
        if not called or e.where != stored:
            raise
        raise InputError(e.what, called, e.mend) from e


@contextmanager
def _somewhere(file: FieldFile, stored: str) -> Iterator[Path]:
    try:
        path = Path(file.path)
    except NotImplementedError:
        with TemporaryDirectory(prefix="proklisis-") as folder:
            path = Path(folder) / stored
            with file.storage.open(file.name or "", "rb") as kept, path.open("wb") as copy:
                shutil.copyfileobj(kept, copy, 1024 * 1024)
            yield path
    else:
        yield path


def _file_fields() -> Iterator[models.FileField]:
    """Columns of our own tables that hold a file."""
    for model in apps.get_models():
        for field in model._meta.concrete_fields:
            if isinstance(field, models.FileField):
                yield field


def file_names() -> Iterator[str]:
    """Names of all files that a row knows of, each once."""
    seen: set[str] = set()
    for field in _file_fields():
        names = field.model._default_manager.exclude(**{field.name: ""})
        for name in names.values_list(field.name, flat=True):
            if name and name not in seen:
                seen.add(name)
                yield name
