"""River drops."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import ARM_TO_TRUNK
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import full_trunk
from proklisis.core.signals import derivative, lowpass
from proklisis.core.splitting.drops import boat_middle, last_stroke, strokes_between
from proklisis.core.splitting.events import at, between, ground_level
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
#: Landmarks of the boat.
BOAT = ("bow", "stern")
#: Landmarks of the blades.
BLADES = ("blade_l", "blade_r")
#: Length of a short boat, metres (common practice).
BOAT_M = 2.7
#: Length of a blade ÷ trunk (house choice).
BLADE_TO_TRUNK = 0.91
#: Strokes in the lead-in are counted over so many seconds (house choice).
COUNT_S = 3.0
#: Low-pass of speeds over the ground, hertz (house choice).
SPEED_HZ = 1.5

declare_table("""
lead_speed | ratio | Boat speed | boat speed ÷ water speed | side_left, side_right, above | *
boat_angle | deg | Boat angle | boat off the drop's line, + right | above, front, rear | *
catch_at_lip | s | Catch at the lip | catch of the last stroke relative to the bow over the lip, − early | side_left, side_right |
stroke_hold | s | Stroke held | time the blade stays in after the bow is over the lip | side_left, side_right |
reach | ratio | Reach | blade ahead of the feet ÷ arm length | side_left, side_right |
stroke_depth | ratio | Stroke depth | share of the blade under water | side_left, side_right |
missed_strokes | ratio | Missed strokes | beats without a stroke in the lead-in | side_left, side_right |
landing_stroke | s | Landing stroke | first stroke after touch-down | side_left, side_right |
boat_pitch | deg | Boat pitch | 0 flat, + nose up | side_left, side_right | *
""")


@measure("lead_speed", over="frame", points=(*BOAT, "scene_drift", "water_drift"), model_u=0.003)
def lead_speed(f: Figure) -> Array:
    def speed(x: Array) -> Array:
        return lowpass(derivative(np.asarray(x[:, 1]), f.t), f.fps, SPEED_HZ)

    boat = speed(boat_middle(f) - f["scene_drift"])
    if f.view is None:
        return boat / speed(f["water_drift"])
    return boat / speed(f["water_drift"] - f["scene_drift"])


@measure("boat_angle", over="frame", points=BOAT, model_u=0.8, angle=("stern", "bow"))
def boat_angle(f: Figure) -> Array:
    d = f["bow"] - f["stern"]
    if f.view in ("front", "rear"):
        return np.degrees(np.arcsin(np.clip(d[:, 0] / (BOAT_M * f.facts["scale"]), -0.98, 0.98)))
    return np.degrees(np.arctan2(d[:, 0], d[:, 1]))


@measure("catch_at_lip", points=(*BOAT, *BLADES, "lip"), model_u=0.0)
def catch_at_lip(f: Figure, unit: Unit) -> float:
    stroke = last_stroke(f, unit.events["lip"], unit.events["landing"])
    return stroke[0] - unit.events["lip"] if stroke else float("nan")


@measure("stroke_hold", points=(*BOAT, *BLADES, "lip"), model_u=0.02)
def stroke_hold(f: Figure, unit: Unit) -> float:
    stroke = last_stroke(f, unit.events["lip"], unit.events["landing"])
    return stroke[1] - unit.events["lip"] if stroke else float("nan")


@measure(
    "reach", points=(*BLADES, "l_ankle", "r_ankle"), model_u=0.055, angle=("l_ankle", "blade_r")
)
def reach(f: Figure, unit: Unit) -> float:
    stroke = last_stroke(f, unit.events["lip"], unit.events["landing"])
    if stroke is None:
        return float("nan")
    ahead = (f[f"blade_{stroke[2]}"] - f["mid_ankle"])[:, 1]
    return at(f, ahead, stroke[0], 0.03) / (ARM_TO_TRUNK * full_trunk(f))


@measure("stroke_depth", points=BLADES, model_u=0.032)
def stroke_depth(f: Figure, unit: Unit) -> float:
    stroke = last_stroke(f, unit.events["lip"], unit.events["landing"])
    if stroke is None:
        return float("nan")
    deep = ground_level(f) - f[f"blade_{stroke[2]}"][:, 2]
    return float(np.nanmax(between(f, deep, stroke[0], stroke[1]))) / (
        BLADE_TO_TRUNK * full_trunk(f)
    )


@measure("missed_strokes", points=BLADES, model_u=0.0)
def missed_strokes(f: Figure, unit: Unit) -> float:
    """Beats left out, by the usual time from catch to catch."""
    lip = unit.events["lip"]
    when = [s[0] for s in strokes_between(f, lip - COUNT_S, lip + 0.3)]
    if len(when) < 3:
        return float("nan")
    gaps = np.diff(when)
    # Of two or three gaps a left-out beat makes half of them long: the shorter ones are the usual time.
    usual = np.percentile(gaps, 25)
    return float(np.sum(np.maximum(np.round(gaps / usual) - 1, 0)))


@measure("landing_stroke", points=BLADES, model_u=0.0)
def landing_stroke(f: Figure, unit: Unit) -> float:
    after = strokes_between(f, unit.events["landing"] - 0.05, unit.events["landing"] + 1.6)
    return after[0][0] - unit.events["landing"] if after else float("nan")


@measure("boat_pitch", over="frame", points=BOAT, model_u=0.1, angle=("stern", "bow"))
def boat_pitch(f: Figure) -> Array:
    d = f["bow"] - f["stern"]
    flat = np.abs(d[:, 1]) if f.view is not None else np.hypot(d[:, 0], d[:, 1])
    return np.degrees(np.arctan2(d[:, 2], flat))
