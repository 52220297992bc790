"""Turns on a board: the rider stands sideways on it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import LEG_TO_TRUNK
from proklisis.core.measures import joints, rotation, shared  # noqa: F401  (declare what is attached to here)
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.measures.rotation import path_direction
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import (
    board_heading,
    ground,
    knee_flexion,
    length,
    tilt,
    toe_sign,
    wrap,
)
from proklisis.core.signals import lowpass
from proklisis.core.splitting.events import between
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
LEGS = ("l_hip", "r_hip", "l_knee", "r_knee", "l_ankle", "r_ankle")
SHOULDERS = ("l_shoulder", "r_shoulder")
BOARD = ("board_nose", "board_tail")
#: Half the time around the fall line over which the hips are read, seconds (house choice).
FALL_LINE_S = 0.07
#: Low-pass of the knees, hertz (house choice).
FLEX_HZ = 2.5
#: How far each leg stands out along the board, in leg lengths (house choice).
SPLAY = 0.15

declare_table("""
hip_along_board | ratio | Hips along the board | mid_hip from the middle of the feet toward the nose (+) ÷ ankle distance, over the belly | side_left, side_right |
hinge | deg | Hinge at the hip | trunk pitch across the board − leg lean across the board, + bent over the toes | front, rear | *
shin_to_boot | deg | Shin to boot | shin pitch toward the toes | front, rear | *
slip_angle | deg | Slip angle | board heading − direction of its path | above | *
radius_cv | pct | Radius spread | coefficient of variation of the turns' radii | above |
hands_height | ratio | Hands' height | height of the hands over the hips ÷ trunk length | front, rear | *
turn_width | ratio | Turn width | sideways ÷ downhill travel in a turn | front, rear, above |
""")


@measure(
    "hinge",
    over="frame",
    points=(*LEGS, *SHOULDERS),
    model_u=0.6,
    angle=("mid_ankle", "mid_hip", "mid_shoulder"),
)
def hinge(f: Figure) -> Array:
    trunk, legs = f["mid_shoulder"] - f["mid_hip"], f["mid_hip"] - f["mid_ankle"]
    return toe_sign(f) * (tilt(f, trunk) - tilt(f, legs))


@measure(
    "shin_to_boot",
    over="frame",
    points=(*LEGS, "base_in", "base_out"),
    model_u=1.2,
    angle=("l_ankle", "l_knee"),
)
def shin_to_boot(f: Figure) -> Array:
    """Of the shins against the square to the board's base, + toward the toes."""
    shins = (f["l_knee"] - f["l_ankle"] + f["r_knee"] - f["r_ankle"]) / 2
    base = f["base_out"] - f["base_in"]
    return toe_sign(f) * (tilt(f, shins) - np.degrees(np.arctan2(-base[:, 2], base[:, 0])))


@measure("hip_along_board", points=LEGS, model_u=0.02, angle=("mid_ankle", "mid_hip"))
def hip_along_board(f: Figure, unit: Unit) -> float:
    """Around the fall line, where a side view looks square at the board: it looks longest there."""
    stance = f["front_ankle"] - f["back_ankle"]
    d = f["mid_hip"] - f["mid_ankle"]
    along = (
        (d * stance).sum(axis=1) / (stance**2).sum(axis=1)
        if f.view is None
        else f.travel(d) / f.travel(stance)
    )
    a, b = unit.phases["entry"][0], unit.phases["finish"][1]
    seen, along = np.abs(between(f, f.travel(stance), a, b)), between(f, along, a, b)
    if not np.isfinite(seen).any():
        return float("nan")
    middle = int(np.nanargmax(lowpass(seen, f.fps, 2.0)))
    half = max(1, round(FALL_LINE_S * f.fps))
    return float(np.nanmean(along[max(0, middle - half) : middle + half + 1]))


@measure(
    "alignment",
    over="frame",
    points=(*SHOULDERS, *BOARD),
    model_u=0.7,
    angle=("l_shoulder", "r_shoulder"),
)
def alignment(f: Figure) -> Array:
    axis, board = f["front_shoulder"] - f["back_shoulder"], f["board_nose"] - f["board_tail"]
    turned = np.degrees(np.arctan2(axis[:, 0], axis[:, 1]) - np.arctan2(board[:, 0], board[:, 1]))
    return np.abs(wrap(turned))


@measure(
    "slip_angle",
    over="frame",
    points=(*BOARD, "scene_drift"),
    signed=True,
    model_u=0.5,
    angle=("board_tail", "board_nose"),
)
def slip_angle(f: Figure) -> Array:
    return wrap(board_heading(f) - path_direction(f))


@measure(
    "hands_height",
    over="frame",
    points=(*SHOULDERS, "l_wrist", "r_wrist", "l_hip", "r_hip"),
    model_u=0.015,
)
def hands_height(f: Figure) -> Array:
    hands = (f["l_wrist"] + f["r_wrist"]) / 2
    return (hands - f["mid_hip"])[:, 2] / np.nanmedian(length(f["mid_shoulder"] - f["mid_hip"]))


def _way(f: Figure, unit: Unit) -> tuple[Array, Array]:
    """Path of the feet over the snow within a unit: across and down the slope."""
    across, down = ground(f, f.path("mid_ankle"))
    return between(f, across, unit.start.t, unit.end.t), between(f, down, unit.start.t, unit.end.t)


@measure("turn_width", points=("l_ankle", "r_ankle", "scene_drift"), model_u=0.02)
def turn_width(f: Figure, unit: Unit) -> float:
    across, down = _way(f, unit)
    fallen = abs(float(down[-1] - down[0]))
    return float(np.abs(np.diff(across)).sum()) / fallen if fallen > 0 else float("nan")


@measure("radius_cv", over="run", points=("l_ankle", "r_ankle", "scene_drift", *BOARD), model_u=1.0)
def radius_cv(f: Figure, units: list[Unit]) -> float:
    """Radius of a turn: length of its path ÷ change of direction."""
    radii, h = [], board_heading(f)
    for unit in units:
        across, down = _way(f, unit)
        turned = np.radians(np.ptp(between(f, h, unit.start.t, unit.end.t)))
        radii.append(
            float(np.hypot(np.diff(across), np.diff(down)).sum()) / max(float(turned), 0.05)
        )
    return float(100 * np.std(radii, ddof=1) / np.mean(radii)) if len(radii) > 2 else float("nan")


@measure("time_to_fall_line", model_u=0.01)
def time_to_fall_line(f: Figure, unit: Unit) -> float:
    return unit.events.get("fall_line", float("nan")) - unit.start.t


@measure("flex_range", model_u=3.6)
def flex_range(f: Figure, unit: Unit) -> float:
    a, b = unit.start.t, unit.end.t
    knees = f.once("knees", lambda: (knee_flexion(f, "l") + knee_flexion(f, "r")) / 2)
    if f.view is None or not f.sideways:
        # Who faces the way of travel bends the knees in the picture of a side view.
        bend = f.once("knees, calm", lambda: lowpass(knees, f.fps, FLEX_HZ))
        swing = 1.0
    else:
        # The knees point now across, now along the picture: the length of the legs tells their bend, but
        # only its changes: its level would need the rider's bones to a percent.
        bend = f.once("legs, calm", lambda: lowpass(_leg_chord(f), f.fps, FLEX_HZ))
        usual = np.radians(np.nanmean(between(f, knees, a, b)))
        swing = 2 * float(np.degrees(1 / np.sin(max(usual, 0.35) / 2)))
    low, high = np.nanpercentile(between(f, bend, a, b), [4, 96])
    return float(high - low) * swing


def _leg_chord(f: Figure) -> Array:
    """(n,) from the ankles to the hips ÷ length of a straight leg, of a rider who stands across a board."""
    trunk = np.nanpercentile(length(f["mid_shoulder"] - f["mid_hip"]), 75)
    full = LEG_TO_TRUNK * trunk * f.facts["legs"]
    d = f["mid_hip"] - f["mid_ankle"]
    # The rider stands square on a board that points down and across: part of that is unseen.
    h, fall = np.radians(board_heading(f)), np.tan(np.radians(f.facts["slope"]))
    across = (d[:, 0] - d[:, 2] * fall * np.cos(h) * np.sin(h)) / np.maximum(np.cos(h), 0.4)
    along = d[:, 2] * fall * np.cos(h)
    return np.asarray(np.sqrt(across**2 + along**2 + d[:, 2] ** 2 + (SPLAY * full) ** 2) / full)
