"""Where a clip is filmed from, in words."""

from __future__ import annotations

from collections.abc import Iterable

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
