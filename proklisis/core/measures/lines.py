"""The line that a measure is read along, as the landmarks it goes through."""

from __future__ import annotations

from collections.abc import Mapping

from proklisis.core.measures.registry import REGISTRY

#: Points of lines that nobody sees: the one is worked out, the other is far above the picture.
UNSEEN = frozenset({"com", "kite"})


def line_points(measure: str, outside: str, limb: str | None = None) -> list[str]:
    """Landmarks of a measure's line, in its order.

    Parameters
    ----------
    outside : "l" or "r", which foot is outside
    limb : of a measure that is read on two limbs, which of them
    """
    inside = "r" if outside == "l" else "l"
    side = {"outside": outside, "inside": inside}.get(limb or "", limb)
    feet = {"outside_": f"{side or outside}_", "inside_": f"{side or inside}_"}
    if REGISTRY[measure].limbs and side in ("l", "r"):
        feet |= {"l_": f"{side}_", "r_": f"{side}_"}
    return [_put(name, feet) for name in REGISTRY[measure].angle]


def _put(name: str, feet: Mapping[str, str]) -> str:
    begin = next((word for word in feet if name.startswith(word)), None)
    return name if begin is None else feet[begin] + name.removeprefix(begin)


def drawable(measure: str) -> bool:
    """Whether a measure is an angle along points that are seen in a picture, so that its line can be drawn by eye."""
    m = REGISTRY[measure]
    return m.unit == "deg" and len(m.angle) in (2, 3) and not UNSEEN & set(m.angle)
