"""Snowboard."""

from __future__ import annotations

from proklisis.core.measures.registry import TURN_PHASES, declare

declare(
    id="hip_along_board",
    unit="ratio",
    title="Hips along the board",
    doc="Mid_hip from the middle of the feet toward the nose (+) ÷ ankle distance.",
    formula="mid_hip from the middle of the feet toward the nose (+) ÷ ankle distance",
    views=("side_left", "side_right", "above"),
    phases=TURN_PHASES,
)
declare(
    id="hinge",
    unit="deg",
    title="Hinge at the hip",
    doc="Trunk pitch across the board − leg lean across the board, + bent over the toes.",
    formula="trunk pitch across the board − leg lean across the board, + bent over the toes",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="shin_to_boot",
    unit="deg",
    title="Shin to boot",
    doc="Shin pitch toward the toes.",
    formula="shin pitch toward the toes",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="slip_angle",
    unit="deg",
    title="Slip angle",
    doc="Board heading − direction of its path.",
    formula="board heading − direction of its path",
    views=("above", "oblique"),
    phases=TURN_PHASES,
)
declare(
    id="radius_cv",
    unit="pct",
    title="Radius spread",
    doc="Coefficient of variation of the turns' radii.",
    formula="coefficient of variation of the turns' radii",
    views=("above",),
)
declare(
    id="hands_height",
    unit="ratio",
    title="Hands' height",
    doc="Height of the hands over the hips ÷ trunk length.",
    formula="height of the hands over the hips ÷ trunk length",
    views=("front", "rear"),
    phases=TURN_PHASES,
)
declare(
    id="turn_width",
    unit="ratio",
    title="Turn width",
    doc="Sideways ÷ downhill travel in a turn.",
    formula="sideways ÷ downhill travel in a turn",
    views=("front", "rear", "above"),
)
