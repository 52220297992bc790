"""Take the lean out of a side view, so that bends of knee and hip can be read.

From the side a leaning leg looks shorter: its extent square to the slope shrinks by cos λ, while
its extent along travel, down the slope, stays. λ is close to a half sine over a turn; its peak is found turn
by turn from how much shorter a segment looks in the belly than at the changes of edge, where
nobody leans. Every other view passes through unchanged.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.rider.figure import Figure
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
MOST_LEAN_DEG = 65.0
#: What stands on the ankles.
LOWER = ("hip", "knee")
#: What stands on the hips.
UPPER = ("shoulder", "elbow", "wrist", "ear")


def unlean(figure: Figure, turns: list[Unit]) -> Figure:
    """Return the figure with legs and trunk stood upright across the slope (side views only)."""
    if figure.view not in ("side_left", "side_right") or not turns:
        return figure
    p = figure.points
    arch = _arch(figure.t, turns)
    trunk_cos = _cosine(figure, turns, arch, [(p["mid_hip"], p["mid_shoulder"])])
    # Without knees the legs are taken to lean as the trunk does.
    legs = [
        (p[f"{s}_{a}"], p[f"{s}_{b}"])
        for s in "lr"
        for a, b in (("ankle", "knee"), ("knee", "hip"))
        if f"{s}_knee" in p
    ]
    leg_cos = _cosine(figure, turns, arch, legs) if legs else trunk_cos
    points = dict(p)
    for name in (f"{s}_{part}" for s in "lr" for part in LOWER):
        if name in p:
            ankle = p[f"{name[0]}_ankle"]
            points[name] = ankle + _stretch(figure, p[name] - ankle, leg_cos)
    points["mid_hip"] = (points["l_hip"] + points["r_hip"]) / 2
    for name in p:
        if name.endswith(UPPER) or name == "nose":
            points[name] = points["mid_hip"] + _stretch(figure, p[name] - p["mid_hip"], trunk_cos)
    for part in ("shoulder", "ear"):
        if f"mid_{part}" in p:
            points[f"mid_{part}"] = (points[f"l_{part}"] + points[f"r_{part}"]) / 2
    if "com" in p:
        points["com"] = p["mid_ankle"] + _stretch(figure, p["com"] - p["mid_ankle"], leg_cos)
    return replace(figure, points=points)


def _stretch(figure: Figure, d: Array, cosine: Array) -> Array:
    slope = np.radians(figure.facts["slope"])
    along, off = figure.travel(d), figure.normal(d) / cosine
    out = d.copy()
    out[:, 1] = along * np.cos(slope) + off * np.sin(slope)
    out[:, 2] = off * np.cos(slope) - along * np.sin(slope)
    return out


def _arch(t: Array, turns: list[Unit]) -> Array:
    """(n,) half sine over each turn, 0 outside."""
    arch = np.zeros(len(t))
    for turn in turns:
        i, j = np.searchsorted(t, [turn.start.t, turn.end.t])
        arch[i:j] = np.sin(np.pi * (t[i:j] - turn.start.t) / (turn.end.t - turn.start.t))
    return arch


def _cosine(
    figure: Figure, turns: list[Unit], arch: Array, segments: list[tuple[Array, Array]]
) -> Array:
    """(n,) cos λ for a chain of segments, from their lengths at the changes and in the bellies."""
    t = figure.t
    change = np.zeros(len(t), bool)
    for turn in turns:
        for when in (turn.start.t, turn.end.t):
            change |= np.abs(t - when) < 0.06 * (turn.end.t - turn.start.t)
    out = np.ones(len(t))
    along2 = np.array([figure.travel(b - a) ** 2 for a, b in segments])
    up2 = np.array([figure.normal(b - a) ** 2 for a, b in segments])
    if not change.any():
        return out
    true2 = np.nanmean((along2 + up2)[:, change], axis=1)
    for turn in turns:
        i, j = np.searchsorted(t, [turn.start.t, turn.end.t])
        belly = slice(i + (j - i) // 3, j - (j - i) // 3)
        upright2 = true2[:, None] - along2[:, belly]
        top, bottom = float(np.nansum(up2[:, belly])), float(np.nansum(upright2))
        if not (top > 0 and bottom > 0):
            continue
        mean_cos2 = np.clip(top / bottom, np.cos(np.radians(MOST_LEAN_DEG)) ** 2, 1.0)
        # Over the middle third of a half sine the mean of sin² is about 0.92.
        peak = np.arcsin(np.sqrt(np.clip((1 - mean_cos2) / 0.92, 0, 1)))
        out[i:j] = np.cos(peak * arch[i:j])
    return out
