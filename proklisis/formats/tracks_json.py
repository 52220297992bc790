"""``tracks/1`` as JSON: the clip's facts and one list per column."""

from __future__ import annotations

import json
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.tracks.tracks import Tracks
from proklisis.formats.table import facts_from, from_columns, to_columns


def to_json(tracks: Tracks) -> dict[str, Any]:
    """Return the tracks as an object ready for JSON."""
    return {
        "format": "tracks/1",
        "clip": tracks.facts.model_dump(exclude_none=True),
        **to_columns(tracks),
    }


def from_json(data: str | bytes | dict[str, Any], where: str = "tracks") -> Tracks:
    """Read tracks; InputError says what is wrong and where."""
    if not isinstance(data, dict):
        try:
            data = json.loads(data)
        except ValueError as e:
            raise InputError(f"not readable as JSON ({e})", where) from e
    if not isinstance(data, dict) or data.get("format") != "tracks/1":
        raise InputError(
            "this is not tracks/1", f"{where}: format", 'the top object needs "format": "tracks/1"'
        )
    rest = {k: v for k, v in data.items() if k not in ("format", "clip")}
    not_list = next((k for k, v in rest.items() if not isinstance(v, list)), None)
    if not_list:
        raise InputError(
            "this is not a list", f"{where}: {not_list}", "each column is a list of values"
        )
    return from_columns(rest, facts_from(data.get("clip", {}), where), where)
