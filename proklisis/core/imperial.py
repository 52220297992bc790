"""Lengths and speeds in feet, inches and miles an hour, for coaches who think in them. All that is stored is metric.

Factors: the international yard and pound agreement of 1959 (1 ft = 0.3048 m, 1 mile = 1609.344 m).
"""

from __future__ import annotations

import re
from typing import Any, cast

from proklisis.core.physics.rope import FOOT_M, MILE_M
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.shown import Shown
from proklisis.core.uncertainty import digits

#: Metric unit → the other one, and how many of it one is.
OTHER = {
    "m": ("ft", 1 / FOOT_M),
    "cm": ("in", 0.12 / FOOT_M),
    "m/s": ("mph", 3600 / MILE_M),
    "km/h": ("mph", 1000 / MILE_M),
}
#: Keys of plain data that hold ids, or what a coach wrote.
NOT_SENTENCES = frozenset(
    {
        "id",
        "fault",
        "measure",
        "phase",
        "limb",
        "side",
        "cue",
        "view",
        "points",
        "image",
        "url",
        "discipline",
        "level",
    }
)
NUMBER = r"[−-]?\d+(?:\.\d+)?"
#: A rope is said in both ways of counting already ("14.25 m (28 off)").
LENGTH = re.compile(
    rf"(?<![\w.])({NUMBER})(?: (±|to|×|and) ({NUMBER}))? ?(m/s|km/h|cm|metres|m)(?![\w²/])(?! \([\d.]+ off\))"
)
PER_METRE = re.compile(rf"({NUMBER})(?: ± ({NUMBER}))? pixels a metre")


def _number(text: str) -> float:
    return float(text.replace("−", "-"))


def _rounded(value: float, like: str) -> str:
    """A value with as many digits that count as the number had which it comes from, two at the least."""
    count = max(len(like.lstrip("−-").replace(".", "").lstrip("0")), 2)
    return f"{float(f'{value:.{count}g}'):g}".replace("-", "−")


def _pair(first: str, joint: str | None, second: str | None, factor: float) -> str:
    if second is None:
        return _rounded(_number(first) * factor, first)
    if joint == "±":
        u = _number(second) * factor / 2
        return f"{digits(_number(first) * factor, u)} ± {digits(2 * u, u)}"
    return f"{_rounded(_number(first) * factor, first)} {joint} {_rounded(_number(second) * factor, second)}"


def text_in_feet(text: str) -> str:
    """A sentence with its lengths and speeds in the other units, no more exact than they were."""

    def length(m: re.Match[str]) -> str:
        unit, factor = OTHER["m" if m[4] == "metres" else m[4]]
        return f"{_pair(m[1], m[2], m[3], factor)} {unit}"

    text = PER_METRE.sub(
        lambda m: f"{_pair(m[1], '±' if m[2] else None, m[2], FOOT_M)} pixels a foot", text
    )
    return LENGTH.sub(length, text).replace("about a metre", "about 3 ft")


def in_feet(x: Any, skip: frozenset[str] = frozenset()) -> Any:
    """Plain data with every sentence in it in the other units; keys of ``skip`` are left as they are."""
    if isinstance(x, str):
        return text_in_feet(x)
    if isinstance(x, list):
        return [in_feet(v, skip) for v in x]
    if isinstance(x, dict):
        return {k: v if k in skip else in_feet(v, skip) for k, v in x.items()}
    return x


def prescription_in_feet(p: Prescription) -> Prescription:
    """A prescription in the other units; what the rider was trying stays in the words it was given in."""
    out: Prescription = in_feet(p, NOT_SENTENCES)
    if out["intention"] and p["intention"]:
        out["intention"]["text"] = p["intention"]["text"]
    return out


def factor_of(unit: str) -> float:
    """How many of the other unit one of this one is, as it stands behind a number (" m"); 1 for what is no length or speed."""
    return OTHER[unit.strip()][1] if unit.strip() in OTHER else 1.0


def bench_in_feet(shown: Shown) -> Shown:
    """What the Bench shows, its numbers of lengths and speeds in the other units."""
    bench = cast(dict[str, Any], shown)
    factors = {i: f for i, m in bench["measures"].items() if (f := factor_of(m["unit"])) != 1}

    def words(row: dict[str, Any], factor: float) -> dict[str, Any]:
        u = _number(row["pm"]) * factor / 2
        return {"words": digits(_number(row["words"]) * factor, u), "pm": digits(2 * u, u)}

    def row(r: dict[str, Any]) -> dict[str, Any]:
        f = factors.get(r["measure"])
        if f is None:
            return r
        more: dict[str, Any] = {
            k: round(r[k] * f, 5) for k in ("value", "u", "lo", "hi") if r.get(k) is not None
        }
        if "words" in r:
            u = r["u"] * f if "u" in r else _number(r["pm"]) * f / 2
            more |= {
                "words": digits(r.get("value", _number(r["words"])) * f, u),
                "pm": digits(2 * u, u),
            }
        for side in ("first", "second"):
            if side in r:
                more[side] = {**r[side], "words": words({**r[side], "pm": r["pm"]}, f)["words"]}
        return {**r, **more}

    out = {
        **bench,
        **{k: [row(r) for r in bench[k]] for k in ("readings", "sides", "gaps", "bands")},
        "measures": {i: {**m, "unit": f" {OTHER[m['unit'].strip()][0]}"} if i in factors else m for i, m in bench["measures"].items()},
        "notes": in_feet(bench["notes"]), "doubt": in_feet(bench["doubt"]),
        "refusals": in_feet(bench["refusals"], frozenset({"measure", "reason"})),
    }  # fmt: skip
    return cast(Shown, out)
