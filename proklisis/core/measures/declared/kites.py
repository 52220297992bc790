"""Unhooked forward roll."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
kite_height | deg | Kite height | kite above the horizon at take-off | |
kite_climb | deg | Kite climbs | change of kite height from bear-away to take-off | |
edge_hold | s | Edge held | hard edging before take-off | |
front_leg_lead | s | Front leg leads | front foot leaves before the back one | side_left, side_right |
legs_back | deg | Legs back | knee flexion in the spin | side_left, side_right |
torso_lead | deg | Chest leads | shoulders ahead of the board in the first third of the roll | rear |
landing_heading | deg | Landing heading | board off downwind at the landing | above, rear |
absorb | deg | Absorbed | change of knee and hip flexion after touch-down | side_left, side_right |
over_rotation | ratio | Over-rotation | rotations − planned rotations | |
""")
