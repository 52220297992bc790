"""Backups: a folder with the database as it was, every kept file beside it, and a list of what must be there.

The database is written by PostgreSQL's own program (django-dbbackup calls it). A kept file never changes under its
name, so that a backup into the same folder copies only what is new.
"""

from __future__ import annotations

import hashlib
import json
import shutil
from io import StringIO
from pathlib import Path
from typing import NamedTuple

from django.apps import apps
from django.core.files import File
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.db import connection
from django.utils import timezone

from proklisis.core.errors import InputError
from proklisis.web.stored import file_names

CHUNK = 1024 * 1024
LIST, FILES = "backup.json", "files"


class Kept(NamedTuple):
    """What a backup holds, or what was restored of one."""

    database: str
    rows: dict[str, int]
    files: int
    copied: int


def backup(folder: Path) -> Kept:
    """Write the database and every file that a row knows of into ``folder``; the list comes last.

    The database comes first: a file that is made meanwhile is left for the next backup, and one that a row knows of is there.
    """
    (folder / FILES).mkdir(parents=True, exist_ok=True)
    dump = folder / f"{timezone.now():%Y%m%d-%H%M%S}.dump"
    rows = _rows()
    call_command(
        "dbbackup", output_path=str(dump), interactive=False, quiet=True, stdout=StringIO()
    )
    files = copied = 0
    for name in file_names():
        target = folder / FILES / name
        files += 1
        if not default_storage.exists(name):
            continue
        if target.exists() and target.stat().st_size == default_storage.size(name):
            continue
        target.parent.mkdir(parents=True, exist_ok=True)
        part = target.with_name(f".{target.name}.part")
        with default_storage.open(name, "rb") as kept, part.open("wb") as out:
            shutil.copyfileobj(kept, out, CHUNK)
        part.replace(target)
        copied += 1
    told = {
        "database": dump.name,
        "sha256": _digest(dump),
        "rows": rows,
        "written": timezone.now().isoformat(),
    }
    (folder / LIST).write_text(json.dumps(told, indent=1), "utf-8")
    return Kept(dump.name, rows, files, copied)


def restore(folder: Path, over: bool = False) -> Kept:
    """Put back what :func:`backup` wrote, bring the tables up to this version, and see that all is there.

    Raises InputError where the folder is no whole backup, or where this server holds a club and ``over`` is not said.
    """
    try:
        told = json.loads((folder / LIST).read_text("utf-8"))
        dump = folder / str(told["database"])
        whole = _digest(dump) == told["sha256"]
    except (OSError, ValueError, KeyError, TypeError) as e:
        raise InputError(
            "this is no whole backup", str(folder), "give the folder that `backup` wrote to"
        ) from e
    if not whole:
        raise InputError(
            "the database in this backup is damaged",
            str(dump),
            "take an older one, or copy it again",
        )
    if not over and _has_clubs():
        raise InputError(
            "this server holds a club already",
            str(folder),
            "restore into an empty one, or say --over",
        )
    call_command(
        "dbrestore", input_path=str(dump), interactive=False, quiet=True, verbosity=0, stdout=StringIO()
    )  # fmt: skip
    connection.close()
    call_command("migrate", verbosity=0)
    missing, files, copied = [], 0, 0
    for name in file_names():
        files += 1
        source = folder / FILES / name
        if default_storage.exists(name):
            continue
        if not source.exists():
            missing.append(name)
            continue
        with source.open("rb") as f:
            default_storage.save(name, File(f))
        copied += 1
    if missing:
        raise InputError(
            f"the database is back, and {len(missing)} of {files} files are not in this backup, as {missing[0]}",
            str(folder), "copy them from an older backup into its files folder and restore again with --over",
        )  # fmt: skip
    return Kept(dump.name, _rows(), files, copied)


def _rows() -> dict[str, int]:
    names = ("clubs.Club", "riders.Rider", "runs.Run", "scripts.Script")
    return {n: apps.get_model(n)._default_manager.count() for n in names}


def _has_clubs() -> bool:
    if "clubs_club" not in connection.introspection.table_names():
        return False
    return bool(_rows()["clubs.Club"])


def _digest(path: Path) -> str:
    with path.open("rb") as f:
        return hashlib.file_digest(f, "sha256").hexdigest()
