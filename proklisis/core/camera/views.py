"""Where a clip is filmed from, in words."""

from __future__ import annotations

from collections.abc import Iterable

#: Azimuth of the views that have a name: the direction of travel in the camera's horizontal plane, degrees clockwise from
#: the way it looks.
NAMED = {"rear": 0.0, "side_right": 90.0, "front": 180.0, "side_left": -90.0}
#: In place of a view: no single camera shows it.
ONLY_3D = "3d"
VIEW_WORDS = {
    "front": "from the front", "rear": "from behind", "side_left": "from the rider's left", "side_right": "from the rider's right",
    "above": "from above", "oblique": "at an angle", ONLY_3D: "in 3-D tracks",
}  # fmt: skip


def in_views(views: Iterable[str]) -> str:
    """Views as an end of a sentence: "from the front or from behind"; both sides are "from the side"."""
    rest = list(views)
    words = [VIEW_WORDS[v] for v in rest]
    if {"side_left", "side_right"} <= set(rest):
        words[rest.index("side_left")] = "from the side"
        words.remove(VIEW_WORDS["side_right"])
    return " or ".join(words) if len(words) < 3 else ", ".join(words[:-1]) + " or " + words[-1]


def turned(degrees: float) -> float:
    """Degrees brought into −180 … 180."""
    return (degrees + 180.0) % 360.0 - 180.0


def azimuth_of(view: str, offset_deg: float) -> float:
    """Azimuth of a named view with the camera ``offset_deg`` toward the rider's right of it."""
    if view == "oblique":
        return turned(135.0 - offset_deg)
    return turned(NAMED[view] + (offset_deg if view == "rear" else -offset_deg))


def nearest_view(azimuth: float) -> tuple[str, float]:
    """The named view that an azimuth is nearest to, and how far toward the rider's right of it the camera stands, degrees."""
    view = min(NAMED, key=lambda v: abs(turned(azimuth - NAMED[v])))
    off = turned(azimuth - NAMED[view])
    return view, off if view == "rear" else -off
