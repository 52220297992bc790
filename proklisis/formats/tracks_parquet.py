"""``tracks/1`` as Parquet: the same long table, with the clip's facts in the file's own metadata."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq

from proklisis.core.errors import InputError
from proklisis.core.tracks.tracks import Tracks
from proklisis.formats.table import (
    COLUMNS,
    COLUMNS_3D,
    MOST_ROWS,
    facts_from,
    from_columns,
    rate_of,
    to_columns,
)

KEY = b"clip"
TYPES: dict[str, Any] = {"frame": pa.int64(), "landmark": pa.string(), "source": pa.string()}


def to_parquet(tracks: Tracks, path: Path) -> None:
    """Write the table; numbers are kept as they are, to the last bit."""
    columns = to_columns(tracks)
    schema = pa.schema(
        [(name, TYPES.get(name, pa.float64())) for name in columns],
        metadata={
            KEY: tracks.facts.model_dump_json(exclude_none=True).encode(),
            b"format": b"tracks/1",
        },
    )
    pq.write_table(pa.table(columns, schema=schema), path, compression="zstd")


def from_parquet(path: Path, where: str) -> Tracks:
    """Read the table. Without the clip's facts, the frame rate is taken from the times."""
    try:
        with pq.ParquetFile(path) as f:
            if f.metadata.num_rows > MOST_ROWS:
                raise InputError(
                    f"the table has more than {MOST_ROWS:,} rows", where, "cut it to the run"
                )
            known = [c for c in f.schema_arrow.names if c in (*COLUMNS, *COLUMNS_3D)]
            table = f.read(columns=known or None)
            written = (f.schema_arrow.metadata or {}).get(KEY)
    except (pa.ArrowException, OSError, UnicodeDecodeError) as e:
        raise InputError(
            "this is not a Parquet file that can be read", where, "export it again"
        ) from e
    columns = {name: table.column(name).to_pylist() for name in table.column_names}
    try:
        facts = json.loads(written) if written else {"fps": rate_of(columns.get("t_s", []), where)}
    except ValueError as e:
        raise InputError(
            "the clip's facts are not readable as JSON", f"{where}: metadata clip"
        ) from e
    return from_columns(columns, facts_from(facts, where), where)
