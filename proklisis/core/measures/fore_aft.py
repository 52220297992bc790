"""Where the body is along the direction of travel."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import ARM_TO_TRUNK, UPPER_ARM_TO_TRUNK
from proklisis.core.measures.registry import SIDE_VIEWS, TURN_PHASES, declare, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import full_leg, leg_length, length

Array = NDArray[np.float64]
LEGS = ("l_hip", "r_hip", "l_knee", "r_knee", "l_ankle", "r_ankle")
ARMS = ("l_shoulder", "r_shoulder", "l_hip", "r_hip")


def support(f: Figure) -> Array:
    """The foot that carries: the outside ankle in a turn on skis, the middle of both otherwise."""
    return f["outside_ankle"] if not f.sideways and f.side.any() else f["mid_ankle"]


@measure(
    "hip_fore_aft", over="frame", unit="ratio", title="Hip fore–aft", views=SIDE_VIEWS, phases=TURN_PHASES,
    formula="(mid_hip − outside ankle) along travel ÷ leg length", points=LEGS, model_u=0.006,
    angle=("outside_ankle", "mid_hip"),
)  # fmt: skip
def hip_fore_aft(f: Figure) -> Array:
    """How far the hips are ahead of the supporting foot, in leg lengths."""
    return f.travel(f["mid_hip"] - support(f)) / leg_length(f, "outside")


@measure(
    "com_fore_aft", over="frame", unit="ratio", title="Mass fore–aft", views=SIDE_VIEWS, phases=TURN_PHASES,
    formula="(com − outside ankle) along travel ÷ leg length", points=LEGS, model_u=0.006,
    angle=("outside_ankle", "com"),
)  # fmt: skip
def com_fore_aft(f: Figure) -> Any:
    """How far the centre of mass is ahead of the supporting foot, in leg lengths."""
    ahead = f.travel(f["com"] - support(f))
    value = ahead / leg_length(f, "outside")
    # On a rider who lies over, the legs look shorter than they are.
    return value if f.view is None else (value, 0.75 * np.abs(value - ahead / full_leg(f)))


@measure(
    "head_fore", over="frame", unit="ratio", title="Head fore–aft", views=SIDE_VIEWS, phases=TURN_PHASES,
    formula="(nose − outside ankle) along travel ÷ leg length", points=("nose", *LEGS),
    model_u=0.008, angle=("outside_ankle", "nose"),
)  # fmt: skip
def head_fore(f: Figure) -> Array:
    """How far the head is ahead of the supporting foot, in leg lengths."""
    return f.travel(f["nose"] - support(f)) / leg_length(f, "outside")


def _ahead_of_trunk(f: Figure, part: str, limb: str = "") -> Array:
    """Distance ahead of the trunk line in upper-arm lengths: a limb's, or the lesser of both."""
    hip, shoulder = f["mid_hip"], f["mid_shoulder"]
    axis = shoulder - hip
    arm = UPPER_ARM_TO_TRUNK * length(axis)
    ahead = []
    for side in (limb,) if limb else ("l", "r"):
        p = f.limb(side, part)
        rise = f.normal(p - hip) / f.normal(axis)
        ahead.append(f.travel(p - (hip + rise[:, None] * axis)) / arm)
    return ahead[0] if limb else np.minimum(*ahead)


@measure(
    "hand_fore", over="frame", unit="ratio", title="Hands forward", views=SIDE_VIEWS, phases=TURN_PHASES,
    formula="wrist ahead of the trunk line along travel ÷ upper-arm length, the lesser hand",
    limbs=("", "inside"), points=("l_wrist", "r_wrist", *ARMS), model_u=0.010, angle=("mid_shoulder", "l_wrist"),
)  # fmt: skip
def hand_fore(f: Figure, limb: str = "") -> Array:
    """How far the hands are held in front of the trunk, the further-back hand counting."""
    return _ahead_of_trunk(f, "wrist", limb)


@measure(
    "elbow_fore", over="frame", unit="ratio", title="Elbows forward", views=SIDE_VIEWS, phases=TURN_PHASES,
    formula="elbow ahead of the trunk line along travel ÷ upper-arm length, the lesser elbow",
    points=("l_elbow", "r_elbow", *ARMS), model_u=0.007, angle=("mid_shoulder", "l_elbow"),
)  # fmt: skip
def elbow_fore(f: Figure) -> Array:
    """How far the elbows are held in front of the trunk, the further-back elbow counting."""
    return _ahead_of_trunk(f, "elbow")


@measure(
    "outside_hand_sweep", over="frame", unit="ratio", title="Outer hand ahead", views=SIDE_VIEWS, phases=("belly",),
    formula="outer wrist toward the outside ski's tip, ahead of the trunk line ÷ arm length",
    points=("l_wrist", "r_wrist", *ARMS), model_u=0.012, angle=("mid_shoulder", "outside_wrist"),
)  # fmt: skip
def outside_hand_sweep(f: Figure) -> Array:
    """How far the outer hand reaches ahead of the trunk."""
    return _ahead_of_trunk(f, "wrist", "outside") * UPPER_ARM_TO_TRUNK / ARM_TO_TRUNK


declare(
    id="pole_plant_fore", unit="ratio", title="Pole plant ahead",
    doc="How far ahead of the boot's toe the basket touches the snow.",
    formula="(pole tip − boot toe) along travel at the plant ÷ boot length",
    views=SIDE_VIEWS, points=("l_pole_tip", "r_pole_tip", "l_toe", "r_toe", "l_heel", "r_heel"),
)  # fmt: skip
