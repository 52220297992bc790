"""Where the feet and knees stand across the body."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import (
    HEADING_VIEWS,
    TILT_VIEWS,
    TURN_PHASES,
    declare,
    measure,
)
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import heading_of, length, span

Array = NDArray[np.float64]
#: What turned hips leave unsure of a width in hip widths, as a share (from simulated boarders).
HIPS_TURNED = 0.022


@measure(
    "stance_width", over="frame", unit="ratio", title="Stance width", views=TILT_VIEWS, phases=TURN_PHASES,
    formula="|l_ankle − r_ankle| ÷ |l_hip − r_hip|", model_u=0.02,
    points=("l_ankle", "r_ankle", "l_hip", "r_hip"), angle=("l_ankle", "r_ankle"), board_views=("side_left", "side_right"),
)  # fmt: skip
def stance_width(f: Figure) -> Any:
    """How far apart the feet are, in hip widths."""
    if f.sideways:
        # Hips that are turned against the board look narrower than they are.
        value = length(f["r_ankle"] - f["l_ankle"]) / length(f["r_hip"] - f["l_hip"])
        return value if f.view is None else (value, HIPS_TURNED * value)
    return span(f["r_ankle"] - f["l_ankle"]) / span(f["r_hip"] - f["l_hip"])


@measure(
    "knee_gap", over="frame", unit="ratio", title="Knee gap", views=TILT_VIEWS, phases=TURN_PHASES,
    formula="|l_knee − r_knee| ÷ |l_ankle − r_ankle|", model_u=0.015,
    points=("l_ankle", "r_ankle", "l_knee", "r_knee"), angle=("l_knee", "r_knee"), board_views=("side_left", "side_right"),
)  # fmt: skip
def knee_gap(f: Figure) -> Array:
    """How far apart the knees are, against the feet."""
    if f.sideways:
        return length(f["r_knee"] - f["l_knee"]) / length(f["r_ankle"] - f["l_ankle"])
    return span(f["r_knee"] - f["l_knee"]) / span(f["r_ankle"] - f["l_ankle"])


@measure(
    "scissor", over="frame", unit="deg", title="Scissor", views=HEADING_VIEWS, phases=TURN_PHASES,
    formula="heading of the outside ski − heading of the inside ski, + tips apart",
    points=("l_ski_tip", "l_ski_tail", "r_ski_tip", "r_ski_tail"), model_u=0.4,
    angle=("outside_ski_tail", "outside_ski_tip"),
)  # fmt: skip
def scissor(f: Figure) -> Array:
    """How far the inside ski's tip turns away from the outside ski's."""
    return np.asarray(f.side * (heading_of(f, "inside") - heading_of(f, "outside")))


declare(
    id="boot_gap_growth", unit="ratio", title="Boot gap growth",
    doc="How much wider the feet are in the belly than at the change of edges.",
    formula="stance_width at the belly ÷ stance_width at the transition",
    views=TILT_VIEWS, points=("l_ankle", "r_ankle", "l_hip", "r_hip"),
)  # fmt: skip
