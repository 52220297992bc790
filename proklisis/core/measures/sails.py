"""Carve gybe."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import ARM_TO_TRUNK, HIP_JOINTS_TO_TRUNK
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import flexion, full_trunk, length
from proklisis.core.signals import derivative, lowpass
from proklisis.core.splitting.events import at, between
from proklisis.core.splitting.sails import course
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
#: Landmarks of the rig.
RIG = ("boom_front", "boom_end")
#: Landmarks of the board.
BOARD = ("board_nose", "board_tail")
ARMS = ("l_shoulder", "r_shoulder", "l_elbow", "r_elbow", "l_wrist", "r_wrist")
#: A hand this far from the boom is free, trunk lengths (house choice).
FREE = 0.35
#: The rail's low-pass, hertz (house choice).
RAIL_HZ = 3.0
#: Speeds are read so long before and after, seconds (house choice).
AROUND_S = 0.4
#: The rig is followed so long around its change, seconds (house choice).
RIG_S = 0.9
#: From ahead or behind a hand that is seen free for less may have been free for longer, seconds (house choice: what is wanted of it).
LEAST_SEEN_FREE_S = 0.25

declare_table("""
front_arm | deg | Front arm | elbow flexion of the front arm, 0 straight | front, rear | *
rig_room | ratio | Room to the rig | head to mast ÷ arm length | front, rear | *
hips_inside | ratio | Hips inside | mid_hip to the inside of the feet ÷ hip width | front, rear | *
rail_min | deg | Least rail | least board tilt to the inside over the arc | front, rear |
foot_change_time | s | Foot change | from opening the rig to the change of feet | side_left, side_right, above |
feet_from_start | s | Feet from the start | from the start of the carve to the feet changed | side_left, side_right, above |
front_foot_place | ratio | Place of the front foot | new front foot behind the front straps ÷ foot length | side_left, side_right, above |
entry_angle | deg | Entry angle | course off the wind on entering | above |
exit_angle | deg | Exit angle | course off the wind on leaving | above |
arc | deg | Arc | change of course | above |
speed_kept | ratio | Speed kept | speed out ÷ speed in | above |
slow_zone_time | s | Time in the slow zone | time between 120° and 240° off the wind | above, side_left, side_right, front, rear |
rig_release_gap | s | Hand free | time the hand is free while the rig swings | front, rear, above |
head_ahead_of_mast | ratio | Head past the mast | head ahead of the mast after the release ÷ arm length | side_left, side_right | rig_change
""")


@measure(
    "front_arm",
    over="frame",
    points=(*ARMS, *RIG),
    model_u=2.5,
    angle=("l_shoulder", "l_elbow", "l_wrist"),
)
def front_arm(f: Figure) -> Array:
    """Of the arm whose hand is nearer to the mast."""
    near = {s: length(f[f"{s}_wrist"] - f["boom_front"]) for s in "lr"}
    bend = {s: flexion(f[f"{s}_shoulder"], f[f"{s}_elbow"], f[f"{s}_wrist"]) for s in "lr"}
    return np.where(near["l"] <= near["r"], bend["l"], bend["r"])


@measure(
    "rig_room",
    over="frame",
    points=("mast_foot", "mast_head", "nose", "l_ear", "r_ear"),
    model_u=0.07,
    angle=("mid_ear", "mast_foot"),
)
def rig_room(f: Figure) -> Array:
    mast = np.nan_to_num(f["mast_head"] - f["mast_foot"])
    mast = mast / np.maximum(np.linalg.norm(mast, axis=1, keepdims=True), 1e-9)
    d = np.nan_to_num(f["mid_ear"] - f["mast_foot"])
    off = d - (d * mast).sum(axis=1, keepdims=True) * mast
    room = np.linalg.norm(off, axis=1)
    return np.asarray(room) / (ARM_TO_TRUNK * full_trunk(f))


@measure(
    "hips_inside",
    over="phase",
    points=("l_hip", "r_hip", "l_ankle", "r_ankle"),
    model_u=0.08,
    angle=("mid_ankle", "mid_hip"),
)
def hips_inside(f: Figure, unit: Unit, phase: str | None) -> float:
    a, b = unit.phases.get(phase or "", (unit.start.t, unit.end.t))
    inside = unit.events["turn"] * (f["mid_hip"] - f["mid_ankle"])[:, 0]
    return float(np.nanmean(between(f, inside, a, b))) / (HIP_JOINTS_TO_TRUNK * full_trunk(f))


@measure("rail_min", points=("base_in", "base_out"), model_u=0.8)
def rail_min(f: Figure, unit: Unit) -> float:
    """Over the first three quarters of the arc, before the rig is over."""
    d = f["base_out"] - f["base_in"]
    wide = length(d) if f.view is None else np.full(len(f.t), np.nanpercentile(length(d), 97))
    tilt = unit.events["turn"] * np.degrees(np.arcsin(np.clip(-d[:, 2] / wide, -1, 1)))
    a, b = unit.start.t, unit.start.t + 0.75 * (unit.end.t - unit.start.t)
    return float(np.nanmin(between(f, lowpass(np.nan_to_num(tilt), f.fps, RAIL_HZ), a, b)))


@measure("foot_change_time", points=("l_ankle", "r_ankle", *BOARD, *RIG), model_u=0.03)
def foot_change_time(f: Figure, unit: Unit) -> float:
    return unit.events["feet"] - unit.events.get("open", float("nan"))


@measure("feet_from_start", points=("l_ankle", "r_ankle", *BOARD), model_u=0.05)
def feet_from_start(f: Figure, unit: Unit) -> float:
    return unit.events["feet"] - unit.start.t


def _off_wind(f: Figure, when: float) -> float:
    return 180.0 - abs(at(f, course(f), when, 0.08))


@measure("entry_angle", points=BOARD, model_u=0.4)
def entry_angle(f: Figure, unit: Unit) -> float:
    return _off_wind(f, unit.start.t - AROUND_S)


@measure("exit_angle", points=BOARD, model_u=0.4)
def exit_angle(f: Figure, unit: Unit) -> float:
    return _off_wind(f, unit.end.t + AROUND_S)


@measure("arc", points=BOARD, model_u=0.5)
def arc(f: Figure, unit: Unit) -> float:
    return abs(
        at(f, course(f), unit.end.t + AROUND_S, 0.08)
        - at(f, course(f), unit.start.t - AROUND_S, 0.08)
    )


@measure("speed_kept", points=(*BOARD, "scene_drift"), model_u=0.008)
def speed_kept(f: Figure, unit: Unit) -> float:
    path = (f["board_nose"] + f["board_tail"]) / 2
    path = path - f["scene_drift"] if f.view is not None else path
    v = lowpass(np.hypot(*(derivative(np.nan_to_num(path), f.t)[:, :2]).T), f.fps, 2.0)
    return at(f, v, unit.end.t + AROUND_S, 0.1) / at(f, v, unit.start.t - AROUND_S, 0.1)


@measure("slow_zone_time", points=BOARD, model_u=0.025)
def slow_zone_time(f: Figure, unit: Unit) -> float:
    return unit.end.t - unit.start.t


def _from_boom(f: Figure, s: str) -> Array:
    """Distance of a hand from the boom, in trunk lengths."""
    line = np.nan_to_num(f["boom_end"] - f["boom_front"])
    d = np.nan_to_num(f[f"{s}_wrist"] - f["boom_front"])
    w = np.clip((d * line).sum(axis=1) / np.maximum((line**2).sum(axis=1), 1e-9), 0, 1)
    return np.asarray(np.linalg.norm(d - w[:, None] * line, axis=1)) / full_trunk(f)


@measure("rig_release_gap", points=(*RIG, "l_wrist", "r_wrist"), model_u=0.12)
def rig_release_gap(f: Figure, unit: Unit) -> float:
    """Longest time within reach of the rig's swing that one hand holds nothing."""
    rig = unit.events.get("rig", float("nan"))
    if not np.isfinite(rig):
        return float("nan")
    t, x = (
        between(f, f.t, rig - RIG_S, rig + RIG_S),
        between(f, np.maximum(_from_boom(f, "l"), _from_boom(f, "r")), rig - RIG_S, rig + RIG_S),
    )
    free = np.concatenate([[0], (x > FREE).astype(int), [0]])
    edges = np.diff(free)
    runs = [
        float(t[j - 1] - t[i])
        for i, j in zip(np.flatnonzero(edges == 1), np.flatnonzero(edges == -1), strict=True)
    ]
    longest = max(runs, default=0.0)
    # A hand that comes toward the camera looks as if it held: what is seen free is the least that it was.
    return float("nan") if f.view in ("front", "rear") and longest < LEAST_SEEN_FREE_S else longest


@measure(
    "head_ahead_of_mast",
    points=("mast_foot", "nose", "l_ear", "r_ear"),
    model_u=0.022,
    angle=("mast_foot", "mid_ear"),
)
def head_ahead_of_mast(f: Figure, unit: Unit) -> float:
    rig = unit.events.get("rig", float("nan"))
    ahead = (f["mid_ear"] - f["mast_foot"])[:, 1] / (ARM_TO_TRUNK * full_trunk(f))
    return at(f, ahead, rig + 0.2, 0.08)
