"""Speed skating."""

from __future__ import annotations

from proklisis.core.measures.registry import declare

declare(
    id="blade_lean",
    unit="deg",
    title="Blade lean",
    doc="Shank and blade off the vertical at the middle of the push.",
    formula="shank and blade off the vertical at the middle of the push",
    views=("front", "rear"),
)
declare(id="push_time", unit="s", title="Push time", doc="Touch-down to lift.", formula="touch-down to lift", views=())
declare(
    id="late_share",
    unit="pct",
    title="Late share",
    doc="Share of the push after the knee has 90 % of its extension.",
    formula="share of the push after the knee has 90 % of its extension",
    views=("side_left", "side_right", "front", "rear"),
)
declare(
    id="push_side",
    unit="deg",
    title="Push direction",
    doc="Direction of the push across travel, 0 down through the skate, 90 out to the side.",
    formula="direction of the push across travel, 0 down through the skate, 90 out to the side",
    views=("front", "rear"),
    phases=("push_end",),
)
declare(
    id="knee_drive",
    unit="ratio",
    title="Knee drive",
    doc="Recovering knee ahead of the support ankle at touch-down ÷ thigh.",
    formula="recovering knee ahead of the support ankle at touch-down ÷ thigh",
    views=("side_left", "side_right"),
)
declare(
    id="pause",
    unit="s",
    title="Pause",
    doc="Time with the knee angle held within ±3°.",
    formula="time with the knee angle held within ±3°",
    views=("side_left", "side_right"),
)
declare(
    id="sit",
    unit="deg",
    title="Sit",
    doc="Knee flexion in the glide.",
    formula="knee flexion in the glide",
    views=("side_left", "side_right"),
)
declare(
    id="curl",
    unit="deg",
    title="Curl",
    doc="How far the blade turns in over the last fifth of the push.",
    formula="how far the blade turns in over the last fifth of the push",
    views=("front", "rear", "above"),
)
declare(id="recovery_time", unit="s", title="Recovery time", doc="Lift to touch-down.", formula="lift to touch-down", views=())
declare(
    id="clearance",
    unit="ratio",
    title="Clearance",
    doc="Height of the recovering blade over the ice ÷ blade height.",
    formula="height of the recovering blade over the ice ÷ blade height",
    views=("side_left", "side_right"),
)
