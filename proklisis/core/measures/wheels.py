"""Dirt bikes and mountain bikes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import ARM_TO_TRUNK, UPPER_ARM_TO_SHOULDERS, UPPER_ARM_TO_TRUNK
from proklisis.core.measures.inline import foot_length
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import length
from proklisis.core.splitting.events import at, between, leg
from proklisis.core.splitting.units import Unit
from proklisis.core.splitting.wheels import CHANGE_S, STAND_S, machine_lean

Array = NDArray[np.float64]
BARS = ("bar_end_l", "bar_end_r")
PEDALS = ("pedal_l", "pedal_r")
AXLES = ("front_axle", "rear_axle")
HIPS = ("l_hip", "r_hip")
SHOULDERS = ("l_shoulder", "r_shoulder")
LIMBS = ("l", "r")

declare_table("""
elbow_lift | deg | Elbow lift | shoulder → elbow above (+) or below the line that hangs 45° down from the shoulder | front, side_left, side_right | *
seat_fore | ratio | Seat forward | hip ahead of the peg ÷ leg length when seated | side_left, side_right | *
head_over_bars | ratio | Head over the bars | nose ahead of the bar clamp ÷ arm length | side_left, side_right | *
hip_back_standing | ratio | Hips back when standing | hip behind the peg ÷ leg length | side_left, side_right | *
toe_out | deg | Toes out | foot off the machine's axis | front, above | *
stand_shift | ratio | Shift in standing up | forward travel of the head when rising ÷ trunk length | side_left, side_right |
bike_body_lean | deg | Body against bike | trunk lean − bike lean in the corner | front, rear | *
elbow_flare | ratio | Elbow flare | elbow distance ÷ hand distance | front | *
heel_drop | deg | Heel drop | heel below the toe | side_left, side_right | *
knee_flare | ratio | Knee flare | knee distance ÷ pedal width | front | *
hip_height | ratio | Hip height | hip over the saddle ÷ leg length | side_left, side_right | *
chest_low | deg | Low chest | trunk pitch forward of the vertical | side_left, side_right | *
com_over_bb | ratio | Mass over the pedals | com ahead of the bottom bracket ÷ leg length | side_left, side_right | *
""")


def _mid(f: Figure, a: str, b: str) -> Array:
    return (f[a] + f[b]) / 2


def trunk_length(f: Figure) -> float:
    """Hip to shoulder in the figure's unit."""
    return float(np.nanpercentile(length(f["mid_shoulder"] - f["mid_hip"]), 90))


@measure(
    "seat_fore", over="frame", points=(*PEDALS, *HIPS), model_u=0.008, angle=("pedal_l", "mid_hip")
)
def seat_fore(f: Figure) -> Array:
    return (f["mid_hip"] - _mid(f, *PEDALS))[:, 1] / leg(f)


@measure(
    "head_over_bars",
    over="frame",
    points=(*BARS, "nose"),
    model_u=0.01,
    angle=("bar_end_l", "nose"),
)
def head_over_bars(f: Figure) -> Array:
    return (f["nose"] - _mid(f, *BARS))[:, 1] / (ARM_TO_TRUNK * trunk_length(f))


@measure(
    "elbow_lift",
    over="frame",
    points=(*SHOULDERS, "l_elbow", "r_elbow"),
    limbs=LIMBS,
    model_u=3.0,
    angle=("l_shoulder", "l_elbow"),
)
def elbow_lift(f: Figure, limb: str) -> Array:
    d = f.limb(limb, "elbow") - f.limb(limb, "shoulder")
    if f.view is None:
        arm = length(d)
    elif f.view in ("front", "rear"):
        arm = np.full(
            len(f.t),
            UPPER_ARM_TO_SHOULDERS
            * np.nanpercentile(length(f["r_shoulder"] - f["l_shoulder"]), 90),
        )
    else:
        arm = np.full(len(f.t), UPPER_ARM_TO_TRUNK * trunk_length(f))
    return np.degrees(np.arcsin(np.clip(d[:, 2] / arm, -1, 1))) + 45.0


@measure("hip_back_standing", points=(*PEDALS, *HIPS), model_u=0.008, angle=("pedal_l", "mid_hip"))
def hip_back_standing(f: Figure, unit: Unit) -> float:
    return -float(
        np.nanmean(
            between(
                f, seat_fore(f), unit.events["stand"] + CHANGE_S, unit.events["stand"] + STAND_S
            )
        )
    )


@measure(
    "toe_out",
    over="frame",
    points=("l_toe", "r_toe", "l_heel", "r_heel"),
    limbs=LIMBS,
    model_u=0.8,
    angle=("l_heel", "l_toe"),
)
def toe_out(f: Figure, limb: str) -> Array:
    d = f.limb(limb, "toe") - f.limb(limb, "heel")
    sign = -1.0 if limb == "l" else 1.0
    if f.view in ("front", "rear"):
        return sign * np.degrees(np.arcsin(np.clip(d[:, 0] / foot_length(f), -0.98, 0.98)))
    axis = (
        f["front_axle"] - f["rear_axle"]
        if "front_axle" in f.points
        else np.array([[0.0, 1.0, 0.0]])
    )
    return np.asarray(
        sign * np.degrees(np.arctan2(d[:, 0], d[:, 1]) - np.arctan2(axis[:, 0], axis[:, 1]))
    )


@measure(
    "stand_shift",
    points=("nose", *BARS, *SHOULDERS, *HIPS),
    model_u=0.012,
    angle=("bar_end_l", "nose"),
)
def stand_shift(f: Figure, unit: Unit) -> float:
    ahead = (f["nose"] - _mid(f, *BARS))[:, 1] / trunk_length(f)
    stand = unit.events["stand"]
    return at(f, ahead, stand + STAND_S, 0.08) - at(f, ahead, stand - 1.4 * CHANGE_S, 0.08)


@measure(
    "bike_body_lean",
    points=(*BARS, *AXLES, *SHOULDERS, *HIPS),
    model_u=0.5,
    angle=("mid_hip", "mid_shoulder"),
)
def bike_body_lean(f: Figure, unit: Unit) -> float:
    d = f["mid_shoulder"] - f["mid_hip"]
    trunk = np.degrees(np.arctan2(d[:, 0], d[:, 2]))
    a, b = unit.phases["mid_corner"]
    inward = unit.sign or 1.0
    return inward * float(np.nanmean(between(f, trunk - machine_lean(f), a, b)))


@measure(
    "elbow_flare",
    over="frame",
    points=("l_elbow", "r_elbow", "l_wrist", "r_wrist"),
    model_u=0.004,
    angle=("l_elbow", "r_elbow"),
)
def elbow_flare(f: Figure) -> Array:
    return np.abs((f["r_elbow"] - f["l_elbow"])[:, 0] / (f["r_wrist"] - f["l_wrist"])[:, 0])


@measure(
    "heel_drop",
    over="frame",
    points=("l_toe", "r_toe", "l_heel", "r_heel"),
    limbs=LIMBS,
    model_u=0.3,
    angle=("l_heel", "l_toe"),
)
def heel_drop(f: Figure, limb: str) -> Array:
    """Against the line of the axles where they are followed: the ground the machine stands on."""
    d = f.limb(limb, "toe") - f.limb(limb, "heel")
    ground = (
        f["front_axle"] - f["rear_axle"]
        if "front_axle" in f.points
        else np.array([[0.0, 1.0, 0.0]])
    )
    return np.asarray(
        np.degrees(np.arctan2(d[:, 2], d[:, 1]) - np.arctan2(ground[:, 2], ground[:, 1]))
    )


@measure(
    "knee_flare",
    over="frame",
    points=("l_knee", "r_knee", *PEDALS),
    model_u=0.01,
    angle=("l_knee", "r_knee"),
)
def knee_flare(f: Figure) -> Array:
    return np.abs((f["r_knee"] - f["l_knee"])[:, 0] / (f["pedal_r"] - f["pedal_l"])[:, 0])


@measure(
    "hip_height", over="frame", points=("saddle", *HIPS), model_u=0.002, angle=("saddle", "mid_hip")
)
def hip_height(f: Figure) -> Array:
    return (f["mid_hip"] - f["saddle"])[:, 2] / leg(f)


@measure(
    "chest_low",
    over="frame",
    points=(*HIPS, *SHOULDERS),
    model_u=0.2,
    angle=("mid_hip", "mid_shoulder"),
)
def chest_low(f: Figure) -> Array:
    d = f["mid_shoulder"] - f["mid_hip"]
    return np.degrees(np.arctan2(d[:, 1], d[:, 2]))


@measure(
    "com_over_bb",
    over="frame",
    points=(*PEDALS, *HIPS, *SHOULDERS),
    model_u=0.003,
    angle=("pedal_l", "com"),
)
def com_over_bb(f: Figure) -> Array:
    return (f["com"] - _mid(f, *PEDALS))[:, 1] / leg(f)
