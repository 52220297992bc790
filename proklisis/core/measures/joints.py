"""Bends of joints and pitches of segments, seen from the side."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import (
    FOREARM_TO_TRUNK,
    SHANK_TO_TRUNK,
    THIGH_TO_TRUNK,
    UPPER_ARM_TO_TRUNK,
)
from proklisis.core.camera.views import ONLY_3D
from proklisis.core.measures.registry import SIDE_VIEWS, TURN_PHASES, declare, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import (
    bend_seen,
    flexion,
    full_trunk,
    knee_flexion,
    knee_from_reach,
    length,
    squareness,
    trunk_length,
)

Array = NDArray[np.float64]
LEGS = ("l_hip", "r_hip", "l_knee", "r_knee", "l_ankle", "r_ankle")
LIMBS = ("outside", "inside")
#: Arms are bent in the picture more often than out of it (house choice, from simulated riders on wheels).
ARM_SHARE = 1.0
#: How far a thigh may stand out to a side unseen, degrees (house choice, from simulated riders seen from the side).
SPREAD_DEG = 18.0
#: What is left unsure of a bend that was read off a turning skater, degrees (house choice, from simulated loops).
TURNED_U = 3.0


@measure(
    "knee_flex", over="frame", unit="deg", title="Knee flexion", views=SIDE_VIEWS, phases=TURN_PHASES,
    limbs=LIMBS, formula="180° − angle hip–knee–ankle; 0 = straight", points=LEGS, model_u=3.0, board_views=("front", "rear"),
    angle=("outside_hip", "outside_knee", "outside_ankle"),
)  # fmt: skip
def knee_flex(f: Figure, limb: str = "outside") -> Any:
    """How far the knee is bent."""
    hip, knee, ankle = (f.limb(limb, p) for p in ("hip", "knee", "ankle"))
    if f.view is None:
        return flexion(hip, knee, ankle)
    if f.sideways and "trough" in f.points:
        return knee_from_reach(f, limb)
    if f.sideways:
        value = knee_flexion(f, limb)
        return value, np.abs(value - flexion(hip, knee, ankle)) / 2
    trunk = full_trunk(f)
    seen, own = bend_seen(hip, knee, ankle, (THIGH_TO_TRUNK * trunk, SHANK_TO_TRUNK * trunk))
    if (square := squareness(f)) is None:
        return seen, own
    # On a skater who turns, the knee's bend shows in full only where the hips are in line with the camera.
    with np.errstate(invalid="ignore", divide="ignore"):
        opened = [
            np.where(square > 0.5, x[:, 1] / square, np.nan)[:, None] * [0, 1, 0] + x * [0, 0, 1]
            for x in (hip, knee, ankle)
        ]
    return flexion(*opened), np.hypot(own, TURNED_U)


@measure(
    "hip_flex", over="frame", unit="deg", title="Hip flexion", views=SIDE_VIEWS, phases=TURN_PHASES,
    limbs=LIMBS, formula="180° − angle shoulder–hip–knee; 0 = straight",
    points=("l_shoulder", "r_shoulder", *LEGS), model_u=3.5, board_views=(ONLY_3D,),
    angle=("outside_shoulder", "outside_hip", "outside_knee"),
)  # fmt: skip
def hip_flex(f: Figure, limb: str = "outside") -> Any:
    """How far the hip is bent."""
    value = flexion(f.limb(limb, "shoulder"), f.limb(limb, "hip"), f.limb(limb, "knee"))
    # A thigh that is spread to a side is bent there too, which the picture hides: most of it where little else is bent.
    return value if f.view is None else (value, (np.hypot(value, SPREAD_DEG) - value) / 2)


@measure(
    "elbow_flex", over="frame", unit="deg", title="Elbow flexion", views=SIDE_VIEWS, phases=TURN_PHASES,
    limbs=("l", "r"), formula="180° − angle shoulder–elbow–wrist; 0 = straight", model_u=5.0,
    points=("l_shoulder", "r_shoulder", "l_elbow", "r_elbow", "l_wrist", "r_wrist"),
    angle=("l_shoulder", "l_elbow", "l_wrist"),
)  # fmt: skip
def elbow_flex(f: Figure, limb: str = "l") -> Any:
    """How far the elbow is bent."""
    shoulder, elbow, wrist = (f.limb(limb, p) for p in ("shoulder", "elbow", "wrist"))
    if f.view is None:
        return flexion(shoulder, elbow, wrist)
    # An elbow held out points at the camera: there the distance from shoulder to hand tells the bend.
    trunk = trunk_length(f)
    upper, fore = UPPER_ARM_TO_TRUNK * trunk, FOREARM_TO_TRUNK * trunk
    # It points out, with shoulder and hand on the same side of it.
    seen, own = bend_seen(shoulder, elbow, wrist, (upper, fore), ways=(1, 0), flat=1.0)
    cos = (length(wrist - shoulder) ** 2 - upper**2 - fore**2) / (2 * upper * fore)
    by_reach = np.degrees(np.arccos(np.clip(cos, -1, 1)))
    out = np.clip((0.9 - length(elbow - shoulder) / upper) / 0.2, 0, 1)
    return np.asarray(seen + out * (by_reach - seen)), np.maximum(
        ARM_SHARE * own, out * np.abs(by_reach - seen) / 2
    )


def _pitch(up: Array, ahead: Array) -> Array:
    return np.asarray(np.degrees(np.arctan2(ahead, up)))


@measure(
    "trunk_pitch", over="frame", unit="deg", title="Trunk pitch", views=SIDE_VIEWS, phases=TURN_PHASES,
    formula="mid_hip → mid_shoulder forward of vertical", model_u=1.3,
    points=("l_hip", "r_hip", "l_shoulder", "r_shoulder"), angle=("mid_hip", "mid_shoulder"),
)  # fmt: skip
def trunk_pitch(f: Figure) -> Array:
    """How far the trunk is bent forward of the vertical."""
    d = f["mid_shoulder"] - f["mid_hip"]
    return _pitch(d[:, 2], d[:, 1])


@measure(
    "shin_pitch", over="frame", unit="deg", title="Shin pitch", views=SIDE_VIEWS, phases=TURN_PHASES,
    formula="outside ankle → knee forward of the surface normal", points=LEGS, model_u=1.6,
    angle=("outside_ankle", "outside_knee"),
)  # fmt: skip
def shin_pitch(f: Figure) -> Array:
    """How far the outside shin presses forward over the foot."""
    d = f["outside_knee"] - f["outside_ankle"]
    return _pitch(_stood(f, d), f.travel(d))


def _stood(f: Figure, d: Array) -> Array:
    """How far vectors reach off the surface with the lean to a side taken out, as a side view's splitter takes it out."""
    off = f.normal(d)
    return off if f.view is not None else np.copysign(np.hypot(off, d[:, 0]), off)


@measure(
    "trunk_shin_gap", over="frame", unit="deg", title="Trunk against shin", views=SIDE_VIEWS,
    phases=TURN_PHASES, formula="trunk pitch − shin pitch, both against the surface normal",
    points=("l_shoulder", "r_shoulder", *LEGS), model_u=1.6, angle=("mid_hip", "mid_shoulder"),
)  # fmt: skip
def trunk_shin_gap(f: Figure) -> Array:
    """How much further forward the trunk leans than the shin."""
    trunk = f["mid_shoulder"] - f["mid_hip"]
    return np.asarray(_pitch(_stood(f, trunk), f.travel(trunk)) - shin_pitch(f))


@measure(
    "gaze_drop", over="frame", unit="deg", title="Gaze drop", views=SIDE_VIEWS, phases=TURN_PHASES,
    formula="mid_ear → nose below the direction of travel", points=("nose", "l_ear", "r_ear"),
    model_u=3.0, angle=("mid_ear", "nose"),
)  # fmt: skip
def gaze_drop(f: Figure) -> Array:
    """How far the face points below the way ahead."""
    d = f["nose"] - f["mid_ear"]
    if "l_blade_front" in f.points:
        # Who turns on the spot is seen from all around: the head's length, as long as it ever looks, stays.
        size = length(d) if f.view is None else np.full(len(f.t), np.nanpercentile(length(d), 95))
        return np.asarray(np.degrees(np.arcsin(np.clip(-d[:, 2] / size, -1, 1))))
    return np.asarray(np.degrees(np.arctan2(-f.normal(d), f.travel(d))))


declare(
    id="flex_range", unit="deg", title="Flexion range",
    doc="How much the outside knee bends and stretches within one turn.",
    formula="largest − smallest knee flexion of the outside leg (on a board: of both) within the turn",
    views=SIDE_VIEWS, points=LEGS, board_views=("front", "rear"),
)  # fmt: skip
declare(
    id="hip_rise", unit="ratio", title="Hip rise",
    doc="How far the hips rise over the feet while the edges change. A leg counts as long as it looks in all but its longest tenth of the run.",
    formula="(highest − lowest mid_hip over mid_ankle through the transition) ÷ leg length",
    views=("front", "rear", *SIDE_VIEWS), points=LEGS,
)  # fmt: skip
