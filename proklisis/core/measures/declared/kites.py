"""Unhooked forward roll."""

from __future__ import annotations

from proklisis.core.measures.registry import declare

declare(
    id="kite_height",
    unit="deg",
    title="Kite height",
    doc="Kite above the horizon at take-off.",
    formula="kite above the horizon at take-off",
    views=(),
)
declare(
    id="kite_climb",
    unit="deg",
    title="Kite climbs",
    doc="Change of kite height from bear-away to take-off.",
    formula="change of kite height from bear-away to take-off",
    views=(),
)
declare(
    id="edge_hold",
    unit="s",
    title="Edge held",
    doc="Hard edging before take-off.",
    formula="hard edging before take-off",
    views=(),
)
declare(
    id="front_leg_lead",
    unit="s",
    title="Front leg leads",
    doc="Front foot leaves before the back one.",
    formula="front foot leaves before the back one",
    views=("side_left", "side_right"),
)
declare(
    id="legs_back",
    unit="deg",
    title="Legs back",
    doc="Knee flexion in the spin.",
    formula="knee flexion in the spin",
    views=("side_left", "side_right"),
)
declare(
    id="torso_lead",
    unit="deg",
    title="Chest leads",
    doc="Shoulders ahead of the board in the first third of the roll.",
    formula="shoulders ahead of the board in the first third of the roll",
    views=("rear",),
)
declare(
    id="landing_heading",
    unit="deg",
    title="Landing heading",
    doc="Board off downwind at the landing.",
    formula="board off downwind at the landing",
    views=("above", "rear"),
)
declare(
    id="absorb",
    unit="deg",
    title="Absorbed",
    doc="Change of knee and hip flexion after touch-down.",
    formula="change of knee and hip flexion after touch-down",
    views=("side_left", "side_right"),
)
declare(
    id="over_rotation",
    unit="ratio",
    title="Over-rotation",
    doc="Rotations − planned rotations.",
    formula="rotations − planned rotations",
    views=(),
)
