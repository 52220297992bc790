"""Double poling."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import ARM_TO_TRUNK
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import flexion, full_trunk
from proklisis.core.splitting.events import at, between, leg, onset, peak_time
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]

declare_table("""
pole_angle | deg | Pole angle | pole off the vertical at the plant, + tip behind the grip | side_left, side_right | plant
plant_fore | ratio | Plant ahead | pole tip ahead of the binding at the plant ÷ leg length | side_left, side_right | plant
plant_reach | ratio | Reach at the plant | pole grip ahead of the shoulder at the plant ÷ arm length | side_left, side_right | plant
hand_height | ratio | Hands at the plant | pole grip over the shoulder at the plant ÷ trunk length | side_left, side_right | plant
elbow_dip | deg | Elbow give | elbow angle at the plant − smallest in the first third of the drive | side_left, side_right |
body_fall | deg | Body fall | ankle → mid_shoulder forward of the vertical at the plant | side_left, side_right | plant
heel_rise | deg | Heel rise | angle of the foot at its highest | side_left, side_right |
heel_rise_lead | s | Heel lead | highest heel before (+) the plant | side_left, side_right |
heel_at_plant | deg | Heel at the plant | angle of the foot at the plant | side_left, side_right |
forefoot_at_release | ratio | Forefoot at the release | com ahead of the ankle at the release ÷ leg length | side_left, side_right |
reposition_share | pct | Reposition share | share of the cycle without pole contact | side_left, side_right |
trunk_onset | s | Trunk starts | start of the trunk's flexion after the plant | side_left, side_right |
upper_arm_onset | s | Upper arm starts | start of the upper arm's swing after the plant | side_left, side_right |
forearm_onset | s | Forearm starts | start of the elbow's extension after the plant | side_left, side_right |
""")

ARMS = ("l_shoulder", "r_shoulder", "l_elbow", "r_elbow", "l_wrist", "r_wrist")
POLES = ("l_pole_grip", "r_pole_grip", "l_pole_tip", "r_pole_tip")
TRUNK = ("l_hip", "r_hip", "l_shoulder", "r_shoulder")
FEET = ("l_toe", "r_toe", "l_heel", "r_heel")
#: The heels rise within this long before the plant, seconds (house choice).
HEEL_BEFORE_S = 0.40
#: They fall within this long after it, seconds (house choice).
HEEL_AFTER_S = 0.10
#: The body starts to work a little before the tips touch.
READY_S = 0.10


def _mid(f: Figure, part: str) -> Array:
    return (f[f"l_{part}"] + f[f"r_{part}"]) / 2


def _forward(d: Array) -> Array:
    """Degrees forward of the vertical in the plane along travel."""
    return np.asarray(np.degrees(np.arctan2(d[:, 1], d[:, 2])))


def _elbow(f: Figure) -> Array:
    return (
        flexion(f["l_shoulder"], f["l_elbow"], f["l_wrist"])
        + flexion(f["r_shoulder"], f["r_elbow"], f["r_wrist"])
    ) / 2


def foot_pitch(f: Figure) -> Array:
    """How far the heels are raised over the toes, degrees, mean of both feet."""
    d = _mid(f, "heel") - _mid(f, "toe")
    return np.asarray(np.degrees(np.arctan2(d[:, 2], -d[:, 1])))


def _trunk(f: Figure) -> Array:
    return _forward(f["mid_shoulder"] - f["mid_hip"])


def _upper_arm(f: Figure) -> Array:
    """Upper arms against the trunk, degrees, + in front of it."""
    d = _mid(f, "elbow") - f["mid_shoulder"]
    return np.asarray(np.degrees(np.arctan2(d[:, 1], -d[:, 2]))) + _trunk(f)


@measure("pole_angle", points=POLES, model_u=0.5, angle=("l_pole_tip", "l_pole_grip"))
def pole_angle(f: Figure, unit: Unit) -> float:
    return at(f, _forward(_mid(f, "pole_grip") - _mid(f, "pole_tip")), unit.events["plant"])


@measure("plant_fore", points=(*POLES, *FEET), model_u=0.012, angle=("l_toe", "l_pole_tip"))
def plant_fore(f: Figure, unit: Unit) -> float:
    return at(f, (_mid(f, "pole_tip") - _mid(f, "toe"))[:, 1] / leg(f), unit.events["plant"])


@measure(
    "plant_reach",
    points=(*POLES, *ARMS, *TRUNK),
    model_u=0.038,
    angle=("mid_shoulder", "l_pole_grip"),
)
def plant_reach(f: Figure, unit: Unit) -> float:
    arm = ARM_TO_TRUNK * full_trunk(f)
    return at(f, (_mid(f, "pole_grip") - f["mid_shoulder"])[:, 1] / arm, unit.events["plant"])


@measure(
    "hand_height", points=(*POLES, *TRUNK), model_u=0.02, angle=("mid_shoulder", "l_pole_grip")
)
def hand_height(f: Figure, unit: Unit) -> float:
    return at(
        f, (_mid(f, "pole_grip") - f["mid_shoulder"])[:, 2] / full_trunk(f), unit.events["plant"]
    )


@measure("elbow_dip", points=ARMS, model_u=1.5, angle=("l_shoulder", "l_elbow", "l_wrist"))
def elbow_dip(f: Figure, unit: Unit) -> float:
    plant, release = unit.events["plant"], unit.events["release"]
    flex = _elbow(f)
    early = between(f, flex, plant, plant + (release - plant) / 3)
    if not np.isfinite(early).any():
        return float("nan")
    return float(np.nanmax(early)) - at(f, flex, plant)


@measure(
    "body_fall",
    points=(*TRUNK, "l_ankle", "r_ankle"),
    model_u=0.3,
    angle=("mid_ankle", "mid_shoulder"),
)
def body_fall(f: Figure, unit: Unit) -> float:
    return at(f, _forward(f["mid_shoulder"] - f["mid_ankle"]), unit.events["plant"])


def _heel_window(f: Figure, unit: Unit) -> tuple[Array, Array]:
    plant = unit.events["plant"]
    a, b = plant - HEEL_BEFORE_S, plant + HEEL_AFTER_S
    if a < f.t[0]:
        return np.array([]), np.array([])
    return between(f, f.t, a, b), between(f, foot_pitch(f), a, b)


@measure("heel_rise", points=FEET, model_u=1.0, angle=("l_toe", "l_heel"))
def heel_rise(f: Figure, unit: Unit) -> float:
    _, pitch = _heel_window(f, unit)
    return float(np.nanmax(pitch)) if len(pitch) else float("nan")


@measure("heel_rise_lead", points=FEET, model_u=0.005, angle=("l_toe", "l_heel"))
def heel_rise_lead(f: Figure, unit: Unit) -> float:
    t, pitch = _heel_window(f, unit)
    return (
        unit.events["plant"] - peak_time(t, pitch)
        if len(pitch) and np.isfinite(pitch).any()
        else float("nan")
    )


@measure("heel_at_plant", points=FEET, model_u=1.0, angle=("l_toe", "l_heel"))
def heel_at_plant(f: Figure, unit: Unit) -> float:
    return at(f, foot_pitch(f), unit.events["plant"])


@measure(
    "forefoot_at_release",
    points=(*TRUNK, "l_knee", "r_knee", "l_ankle", "r_ankle"),
    model_u=0.012,
    angle=("mid_ankle", "com"),
)
def forefoot_at_release(f: Figure, unit: Unit) -> float:
    return at(f, (f["com"] - f["mid_ankle"])[:, 1] / leg(f), unit.events["release"])


@measure("reposition_share", points=POLES, model_u=0.8)
def reposition_share(f: Figure, unit: Unit) -> float:
    return 100.0 * (unit.end.t - unit.events["release"]) / (unit.end.t - unit.start.t)


def _onset(f: Figure, unit: Unit, x: Array) -> float:
    return (
        onset(f, x, unit.events["plant"] - READY_S, unit.events["release"]) - unit.events["plant"]
    )


@measure("trunk_onset", points=TRUNK, model_u=0.004)
def trunk_onset(f: Figure, unit: Unit) -> float:
    return _onset(f, unit, _trunk(f))


@measure("upper_arm_onset", points=(*TRUNK, *ARMS), model_u=0.004)
def upper_arm_onset(f: Figure, unit: Unit) -> float:
    return _onset(f, unit, -_upper_arm(f))


@measure("forearm_onset", points=ARMS, model_u=0.006)
def forearm_onset(f: Figure, unit: Unit) -> float:
    return _onset(f, unit, -_elbow(f))
