"""Read and write the open formats by file ending."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.tracks.tracks import Tracks
from proklisis.formats.coco import from_coco, to_coco
from proklisis.formats.tracks_c3d import from_c3d, to_c3d
from proklisis.formats.tracks_csv import from_csv, to_csv
from proklisis.formats.tracks_json import from_json, to_json
from proklisis.formats.tracks_parquet import from_parquet, to_parquet

#: The longest first: a name is held against them in order.
ENDINGS = (".coco.json", ".json", ".csv", ".parquet", ".c3d")
BINARY = {".parquet": to_parquet, ".c3d": to_c3d}


def read_text(path: Path, name: str = "") -> str:
    """Return a file's text; InputError, calling it ``name``, when it is missing, a folder or not text."""
    name = name or str(path)
    try:
        return path.read_text("utf-8")
    except FileNotFoundError as e:
        raise InputError("there is no such file", name, "check its name") from e
    except UnicodeDecodeError as e:
        raise InputError("this is not a text file", name, "give JSON or CSV in UTF-8") from e
    except OSError as e:
        raise InputError(f"the file cannot be read ({e.strerror})", name) from e


def write_text(path: Path, text: str) -> None:
    """Write a file whole or not at all."""
    partial = path.with_name(path.name + ".partial")
    try:
        partial.write_text(text, "utf-8")
        partial.replace(path)
    except OSError as e:
        partial.unlink(missing_ok=True) if partial.parent.exists() else None
        raise InputError(
            f"the file cannot be written ({e.strerror})", str(path), "choose another folder"
        ) from e


def dump_json(data: Any) -> str:
    """JSON text with keys in the order given; the same data gives the same text."""
    return json.dumps(data, ensure_ascii=False, allow_nan=False, indent=1) + "\n"


def _ending(path: Path) -> str:
    name = path.name.lower()
    ending = next((e for e in ENDINGS if name.endswith(e)), None)
    if ending is None:
        raise InputError(
            f"the ending {path.suffix!r} is not a track format",
            str(path),
            f"use {' or '.join(ENDINGS)}",
        )
    return ending


def read_tracks(path: Path, name: str = "") -> Tracks:
    """Read tracks from a file; its ending tells the format, and a ``.json`` may be tracks/1 or COCO.

    ``name`` is what the file is called in errors, and whose ending counts, where it lies under another.
    """
    name = name or str(path)
    ending = _ending(Path(name))
    if ending == ".parquet":
        return from_parquet(_there(path, name), name)
    if ending == ".c3d":
        return from_c3d(_there(path, name), name)
    text = read_text(path, name)
    if ending == ".csv":
        return from_csv(text, name)
    try:
        data = json.loads(text)
    except ValueError as e:
        raise InputError(f"not readable as JSON ({e})", name) from e
    if isinstance(data, dict) and "annotations" in data and "images" in data:
        return from_coco(data, name)
    return from_json(data if isinstance(data, dict) else {}, name)


def _there(path: Path, name: str) -> Path:
    if not path.is_file():
        raise InputError("there is no such file", name, "check its name")
    return path


def write_tracks(tracks: Tracks, path: Path) -> None:
    """Write tracks in the format of the ending, whole or not at all."""
    ending = _ending(path)
    if ending in BINARY:
        partial = path.with_name("partial-" + path.name)
        try:
            BINARY[ending](tracks, partial)
            partial.replace(path)
        except (OSError, RuntimeError) as e:
            partial.unlink(missing_ok=True) if partial.parent.exists() else None
            raise InputError(
                "the file cannot be written", str(path), "choose another folder"
            ) from e
    elif ending == ".csv":
        write_text(path, to_csv(tracks))
    else:
        data = to_coco(tracks) if ending == ".coco.json" else to_json(tracks)
        write_text(path, json.dumps(data, allow_nan=False) + "\n")
