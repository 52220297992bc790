"""The signal that says which way the rider tilts, for each way of seeing them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError
from proklisis.core.figure import Figure
from proklisis.core.measures.geometry import length, tilt
from proklisis.core.measures.tilt import LEG_DEPTH
from proklisis.core.splitting.turns import TiltSignal, prepare
from proklisis.core.signals import lowpass

Array = NDArray[np.float64]
#: Height of the shoulders over the feet in shoulder widths, for a skier's crouch (house choice).
SHOULDERS_OVER_FEET = 2.9
SIDE_HZ = 1.6


def tilt_signal(figure: Figure) -> TiltSignal:
    """Return the smoothed signed tilt of a run, degrees, + to the rider's right.

    Raises InputError when the body cannot be followed well enough to see any tilt.
    """
    needed = ("mid_hip", "mid_ankle", "mid_shoulder")
    missing = [p for p in needed if p not in figure.points]
    if missing or not np.isfinite(figure.points["mid_hip"][:, list(figure.axes)]).any():
        raise InputError(
            "no person can be followed on this clip, so it cannot be split into turns", "",
            "film closer, so that the rider is at least a third of the picture's height",
        )  # fmt: skip
    if figure.view == "above":
        return prepare(figure.t, _from_above(figure), figure.fps)
    if figure.view in ("side_left", "side_right"):
        return prepare(figure.t, _from_side(figure), figure.fps, graded=False)
    top = figure.points.get("com", figure.points["mid_hip"])
    return prepare(figure.t, tilt(figure, top - figure.points["mid_ankle"], LEG_DEPTH), figure.fps)


def _from_above(f: Figure) -> Array:
    """Shoulders' offset from the feet across the slope, as the angle it takes to get there."""
    offset = f.points["mid_shoulder"][:, 0] - f.points["mid_ankle"][:, 0]
    width = np.nanmedian(length(f.points["r_shoulder"] - f.points["l_shoulder"]))
    return np.asarray(np.degrees(np.arcsin(np.clip(offset / (SHOULDERS_OVER_FEET * width), -0.95, 0.95))))


def _from_side(f: Figure) -> Array:
    """Sign and rough size of the tilt from the side, where lean itself cannot be seen.

    The inside foot runs ahead and the inside leg is the shorter; both are odd in the tilt
    and pass zero with it. Turning of the hips with the skis moves both feet and both hips
    apart along travel, so the hips' share is taken out of the feet's.
    """
    feet = f.points["r_ankle"] - f.points["l_ankle"]
    hips = f.points["r_hip"] - f.points["l_hip"]
    hips_along, feet_along = f.travel(hips), f.travel(feet)
    spread = float(np.nansum(hips_along * feet_along) / max(float(np.nansum(hips_along**2)), 1e-9))
    lead = feet_along - np.clip(spread, 0.0, 3.0) * hips_along
    right = length(f.points["r_hip"] - f.points["r_ankle"])
    left = length(f.points["l_hip"] - f.points["l_ankle"])
    leg = float(np.nanmedian((left + right) / 2))
    raw = np.degrees((lead + (left - right)) / leg)
    smooth = lowpass(raw, f.fps, SIDE_HZ)
    return np.asarray(smooth)
