"""Measures that several disciplines share."""

from __future__ import annotations

from proklisis.core.measures.registry import TURN_PHASES, declare

declare(
    id="alignment",
    unit="deg",
    title="Alignment",
    doc="Angle of the shoulder axis to the board's long axis, unsigned.",
    formula="angle of the shoulder axis to the board's long axis, unsigned",
    views=("above",),
    phases=TURN_PHASES,
)
declare(
    id="elbow_lift",
    unit="deg",
    title="Elbow lift",
    doc="Shoulder → elbow above (+) or below the line that hangs 45° down from the shoulder.",
    formula="shoulder → elbow above (+) or below the line that hangs 45° down from the shoulder",
    views=("front", "side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="ankle_flex",
    unit="deg",
    title="Ankle flexion",
    doc="Bend of the ankle, 0 where the shin stands square to the foot.",
    formula="bend of the ankle, 0 where the shin stands square to the foot",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="air_time",
    unit="s",
    title="Air time",
    doc="Last contact → first contact.",
    formula="last contact → first contact",
    views=(),
)
declare(
    id="flight_height",
    unit="m",
    title="Flight height",
    doc="G·t²/8 from the air time.",
    formula="g·t²/8 from the air time",
    views=(),
)
declare(
    id="axis_tilt",
    unit="deg",
    title="Axis tilt",
    doc="Mid_ankle → mid_shoulder off the vertical in flight, + toward the landing side.",
    formula="mid_ankle → mid_shoulder off the vertical in flight, + toward the landing side",
    views=("front", "rear"),
    phases=("set", "spin"),
)
declare(
    id="rotation_period",
    unit="s",
    title="Rotation period",
    doc="Shortest time of one full turn in the air.",
    formula="shortest time of one full turn in the air",
    views=(),
)
declare(
    id="rotations",
    unit="ratio",
    title="Rotations",
    doc="Turns in the air, from the take-off heading to the landing heading.",
    formula="turns in the air, from the take-off heading to the landing heading",
    views=(),
)
declare(
    id="shortfall", unit="deg", title="Shortfall", doc="Planned − landed rotation.", formula="planned − landed rotation", views=()
)
declare(id="cadence", unit="hz", title="Cadence", doc="Cycles per second.", formula="cycles per second", views=())
declare(
    id="side_gap",
    unit="ratio",
    title="Side gap",
    doc="Mean of left − mean of right.",
    formula="mean of left − mean of right",
    views=(),
)
