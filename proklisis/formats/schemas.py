"""JSON Schemas of the open formats, written from the models that read them."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from proklisis.core.landmarks import ALL
from proklisis.core.playbook.schema import Playbook
from proklisis.core.sheet import RunSheet
from proklisis.core.tracks import SOURCES, ClipFacts
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


def _object(required: dict[str, Any]) -> dict[str, Any]:
    return {"type": "object", "additionalProperties": False, "required": list(required), "properties": required}


def _prescription() -> dict[str, Any]:
    text, number = {"type": "string"}, {"type": "number"}
    maybe = {"type": ["string", "null"]}
    band = {"type": "array", "items": {"type": ["number", "null"]}, "minItems": 2, "maxItems": 2}
    evidence = _object(
        {"measure": text, "limb": maybe, "segment": {"type": ["integer", "null"]}, "phase": maybe, "value": number,
         "u": number, "band": band, "p": number}
    )  # fmt: skip
    many = {"type": "array"}
    texts = {**many, "items": text}
    step = _object({"stage": {"enum": ["still", "slow", "speed", "full"]}, "text": text, "dose": text})
    properties: dict[str, Any] = {
        "format": {"const": "prescription/1"}, "discipline": text, "level": text,
        "strengths": {**many, "maxItems": 3, "items": _object({"id": text, "text": text})},
        "main": {"anyOf": [{"type": "null"}, _object({"fault": text, "side": text, "why": text, "cue": text})]},
        "findings": {**many, "items": _object({
            "fault": text, "status": {"enum": ["root", "symptom", "episode", "unclear"]},
            "verdict": {"enum": ["clear", "likely", "unclear"]}, "side": text, "share": number, "severity": number,
            "phase": maybe, "explains": texts, "because_of": texts, "evidence": {**many, "items": evidence},
        })},
        "cues": {**many, "items": _object({"fault": text, "cue": text})},
        "drills": {**many, "items": _object({
            "id": text, "fault": text, "title": text, "steps": {**many, "minItems": 3, "items": step}, "sign": text,
            "worse_first": maybe,
        })},
        "gear": {**many, "items": _object({"text": text, "because_of": text})},
        "cautions": texts,
        "retest": {**many, "items": _object({"measure": text, "limb": maybe, "phase": maybe, "side": text, "target": band})},
        "cannot_tell": {**many, "items": _object({
            "fault": text, "reason": {"enum": ["view", "frame_rate", "blur", "not_measured"]}, "film_next": text,
        })},
    }  # fmt: skip
    return {"title": "prescription/1", **_object(properties)}


def schemas() -> dict[str, dict[str, Any]]:
    """File name without ending → JSON Schema."""
    made = {
        "run-sheet": RunSheet.model_json_schema(), "playbook": Playbook.model_json_schema(), "tracks": _tracks(),
        "prescription": _prescription(),
    }  # fmt: skip
    return {name: {"$schema": DIALECT, **schema} for name, schema in made.items()}


def main() -> None:
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for name, schema in schemas().items():
        write_text(folder / f"{name}.json", dump_json(schema))


if __name__ == "__main__":
    main()
