"""What a later run is held against: the targets of a prescription, with what was measured when they were set."""

from __future__ import annotations

import json
from math import sqrt

from pydantic import TypeAdapter, ValidationError

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import first_problem
from proklisis.core.playbook.follow import clock_unsure, now
from proklisis.core.playbook.judge import Sheet
from proklisis.core.playbook.prepare import prepare
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.under import apply_schools, chosen_schools
from proklisis.core.shapes.prescription import Prescription, Target
from proklisis.core.shapes.run_sheet import Aim, Before, RunSheet

#: A prescription holds the values of the units that missed the band. Where fewer of the units did, their mean is worse than the
#: run's was, and a run that is no better would seem so (house choice).
MOST_UNITS = 0.75


def parse_prescription(data: str | bytes, name: str = "prescription") -> Prescription:
    """Read a prescription; raise InputError with the path of the first bad key."""
    try:
        return TypeAdapter(Prescription).validate_python(json.loads(data))
    except ValidationError as e:
        path, words = first_problem(e)
        raise InputError(words, f"{name}: {path}", "see docs/schemas/prescription.json") from e
    except (ValueError, RecursionError) as e:
        raise InputError("not readable as JSON", name, "give a prescription/1") from e


def aims_of(before: Prescription) -> list[Aim]:
    """The targets of a prescription as ``previous`` of the next run's sheet."""
    return [Aim.model_validate({**t, "before": _before(before, t)}) for t in before["retest"]]


def aims_with(sheet: RunSheet, book: Playbook, prescription: Prescription) -> list[Aim]:
    """The targets of a prescription with what all units of its own ``sheet`` had then; None where that was not read."""
    schools = chosen_schools(sheet, book)
    book, _ = apply_schools(book, schools)
    done = prepare(sheet, book, schools)
    s = Sheet(done.sheet, book, done.under)
    out = []
    for t in prescription["retest"]:
        aim = Aim.model_validate(t)
        was = None if clock_unsure(s, t["measure"]) else now(s, aim)
        before = None if was is None else Before(value=was.value, u=was.u)
        out.append(aim.model_copy(update={"before": before}))
    return out


def _before(p: Prescription, target: Target) -> Before | None:
    """What a target's measure was when it was set; None where the prescription does not tell it of most units."""
    main = p["main"]
    found = next((f for f in p["findings"] if main and f["fault"] == main["fault"]), None)
    if found is None:
        return None
    rows = [
        e for e in found["evidence"]
        if (e["measure"], e["limb"], e["phase"]) == (target["measure"], target["limb"], target["phase"])
    ]  # fmt: skip
    of_side = target["side"] in ("both", found["side"])
    if not rows or not of_side or found["share"] < MOST_UNITS:
        return None
    n = len(rows)
    # One camera's errors do not average out over its units.
    return Before(
        value=sum(e["value"] for e in rows) / n, u=sqrt(sum(e["u"] ** 2 for e in rows) / n)
    )
