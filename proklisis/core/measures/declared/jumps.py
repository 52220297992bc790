"""Multi-turn jumps on ice."""

from __future__ import annotations

from proklisis.core.measures.registry import declare

declare(
    id="takeoff_tilt",
    unit="deg",
    title="Take-off tilt",
    doc="Take-off foot → mid_shoulder off the vertical away from the landing side at the last contact.",
    formula="take-off foot → mid_shoulder off the vertical away from the landing side at the last contact",
    views=("front", "rear"),
)
declare(
    id="tightness",
    unit="ratio",
    title="Tightness",
    doc="Greatest elbow or ankle distance from the axis ÷ shoulder width while spinning.",
    formula="greatest elbow or ankle distance from the axis ÷ shoulder width while spinning",
    views=("front", "rear"),
)
declare(
    id="free_leg_through",
    unit="ratio",
    title="Free leg through",
    doc="Free knee ahead of the take-off knee at the last contact ÷ thigh length.",
    formula="free knee ahead of the take-off knee at the last contact ÷ thigh length",
    views=("side_left", "side_right"),
)
declare(
    id="spin_up_time",
    unit="s",
    title="Spin-up time",
    doc="Take-off to the tightest position.",
    formula="take-off to the tightest position",
    views=(),
)
declare(
    id="edge_at_landing",
    unit="deg",
    title="Edge at the landing",
    doc="Blade's edge on touching down, + outside, − inside.",
    formula="blade's edge on touching down, + outside, − inside",
    views=("front", "rear"),
)
declare(
    id="air_margin",
    unit="s",
    title="Air time to spare",
    doc="Air time − what the planned rotations need at this skater's rotation period.",
    formula="air time − what the planned rotations need at this skater's rotation period",
    views=(),
)
