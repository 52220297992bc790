"""JSON Schemas of the open formats, written from the models that read them."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from proklisis.core.playbook.schema import Playbook
from proklisis.core.shapes.comparison import Comparison
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.reckoning import Reckoning
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.shapes.telling import Telling
from proklisis.core.tracks.landmarks import ALL
from proklisis.core.tracks.tracks import SOURCES, ClipFacts
from proklisis.formats.files import dump_json, write_text
from proklisis.formats.table import COLUMNS, COLUMNS_3D

DIALECT = "https://json-schema.org/draft/2020-12/schema"


def _list(items: dict[str, Any]) -> dict[str, Any]:
    return {"type": "array", "items": items, "minItems": 1}


def _tracks() -> dict[str, Any]:
    number = {"type": "number"}
    kinds: dict[str, dict[str, Any]] = {
        "frame": {"type": "integer"}, "landmark": {"anyOf": [{"enum": list(ALL)}, {"pattern": "^(gate|buoy)_"}]}, "source": {"enum": list(SOURCES)},
    }  # fmt: skip
    clip = ClipFacts.model_json_schema()
    return {
        "title": "tracks/1", "type": "object", "additionalProperties": False,
        "required": ["format", "clip", *COLUMNS[:5]],
        "properties": {
            "format": {"const": "tracks/1"}, "clip": clip,
            **{c: _list(kinds.get(c, number)) for c in (*COLUMNS, *COLUMNS_3D)},
        },
    }  # fmt: skip


def schemas() -> dict[str, dict[str, Any]]:
    """File name without ending → JSON Schema."""
    made = {
        "run-sheet": RunSheet.model_json_schema(by_alias=True), "playbook": Playbook.model_json_schema(), "tracks": _tracks(),
        "prescription": TypeAdapter(Prescription).json_schema(), "comparison": TypeAdapter(Comparison).json_schema(),
        "telling": TypeAdapter(Telling).json_schema(), "reckoning": TypeAdapter(Reckoning).json_schema(),
    }  # fmt: skip
    return {name: {"$schema": DIALECT, **schema} for name, schema in made.items()}


def main() -> None:
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for name, schema in schemas().items():
        write_text(folder / f"{name}.json", dump_json(schema))


if __name__ == "__main__":
    main()
