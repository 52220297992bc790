"""Edge angle of the running surface against the snow."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import TILT_VIEWS, TURN_PHASES, declare, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import board_heading, heading_of, length

Array = NDArray[np.float64]

#: With no ski to see, its heading is taken as down the fall line; what that may cost, degrees,
#: from simulated skiers followed in pictures (house choice).
UNKNOWN_HEADING_U = 4.0
#: A skier is longer at the start of a turn and bends through it: the shin's pitch grows by so many degrees for each that the
#: ski comes round (house choice).
PITCH_GROWTH = 0.3
#: Up to so many degrees of turning to either side (house choice).
PITCH_TURN_DEG = 15.0


def shin_edge(f: Figure, limb: str) -> Array:
    """Edge from the shin, taken as square to the base across the ski; degrees, + to the right.

    In the ski's own frame (across, normal to the snow, along the ski) the shin is
    (a, b, b·tan p) with p its forward lean in the boot. A camera from the front or rear sees
    two combinations of a and b, which are solved; 3-D tracks need no assumption.
    """
    shin = f.limb(limb, "knee") - f.limb(limb, "ankle")
    slope = np.radians(f.facts["slope"])
    if f"{limb[0]}_ski_tip" in f.points or (len(limb) > 1 and "l_ski_tip" in f.points):
        h = np.radians(heading_of(f, limb))
    else:
        h = np.zeros(len(f.t))
    if f.view is None:
        across = shin[:, 0] * np.cos(h) - f.travel(shin) * np.sin(h)
        return np.asarray(np.degrees(np.arctan2(across, f.normal(shin))))
    turned = np.clip(f.side * np.degrees(h), -PITCH_TURN_DEG, PITCH_TURN_DEG)
    tp = np.tan(np.radians(f.facts["shin_pitch"] + PITCH_GROWTH * turned))
    x, up = shin[:, 0], shin[:, 2]
    # x = a·cos h + b·tp·sin h;  up = b·cos θ − sin θ·(−a·sin h + b·tp·cos h)
    m11, m12 = np.cos(h), tp * np.sin(h)
    m21, m22 = np.sin(slope) * np.sin(h), np.cos(slope) - np.sin(slope) * tp * np.cos(h)
    det = m11 * m22 - m12 * m21
    a = (x * m22 - m12 * up) / det
    b = (m11 * up - m21 * x) / det
    return np.asarray(np.degrees(np.arctan2(a, b)))


def base_edge(f: Figure) -> Array:
    """Edge of a board from two points across its base, left and right; degrees, + to the right.

    At heading h on a slope θ the line across the base is cos ε·c − sin ε·n, with c the level-most
    direction across the board and n the snow's normal; the ratio of its two seen parts gives ε.
    """
    d = f["base_out"] - f["base_in"]
    if f.view is None or f.view in ("side_left", "side_right"):
        wide = length(d) if f.view is None else np.full(len(f.t), np.nanpercentile(length(d), 98))
        return np.asarray(np.degrees(np.arcsin(np.clip(-f.normal(d) / wide, -0.98, 0.98))))
    h, slope = np.radians(board_heading(f)), np.radians(f.facts["slope"])
    rise = d[:, 2] * np.cos(h) - d[:, 0] * np.sin(h) * np.sin(slope)
    return np.asarray(np.degrees(np.arctan2(-rise, np.abs(d[:, 0]) * np.cos(slope))))


@measure(
    "edge", over="frame", unit="deg", title="Edge", views=TILT_VIEWS, phases=TURN_PHASES, signed=True,
    formula="outside shin, taken as square to the base, against the snow across the ski",
    model_u=1.6, points=("l_knee", "r_knee", "l_ankle", "r_ankle"),
    angle=("outside_ankle", "outside_knee"), board_points=("base_in", "base_out", "board_nose", "board_tail"),
)  # fmt: skip
def edge(f: Figure) -> tuple[Array, Array]:
    """How far the outside ski is tipped against the snow."""
    if f.sideways:
        return base_edge(f), np.zeros(len(f.t))
    if "bow" in f.points and "base_in" in f.points:
        d = f["base_out"] - f["base_in"]
        wide = np.abs(d[:, 0]) if f.view is not None else np.hypot(d[:, 0], d[:, 1])
        return np.degrees(np.arctan2(-d[:, 2], wide)), np.zeros(len(f.t))
    blind = 0.0 if f.view is None or "l_ski_tip" in f.points else UNKNOWN_HEADING_U
    return shin_edge(f, "outside"), np.full(len(f.t), blind)


declare(
    id="edge_gain", unit="deg", title="Edge gain",
    doc="How much edge is added between the end of the transition and the belly.",
    formula="edge at the belly − edge at the end of the transition",
    views=TILT_VIEWS, points=("l_knee", "r_knee", "l_ankle", "r_ankle"),
)  # fmt: skip
declare(
    id="edge_rate", unit="deg/s", title="Edge rate",
    doc="The greatest speed with which the edge is tipped through the transition.",
    formula="max |d(edge)/dt| through the transition",
    views=TILT_VIEWS, points=("l_knee", "r_knee", "l_ankle", "r_ankle"),
)  # fmt: skip
