"""One ski behind a boat. Lateral positions are in wakes: 0 the centre line, ±1 the crests."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import ARM_TO_TRUNK
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import (
    flexion,
    full_leg,
    full_trunk,
    knee_flexion,
    length,
    wrap,
)
from proklisis.core.signals import derivative, lowpass
from proklisis.core.splitting.events import at, between
from proklisis.core.splitting.rope import LOAD_FROM, crossing_lean, rope_cuts, rope_signal
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
LEGS = ("l_hip", "r_hip", "l_knee", "r_knee", "l_ankle", "r_ankle")
BODY = (*LEGS, "l_shoulder", "r_shoulder")
WAKES = ("wake_l", "wake_r")
#: Low-pass below what rocks in the lean, hertz (house choice).
ROCK_HZ = 1.2
#: Seconds around the centre line in which legs are read (house choice).
CENTRE_S = 0.25
#: Seconds around the ball in which they are (house choice).
SNAP_S = 0.35
#: A hand this far from the handle has let go, trunk lengths (house choice).
LET_GO = 0.55
#: A smaller change of lean is none, degrees (house choice).
REVERSAL_DEG = 5.0
#: Low-pass of the legs' bend, hertz (house choice).
BEND_HZ = 4.5
#: Low-pass of the lean for counting its reversals, hertz (house choice).
REVERSAL_HZ = 2.0
#: The first wake acts on the lean for so long, seconds (house choice).
WAKE_S = 0.2
#: The widest point is held while the skier is within this share of it.
WIDEST = 0.97

declare_table("""
edge_change_start | ratio | Edge change starts | lateral position where the change of edge starts, wakes | front, rear |
edge_change_end | ratio | Edge change ends | lateral position where the change of edge ends, wakes | front, rear |
edge_change_sd | ratio | Spread of the edge change | spread of its start over the run, wakes | front, rear |
load_lean | deg | Lean under load | greatest lean away from the boat | front, rear |
load_peak_at | ratio | Place of the greatest load | lateral position of the greatest lean, wakes | front, rear |
first_wake_rise | deg | Rise at the first wake | lean that is lost at the first wake | front, rear |
turn_lean | deg | Turn lean | lean on the turning edge at the ball | front, rear |
preset_share | ratio | Lean set before the ball | lean half-way from edge change to ball ÷ turn lean | front, rear |
lean_reversals | ratio | Lean reversals | changes of the lean's direction between edge change and ball | front, rear |
handle_gap | ratio | Handle from the hips | handle from the hips in the edge change ÷ arm length | side_left, side_right | edge_change
body_open | deg | Body open | shoulders turned away from the boat, 0 square to it | above |
hip_give | deg | Hip give | change of hip flexion across the wakes | side_left, side_right |
knee_give | deg | Knee give | change of knee flexion across the wakes | side_left, side_right |
foot_sway | ratio | Foot-to-foot sway | swing of com fore and aft from crossing to ball ÷ leg length | side_left, side_right |
foot_bias | ratio | Foot-to-foot bias | com_fore_aft at the ball less the crossing's mean ÷ leg length | side_left, side_right | ball
arrival_time | s | Arrival | later (+) than the skier's own even time at the second wake | front, rear |
pull_out_knee | deg | Knees in the pull-out | knee flexion in the pull-out for the gate | side_left, side_right |
release_wakes | ratio | Release | lateral position where the outer hand lets go, wakes | front, rear |
inside_lean_at_release | deg | Lean at the release | lean to the inside when the hand lets go | front, rear |
apex_dwell | s | Time at the widest | from the widest point to turning in | front, rear, above |
turn_start | m | Turn start | before (−) or after the ball | above, side_left, side_right |
glide_sway | deg | Rocking in the glide | rocking in the pull-out | front, rear |
feet_shove | deg/s | Feet shoved | speed of leg straightening at the centre line | side_left, side_right |
knee_snap | deg/s | Knee snap at the ball | speed of sudden knee straightening at the ball | side_left, side_right |
""")


def _lean(f: Figure, unit: Unit) -> Array:
    """Lean in the direction of travel: + loads against the boat, − is on the turning edge."""
    return np.asarray(unit.events["way"] * crossing_lean(f))


def _load_from(unit: Unit) -> float:
    return unit.start.t + LOAD_FROM * (unit.end.t - unit.start.t)


def _place(f: Figure, unit: Unit, when: float) -> float:
    """Lateral position at a moment, − before the centre line and + after it."""
    return unit.events["way"] * at(f, rope_signal(f).values, when, 0.025)


def _event(unit: Unit, name: str) -> float:
    return unit.events.get(name, float("nan"))


@measure("edge_change_start", points=(*BODY, *WAKES), model_u=0.015, angle=("mid_ankle", "com"))
def edge_change_start(f: Figure, unit: Unit) -> float:
    return (
        _place(f, unit, _event(unit, "edge_start")) if "edge_start" in unit.events else float("nan")
    )


@measure("edge_change_end", points=(*BODY, *WAKES), model_u=0.02, angle=("mid_ankle", "com"))
def edge_change_end(f: Figure, unit: Unit) -> float:
    return _place(f, unit, _event(unit, "edge_end")) if "edge_end" in unit.events else float("nan")


@measure("edge_change_sd", over="run", points=(*BODY, *WAKES), model_u=0.008)
def edge_change_sd(f: Figure, units: list[Unit]) -> float:
    starts = np.array([edge_change_start(f, u) for u in units])
    starts = starts[np.isfinite(starts)]
    return float(starts.std(ddof=1)) if len(starts) > 2 else float("nan")


@measure("load_lean", points=BODY, model_u=0.3, angle=("mid_ankle", "com"))
def load_lean(f: Figure, unit: Unit) -> float:
    last = unit.events.get("edge_start", unit.events["centre"] + 0.2)
    return float(np.nanmax(between(f, _lean(f, unit), _load_from(unit), last)))


@measure("load_peak_at", points=(*BODY, *WAKES), model_u=0.055, angle=("mid_ankle", "com"))
def load_peak_at(f: Figure, unit: Unit) -> float:
    """In the middle of the time with nine tenths of the greatest lean."""
    last = unit.events.get("edge_start", unit.events["centre"] + 0.2)
    t, x = (
        between(f, f.t, _load_from(unit), last),
        between(f, _lean(f, unit), _load_from(unit), last),
    )
    high = np.flatnonzero(x >= 0.9 * np.nanmax(x)) if np.isfinite(x).any() else np.empty(0, int)
    if not len(high):
        return float("nan")
    return _place(f, unit, float(t[high[0]] + t[high[-1]]) / 2)


def _turning(f: Figure, unit: Unit) -> tuple[Array, Array]:
    """Times and lean on the turning edge from the end of the edge change to the ball."""
    a = unit.events.get("edge_end", unit.events["centre"] + 0.25)
    return between(f, f.t, a, unit.end.t), -between(f, _lean(f, unit), a, unit.end.t)


@measure(
    "first_wake_rise",
    by_clock=True,
    points=(*BODY, *WAKES),
    model_u=1.0,
    angle=("mid_ankle", "com"),
)
def first_wake_rise(f: Figure, unit: Unit) -> float:
    place = unit.events["way"] * f.once("place", lambda: rope_signal(f).values)
    t, x = (
        between(f, f.t, unit.start.t, unit.events["centre"]),
        between(f, place, unit.start.t, unit.events["centre"]),
    )
    over = np.flatnonzero(x >= -1.0)
    if not len(over):
        return float("nan")
    when = float(t[over[0]])
    # What is lost after the centre line, or in the change of edge, is given up and not taken by the wake.
    last = min(when + WAKE_S, unit.events["centre"], unit.events.get("edge_start", np.inf))
    if last <= when:
        return float("nan")
    before, after = (
        between(f, _lean(f, unit), when - WAKE_S, when),
        between(f, _lean(f, unit), when, last),
    )
    return max(float(np.nanmax(before) - np.nanmin(after)), 0.0)


@measure(
    "handle_gap",
    over="phase",
    points=("handle", "l_hip", "r_hip", "l_shoulder", "r_shoulder"),
    model_u=0.06,
    angle=("mid_hip", "handle"),
)
def handle_gap(f: Figure, unit: Unit, phase: str | None) -> float:
    a, b = unit.phases.get(phase or "edge_change", (unit.start.t, unit.end.t))
    away = length(f["handle"] - f["mid_hip"]) / (ARM_TO_TRUNK * full_trunk(f))
    return float(np.nanmean(between(f, away, a, b)))


@measure("foot_bias", points=BODY, model_u=0.02, angle=("mid_ankle", "com"))
def foot_bias(f: Figure, unit: Unit) -> float:
    ahead = (f["com"] - f["mid_ankle"])[:, 1] / full_leg(f)
    return at(f, ahead, unit.end.t, 0.1) - float(
        np.nanmean(between(f, ahead, unit.start.t, unit.events["centre"]))
    )


def _second_wake(f: Figure, start: float, end: float) -> float:
    """Seconds from the widest point at ``start`` to the second wake of the crossing that ends at ``end``."""
    x, t = between(f, rope_signal(f).values, start, end), between(f, f.t, start, end)
    if len(x) < 3:
        return float("nan")
    gone = np.maximum.accumulate(x if x[-1] > x[0] else -x)
    return float(np.interp(1.0, gone, t)) - start if gone[0] < 1.0 < gone[-1] else float("nan")


def _even_time(f: Figure) -> float:
    """The skier's own even time from the widest point to the second wake: the middle one of the run."""
    cuts = [b.t for b in rope_cuts(f, rope_signal(f))]
    took = [_second_wake(f, a, b) for a, b in itertools.pairwise(cuts)]
    return float(np.nanmedian(took)) if np.isfinite(took).sum() > 2 else float("nan")


@measure("arrival_time", points=(*WAKES, "l_ankle", "r_ankle"), model_u=0.015)
def arrival_time(f: Figure, unit: Unit) -> float:
    return _second_wake(f, unit.start.t, unit.end.t) - f.once("even_time", lambda: _even_time(f))


@measure("turn_lean", points=BODY, model_u=0.3, angle=("mid_ankle", "com"))
def turn_lean(f: Figure, unit: Unit) -> float:
    return float(np.nanmax(_turning(f, unit)[1]))


@measure("preset_share", points=BODY, model_u=0.01, angle=("mid_ankle", "com"))
def preset_share(f: Figure, unit: Unit) -> float:
    t, x = _turning(f, unit)
    return at(f, -_lean(f, unit), float(t[0] + t[-1]) / 2, 0.04) / float(x.max())


@measure("lean_reversals", points=BODY, model_u=0.0, angle=("mid_ankle", "com"))
def lean_reversals(f: Figure, unit: Unit) -> float:
    slow = -unit.events["way"] * f.once(
        "lean_even", lambda: lowpass(crossing_lean(f), f.fps, REVERSAL_HZ)
    )
    x = between(f, slow, unit.events.get("edge_end", unit.events["centre"] + 0.25), unit.end.t)
    count, way, last = 0, 1, float(x[0])
    for v in x:
        if way * (v - last) > 0:
            last = float(v)
        elif way * (last - v) > REVERSAL_DEG:
            count, way, last = count + 1, -way, float(v)
    return float(count)


@measure(
    "body_open",
    points=("l_shoulder", "r_shoulder"),
    model_u=1.0,
    angle=("l_shoulder", "r_shoulder"),
)
def body_open(f: Figure, unit: Unit) -> float:
    d = f["r_shoulder"] - f["l_shoulder"]
    facing = wrap(np.degrees(np.arctan2(-d[:, 1], d[:, 0])))
    a = unit.start.t + 0.15 * (unit.end.t - unit.start.t)
    return unit.events["way"] * float(
        np.nanmean(between(f, facing, a + 0.1, unit.events["centre"]))
    )


def _bend(f: Figure, a: str, b: str, c: str) -> Array:
    def work() -> Array:
        if b == "knee" and f.view in ("side_left", "side_right"):
            # A leg that leans to the camera or away looks short: its depth is filled in.
            left, right = knee_flexion(f, "l"), knee_flexion(f, "r")
        else:
            left, right = (flexion(f[f"{s}_{a}"], f[f"{s}_{b}"], f[f"{s}_{c}"]) for s in "lr")
        return lowpass((left + right) / 2, f.fps, BEND_HZ)

    return f.once(f"bend_{b}", work)


def _give(f: Figure, unit: Unit, bend: Array) -> float:
    c = unit.events["centre"]
    x = between(f, bend, c - CENTRE_S, c + CENTRE_S)
    return float(np.nanmax(x) - np.nanmin(x))


@measure("hip_give", points=BODY, model_u=6.5, angle=("l_shoulder", "l_hip", "l_knee"))
def hip_give(f: Figure, unit: Unit) -> float:
    return _give(f, unit, _bend(f, "shoulder", "hip", "knee"))


@measure("knee_give", points=LEGS, model_u=8.0, angle=("l_hip", "l_knee", "l_ankle"))
def knee_give(f: Figure, unit: Unit) -> float:
    return _give(f, unit, _bend(f, "hip", "knee", "ankle"))


@measure("foot_sway", points=BODY, model_u=0.008, angle=("mid_ankle", "com"))
def foot_sway(f: Figure, unit: Unit) -> float:
    ahead = (f["com"] - f["mid_ankle"])[:, 1] / full_leg(f)
    return abs(at(f, ahead, unit.end.t, 0.1) - at(f, ahead, unit.events["centre"], 0.1))


def _released(f: Figure, unit: Unit) -> float:
    """When the free hand is first away from the handle after the centre line."""
    away = f.once(
        "hand_away",
        lambda: (
            np.max([length(f[f"{s}_wrist"] - f["handle"]) for s in "lr"], axis=0) / full_trunk(f)
        ),
    )
    t, x = (
        between(f, f.t, unit.events["centre"] - 0.3, unit.end.t),
        between(f, away, unit.events["centre"] - 0.3, unit.end.t),
    )
    gone = np.flatnonzero(x > LET_GO)
    return float(t[gone[0]]) if len(gone) else float("nan")


@measure("release_wakes", points=(*WAKES, "handle", "l_wrist", "r_wrist"), model_u=0.055)
def release_wakes(f: Figure, unit: Unit) -> float:
    return _place(f, unit, _released(f, unit))


@measure(
    "inside_lean_at_release",
    points=(*BODY, "handle", "l_wrist", "r_wrist"),
    model_u=1.2,
    angle=("mid_ankle", "com"),
)
def inside_lean_at_release(f: Figure, unit: Unit) -> float:
    return -at(f, _lean(f, unit), _released(f, unit), 0.02)


@measure("apex_dwell", points=(*WAKES, "l_ankle", "r_ankle"), model_u=0.012)
def apex_dwell(f: Figure, unit: Unit) -> float:
    a, b = unit.events["centre"], unit.end.t + 1.5
    t, x = between(f, f.t, a, b), unit.events["way"] * between(f, rope_signal(f).values, a, b)
    wide = np.flatnonzero(x >= WIDEST * x.max())
    return float(t[wide[-1]] - t[wide[0]])


def ball_of(f: Figure, unit: Unit) -> str | None:
    """The buoy that the skier is nearest to, along the course, at the unit's end."""
    balls = [name for name in f.points if name.startswith("buoy_")]
    off = {b: abs(at(f, (f["mid_ankle"] - f[b])[:, 1], unit.end.t, 0.05)) for b in balls}
    off = {b: v for b, v in off.items() if np.isfinite(v)}
    return min(off, key=lambda b: off[b]) if off else None


@measure("turn_start", points=("l_ankle", "r_ankle"), model_u=0.12)
def turn_start(f: Figure, unit: Unit) -> float:
    ball = ball_of(f, unit)
    if ball is None:
        return float("nan")
    return at(f, (f["mid_ankle"] - f[ball])[:, 1], unit.end.t, 0.05) * f.metres()


@measure("glide_sway", points=BODY, model_u=0.25, angle=("mid_ankle", "com"))
def glide_sway(f: Figure, unit: Unit) -> float:
    """Swing of what rocks in the lean faster than a turn does, from the edge change to the ball."""
    lean = _lean(f, unit)
    t, _ = _turning(f, unit)
    slow = unit.events["way"] * f.once(
        "lean_slow", lambda: lowpass(crossing_lean(f), f.fps, ROCK_HZ)
    )
    quick = between(f, lean - slow, float(t[0]) + 0.35 * float(t[-1] - t[0]), float(t[-1]))
    return float(2 * 2**0.5 * np.sqrt(np.nanmean(quick**2)))


def _straightening(f: Figure, a: float, b: float) -> float:
    rate = -derivative(_bend(f, "hip", "knee", "ankle"), f.t)
    return float(np.nanmax(between(f, rate, a, b)))


@measure("feet_shove", points=LEGS, model_u=75.0, angle=("l_hip", "l_knee", "l_ankle"))
def feet_shove(f: Figure, unit: Unit) -> float:
    c = unit.events["centre"]
    return _straightening(f, c - CENTRE_S, c + CENTRE_S)


@measure("knee_snap", points=LEGS, model_u=22.0, angle=("l_hip", "l_knee", "l_ankle"))
def knee_snap(f: Figure, unit: Unit) -> float:
    return _straightening(f, unit.end.t - SNAP_S, unit.end.t + SNAP_S)
