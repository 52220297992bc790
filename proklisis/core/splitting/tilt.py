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
#: The size that a tilt from depths is brought to, and what its sign is worth, degrees (rendered people).
SWING_DEG, DEPTH_U_DEG = 25.0, 10.0
#: Cut-off of a tilt from depths in pairs of turns a second (house choice).
DEPTH_PACES = 1.8
#: Weight of the tilt itself among the differences that it is held against.
ANCHOR = 3.0
#: Slowest and quickest pairs of turns, hertz: from long turns at speed to short ones on a steep slope (common practice).
PAIRS_HZ = (0.12, 0.85)
#: Seen more from the side than this (sine of the azimuth), the tilt is read from depths.
BY_DEPTH = 0.6
#: Pairs of turns around a moment that its middle is taken from.
SWINGS = 1.6
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
    if figure.by_depth > BY_DEPTH:
        return replace(
            prepare(figure.t, _by_depths(figure), figure.fps, graded=False), scene=DEPTH_U_DEG
        )
    if figure.view in ("side_left", "side_right"):
        return replace(
            prepare(figure.t, _from_side(figure), figure.fps, graded=False), scene=SIDE_U_DEG
        )
    top = figure.points.get("com", figure.points["mid_hip"])
    body = top - figure.points["mid_ankle"]
    signal = prepare(figure.t, tilt(figure, body, LEG_DEPTH), figure.fps)
    offset_u = LEG_DEPTH * np.radians(figure.facts_u["offset"]) / np.cos(figure.psi) ** 2
    return replace(signal, scene=float(np.hypot(figure.facts_u["roll"], np.degrees(offset_u))))


def _by_depths(f: Figure) -> Array:
    """The tilt from the side by the depths that were fitted, about its middle, less what nothing else in the picture goes with.

    Depths wander; differences between left and right that lie in the picture do not. The leading components of all
    of them together hold the tilt with less noise than the depths alone.
    """
    space = f.points if f.in_space else f.space
    mid = {p: (space[f"l_{p}"] + space[f"r_{p}"]) / 2 for p in ("ankle", "hip", "shoulder")}
    body = (mid["hip"] + mid["shoulder"]) / 2 - mid["ankle"]
    # Not its angle: what a depth is off by at all times would come back with the body's rise and fall, twice a pair of turns.
    level = about_its_middle(f.t, body[:, 0], f.fps)
    rows = [level]
    for part in PAIRED:
        if f"l_{part}" in space and not part.startswith("ski"):
            d = space[f"r_{part}"] - space[f"l_{part}"]
            rows += [f.travel(d), f.normal(d)]
    seen = np.isfinite(rows).all(axis=0)
    if seen.sum() < 4:
        return level
    pace = DEPTH_PACES * strongest_hz(level[seen], f.fps)
    smooth = lowpass(np.array([row[seen] for row in rows]).T, f.fps, pace)
    spread = smooth.std(axis=0)
    out = np.full(len(f.t), np.nan)
    scaled = (smooth / np.where(spread > 0, spread, 1.0)).T
    scaled[0] *= ANCHOR
    swing = _leading(scaled)
    # Turns to the left take as long as those to the right, on the whole.
    swing -= np.median(swing)
    # Depths are flatter than bodies: only the sign and the course of the tilt are told, brought to a usual size.
    out[seen] = swing * SWING_DEG / max(float(np.percentile(np.abs(swing), 90)), 1e-9)
    return out


def about_its_middle(t: Array, x: Array, fps: float) -> Array:
    """A swinging signal less the middle it swings about: half-way between the highest and the lowest of a few swings around.

    Depths are off by much the same all along a clip, which lifts the whole signal; turns go both ways.
    """
    from scipy.ndimage import maximum_filter1d, minimum_filter1d

    seen = np.isfinite(x)
    if seen.sum() < 4:
        return x
    filled = lowpass(np.interp(t, t[seen], x[seen]), fps, SIDE_HZ)
    hz = strongest_hz(filled, fps)
    swing = round(SWINGS * fps / hz)
    size = int(np.clip(swing, 3, len(t)))
    middle = (maximum_filter1d(filled, size) + minimum_filter1d(filled, size)) / 2
    return np.asarray(x - lowpass(middle, fps, 0.5 * hz))


def strongest_hz(x: Array, fps: float) -> float:
    """The rate of pairs of turns that a swinging signal holds most of, hertz, from its spectrum."""
    n = len(x)
    power = np.abs(np.fft.rfft((x - x.mean()) * np.hanning(n), 8 * n)) ** 2
    hz = np.fft.rfftfreq(8 * n, 1 / fps)
    possible = (hz >= PAIRS_HZ[0]) & (hz <= PAIRS_HZ[1])
    if not possible.any():
        return PAIRS_HZ[0]
    return float(hz[possible][power[possible].argmax()])


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
