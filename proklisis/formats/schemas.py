"""JSON Schemas of the open formats, written from the models that read them."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.sheet import RunSheet
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


def _object(required: dict[str, Any], optional: dict[str, Any] | None = None) -> dict[str, Any]:
    return {
        "type": "object",
        "additionalProperties": False,
        "required": list(required),
        "properties": {**required, **(optional or {})},
    }


def _prescription() -> dict[str, Any]:
    text, number, whole, yes_no = ({"type": t} for t in ("string", "number", "integer", "boolean"))
    maybe = {"type": ["string", "null"]}
    band = {"type": "array", "items": {"type": ["number", "null"]}, "minItems": 2, "maxItems": 2}
    many = {"type": "array"}
    texts = {**many, "items": text}
    segments = {**many, "items": {"type": ["integer", "null"]}}
    read = _object({"value": number, "u": number})

    def or_null(schema: dict[str, Any]) -> dict[str, Any]:
        return {"anyOf": [{"type": "null"}, schema]}

    evidence = _object(
        {"measure": text, "limb": maybe, "segment": {"type": ["integer", "null"]}, "phase": maybe, "value": number,
         "u": number, "band": band, "p": number},
        {"clip": text, "with": texts},
    )  # fmt: skip
    eye = _object({"seen": yes_no, "segments": segments})
    measured = _object({"there": yes_no, "evidence": {**many, "items": evidence}})
    step = _object(
        {"stage": {"enum": ["still", "slow", "speed", "full"]}, "text": text, "dose": text}
    )
    target = {"measure": text, "limb": maybe, "phase": maybe, "side": text, "target": band}
    verdict = {"enum": ["clear", "likely", "unclear"]}
    properties: dict[str, Any] = {
        "format": {"const": "prescription/1"}, "discipline": text, "level": text,
        "strengths": {**many, "maxItems": 3, "items": _object({"id": text, "text": text})},
        "intention": or_null(_object({"text": text, "answer": {"enum": ["done", "partly", "not_yet", "cannot_tell"]}, "why": text})),
        "main": or_null(_object(
            {"fault": text, "side": text, "verdict": verdict, "title": text, "why": text, "cue": text, "by": {"enum": ["software", "coach"]}},
            {"would_be": or_null(_object({"fault": text, "side": text, "cue": maybe, "drill": maybe, "why": text}))},
        )),
        "findings": {**many, "items": _object({
            "fault": text, "title": text, "status": {"enum": ["root", "symptom", "episode", "unclear"]},
            "verdict": verdict, "side": text, "share": number, "severity": number,
            "phase": maybe, "explains": texts, "because_of": texts, "evidence": {**many, "items": evidence},
        }, {"eye": eye, "measured": measured, "other_side": _object({"title": text, "units": whole})})},
        "disagreements": {**many, "items": _object({"fault": text, "eye": eye, "measured": measured})},
        "cues": {**many, "items": _object({"fault": text, "cue": text})},
        "drills": {**many, "items": _object({
            "id": text, "fault": text, "title": text, "steps": {**many, "minItems": 3, "items": step}, "sign": text,
            "worse_first": maybe,
        }, {"reason": text})},
        "gear": {**many, "items": _object({"text": text, "because_of": text, "explains": texts, "first": yes_no})},
        "cautions": texts,
        "retest": {**many, "items": _object(target)},
        "followup": {**many, "items": _object({
            **target, "before": or_null(read), "now": or_null(read),
            "verdict": {"enum": ["in_band", "better", "no_change", "worse", "cannot_tell"]},
        })},
        "weaker_half": or_null(_object({"half": text, "stronger": text, "why": text})),
        "limits": {**many, "items": _object({"observation": text, "text": text})},
        "beside": texts,
        "fairness": texts,
        "cannot_tell": {**many, "items": _object({
            "fault": text, "reason": {"enum": ["view", "frame_rate", "blur", "not_measured"]}, "film_next": text,
            "unlock": _object({"presses": whole, "points": texts, "view": maybe, "also_unlocks": texts}),
        })},
        "unlock": text,
    }  # fmt: skip
    return {"title": "prescription/1", **_object(properties)}


def schemas() -> dict[str, dict[str, Any]]:
    """File name without ending → JSON Schema."""
    made = {
        "run-sheet": RunSheet.model_json_schema(by_alias=True), "playbook": Playbook.model_json_schema(), "tracks": _tracks(),
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
