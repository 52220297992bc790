"""What makes a comparison limited."""

from __future__ import annotations

from typing import Any

from proklisis.core.camera.views import VIEW_WORDS
from proklisis.core.comparing.sides import Side, side_word
from proklisis.core.playbook.conditions import KINDS, in_one_unit
from proklisis.core.playbook.words import lower_first

#: Numbers that differ by less than this share are the same ground, wind or rope (house choice).
ALIKE = 0.1
#: Rates whose quotient is larger than this read fast moments differently (house choice).
RATES = 1.5


def fairness(a: Side, b: Side, mirror: bool) -> list[str]:
    """Each thing that makes the comparison limited, as a sentence; empty where it is fair."""
    out: list[str] = []
    one, other = a.sheet, b.sheet
    if a.clip != b.clip:
        if one.clip.view != other.clip.view:
            words = [
                VIEW_WORDS[v] if v else "from nobody knows where"
                for v in (one.clip.view, other.clip.view)
            ]
            out.append(
                f"One is filmed {words[0]}, the other {words[1]}: angles in the picture are not the same angles."
            )
        rates = [c.fps for c in (one.clip, other.clip) if c.fps]
        if len(rates) == 2 and max(rates) / min(rates) > RATES:
            out.append(
                f"One runs at {rates[0]:.4g} frames a second, the other at {rates[1]:.4g}: times are not read equally well."
            )
        if one.rider.name and other.rider.name and one.rider.name != other.rider.name:
            out.append(
                "They are two riders: what is right for one's build may not be for the other's."
            )
        if False in (one.clip.rate_sure, other.clip.rate_sure):
            out.append(
                "Nothing but the file says how fast one of them plays: no time is sure to differ."
            )
        feet = {one.rider.stance, other.rider.stance} - {None}
        if len(feet) == 2 and not mirror:
            out.append("One rides regular, the other goofy: mirror one of them.")
        out += _conditions(one.conditions, other.conditions)
        if one.level != other.level:
            out.append(f"One is judged as {one.level}, the other as {other.level}.")
    sides = [{side_word(s) for s in x.units} for x in (a, b)]
    if (
        not mirror
        and len(sides[0]) == len(sides[1]) == 1
        and sides[0] != sides[1]
        and None not in sides[0] | sides[1]
    ):
        out.append("One is a left, the other a right: mirror one of them.")
    return out


def _conditions(a: dict[str, Any], b: dict[str, Any]) -> list[str]:
    out: list[str] = []
    one, other = in_one_unit(dict(a), ""), in_one_unit(dict(b), "")
    for key in sorted({*one, *other}):
        x, y = one.get(key), other.get(key)
        words = lower_first(KINDS[key].title) if key in KINDS else key.replace("_", " ")
        if x is None and y is None:
            continue
        if x is None or y is None:
            out.append(f"The {words} of only one of them is known.")
        elif (
            isinstance(x, bool) or not isinstance(x, int | float) or not isinstance(y, int | float)
        ):
            if x != y:
                out.append(f"The {words} differs: {x} and {y}.")
        elif abs(x - y) > ALIKE * max(abs(x), abs(y)):
            out.append(f"The {words} differs: {x:g} and {y:g}.")
    return out
