"""The signal that says which way the rider tilts, for each way of seeing them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import HIP_JOINTS_TO_TRUNK
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import LEG_DEPTH, length, tilt
from proklisis.core.signals import lowpass
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.turns import pace_hz, prepare

Array = NDArray[np.float64]
#: Height of the shoulders over the feet in shoulder widths, for a skier's crouch (house choice).
SHOULDERS_OVER_FEET = 2.9
#: Highest cut-off from the side, hertz (house choice).
SIDE_HZ = 2.0
#: Cut-off in pairs of turns a second (house choice).
PACES = 2.4
#: What the sign of the tilt from the side is worth, from simulated runs (house choice).
SIDE_U_DEG = 2.0
#: Pairs whose left and right differ along travel, and those that also differ in height.
PAIRED = (
    "ankle",
    "heel",
    "toe",
    "ski_tip",
    "ski_tail",
    "knee",
    "hip",
    "shoulder",
    "elbow",
    "wrist",
)
LIFTED = ("knee", "shoulder", "elbow")


def tilt_signal(figure: Figure) -> EventSignal:
    """Return the smoothed signed tilt of a run, degrees, + to the rider's right.

    Hips, ankles and shoulders must be among the figure's points.
    """
    if figure.view == "above":
        return prepare(figure.t, _from_above(figure), figure.fps)
    if figure.view in ("side_left", "side_right") and figure.space:
        leaning = tilt(figure, _over_the_feet(figure))
        return replace(prepare(figure.t, leaning, figure.fps, graded=False), scene=SIDE_U_DEG)
    if figure.view in ("side_left", "side_right"):
        return replace(
            prepare(figure.t, _from_side(figure), figure.fps, graded=False), scene=SIDE_U_DEG
        )
    top = figure.points.get("com", figure.points["mid_hip"])
    body = top - figure.points["mid_ankle"]
    signal = prepare(figure.t, tilt(figure, body, LEG_DEPTH), figure.fps)
    offset_u = LEG_DEPTH * np.radians(figure.facts_u["offset"]) / np.cos(figure.psi) ** 2
    return replace(signal, scene=float(np.hypot(figure.facts_u["roll"], np.degrees(offset_u))))


def _over_the_feet(f: Figure) -> Array:
    """(n, 3) from the feet to the middle of the trunk, by the depths that were fitted."""
    mid = {p: (f.space[f"l_{p}"] + f.space[f"r_{p}"]) / 2 for p in ("ankle", "hip", "shoulder")}
    return np.asarray((mid["hip"] + mid["shoulder"]) / 2 - mid["ankle"])


def _from_above(f: Figure) -> Array:
    """Shoulders' offset from the feet across the slope, as the angle it takes to get there."""
    offset = f.points["mid_shoulder"][:, 0] - f.points["mid_ankle"][:, 0]
    width = np.nanmedian(length(f.points["r_shoulder"] - f.points["l_shoulder"]))
    return np.asarray(
        np.degrees(np.arcsin(np.clip(offset / (SHOULDERS_OVER_FEET * width), -0.95, 0.95)))
    )


def _from_side(f: Figure) -> Array:
    """Sign and rough size of the tilt from the side, where lean itself cannot be seen.

    Left and right points differ along travel and square to the snow by two things only: the
    tilt, and the turning of the skis a quarter of a turn away from it. Two principal
    components of all those differences hold both with little noise. The hips' difference
    in height knows nothing of the turning, so it picks the tilt out of the two.
    """
    anchor = f.points["l_hip"][:, 2] - f.points["r_hip"][:, 2]
    rows = [anchor]
    for part in PAIRED:
        if f"l_{part}" not in f.points or f"r_{part}" not in f.points:
            continue
        d = f.points[f"r_{part}"] - f.points[f"l_{part}"]
        rows.append(f.travel(d))
        if part in LIFTED:
            rows.append(f.normal(-d))
    seen = np.isfinite(rows).all(axis=0)
    if seen.sum() < 4:
        return np.full(len(f.t), np.nan)
    raw = np.array([row[seen] for row in rows])
    first = _leading(lowpass(raw.T, f.fps, SIDE_HZ).T)
    pace = pace_hz(
        EventSignal(f.t[seen], 90 * first / max(float(np.abs(first).max()), 1e-9), 0.0), PACES
    )
    hz = float(np.clip(pace, 0.8, SIDE_HZ))
    picked = np.full(len(f.t), np.nan)
    picked[seen] = _leading(lowpass(raw.T, f.fps, hz).T)
    width = (
        float(np.nanmedian(length(f.points["mid_shoulder"] - f.points["mid_hip"])))
        * HIP_JOINTS_TO_TRUNK
    )
    return np.asarray(np.degrees(np.arcsin(np.clip(2 * picked / width, -0.95, 0.95))))


def _leading(x: Array) -> Array:
    """The first row of ``x`` as the leading components of all rows hold it."""
    centred = x - x.mean(axis=1, keepdims=True)
    *_, components = np.linalg.svd(centred, full_matrices=False)
    plane = components[:3]
    return np.asarray(x[0].mean() + plane.T @ (plane @ centred[0]))
