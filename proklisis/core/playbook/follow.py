"""This run held against the last prescription's targets: did the number move?"""

from __future__ import annotations

from math import hypot, sqrt

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.judge import Sheet, compared_rows
from proklisis.core.playbook.notes import words_for_sides
from proklisis.core.playbook.schema import Condition
from proklisis.core.shapes.prescription import Followed, FollowedWord
from proklisis.core.shapes.run_sheet import Aim
from proklisis.core.uncertainty import Value, normal_cdf

#: A value counts as inside a band with this probability (house choice).
INSIDE = 0.8


def followed_up(s: Sheet) -> list[Followed]:
    """A row for each target of ``previous``, in its order."""
    return [_row(s, aim) for aim in s.sheet.previous]


def now(s: Sheet, aim: Aim) -> Value | None:
    """The mean over the units of the target's side; they share camera and model, so their u does not average out."""
    first, _, second = aim.measure.replace("/", "-").partition("-")
    over, minus = (second, None) if "/" in aim.measure else (None, second or None)
    less = (
        {"less_best": True}
        if minus == "best"
        else {"less_wanted": "wanted_angle_deg"}
        if minus == "wanted"
        else {"minus": minus}
    )
    c = Condition(
        measure=first, over=over, phase=aim.phase, limb=aim.limb, band=aim.target, scale=1.0, **less
    )  # type: ignore[arg-type]
    units = [
        n
        for n in s.units()
        if aim.side == "both" or (n in s.segments and aim.side in words_for_sides(s.segments[n]))
    ]
    read = [v for n in units if (v := compared_rows(s, c, n))] or [
        v for v in [compared_rows(s, c, None)] if v and aim.side == "both"
    ]
    # The worst limb or phase speaks for a unit.
    worst = [max(values, key=lambda x: _off(x.value, aim)) for values in read]
    if not worst:
        return None
    return Value(
        sum(v.value for v in worst) / len(worst), sqrt(sum(v.u**2 for v in worst) / len(worst))
    )


def clock_unsure(s: Sheet, measure: str) -> bool:
    """Whether a measure hangs on a rate that only the file says: in slow motion that nobody named, it is times wrong."""
    parts = [m for m in measure.replace("/", "-").split("-") if m in REGISTRY]
    return s.unsure_clock and any(REGISTRY[m].clocked for m in parts)


def _off(value: float, aim: Aim) -> float:
    """How far outside the target, 0 inside."""
    lo, hi = aim.target
    return max(lo - value if lo is not None else 0.0, value - hi if hi is not None else 0.0, 0.0)


def _told(v: Value, aim: Aim) -> FollowedWord:
    """Inside the band beyond doubt, or moved from what was before by more than both ± allow."""
    before = aim.before
    if _p_inside(v, aim) >= INSIDE:
        return "in_band"
    if before is None:
        return "cannot_tell"
    moved = _off(before.value, aim) - _off(v.value, aim)
    if abs(moved) <= 2 * hypot(before.u, v.u):
        return "no_change"
    if moved < 0:
        return "worse"
    return "in_band" if _off(v.value, aim) == 0 else "better"


def _p_inside(v: Value, aim: Aim) -> float:
    lo, hi = aim.target
    if v.u == 0:
        return float(_off(v.value, aim) == 0)
    above = 1.0 if lo is None else normal_cdf((v.value - lo) / v.u)
    below = 1.0 if hi is None else normal_cdf((hi - v.value) / v.u)
    return above + below - 1


def _row(s: Sheet, aim: Aim) -> Followed:
    v, before = now(s, aim), aim.before
    lo, hi = aim.target
    wide = v is not None and lo is not None and hi is not None and 2 * v.u > hi - lo
    if v is None or wide or clock_unsure(s, aim.measure):
        verdict: FollowedWord = "cannot_tell"
    else:
        verdict = _told(v, aim)
    return {
        "measure": aim.measure, "limb": aim.limb, "phase": aim.phase, "side": aim.side, "target": list(aim.target),
        "before": None if before is None else {"value": before.value, "u": before.u},
        "now": None if v is None else {"value": round(v.value, 4), "u": round(v.u, 4)}, "verdict": verdict,
    }  # fmt: skip
