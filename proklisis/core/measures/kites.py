"""Unhooked forward roll."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.jumps import planned_rotations, rotations
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import flexion, knee_from_reach, length, wrap
from proklisis.core.splitting.events import at, between, bridged, ground_level, leg
from proklisis.core.splitting.flights import AIRBORNE
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
TRUNK = ("l_hip", "r_hip", "l_shoulder", "r_shoulder")
LEGS = ("l_hip", "r_hip", "l_knee", "r_knee", "l_ankle", "r_ankle")
#: The kite is bear-away high so long before the take-off, seconds (house choice).
BEAR_AWAY_S = 1.2
#: A board is edged hard beyond this, degrees (house choice).
HARD_EDGE_DEG = 20.0
#: Width of a twin tip ÷ its length (house choice).
WIDTH_TO_LENGTH = 0.29
#: Landings are absorbed within this, seconds (house choice).
ABSORB_S = 0.35

declare_table("""
kite_height | deg | Kite height | kite above the horizon at take-off | side_left, side_right |
kite_climb | deg | Kite climbs | change of kite height from bear-away to take-off | side_left, side_right |
edge_hold | s | Edge held | hard edging before take-off | side_left, side_right |
front_leg_lead | s | Front leg leads | front foot leaves before the back one | side_left, side_right |
legs_back | deg | Legs back | knee flexion in the spin | side_left, side_right |
torso_lead | deg | Chest leads | shoulders ahead of the board in the first third of the roll | side_left, side_right |
landing_heading | deg | Landing heading | board off the line to the kite, which flies downwind, at the landing | above |
absorb | deg | Absorbed | change of knee and hip flexion after touch-down | side_left, side_right |
over_rotation | ratio | Over-rotation | rotations − planned rotations | |
""")


def _kite(f: Figure) -> Array:
    """Elevation of the kite above the horizon, degrees."""
    d = np.nan_to_num(f["kite"] - f["mid_shoulder"])
    return np.asarray(np.degrees(np.arctan2(d[:, 2], np.hypot(d[:, 0], d[:, 1]))))


@measure("kite_height", points=("kite", *TRUNK), model_u=0.3, angle=("mid_shoulder", "kite"))
def kite_height(f: Figure, unit: Unit) -> float:
    return at(f, _kite(f), unit.start.t, 0.05)


@measure("kite_climb", points=("kite", *TRUNK), model_u=0.3, angle=("mid_shoulder", "kite"))
def kite_climb(f: Figure, unit: Unit) -> float:
    return at(f, _kite(f), unit.start.t - 0.05, 0.05) - at(
        f, _kite(f), unit.start.t - BEAR_AWAY_S, 0.08
    )


@measure("edge_hold", points=("board_nose", "board_tail", "base_in", "base_out"), model_u=0.012)
def edge_hold(f: Figure, unit: Unit) -> float:
    """Time that the board stays tipped hard until it leaves the water."""
    base = f["base_out"] - f["base_in"]
    wide = WIDTH_TO_LENGTH * np.nanpercentile(length(f["board_nose"] - f["board_tail"]), 90)
    edge = np.degrees(np.arcsin(np.clip(np.abs(base[:, 2]) / wide, 0, 1)))
    t, x = (
        between(f, f.t, f.t[0], unit.start.t),
        between(f, bridged(edge, f.t), f.t[0], unit.start.t),
    )
    hard = np.flatnonzero(x >= HARD_EDGE_DEG)
    hard = hard[t[hard] > unit.start.t - 3.0]
    if not len(hard) or unit.start.t - t[hard[-1]] > 0.2:
        return 0.0
    k = hard[-1]
    while k > 0 and x[k - 1] >= HARD_EDGE_DEG:
        k -= 1
    return float(t[hard[-1]] - t[k])


@measure("front_leg_lead", points=("l_heel", "l_toe", "r_heel", "r_toe"), model_u=0.003)
def front_leg_lead(f: Figure, unit: Unit) -> float:
    left = {}
    for limb in ("front", "back"):
        up = (
            np.minimum(f.limb(limb, "heel")[:, 2], f.limb(limb, "toe")[:, 2]) - ground_level(f)
        ) / leg(f)
        up = up - np.nanpercentile(up, 20)
        t, x = (
            between(f, f.t, unit.start.t - 0.4, unit.end.t - 0.1),
            between(f, up, unit.start.t - 0.4, unit.end.t - 0.1),
        )
        down = np.flatnonzero(x < AIRBORNE)
        if not len(down) or down[-1] + 1 >= len(x):
            return float("nan")
        k = down[-1]
        left[limb] = float(np.interp(AIRBORNE, [x[k], x[k + 1]], [t[k], t[k + 1]]))
    return left["back"] - left["front"]


def legs_bend(f: Figure) -> Array:
    """Mean knee flexion of both legs, degrees."""
    return (knee_from_reach(f, "l") + knee_from_reach(f, "r")) / 2


@measure("legs_back", points=LEGS, model_u=3.0, angle=("l_hip", "l_knee", "l_ankle"))
def legs_back(f: Figure, unit: Unit) -> float:
    a, b = unit.phases["spin"]
    return float(np.nanmean(between(f, legs_bend(f), a, b)))


@measure(
    "torso_lead",
    points=(*LEGS, *TRUNK),
    model_u=0.4,
    angle=("mid_ankle", "mid_hip", "mid_shoulder"),
)
def torso_lead(f: Figure, unit: Unit) -> float:
    """The trunk's turn ahead of the legs', in the plane of the roll."""
    trunk, legs = f["mid_shoulder"] - f["mid_hip"], f["mid_hip"] - f["mid_ankle"]
    ahead = wrap(
        np.degrees(np.arctan2(trunk[:, 1], trunk[:, 2]) - np.arctan2(legs[:, 1], legs[:, 2]))
    )
    third = unit.start.t + (unit.end.t - unit.start.t) / 3
    return float(np.nanmean(between(f, ahead, unit.start.t + 0.05, third)))


@measure(
    "landing_heading",
    points=("board_nose", "board_tail", "kite"),
    model_u=0.8,
    angle=("board_tail", "board_nose"),
)
def landing_heading(f: Figure, unit: Unit) -> float:
    board, line = f["board_nose"] - f["board_tail"], f["kite"] - f["mid_hip"]
    off = np.degrees(np.arctan2(board[:, 0], board[:, 1]) - np.arctan2(line[:, 0], line[:, 1]))
    return float(np.abs(wrap(np.array([at(f, off, unit.end.t, 0.03)])))[0])


@measure(
    "absorb",
    by_clock=True,
    points=(*LEGS, *TRUNK),
    model_u=5.0,
    angle=("l_hip", "l_knee", "l_ankle"),
)
def absorb(f: Figure, unit: Unit) -> float:
    """Folding of knees and hips together after the board touches down."""
    fold = legs_bend(f) + flexion(f["mid_shoulder"], f["mid_hip"], f["mid_ankle"])
    after = between(f, fold, unit.end.t, unit.end.t + ABSORB_S)
    return float(np.nanpercentile(after, 95)) - at(f, fold, unit.end.t, 0.03)


@measure("over_rotation", points=("l_ankle", "r_ankle", *TRUNK), model_u=0.01)
def over_rotation(f: Figure, unit: Unit) -> float:
    return rotations(f, unit) - planned_rotations(f)
