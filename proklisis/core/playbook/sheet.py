"""Reading a run sheet."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import first_problem
from proklisis.core.shapes.run_sheet import RunSheet


def parse_sheet(data: str | bytes | dict[str, Any], name: str = "sheet") -> RunSheet:
    """Read a run sheet; raise InputError with the path of the first bad key."""
    if not isinstance(data, dict):
        try:
            data = json.loads(data)
        except RecursionError as e:
            raise InputError(
                "not readable as JSON (nested too deeply)", name, "a run sheet is a few levels deep"
            ) from e
        except ValueError as e:
            raise InputError(
                f"not readable as JSON ({e})", name, "write it as a JSON object"
            ) from e
        if not isinstance(data, dict):
            raise InputError("the top of a run sheet is an object", name)
    try:
        return RunSheet.model_validate(data)
    except ValidationError as e:
        path, words = first_problem(e)
        raise InputError(words, f"{name}: {path}", "see docs/schemas/run-sheet.json") from e
