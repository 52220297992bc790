"""Read and write the open formats by file ending."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.tracks import Tracks
from proklisis.formats.tracks_csv import from_csv, to_csv
from proklisis.formats.tracks_json import from_json, to_json

ENDINGS = (".json", ".csv")


def read_text(path: Path) -> str:
    """Return a file's text; InputError when it is missing, a folder or not text."""
    try:
        return path.read_text("utf-8")
    except FileNotFoundError as e:
        raise InputError("there is no such file", str(path), "check its name") from e
    except UnicodeDecodeError as e:
        raise InputError("this is not a text file", str(path), "give JSON or CSV in UTF-8") from e
    except OSError as e:
        raise InputError(f"the file cannot be read ({e.strerror})", str(path)) from e


def write_text(path: Path, text: str) -> None:
    """Write a file whole or not at all."""
    partial = path.with_name(path.name + ".partial")
    try:
        partial.write_text(text, "utf-8")
        partial.replace(path)
    except OSError as e:
        partial.unlink(missing_ok=True) if partial.parent.exists() else None
        raise InputError(f"the file cannot be written ({e.strerror})", str(path), "choose another folder") from e


def dump_json(data: Any) -> str:
    """JSON text with keys in the order given; the same data gives the same text."""
    return json.dumps(data, ensure_ascii=False, allow_nan=False, indent=1) + "\n"


def _ending(path: Path) -> str:
    if path.suffix.lower() not in ENDINGS:
        raise InputError(f"the ending {path.suffix!r} is not a track format", str(path), f"use {' or '.join(ENDINGS)}")
    return path.suffix.lower()


def read_tracks(path: Path) -> Tracks:
    """Read tracks from ``.json`` or ``.csv``."""
    _ending(path)
    return parse_tracks(read_text(path), str(path))


def parse_tracks(text: str, name: str) -> Tracks:
    """Tracks from the text of a file, whose ``name`` tells its format and is what errors call it."""
    reader = from_csv if _ending(Path(name)) == ".csv" else from_json
    return reader(text, name)


def write_tracks(tracks: Tracks, path: Path) -> None:
    """Write tracks as ``.json`` or ``.csv``."""
    text = to_csv(tracks) if _ending(path) == ".csv" else json.dumps(to_json(tracks), allow_nan=False) + "\n"
    write_text(path, text)
