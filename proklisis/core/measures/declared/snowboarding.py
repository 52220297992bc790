"""Snowboard."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
hip_along_board | ratio | Hips along the board | mid_hip from the middle of the feet toward the nose (+) ÷ ankle distance | side_left, side_right, above | *
hinge | deg | Hinge at the hip | trunk pitch across the board − leg lean across the board, + bent over the toes | side_left, side_right | *
shin_to_boot | deg | Shin to boot | shin pitch toward the toes | side_left, side_right | *
slip_angle | deg | Slip angle | board heading − direction of its path | above, oblique | *
radius_cv | pct | Radius spread | coefficient of variation of the turns' radii | above |
hands_height | ratio | Hands' height | height of the hands over the hips ÷ trunk length | front, rear | *
turn_width | ratio | Turn width | sideways ÷ downhill travel in a turn | front, rear, above |
""")
