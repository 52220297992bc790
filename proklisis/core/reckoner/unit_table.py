"""The same in every other unit."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from typing import Any, cast

from pydantic import create_model

from proklisis.core.physics.rope import ROPES_M
from proklisis.core.physics.sail import BEAUFORT_KN, beaufort
from proklisis.core.reckoner.declared import (
    Calculator,
    Known,
    Plot,
    Quantities,
    Rule,
    quantity,
    rule,
)
from proklisis.core.reckoner.typed import SUFFIXES, converted
from proklisis.core.reckoner.words import plain, with_u

#: Suffixes that are told for one another.
KINDS: dict[str, tuple[str, ...]] = {
    "speed": ("ms", "kmh", "mph", "kn"), "length": ("m", "cm", "km", "ft", "in", "mi"), "time": ("s", "min"),
}  # fmt: skip
#: Stems that the calculator opens with, and what they are.
STEMS = {"speed": "speed", "wind": "speed", "length": "length"}
SHOWN = {"ms": "m/s", "kmh": "km/h", "hz": "hz"}


def _kind_of(suffix: str) -> str | None:
    return next((k for k, group in KINDS.items() if suffix in group), None)


def _pct(slope_deg: float) -> float:
    return 100 * math.tan(math.radians(slope_deg))


def _middle(wind_beaufort: float) -> float | None:
    force = round(wind_beaufort)
    if not 0 <= force < len(BEAUFORT_KN):
        return None
    return ((BEAUFORT_KN[force - 1] if force else 0.0) + BEAUFORT_KN[force]) / 2


def _between(stem: str, kind: str) -> tuple[dict[str, Any], list[Rule]]:
    fields: dict[str, Any] = {}
    rules = []
    group = KINDS[kind]
    for suffix in group:
        fields[f"{stem}_{suffix}"] = (float | None, quantity(stem.replace("_", " ").capitalize(), SHOWN.get(suffix, suffix), ge=None if kind == "length" else 0.0))  # fmt: skip
        for other in group:
            if other != suffix:
                factor = converted(1.0, SUFFIXES[other], SUFFIXES[suffix])
                rules.append(
                    Rule(f"{stem}_{suffix}", (f"{stem}_{other}",), (), lambda x, f=factor: x * f)
                )
    return fields, rules


def _says(k: Known, u: Mapping[str, float]) -> list[str]:
    out = []
    for stem in dict.fromkeys(key.rpartition("_")[0] for key in k if key not in ("rope_m", "rope_off_ft")):  # fmt: skip
        own = [key for key in k if key.rpartition("_")[0] == stem]
        units = {"beaufort": "Beaufort", "pct": "pct"}
        said = [with_u(k[key], u.get(key, 0.0), SHOWN.get(s := key.rpartition("_")[2], units.get(s, s))) for key in own]  # fmt: skip
        out.append(f"{stem.replace('_', ' ').capitalize()}: {' = '.join(said)}.")
    if "rope_m" in k:
        off = f" ({plain(k['rope_off_ft'])} off)" if "rope_off_ft" in k else ""
        out.append(f"Rope: {plain(k['rope_m'], 4)} m{off}.")
    return out


def unit_table(keys: Iterable[str] = ()) -> Calculator:
    """The calculator of units, with whatever stems stand in ``keys`` besides its own."""
    stems = dict(STEMS)
    for key in keys:
        stem, _, suffix = key.removesuffix("_u").rpartition("_")
        kind = _kind_of(suffix)
        if stem and kind and stem not in ("rope", "rope_off", "slope"):
            stems.setdefault(stem, kind)
    fields: dict[str, Any] = {}
    rules: list[Rule] = []
    for stem, kind in stems.items():
        more, between = _between(stem, kind)
        fields |= more
        rules += between
    fields["wind_beaufort"] = (float | None, quantity("Wind", "Beaufort", whole=True, ge=0, le=12))
    fields["rope_m"] = (float | None, quantity("Rope", "m", gt=0, le=23))
    fields["rope_off_ft"] = (float | None, quantity("Rope, feet off", "ft_off", ge=0, le=60))
    fields["slope_deg"] = (float | None, quantity("Slope", "deg", ge=0, lt=90))
    fields["slope_pct"] = (float | None, quantity("Slope", "pct", ge=0))
    rules += [
        rule("wind_beaufort", lambda wind_kn: float(beaufort(wind_kn))),
        rule("wind_kn", _middle),
        rule("rope_m", lambda rope_off_ft: ROPES_M.get(rope_off_ft)),
        rule("rope_off_ft", lambda rope_m: next((ft for ft, m in ROPES_M.items() if m == rope_m), None)),
        rule("slope_pct", _pct),
        rule("slope_deg", lambda slope_pct: math.degrees(math.atan(slope_pct / 100))),
    ]  # fmt: skip
    of = cast(type[Quantities], create_model("UnitsOf", __base__=Quantities, **fields))
    return Calculator(
        id="units", title="Units", doc="The same in every other unit.",
        formula="exact factors: 1 ft = 0.3048 m, 1 mi = 1609.344 m, 1 kn = 1852 m/h; slope in percent = 100·tan; ropes by the tournament's table; Beaufort by its table",
        source="international yard and pound agreement (1959); nautical mile of 1929; tournament rules for ropes (from memory); World Meteorological Organization for Beaufort",
        of=of, answers=tuple(fields), rules=tuple(rules), says=_says,
        own_doubt=lambda k: {"wind_beaufort": 0.0} if "wind_beaufort" in k else {},
        example={"speed_kmh": "58 km/h", "length_ft": "5'11", "rope_off_ft": "28 off", "slope_deg": "30 %"},
        plots=(Plot("speed_kmh", "speed_mph"), Plot("wind_ms", "wind_kn"), Plot("length_m", "length_ft"), Plot("slope_deg", "slope_pct")),
    )  # fmt: skip


UNITS = unit_table()
