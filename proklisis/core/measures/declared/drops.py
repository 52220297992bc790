"""River drops."""

from __future__ import annotations

from proklisis.core.measures.registry import TURN_PHASES, declare

declare(
    id="lead_speed",
    unit="ratio",
    title="Boat speed",
    doc="Boat speed ÷ water speed.",
    formula="boat speed ÷ water speed",
    views=(),
    phases=TURN_PHASES,
)
declare(
    id="boat_angle",
    unit="deg",
    title="Boat angle",
    doc="Boat off the drop's line, + right.",
    formula="boat off the drop's line, + right",
    views=("above", "front", "rear"),
    phases=TURN_PHASES,
)
declare(
    id="catch_at_lip",
    unit="s",
    title="Catch at the lip",
    doc="Catch of the last stroke relative to the bow over the lip, − early.",
    formula="catch of the last stroke relative to the bow over the lip, − early",
    views=("side_left", "side_right"),
)
declare(
    id="reach",
    unit="ratio",
    title="Reach",
    doc="Blade ahead of the feet ÷ arm length.",
    formula="blade ahead of the feet ÷ arm length",
    views=("side_left", "side_right"),
)
declare(
    id="stroke_depth",
    unit="ratio",
    title="Stroke depth",
    doc="Share of the blade under water.",
    formula="share of the blade under water",
    views=("side_left", "side_right"),
)
declare(
    id="missed_strokes",
    unit="ratio",
    title="Missed strokes",
    doc="Beats without a stroke in the lead-in.",
    formula="beats without a stroke in the lead-in",
    views=(),
)
declare(
    id="landing_stroke",
    unit="s",
    title="Landing stroke",
    doc="First stroke after touch-down.",
    formula="first stroke after touch-down",
    views=(),
)
declare(
    id="boat_pitch",
    unit="deg",
    title="Boat pitch",
    doc="0 flat, + nose up.",
    formula="0 flat, + nose up",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
