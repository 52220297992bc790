"""Own best units: which of a side came nearest to the bands, with ties where doubt allows no rank."""

from __future__ import annotations

from math import sqrt

from proklisis.core.comparing.sides import Side, side_word
from proklisis.core.playbook.schema import Band, Playbook
from proklisis.core.shapes.comparison import BestUnit
from proklisis.core.shapes.run_sheet import SheetMeasure
from proklisis.core.uncertainty import normal_cdf

#: A unit comes before another where it is better with this probability; else they are tied (house choice).
BEFORE = 0.84


def best_units(side: Side, book: Playbook) -> list[BestUnit]:
    """Units by their distance to the bands: sum over bands of distance ÷ scale, with its uncertainty; the least first."""
    level = side.sheet.level
    bands: dict[tuple[str, str | None, str | None], tuple[Band, float]] = {}
    for fault in book.faults.values():
        for leaf in fault.when.leaves():
            band = leaf.band_for(level) if leaf.band is not None and leaf.measure else None
            if band is None or leaf.scale is None or leaf.over or leaf.minus or leaf.inside:
                continue
            bands.setdefault((leaf.measure or "", leaf.phase, leaf.limb), (band, leaf.scale))
    scored: list[BestUnit] = []
    for s in side.units:
        score = variance = 0.0
        of_unit: dict[str, list[SheetMeasure]] = {}
        for m in side.rows(s.n).values():
            of_unit.setdefault(m.id, []).append(m)
        seen = 0
        for (measure, phase, limb), (band, scale) in bands.items():
            rows = [
                m
                for m in of_unit.get(measure, [])
                if phase in (None, m.phase) and limb in (None, m.limb)
            ]
            if not rows:
                continue
            off = max((_off(m.value, band), m.u) for m in rows)
            seen += 1
            score += off[0] / scale
            # Inside the band a value's doubt moves nothing until it reaches the edge.
            variance += (off[1] / scale) ** 2 * (1.0 if off[0] > 0 else 0.25)
        if seen:
            scored.append({"segment": s.n, "side": side_word(s), "score": round(score, 3), "u": round(sqrt(variance), 3), "rank": 0})  # fmt: skip
    scored.sort(key=lambda x: (x["side"] or "", x["score"]))
    for word in {x["side"] for x in scored}:
        mine = [x for x in scored if x["side"] == word]
        for k, x in enumerate(mine):
            lead = mine[k - 1] if k else None
            tied = lead is not None and _better(lead, x) < BEFORE
            x["rank"] = lead["rank"] if lead is not None and tied else k + 1
    return scored


def _better(x: BestUnit, y: BestUnit) -> float:
    u = sqrt(x["u"] ** 2 + y["u"] ** 2)
    return normal_cdf((y["score"] - x["score"]) / u) if u > 0 else float(x["score"] < y["score"])


def _off(value: float, band: Band) -> float:
    lo, hi = band
    return max(lo - value if lo is not None else 0.0, value - hi if hi is not None else 0.0, 0.0)
