"""On wheels."""

from __future__ import annotations

from proklisis.core.measures.registry import TURN_PHASES, declare

declare(
    id="v_angle",
    unit="deg",
    title="V of the feet",
    doc="Angle between the feet while stepping, toes out.",
    formula="angle between the feet while stepping, toes out",
    views=("front",),
)
declare(
    id="v_angle_glide",
    unit="deg",
    title="V in the glide",
    doc="Angle between the feet while rolling.",
    formula="angle between the feet while rolling",
    views=("front",),
)
declare(
    id="step_width",
    unit="ratio",
    title="Step width",
    doc="Distance of the feet ÷ hip width.",
    formula="distance of the feet ÷ hip width",
    views=("front",),
)
declare(
    id="single_support",
    unit="s",
    title="Time on one foot",
    doc="Touch-down of one foot to touch-down of the other.",
    formula="touch-down of one foot to touch-down of the other",
    views=(),
)
declare(
    id="step_forward",
    unit="ratio",
    title="Step forward",
    doc="Landing foot ahead of the other ÷ foot length.",
    formula="landing foot ahead of the other ÷ foot length",
    views=("side_left", "side_right"),
)
declare(
    id="shoulder_over_hip",
    unit="ratio",
    title="Shoulder over hip",
    doc="Shoulder ahead of the hip ÷ trunk length.",
    formula="shoulder ahead of the hip ÷ trunk length",
    views=("side_left", "side_right"),
)
declare(
    id="seat_fore",
    unit="ratio",
    title="Seat forward",
    doc="Hip ahead of the peg ÷ leg length when seated.",
    formula="hip ahead of the peg ÷ leg length when seated",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="head_over_bars",
    unit="ratio",
    title="Head over the bars",
    doc="Nose ahead of the bar clamp ÷ arm length.",
    formula="nose ahead of the bar clamp ÷ arm length",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="hip_back_standing",
    unit="ratio",
    title="Hips back when standing",
    doc="Hip behind the peg ÷ leg length.",
    formula="hip behind the peg ÷ leg length",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="toe_out",
    unit="deg",
    title="Toes out",
    doc="Foot off the machine's axis.",
    formula="foot off the machine's axis",
    views=("front", "above"),
    phases=TURN_PHASES,
)
declare(
    id="stand_shift",
    unit="ratio",
    title="Shift in standing up",
    doc="Forward travel of the head when rising ÷ trunk length.",
    formula="forward travel of the head when rising ÷ trunk length",
    views=("side_left", "side_right"),
)
declare(
    id="bike_body_lean",
    unit="deg",
    title="Body against bike",
    doc="Trunk lean − bike lean in the corner.",
    formula="trunk lean − bike lean in the corner",
    views=("front", "rear"),
    phases=TURN_PHASES,
)
declare(
    id="elbow_flare",
    unit="ratio",
    title="Elbow flare",
    doc="Elbow distance ÷ hand distance.",
    formula="elbow distance ÷ hand distance",
    views=("front",),
    phases=TURN_PHASES,
)
declare(
    id="heel_drop",
    unit="deg",
    title="Heel drop",
    doc="Heel below the toe.",
    formula="heel below the toe",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="knee_flare",
    unit="ratio",
    title="Knee flare",
    doc="Knee distance ÷ pedal width.",
    formula="knee distance ÷ pedal width",
    views=("front",),
    phases=TURN_PHASES,
)
declare(
    id="hip_height",
    unit="ratio",
    title="Hip height",
    doc="Hip over the saddle ÷ leg length.",
    formula="hip over the saddle ÷ leg length",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="chest_low",
    unit="deg",
    title="Low chest",
    doc="Trunk pitch forward of the vertical.",
    formula="trunk pitch forward of the vertical",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="com_over_bb",
    unit="ratio",
    title="Mass over the pedals",
    doc="Com ahead of the bottom bracket ÷ leg length.",
    formula="com ahead of the bottom bracket ÷ leg length",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
