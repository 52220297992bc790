"""How the load is shared between the feet."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import TILT_VIEWS, TURN_PHASES, measure
from proklisis.core.physics.flight import GRAVITY
from proklisis.core.rider.figure import Figure
from proklisis.core.signals import derivative, lowpass

Array = NDArray[np.float64]
#: Cut-off for the body's path over the ground before it is differentiated twice.
LOAD_HZ = 2.5
#: Below this the lean is too small to hold the turning against, m/s².
LEANS_MS2 = 1.0


def lateral_acceleration(f: Figure) -> Array:
    """Acceleration of the centre of mass across the slope, m/s², + to the rider's right."""
    path = f["com"][:, 0] - (f["scene_drift"][:, 0] if f.view is not None else 0.0)
    smooth = lowpass(path, f.fps, LOAD_HZ if f.view is not None else 8.0)
    return derivative(derivative(smooth, f.t), f.t) / f.facts["scale"]


def clock_share(f: Figure) -> float:
    """Turning that is seen ÷ turning that the lean stands against, over all turns; NaN where path or scale are not known.

    In balance the acceleration across the slope is g·tan(lean of the centre of mass over the feet). A clock that runs
    k times too slow makes it k² times too small, whatever the rider does; a regression through the origin.
    """
    if (
        f.view not in ("front", "rear")
        or not {"scene_drift", "com", "mid_ankle"} <= f.points.keys()
        or not np.isfinite(f.facts["scale"])
    ):
        return float("nan")
    d = f["com"] - f["mid_ankle"]
    with np.errstate(divide="ignore", invalid="ignore"):
        needed = GRAVITY * d[:, 0] / d[:, 2]
    seen = lateral_acceleration(f)
    usable = np.isfinite(needed) & np.isfinite(seen) & (f.side != 0)
    if usable.sum() < f.fps or np.sqrt(np.mean(needed[usable] ** 2)) < LEANS_MS2:
        return float("nan")
    return float((seen[usable] * needed[usable]).sum() / (needed[usable] ** 2).sum())


@measure(
    "weight_outside", over="frame", unit="pct", title="Weight on the outside foot", views=TILT_VIEWS,
    phases=TURN_PHASES, points=("l_ankle", "r_ankle", "scene_drift"), model_u=4.5, possible=(-10.0, 110.0), by_clock=True,
    formula="where the resultant of gravity and turning through com meets the line of the feet",
    angle=("l_ankle", "r_ankle"),
)  # fmt: skip
def weight_outside(f: Figure) -> tuple[Array, Array]:
    """The share of the load that stands on the outside foot."""
    accel = lateral_acceleration(f)
    com, outside, inside = f["com"], f["outside_ankle"], f["inside_ankle"]
    height = com[:, 2] - (outside[:, 2] + inside[:, 2]) / 2
    centre = com[:, 0] - height * accel / GRAVITY
    gap = outside[:, 0] - inside[:, 0]
    share = 100.0 * (centre - inside[:, 0]) / gap
    # White position noise through a low-pass and two derivatives, mean square frequency fc²/3.
    u_px = f.u["com"] * np.sqrt(2 * LOAD_HZ / f.fps)
    u_accel = u_px * (2 * np.pi * LOAD_HZ) ** 2 / 5**0.5 / f.facts["scale"]
    with np.errstate(divide="ignore", invalid="ignore"):
        u = np.abs(100.0 * height * u_accel / GRAVITY / gap)
    return np.asarray(share), np.asarray(u)
