"""Value against value: the difference, its uncertainty, and what can be said of it."""

from __future__ import annotations

from collections.abc import Iterable
from math import hypot, sqrt
from typing import Literal

from proklisis.core.comparing.sides import Place, Side, mirrored_place, place
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Playbook
from proklisis.core.shapes.comparison import ComparedRow
from proklisis.core.shapes.run_sheet import SheetMeasure
from proklisis.core.uncertainty import normal_cdf

Verdict = Literal["differs", "may_differ", "same", "cannot_tell"]
#: Probability from which a difference is real, or is smaller than the measure's scale (handbook, comparing).
SURE = 0.95
#: And from which it may be (one standard uncertainty).
MAYBE = 0.68


def combined_u(measure: str, u_a: float, u_b: float, one_camera: bool) -> float:
    """Standard uncertainty of a difference.

    What the model of the body is wrong by, it is wrong by on both sides of one rider before one camera; it falls out
    (JCGM 100:2008, eq. 16 with a correlation of model_u²/(u_a·u_b)).
    """
    u = hypot(u_a, u_b)
    if not one_camera or measure not in REGISTRY:
        return u
    shared = min(REGISTRY[measure].model_u, u_a, u_b)
    return sqrt(max(u**2 - 2 * shared**2, 0.0))


def real(difference: float, u: float) -> float:
    """Probability that a difference is none of chance, two-sided."""
    if u <= 0:
        return float(difference != 0)
    return 2 * normal_cdf(abs(difference) / u) - 1


def verdict_of(difference: float, u: float, scale: float | None) -> Verdict:
    """What a difference is, ``scale`` being how much of it matters (None: nobody says)."""
    p = real(difference, u)
    if p >= SURE:
        return "differs"
    if scale is not None:
        within = (
            normal_cdf((scale - difference) / u) - normal_cdf((-scale - difference) / u)
            if u > 0
            else float(abs(difference) < scale)
        )
        if within >= SURE:
            return "same"
    return "may_differ" if p >= MAYBE else "cannot_tell"


def told(verdict: Verdict, measure: str, a: Side, b: Side) -> Verdict:
    """The verdict as two clips' clocks allow: where nothing but a file says how fast it plays, times are never sure to differ."""
    if clock_unsure(measure, a, b) and verdict == "differs":
        return "may_differ"
    return verdict


def clock_unsure(measure: str, a: Side, b: Side) -> bool:
    """Whether a measure hangs on clocks that nobody has borne out; two units of one clip share theirs."""
    if a.clip == b.clip or measure not in REGISTRY or not REGISTRY[measure].clocked:
        return False
    return any(x.sheet.clip.rate_sure is False for x in (a, b))


def scales(book: Playbook) -> dict[tuple[str, str | None], float]:
    """(measure, phase) and (measure, None) → the least scale that a playbook's conditions have for it."""
    out: dict[tuple[str, str | None], float] = {}
    for fault in book.faults.values():
        for leaf in fault.when.leaves():
            if leaf.measure is None or leaf.scale is None or leaf.over or leaf.minus:
                continue
            for key in {(leaf.measure, leaf.phase), (leaf.measure, None)}:
                out[key] = min(leaf.scale, out.get(key, leaf.scale))
    return out


def mean(rows: Iterable[SheetMeasure]) -> tuple[float, float]:
    """Mean value and its standard uncertainty: units of one clip share its camera, so their u does not average out."""
    rows = list(rows)
    return (
        sum(m.value for m in rows) / len(rows),
        sqrt(sum(m.u**2 for m in rows) / len(rows)),
    )


def compared_rows(
    a: Side, b: Side, pairs: list[tuple[int, int]], book: Playbook, mirror: bool
) -> list[ComparedRow]:
    """A row for each measure, phase and limb that both show, over the units that are the same; a's limbs name it."""
    found_a, found_b = _by_place(a, {x for x, _ in pairs}), _by_place(b, {y for _, y in pairs})
    known, one_camera = scales(book), a.clip == b.clip
    order = {p: k for k, p in enumerate((None, *book.phases))}
    out: list[ComparedRow] = []
    for at in sorted(found_a, key=lambda p: (order.get(p[1], 0), p[0], p[2] or "")):
        other = mirrored_place(at) if mirror else at
        if other not in found_b:
            continue
        (va, ua), (vb, ub) = mean(found_a[at]), mean(found_b[other])
        u = combined_u(at[0], ua, ub, one_camera)
        difference = va - vb
        scale = known.get((at[0], at[1]), known.get((at[0], None)))
        out.append(
            {
                "measure": at[0], "phase": at[1], "limb": at[2], "a": {"value": round(va, 4), "u": round(ua, 4)},
                "b": {"value": round(vb, 4), "u": round(ub, 4)}, "difference": round(difference, 4), "u": round(u, 4),
                "p": round(real(difference, u), 4), "verdict": told(verdict_of(difference, u, scale), at[0], a, b),
            }
        )  # fmt: skip
    return out


def _by_place(side: Side, units: set[int]) -> dict[Place, list[SheetMeasure]]:
    out: dict[Place, list[SheetMeasure]] = {}
    for m in side.sheet.measures:
        if m.segment is None or m.segment in units:
            out.setdefault(place(m), []).append(m)
    return out
