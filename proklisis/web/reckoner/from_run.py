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

#: Fields of the calculator of differences, which takes any measure.
EITHER = ("a", "b")
UNIT_TEXT = {"deg": "deg", "pct": "%", "ratio": ""}


def offered(calc: Calculator, run: Run) -> dict[str, list[dict[str, str]]]:
    """Key → what the run has for it: text to fill in, and what that is in words; the likeliest first."""
    seen = _points(run) if hasattr(run, "result") else {}
    conditions = in_one_unit(run.conditions)
    facts = _facts(run)
    out: dict[str, list[dict[str, str]]] = {}
    for key in calc.keys:
        origin = calc.about(key).origin
        rows = []
        if calc.id == "difference" and key in EITHER:
            rows = [_row(run, p, v) for p, v in seen.items()]
        elif origin.measure:
            found = [
                (p, v)
                for p, v in seen.items()
                if p.measure == origin.measure and possible(calc, key, v.value)
            ]
            found.sort(key=lambda x: (x[0].phase != origin.phase, -x[1].n))
            rows = [_row(run, p, v) for p, v in found]
        if origin.condition and conditions.get(origin.condition) not in (None, ""):
            value = conditions[origin.condition]
            rows.append({"text": f"{value:g}" if isinstance(value, int | float) else str(value), "says": "as said of this run"})  # fmt: skip
        if origin.fact and facts.get(origin.fact):
            rows.append({"text": f"{facts[origin.fact]:.6g}", "says": "of this clip and rider"})
        if rows:
            out[key] = rows
    return out


def _points(run: Run) -> dict[Place, Point]:
    bench: dict[str, Any] = up_to_date(run).bench
    sides = {u["n"]: u.get("side") for u in bench["units"]}
    found = points(bench["readings"], sides)
    return {p: v for p, v in found.items() if p.measure in REGISTRY}


def _row(run: Run, place: Place, point: Point) -> dict[str, str]:
    measure = REGISTRY[place.measure]
    unit = UNIT_TEXT.get(measure.unit, measure.unit)
    where = [place.phase and place.phase.replace("_", " "), place.limb, place.side if place.side != NO_SIDE else ""]  # fmt: skip
    said = with_u(point.value, point.u, "" if measure.unit == "ratio" else measure.unit)
    words = ", ".join(x for x in where if x)
    return {
        "text": f"{point.value:.5g} ± {2 * point.u:.2g} {unit}".strip(),
        "says": f"{measure.title}{f', {words}' if words else ''}: {said} (mean of {point.n})",
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
