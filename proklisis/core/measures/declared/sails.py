"""Carve gybe."""

from __future__ import annotations

from proklisis.core.measures.registry import TURN_PHASES, declare

declare(
    id="front_arm",
    unit="deg",
    title="Front arm",
    doc="Elbow flexion of the front arm, 0 straight.",
    formula="elbow flexion of the front arm, 0 straight",
    views=("side_left", "side_right", "front"),
    phases=TURN_PHASES,
)
declare(
    id="rig_room",
    unit="ratio",
    title="Room to the rig",
    doc="Head to mast ÷ arm length.",
    formula="head to mast ÷ arm length",
    views=("side_left", "side_right", "front"),
    phases=TURN_PHASES,
)
declare(
    id="hips_inside",
    unit="ratio",
    title="Hips inside",
    doc="Mid_hip to the inside of the feet ÷ hip width.",
    formula="mid_hip to the inside of the feet ÷ hip width",
    views=("front", "rear"),
    phases=TURN_PHASES,
)
declare(
    id="rail_min",
    unit="deg",
    title="Least rail",
    doc="Least board tilt to the inside over the arc.",
    formula="least board tilt to the inside over the arc",
    views=("front", "rear"),
)
declare(
    id="foot_change_time",
    unit="s",
    title="Foot change",
    doc="From opening the rig to the change of feet.",
    formula="from opening the rig to the change of feet",
    views=(),
)
declare(
    id="entry_angle",
    unit="deg",
    title="Entry angle",
    doc="Course off the wind on entering.",
    formula="course off the wind on entering",
    views=("above",),
)
declare(
    id="exit_angle",
    unit="deg",
    title="Exit angle",
    doc="Course off the wind on leaving.",
    formula="course off the wind on leaving",
    views=("above",),
)
declare(id="arc", unit="deg", title="Arc", doc="Change of course.", formula="change of course", views=("above",))
declare(id="speed_kept", unit="ratio", title="Speed kept", doc="Speed out ÷ speed in.", formula="speed out ÷ speed in", views=())
declare(
    id="slow_zone_time",
    unit="s",
    title="Time in the slow zone",
    doc="Time between 120° and 240° off the wind.",
    formula="time between 120° and 240° off the wind",
    views=(),
)
declare(
    id="rig_release_gap",
    unit="s",
    title="Hand free",
    doc="Time the hand is free while the rig swings.",
    formula="time the hand is free while the rig swings",
    views=(),
)
declare(
    id="head_ahead_of_mast",
    unit="ratio",
    title="Head past the mast",
    doc="Head ahead of the mast after the release ÷ arm length.",
    formula="head ahead of the mast after the release ÷ arm length",
    views=("side_left", "side_right"),
)
