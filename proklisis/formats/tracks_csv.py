"""``tracks/1`` as CSV: the same columns; the clip's facts in a first line ``# clip {…}``."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.tracks.tracks import Tracks
from proklisis.formats.table import facts_from, from_columns, rate_of, to_columns

MARK = "# clip "


def to_csv(tracks: Tracks) -> str:
    """Return the table as text; numbers are written so that they read back exactly."""
    columns = to_columns(tracks)
    out = io.StringIO()
    out.write(MARK + json.dumps(tracks.facts.model_dump(exclude_none=True)) + "\n")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(columns)
    writer.writerows(zip(*columns.values(), strict=True))
    return out.getvalue()


def from_csv(text: str, where: str = "tracks") -> Tracks:
    """Read the table. Without the clip's line, the frame rate is taken from the times."""
    facts: Any = None
    if text.startswith(MARK):
        head, _, text = text.partition("\n")
        try:
            facts = json.loads(head.removeprefix(MARK))
        except ValueError as e:
            raise InputError("the clip's line is not readable as JSON", f"{where}: row 1") from e
    rows = list(csv.reader(io.StringIO(text)))
    if not rows:
        raise InputError("the table is empty", where)
    width = len(rows[0])
    ragged = next((r for r, row in enumerate(rows[1:], 1) if row and len(row) != width), None)
    if ragged:
        raise InputError(
            f"the row has {len(rows[ragged])} cells, not {width}", f"{where}: row {ragged}"
        )
    body = [row for row in rows[1:] if row]
    columns: dict[str, list[Any]] = {
        name.strip(): [row[k] for row in body] for k, name in enumerate(rows[0])
    }
    if facts is None:
        facts = {"fps": rate_of(columns.get("t_s", []), where)}
    return from_columns(columns, facts_from(facts, where), where)
