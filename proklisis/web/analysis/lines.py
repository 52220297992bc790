"""The line that a measure is read along, in the picture."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from proklisis.core.measures.registry import REGISTRY


def line_of(
    measure: str, here: Mapping[str, Any], outside: str, limb: str | None = None
) -> list[Any]:
    """The points of a measure's line in a frame, in its order; None for a point that is not there.

    Parameters
    ----------
    here : landmark → (2,) pixels in this frame
    outside : "l" or "r", which foot is outside
    limb : of a measure that is read on two limbs, which of them
    """
    inside = "r" if outside == "l" else "l"
    side = {"outside": outside, "inside": inside}.get(limb or "", limb)
    feet = {"outside_": f"{side or outside}_", "inside_": f"{side or inside}_"}
    if REGISTRY[measure].limbs and side in ("l", "r"):
        feet |= {"l_": f"{side}_", "r_": f"{side}_"}
    return [here.get(_put(name, feet)) for name in REGISTRY[measure].angle]


def _put(name: str, feet: Mapping[str, str]) -> str:
    begin = next((word for word in feet if name.startswith(word)), None)
    return name if begin is None else feet[begin] + name.removeprefix(begin)
