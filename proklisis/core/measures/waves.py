"""Turns on a wave."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import SHANK_TO_TRUNK, THIGH_TO_TRUNK
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import bend_seen, full_leg, full_trunk, wrap
from proklisis.core.signals import derivative, lowpass
from proklisis.core.splitting.events import at, between
from proklisis.core.splitting.units import Unit
from proklisis.core.splitting.waves import face_height

Array = NDArray[np.float64]
LEGS = ("l_hip", "r_hip", "l_knee", "r_knee", "l_ankle", "r_ankle")
SHOULDERS = ("l_shoulder", "r_shoulder")
BOARD = ("board_nose", "board_tail")
WAVE = ("trough", "lip_top")
#: Width of a head ÷ trunk (house choice).
HEAD_TO_TRUNK = 0.298
#: Slower sways of the knees are the turn itself, hertz (house choice).
SWAY_HZ = 1.5
#: Speed is read so long before and after the top turn, seconds (house choice).
AROUND_TOP_S = 0.35

declare_table("""
compression | ratio | Compression | hip height over the board ÷ leg length | side_left, side_right, front, rear | *
fold | deg | Fold at the waist | hip flexion − knee flexion | side_left, side_right | *
knee_sway | deg | Knee wobble | sideways wobble of the knees, RMS | front, rear |
chest_open | deg | Chest open | shoulders turned up the face, from the board's axis | above | *
face_seen | ratio | Face seen | 0 back of the head, 0.5 profile, 1 face, seen from the beach | front | *
top_turn_height | ratio | Height of the top turn | share of the face, 0 trough to 1 lip | front, rear, oblique |
thirds_low | pct | Low third | time in the low third of the face | front, rear, oblique |
thirds_mid | pct | Middle third | time in the middle third of the face | front, rear, oblique |
thirds_high | pct | High third | time in the high third of the face | front, rear, oblique |
speed_out | ratio | Speed kept | speed along the wave after ÷ before the top turn | front, rear, above |
lead_arm_open | deg | Front arm open | front arm turned up the face from the board's axis | above | *
""")


@measure(
    "compression",
    over="frame",
    points=(*LEGS, *BOARD),
    model_u=0.015,
    angle=("mid_ankle", "mid_hip"),
)
def compression(f: Figure) -> Array:
    board = (f["board_nose"] + f["board_tail"]) / 2
    return (f["mid_hip"] - board)[:, 2] / full_leg(f)


@measure(
    "fold",
    over="frame",
    points=(*LEGS, *SHOULDERS),
    model_u=5.5,
    angle=("l_shoulder", "l_hip", "l_knee"),
)
def fold(f: Figure) -> tuple[Array, Array]:
    trunk = full_trunk(f)
    legs = f.facts["legs"] * trunk
    thigh, shank = THIGH_TO_TRUNK * legs, SHANK_TO_TRUNK * legs
    hips = [
        bend_seen(f[f"{s}_shoulder"], f[f"{s}_hip"], f[f"{s}_knee"], (trunk, thigh)) for s in "lr"
    ]
    knees = [
        bend_seen(f[f"{s}_hip"], f[f"{s}_knee"], f[f"{s}_ankle"], (thigh, shank)) for s in "lr"
    ]
    hip, knee, own = (
        np.mean(x, axis=0)
        for x in ([b[0] for b in hips], [b[0] for b in knees], [b[1] for b in hips + knees])
    )
    return hip - knee, own


@measure("knee_sway", points=LEGS, model_u=0.65, angle=("l_ankle", "l_knee"))
def knee_sway(f: Figure, unit: Unit) -> float:
    """RMS of the shins' tilt along the wave, without what is as slow as the turn."""
    d = (f["l_knee"] - f["l_ankle"] + f["r_knee"] - f["r_ankle"]) / 2
    tilt = np.degrees(np.arctan2(d[:, 0], d[:, 2]))
    quick = between(f, tilt - lowpass(tilt, f.fps, SWAY_HZ), unit.start.t, unit.end.t)
    return float(np.sqrt(np.nanmean(quick**2)))


def _up_the_face(f: Figure, d: Array, unit_sign: Array) -> Array:
    """Degrees that a horizontal direction is turned from the board's axis toward the wave's face."""
    board = f["board_nose"] - f["board_tail"]
    turned = wrap(np.degrees(np.arctan2(d[:, 0], d[:, 1]) - np.arctan2(board[:, 0], board[:, 1])))
    # The face is behind the shoreward direction y: to the right of a rider who goes right.
    return np.asarray(turned * unit_sign)


def _going(f: Figure) -> Array:
    board = f["board_nose"] - f["board_tail"]
    return np.where(board[:, 0] >= 0, 1.0, -1.0)


@measure(
    "chest_open",
    over="frame",
    points=(*SHOULDERS, *BOARD),
    model_u=1.0,
    angle=("l_shoulder", "r_shoulder"),
)
def chest_open(f: Figure) -> Array:
    return _up_the_face(f, f["front_shoulder"] - f["back_shoulder"], _going(f))


@measure(
    "lead_arm_open",
    over="frame",
    points=(*SHOULDERS, "l_wrist", "r_wrist", *BOARD),
    model_u=1.5,
    angle=("l_shoulder", "l_wrist"),
)
def lead_arm_open(f: Figure) -> Array:
    return _up_the_face(f, f["front_wrist"] - f["front_shoulder"], _going(f))


@measure(
    "face_seen",
    over="frame",
    points=("l_ear", "r_ear", *SHOULDERS, "l_hip", "r_hip"),
    model_u=0.03,
    angle=("l_ear", "r_ear"),
)
def face_seen(f: Figure) -> Array:
    """From the way the right ear lies of the left one, seen from the shore."""
    wide = HEAD_TO_TRUNK * full_trunk(f)
    return np.clip(0.5 + 0.5 * (f["r_ear"] - f["l_ear"])[:, 0] / wide, 0, 1)


@measure("top_turn_height", points=WAVE, model_u=0.022, angle=("trough", "lip_top"))
def top_turn_height(f: Figure, unit: Unit) -> float:
    return float(np.nanmax(between(f, face_height(f), unit.start.t, unit.end.t)))


def _third(f: Figure, unit: Unit, lo: float, hi: float) -> float:
    h = between(f, face_height(f), unit.start.t, unit.end.t)
    return float(100 * np.mean((h >= lo) & (h < hi)))


@measure("thirds_low", points=WAVE, model_u=4.5)
def thirds_low(f: Figure, unit: Unit) -> float:
    return _third(f, unit, -9, 1 / 3)


@measure("thirds_mid", points=WAVE, model_u=4.5)
def thirds_mid(f: Figure, unit: Unit) -> float:
    return _third(f, unit, 1 / 3, 2 / 3)


@measure("thirds_high", points=WAVE, model_u=2.3)
def thirds_high(f: Figure, unit: Unit) -> float:
    return _third(f, unit, 2 / 3, 9)


@measure("speed_out", points=("l_ankle", "r_ankle", "scene_drift"), model_u=0.012)
def speed_out(f: Figure, unit: Unit) -> float:
    v = np.abs(lowpass(derivative(f.path("mid_ankle")[:, 0], f.t), f.fps, 2.0))
    top = unit.events["top"]
    return at(f, v, top + AROUND_TOP_S, 0.1) / at(f, v, top - AROUND_TOP_S, 0.1)
