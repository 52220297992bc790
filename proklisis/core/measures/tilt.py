"""Tilt of the body across the direction of travel."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import TILT_VIEWS, TURN_PHASES, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import LEG_DEPTH, tilt

Array = NDArray[np.float64]

#: Usual along ÷ up of a skier's trunk: what ψ mixes in (house choice).
TRUNK_DEPTH = 0.65


@measure(
    "lean", over="frame", unit="deg", title="Lean", formula="atan2(across, up) of outside ankle → com",
    views=TILT_VIEWS, phases=TURN_PHASES, signed=True, model_u=0.5,
    points=("l_ankle", "r_ankle", "l_hip", "r_hip", "l_shoulder", "r_shoulder"),
    angle=("outside_ankle", "com"),
)  # fmt: skip
def lean(f: Figure) -> Array:
    """How far the whole body leans into the turn, from the outside foot to the centre of mass."""
    return tilt(f, f["com"] - f["outside_ankle"], LEG_DEPTH)


@measure(
    "leg_lean", over="frame", unit="deg", title="Leg lean", formula="atan2(across, up) of mid_ankle → mid_hip",
    views=TILT_VIEWS, phases=TURN_PHASES, signed=True, model_u=0.4,
    points=("l_ankle", "r_ankle", "l_hip", "r_hip"), angle=("mid_ankle", "mid_hip"),
)  # fmt: skip
def leg_lean(f: Figure) -> Array:
    """How far the legs lean into the turn."""
    return tilt(f, f["mid_hip"] - f["mid_ankle"], LEG_DEPTH)


@measure(
    "trunk_lean", over="frame", unit="deg", title="Trunk lean",
    formula="atan2(across, up) of mid_hip → mid_shoulder",
    views=TILT_VIEWS, phases=TURN_PHASES, signed=True, model_u=0.4,
    points=("l_hip", "r_hip", "l_shoulder", "r_shoulder"), angle=("mid_hip", "mid_shoulder"),
)  # fmt: skip
def trunk_lean(f: Figure) -> Array:
    """How far the trunk leans into the turn."""
    return tilt(f, f["mid_shoulder"] - f["mid_hip"], TRUNK_DEPTH)


@measure(
    "angulation", over="frame", unit="deg", title="Angulation", formula="leg_lean − trunk_lean",
    views=TILT_VIEWS, phases=TURN_PHASES, signed=True, model_u=0.5,
    points=("l_ankle", "r_ankle", "l_hip", "r_hip", "l_shoulder", "r_shoulder"),
    angle=("mid_ankle", "mid_hip", "mid_shoulder"),
)  # fmt: skip
def angulation(f: Figure) -> Array:
    """How much more the legs lean than the trunk: the bend at the hip across the slope."""
    legs = tilt(f, f["mid_hip"] - f["mid_ankle"], LEG_DEPTH)
    trunk = tilt(f, f["mid_shoulder"] - f["mid_hip"], TRUNK_DEPTH)
    return legs - trunk


@measure(
    "shoulder_tilt", over="frame", unit="deg", title="Shoulder tilt",
    formula="tilt of l_shoulder → r_shoulder against the surface line, + dropped to the inside",
    views=TILT_VIEWS, phases=TURN_PHASES, signed=True, model_u=0.6,
    points=("l_shoulder", "r_shoulder"), angle=("l_shoulder", "r_shoulder"), board_views=("side_left", "side_right"),
)  # fmt: skip
def shoulder_tilt(f: Figure) -> Array:
    """How far the shoulder line drops toward the inside of the turn."""
    if f.sideways:
        # A board rider stands sideways: the line runs along the board, + is a dropped front shoulder.
        d = f["front_shoulder"] - f["back_shoulder"]
        return np.asarray(f.side * np.degrees(np.arctan2(-f.normal(d), np.abs(f.travel(d)))))
    d = f["r_shoulder"] - f["l_shoulder"]
    run = np.abs(d[:, 0]) if f.view is not None else np.hypot(d[:, 0], d[:, 1])
    return np.asarray(np.degrees(np.arctan2(-d[:, 2], run)))
