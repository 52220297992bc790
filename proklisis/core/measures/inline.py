"""First strides on inline skates."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import FOOT, FOOT_TO_LEG
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import length
from proklisis.core.splitting.events import at, between, leg
from proklisis.core.splitting.steps import foot_of, steps_signal, touches
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
FEET = ("l_toe", "r_toe", "l_heel", "r_heel")
#: Both feet down for so long is a glide and not a step, seconds (house choice).
GLIDE_S = 0.5
#: The feet come to rest within this after a step, seconds (house choice).
SETTLE_S = 0.35

declare_table("""
v_angle | deg | V of the feet | angle between the feet while stepping, toes out | front |
v_angle_glide | deg | V in the glide | angle between the feet while rolling | front |
step_width | ratio | Step width | distance of the feet ÷ hip width | front |
single_support | s | Time on one foot | touch-down of one foot to touch-down of the other | |
speed_gain | m/s | Speed gained | speed gained over the steps between two glides | |
step_forward | ratio | Step forward | landing foot ahead of the other ÷ foot length | side_left, side_right |
shoulder_over_hip | ratio | Shoulder over hip | shoulder ahead of the hip ÷ trunk length | side_left, side_right |
""")


def foot_length(f: Figure) -> float:
    """The rider's foot in the figure's unit: from their height where scale and height are known."""
    height, scale = f.given.get("height_m"), f.facts["scale"]
    if isinstance(height, float) and np.isfinite(scale):
        return FOOT * height * scale * f.facts["feet"]
    return FOOT_TO_LEG * leg(f) * f.facts["feet"]


def opening(f: Figure) -> Array:
    """Angle between the feet, degrees, + toes out."""
    out = np.zeros(len(f.t))
    for s, sign in (("l", -1.0), ("r", 1.0)):
        d = f[f"{s}_toe"] - f[f"{s}_heel"]
        if f.view in ("front", "rear"):
            out += sign * np.degrees(np.arcsin(np.clip(d[:, 0] / foot_length(f), -0.98, 0.98)))
        else:
            out += sign * np.degrees(np.arctan2(d[:, 0], d[:, 1]))
    return out


@measure("v_angle", points=FEET, model_u=0.6, angle=("l_heel", "l_toe"))
def v_angle(f: Figure, unit: Unit) -> float:
    return float(np.nanmean(between(f, opening(f), unit.start.t, unit.end.t)))


@measure("v_angle_glide", over="run", points=FEET, model_u=0.8, angle=("l_heel", "l_toe"))
def v_angle_glide(f: Figure, units: list[Unit]) -> float:
    """Mean opening while the rider rolls on both feet, before the first step or after the last."""
    events = [when for when, _, _ in touches(f, steps_signal(f))]
    if not events:
        return float("nan")
    ends = ((float(f.t[0]), events[0]), (events[-1], float(f.t[-1])))
    parts = [
        between(f, opening(f), a + SETTLE_S, b - 0.1) for a, b in ends if b - a > GLIDE_S + SETTLE_S
    ]
    return float(np.nanmean(np.concatenate(parts))) if parts else float("nan")


@measure(
    "step_width",
    points=("l_ankle", "r_ankle", "l_hip", "r_hip"),
    model_u=0.0,
    angle=("l_ankle", "r_ankle"),
)
def step_width(f: Figure, unit: Unit) -> float:
    hips = np.nanmedian(length(f["r_hip"] - f["l_hip"]))
    return at(f, np.abs((f["r_ankle"] - f["l_ankle"])[:, 0]), unit.start.t) / float(hips)


@measure("single_support", points=FEET, model_u=0.006)
def single_support(f: Figure, unit: Unit) -> float:
    return unit.end.t - max(unit.start.t, unit.events["other_lift"])


@measure(
    "step_forward", points=(*FEET, "l_ankle", "r_ankle"), model_u=0.01, angle=("l_ankle", "r_ankle")
)
def step_forward(f: Figure, unit: Unit) -> float:
    s, other = foot_of(unit)
    return at(f, (f[f"{s}_ankle"] - f[f"{other}_ankle"])[:, 1], unit.start.t) / foot_length(f)


@measure(
    "shoulder_over_hip",
    points=("l_shoulder", "r_shoulder", "l_hip", "r_hip"),
    model_u=0.005,
    angle=("mid_hip", "mid_shoulder"),
)
def shoulder_over_hip(f: Figure, unit: Unit) -> float:
    d = f["mid_shoulder"] - f["mid_hip"]
    ahead = d[:, 1] / length(d)
    return float(np.nanmean(between(f, ahead, unit.start.t, unit.end.t)))
