"""Double poling."""

from __future__ import annotations

from proklisis.core.measures.registry import declare

declare(
    id="pole_angle",
    unit="deg",
    title="Pole angle",
    doc="Pole off the vertical at the plant, + tip behind the grip.",
    formula="pole off the vertical at the plant, + tip behind the grip",
    views=("side_left", "side_right"),
    phases=("plant",),
)
declare(
    id="plant_fore",
    unit="ratio",
    title="Plant ahead",
    doc="Pole tip ahead of the binding at the plant ÷ leg length.",
    formula="pole tip ahead of the binding at the plant ÷ leg length",
    views=("side_left", "side_right"),
    phases=("plant",),
)
declare(
    id="elbow_dip",
    unit="deg",
    title="Elbow give",
    doc="Elbow angle at the plant − smallest in the first third of the drive.",
    formula="elbow angle at the plant − smallest in the first third of the drive",
    views=("side_left", "side_right"),
)
declare(
    id="body_fall",
    unit="deg",
    title="Body fall",
    doc="Ankle → mid_shoulder forward of the vertical at the plant.",
    formula="ankle → mid_shoulder forward of the vertical at the plant",
    views=("side_left", "side_right"),
    phases=("plant",),
)
declare(
    id="heel_rise",
    unit="deg",
    title="Heel rise",
    doc="Angle of the foot at its highest.",
    formula="angle of the foot at its highest",
    views=("side_left", "side_right"),
)
declare(
    id="heel_rise_lead",
    unit="s",
    title="Heel lead",
    doc="Highest heel before (+) the plant.",
    formula="highest heel before (+) the plant",
    views=("side_left", "side_right"),
)
declare(
    id="heel_at_plant",
    unit="deg",
    title="Heel at the plant",
    doc="Angle of the foot at the plant.",
    formula="angle of the foot at the plant",
    views=("side_left", "side_right"),
)
declare(
    id="forefoot_at_release",
    unit="ratio",
    title="Forefoot at the release",
    doc="Com ahead of the ankle at the release ÷ leg length.",
    formula="com ahead of the ankle at the release ÷ leg length",
    views=("side_left", "side_right"),
)
declare(
    id="reposition_share",
    unit="pct",
    title="Reposition share",
    doc="Share of the cycle without pole contact.",
    formula="share of the cycle without pole contact",
    views=("side_left", "side_right"),
)
declare(
    id="trunk_onset",
    unit="s",
    title="Trunk starts",
    doc="Start of the trunk's flexion after the plant.",
    formula="start of the trunk's flexion after the plant",
    views=("side_left", "side_right"),
)
declare(
    id="upper_arm_onset",
    unit="s",
    title="Upper arm starts",
    doc="Start of the upper arm's swing after the plant.",
    formula="start of the upper arm's swing after the plant",
    views=("side_left", "side_right"),
)
declare(
    id="forearm_onset",
    unit="s",
    title="Forearm starts",
    doc="Start of the elbow's extension after the plant.",
    formula="start of the elbow's extension after the plant",
    views=("side_left", "side_right"),
)
