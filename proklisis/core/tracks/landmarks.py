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

BOARDS: tuple[str, ...] = ("board_nose", "board_tail", "base_in", "base_out")
BLADES: tuple[str, ...] = ("l_blade_front", "l_blade_back", "r_blade_front", "r_blade_back")
WATER: tuple[str, ...] = (
    "handle", "pylon", "mast_foot", "mast_head", "boom_front", "boom_end", "bar_l", "bar_r", "kite",
    "bow", "stern", "blade_l", "blade_r",
)  # fmt: skip
WHEELS: tuple[str, ...] = (
    "front_axle",
    "rear_axle",
    "bar_end_l",
    "bar_end_r",
    "pedal_l",
    "pedal_r",
    "saddle",
)

#: How far the ground (``scene_drift``) or a river's water (``water_drift``) around the rider has
#: moved in the picture since the first frame, in pixels: what the background's flow adds up to.
#: Taking it away from a landmark gives the path over the ground of a panning, travelling camera.
DRIFTS: tuple[str, ...] = ("scene_drift", "water_drift")
SCENE: tuple[str, ...] = (
    "surface_a", "surface_b", "fall_a", "fall_b", "horizon_a", "horizon_b", "wake_l", "wake_r",
    "lip", "lip_top", "trough", *DRIFTS,
)  # fmt: skip

GEAR: tuple[str, ...] = SKIS + BOARDS + BLADES + WATER + WHEELS
ALL: tuple[str, ...] = BODY + GEAR + SCENE


#: Points of equipment and scene that tell something only together.
SETS: tuple[tuple[str, ...], ...] = (
    ("l_ski_tip", "l_ski_tail", "r_ski_tip", "r_ski_tail"),
    ("l_base_in", "l_base_out", "r_base_in", "r_base_out"), ("board_nose", "board_tail"), ("base_in", "base_out"), BLADES,
    ("mast_foot", "mast_head"), ("boom_front", "boom_end"), ("bar_l", "bar_r"), ("bow", "stern"), ("blade_l", "blade_r"),
    ("front_axle", "rear_axle"), ("bar_end_l", "bar_end_r"), ("wake_l", "wake_r"), ("surface_a", "surface_b"), ("fall_a", "fall_b"),
)  # fmt: skip


def in_words(name: str) -> str:
    """A landmark's id as a coach says it: ``l_pole_tip`` is the left pole tip."""
    side = {"l_": "left ", "r_": "right "}.get(name[:2], "")
    return (side + name[2:] if side else name).replace("_", " ")


#: What a point off the body is, for who marks it; ids without their side.
MEANING: dict[str, str] = {
    "ski_tip": "the very front of the ski", "ski_tail": "the very back of the ski",
    "pole_grip": "where the hand holds the pole", "pole_tip": "the end of the pole that goes into the snow",
    "base_in": "one edge of the base, at the bindings or under the boat's middle", "base_out": "the other edge of the base, straight across",
    "board_nose": "the front end of the board", "board_tail": "the back end of the board",
    "blade_front": "the front end of the blade, where it meets the ice", "blade_back": "the back end of the blade, where it meets the ice",
    "handle": "the middle of the handle at the rope's end", "mast_foot": "where the mast stands on the board", "mast_head": "the top of the mast",
    "boom_front": "where the boom meets the mast", "boom_end": "the back end of the boom", "bar": "an end of the kite's bar", "kite": "the middle of the kite's front edge",
    "bow": "the front end of the boat", "stern": "the back end of the boat", "blade": "the tip of the paddle's blade",
    "front_axle": "the middle of the front wheel", "rear_axle": "the middle of the rear wheel", "bar_end": "an end of the handlebar",
    "pedal": "the middle of the pedal or footrest", "saddle": "the top of the saddle",
    "wake": "the crest of the wake on that side, behind the boat", "lip": "the edge that the water falls over", "lip_top": "the top of the wave above the rider",
    "trough": "the lowest water in front of the wave", "pylon": "where the rope is fixed on the boat",
}  # fmt: skip


def meaning(name: str) -> str:
    """What a point off the body is, in words; empty for one that its name says."""
    bare = (
        name[2:] if name[:2] in ("l_", "r_") else name[:-2] if name[-2:] in ("_l", "_r") else name
    )
    return MEANING.get(bare, "")


def is_scene(name: str) -> bool:
    """Tell whether a landmark is one of a numbered set in the scene: a gate or a buoy."""
    return name.startswith(("gate_", "buoy_"))


#: Pairs of landmarks that are drawn as a line.
BONES: tuple[tuple[str, str], ...] = (
    ("l_ear", "nose"), ("nose", "r_ear"), ("l_shoulder", "r_shoulder"), ("l_hip", "r_hip"),
    *((f"{s}_{a}", f"{s}_{b}") for s in "lr" for a, b in (
        ("shoulder", "elbow"), ("elbow", "wrist"), ("shoulder", "hip"), ("hip", "knee"),
        ("knee", "ankle"), ("ankle", "heel"), ("heel", "toe"), ("ankle", "toe"),
        ("ski_tail", "ski_tip"), ("pole_grip", "pole_tip"), ("blade_back", "blade_front"),
    )),
    ("board_tail", "board_nose"), ("mast_foot", "mast_head"), ("boom_front", "boom_end"), ("bar_l", "bar_r"),
    ("stern", "bow"), ("blade_l", "blade_r"), ("rear_axle", "front_axle"), ("bar_end_l", "bar_end_r"),
)  # fmt: skip


def mirrored(name: str) -> str:
    """Return the landmark on the other side of the body (``l_knee`` → ``r_knee``)."""
    if name.startswith("l_"):
        return "r_" + name[2:]
    if name.startswith("r_"):
        return "l_" + name[2:]
    return name
