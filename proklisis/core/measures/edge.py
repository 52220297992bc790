"""Edge angle of the running surface against the snow."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.figure import Figure
from proklisis.core.measures.geometry import heading_of
from proklisis.core.measures.registry import TILT_VIEWS, TURN_PHASES, declare, measure

Array = NDArray[np.float64]

#: With no ski to see, its heading is taken as down the fall line; what that may cost, degrees,
#: from simulated skiers followed in pictures (house choice).
UNKNOWN_HEADING_U = 4.0
#: A skier is longer at the start of a turn and bends through it: the shin's pitch grows by so many
#: degrees for each degree that the ski comes round, up to so many to either side (house choice).
PITCH_GROWTH, PITCH_TURN_DEG = 0.3, 15.0


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


@measure(
    id="edge", unit="deg", title="Edge", views=TILT_VIEWS, phases=TURN_PHASES, signed=True,
    formula="outside shin, taken as square to the base, against the snow across the ski",
    model_u=1.6, points=("l_knee", "r_knee", "l_ankle", "r_ankle"),
    angle=("outside_ankle", "outside_knee"),
)  # fmt: skip
def edge(f: Figure) -> tuple[Array, Array]:
    """How far the outside ski is tipped against the snow."""
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
