"""Several clips of one run as one sheet: whose units are the same, and how far apart their clocks are.

Each clip is measured by itself and has a sheet of its own. Clips of one pass are laid over each other by an offset between
their clocks; the units that then lie over each other are one. How their values become one is :mod:`.passes`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt
from typing import Any, Literal

import numpy as np
from scipy.stats import chi2

from proklisis.core.errors import InputError
from proklisis.core.shapes.run_sheet import RunSheet, Segment

By = Literal["units", "sound", "clock", "hand"]
#: Standard uncertainty of a unit's begin in one clip, seconds (docs/accuracy.md: a boundary lies within 0.15 s from the side).
BOUNDARY_U_S = 0.08
#: Fewer boundaries over each other tell nothing of an offset.
FEWEST_BOUNDARIES = 3
#: An offset at which the boundaries differ by more than chance does once in so many times is none.
LIKELY = 0.99
#: Units of two clips are the same where they share at least this part of the shorter one (house choice).
SHARED = 0.5
#: Clips whose sides agree in fewer of their common units were matched wrongly (house choice).
SIDES_AGREE = 0.75


@dataclass(frozen=True)
class Offset:
    """Seconds to add to a clip's times to get the first clip's, with their standard uncertainty and what they rest on."""

    s: float
    u: float
    by: By


@dataclass(frozen=True)
class Part:
    """A clip's own sheet, its pass, and for another clip of the first one's pass the offset, where it is known."""

    sheet: RunSheet
    pass_: int = 1
    offset: Offset | None = None


def offsets_by_units(
    a: Sequence[Segment], b: Sequence[Segment], prior: Offset | None = None
) -> list[Offset]:
    """Every offset at which the units of two clips may be the same, the likeliest first.

    Even turns look alike one turn on: then there are several, and nobody can say which from the units alone. ``prior``:
    what is known of the offset otherwise; what lies beyond three of its u is left out. Sides, where both clips have
    them, must agree.
    """
    found: list[tuple[float, Offset]] = []
    for shift in range(-(len(b) - 1), len(a)):
        pairs = [(u, b[i - shift]) for i, u in enumerate(a) if 0 <= i - shift < len(b)]
        if any(u.side and v.side and u.side[0] != v.side[0] for u, v in pairs):
            continue
        apart = [_begin(u) - _begin(v) for u, v in pairs] + [
            _end(u) - _end(v) for u, v in pairs[-1:]
        ]
        n = len(apart)
        if n < FEWEST_BOUNDARIES:
            continue
        s = float(np.median(apart))
        off = float(((np.array(apart) - np.mean(apart)) ** 2).sum()) / (2 * BOUNDARY_U_S**2)
        if off > chi2.ppf(LIKELY, n - 1):
            continue
        if prior is not None and abs(s - prior.s) > 3 * sqrt(prior.u**2 + 2 * BOUNDARY_U_S**2):
            continue
        u = sqrt(2 / n) * BOUNDARY_U_S * max(1.0, sqrt(off / (n - 1)))
        found.append((off / (n - 1) - 0.5 * n, Offset(s, u, "units")))
    return [o for _, o in sorted(found, key=lambda x: x[0])]


def same_units(a: Sequence[Segment], b: Sequence[Segment], offset: Offset) -> dict[int, int]:
    """Numbers of ``b``'s units → of the unit of ``a`` that each is; units that only ``b`` shows are not among them."""
    out: dict[int, int] = {}
    for v in b:
        begin, end = _begin(v) + offset.s, _end(v) + offset.s
        shared = [(min(end, _end(u)) - max(begin, _begin(u)), u) for u in a]
        best, u = max(shared, key=lambda x: x[0], default=(0.0, None))
        taken = u is None or u.n in out.values()
        if u is not None and not taken and best >= SHARED * min(end - begin, _end(u) - _begin(u)):
            out[v.n] = u.n
    return out


@dataclass(frozen=True)
class Together:
    """The sheet of a run of several clips; in words what of them is not used; each clip's own unit numbers → the sheet's."""

    sheet: RunSheet
    unused: list[str]
    numbers: list[dict[int, int]]


def together(parts: Sequence[Part]) -> Together:
    """Several clips' own sheets as the sheet of one run.

    Rider, intention and all that is said of the run come from the first clip's sheet. Clips are called a, b, c …
    """
    first = parts[0].sheet
    ids = [_name(k) for k in range(len(parts))]
    segments: list[dict[str, Any]] = []
    measures: list[dict[str, Any]] = []
    seen: list[dict[str, Any]] = []
    refused: list[list[dict[str, Any]]] = []
    clips: list[dict[str, Any]] = []
    said: list[str] = []
    kept: list[dict[int, int]] = []
    for name, part in zip(ids, parts, strict=True):
        plain = part.sheet.model_dump(mode="json", by_alias=True, exclude_none=True)
        try:
            numbers = _numbers(parts, part)
        except InputError as e:
            said.append(f"Clip {name} is not used: {e}")
            kept.append({})
            continue
        kept.append(numbers)
        clips.append({"id": name, "pass": part.pass_, **plain["clip"]})
        segments += [
            {**s, "n": numbers[s["n"]], "clip": name}
            for s in plain["segments"]
            if s["n"] in numbers
        ]
        measures += [
            {**m, "clip": name, **({"segment": numbers[m["segment"]]} if "segment" in m else {})}
            for m in plain["measures"] if "segment" not in m or m["segment"] in numbers
        ]  # fmt: skip
        for o in plain["observations"]:
            of = [
                numbers[n]
                for n in o.pop("segments", None) or [o.pop("segment", None)]
                if n in numbers
            ]
            seen.append({**o, "clip": name, **({"segments": of} if of else {})})
        refused.append(plain["refused"])
    read = {m["id"] for m in measures}
    everywhere = set.intersection(*({r["measure"] for r in rows} for rows in refused))
    sheet = RunSheet.model_validate(
        {
            **first.model_dump(mode="json", by_alias=True, exclude_none=True, exclude={"clip"}),
            "clips": clips, "segments": segments, "measures": measures, "observations": seen,
            "refused": [r for r in refused[0] if r["measure"] in everywhere - read],
        }
    )  # fmt: skip
    return Together(sheet, said, kept)


def _numbers(parts: Sequence[Part], part: Part) -> dict[int, int]:
    """A clip's own unit numbers → those of the first clip of its pass; InputError where they cannot be told."""
    first = next(p for p in parts if p.pass_ == part.pass_)
    if part is first:
        return {s.n: s.n for s in part.sheet.segments}
    if part.offset is None:
        raise InputError(
            f"its {part.sheet.segments[0].kind}s are not matched yet" if part.sheet.segments else "nothing was found on it",
            "", "match it by sound, or show one moment in both",
        )  # fmt: skip
    a, b = first.sheet.segments, part.sheet.segments
    same = same_units(a, b, part.offset)
    if not same:
        raise InputError("it shows none of the same units at this offset", "", "match it again")
    side = {s.n: s.side for s in a}
    both = [(side[same[s.n]], s.side) for s in b if s.n in same and s.side and side[same[s.n]]]
    agree = [x is not None and y is not None and x[0] == y[0] for x, y in both]
    if agree and sum(agree) < SIDES_AGREE * len(agree):
        raise InputError(
            f"left and right agree in only {sum(agree)} of {len(agree)} common units", "",
            "check the view of each clip, or match it again",
        )  # fmt: skip
    more = max((s.n for s in a), default=0)
    for s in b:
        if s.n not in same:
            more += 1
            same[s.n] = more
    return same


def _name(k: int) -> str:
    return chr(ord("a") + k) if k < 26 else f"clip {k + 1}"


def _begin(s: Segment) -> float:
    if s.start_s is None:
        raise InputError(f"unit {s.n} has no times", "segments", "give start_s and end_s")
    return s.start_s


def _end(s: Segment) -> float:
    if s.end_s is None:
        raise InputError(f"unit {s.n} has no times", "segments", "give start_s and end_s")
    return s.end_s
