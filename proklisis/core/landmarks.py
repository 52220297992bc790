"""Names of everything that can be followed on a picture, and how it joins up."""

from __future__ import annotations

BODY: tuple[str, ...] = (
    "nose", "l_ear", "r_ear", "l_shoulder", "r_shoulder", "l_elbow", "r_elbow",
    "l_wrist", "r_wrist", "l_hip", "r_hip", "l_knee", "r_knee", "l_ankle", "r_ankle",
    "l_heel", "r_heel", "l_toe", "r_toe",
)  # fmt: skip

SKIS: tuple[str, ...] = (
    "l_ski_tip", "l_ski_tail", "r_ski_tip", "r_ski_tail",
    "l_pole_grip", "l_pole_tip", "r_pole_grip", "r_pole_tip",
    "l_base_in", "l_base_out", "r_base_in", "r_base_out",
)  # fmt: skip

#: ``scene_drift`` is ours: how far the snow around the rider has moved in the picture
#: since the first frame, in pixels (what the background's flow adds up to). Taking it
#: away from a landmark gives the path over the ground of a panning, travelling camera.
SCENE: tuple[str, ...] = (
    "surface_a", "surface_b", "fall_a", "fall_b", "horizon_a", "horizon_b", "scene_drift",
)  # fmt: skip

ALL: tuple[str, ...] = BODY + SKIS + SCENE

#: Pairs of landmarks that are drawn as a line.
BONES: tuple[tuple[str, str], ...] = (
    ("l_ear", "nose"), ("nose", "r_ear"), ("l_shoulder", "r_shoulder"), ("l_hip", "r_hip"),
    *((f"{s}_{a}", f"{s}_{b}") for s in "lr" for a, b in (
        ("shoulder", "elbow"), ("elbow", "wrist"), ("shoulder", "hip"), ("hip", "knee"),
        ("knee", "ankle"), ("ankle", "heel"), ("heel", "toe"), ("ankle", "toe"),
        ("ski_tail", "ski_tip"), ("pole_grip", "pole_tip"),
    )),
)  # fmt: skip


def mirrored(name: str) -> str:
    """Return the landmark on the other side of the body (``l_knee`` → ``r_knee``)."""
    if name.startswith("l_"):
        return "r_" + name[2:]
    if name.startswith("r_"):
        return "l_" + name[2:]
    return name
