"""What a run offers to a calculator: its readings with their ±, its conditions, facts of clip and rider."""

from __future__ import annotations

from typing import Any

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.conditions import in_one_unit
from proklisis.core.readings.over_time import NO_SIDE, Place, Point, points
from proklisis.core.reckoner.declared import Calculator
from proklisis.core.reckoner.reckon import possible
from proklisis.core.reckoner.words import with_u
from proklisis.web.analysis.reviewing import up_to_date
from proklisis.web.runs.models import Run

#: What stands behind a time that an unsaid slow motion would change.
UNSURE = "; only the file vouches for its clock"
#: Fields of the calculator of differences, which takes any measure.
EITHER = ("a", "b")
UNIT_TEXT = {"deg": "deg", "pct": "%", "ratio": ""}


def offered(calc: Calculator, run: Run) -> dict[str, list[dict[str, Any]]]:
    """Key → what the run has for it: text to fill in with its unit, what that is in words, and whether it is sure; the likeliest first.

    Times on a clock that only the file vouches for are offered as unsure; nothing that was measured is while the Bench asks a question.
    """
    bench: dict[str, Any] = up_to_date(run).bench if hasattr(run, "result") else {}
    sure = bool(bench.get("rate_sure"))
    seen = {} if bench.get("doubt") else _points(bench)
    conditions = in_one_unit(run.conditions)
    facts = _facts(run)
    out: dict[str, list[dict[str, Any]]] = {}
    for key in calc.keys:
        origin, unit = calc.about(key).origin, calc.about(key).unit
        rows = []
        if calc.id == "difference" and key in EITHER:
            rows = [_row(p, v, sure) for p, v in seen.items()]
        elif origin.measure:
            found = [
                (p, v)
                for p, v in seen.items()
                if p.measure == origin.measure and possible(calc, key, v.value)
            ]
            found.sort(key=lambda x: (x[0].phase != origin.phase, -x[1].n))
            rows = [_row(p, v, sure) for p, v in found]
        if origin.condition and conditions.get(origin.condition) not in (None, ""):
            value = conditions[origin.condition]
            text = f"{value:g} {unit}".strip() if isinstance(value, int | float) else str(value)
            rows.append({"text": text, "says": f"{text}, as said of this run", "sure": True})
        if origin.fact and facts.get(origin.fact):
            text = f"{facts[origin.fact]:.6g} {unit}".strip()
            rate = origin.fact == "fps" and not sure
            says = f"{text}, of this clip and rider{UNSURE if rate else ''}"
            rows.append({"text": text, "says": says, "sure": not rate})
        if rows:
            out[key] = rows
    return out


def _points(bench: dict[str, Any]) -> dict[Place, Point]:
    if not bench:
        return {}
    sides = {u["n"]: u.get("side") for u in bench["units"]}
    found = points(bench["readings"], sides)
    return {p: v for p, v in found.items() if p.measure in REGISTRY}


def _row(place: Place, point: Point, sure: bool) -> dict[str, Any]:
    measure = REGISTRY[place.measure]
    unit = UNIT_TEXT.get(measure.unit, measure.unit)
    where = [place.phase and place.phase.replace("_", " "), place.limb, place.side if place.side != NO_SIDE else ""]  # fmt: skip
    said = with_u(point.value, point.u, "" if measure.unit == "ratio" else measure.unit)
    words = ", ".join(x for x in where if x)
    return {
        "text": f"{point.value:.5g} ± {2 * point.u:.2g} {unit}".strip(),
        "says": f"{measure.title}{f', {words}' if words else ''}: {said} (mean of {point.n}){'' if sure or not measure.clocked else UNSURE}",
        "sure": sure or not measure.clocked,
    }  # fmt: skip


def _facts(run: Run) -> dict[str, float]:
    out: dict[str, float] = {}
    if hasattr(run, "clip"):
        out |= {"fps": run.filmed_fps or run.clip.fps, "width_px": float(run.clip.width)}
    if run.rider.height_cm:
        out |= {"height_cm": run.rider.height_cm, "height_m": run.rider.height_cm / 100}
    if run.view_offset_deg:
        out["view_offset_deg"] = abs(run.view_offset_deg)
    return out
