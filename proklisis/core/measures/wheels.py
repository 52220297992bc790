"""Dirt bikes and mountain bikes."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
seat_fore | ratio | Seat forward | hip ahead of the peg ÷ leg length when seated | side_left, side_right | *
head_over_bars | ratio | Head over the bars | nose ahead of the bar clamp ÷ arm length | side_left, side_right | *
hip_back_standing | ratio | Hips back when standing | hip behind the peg ÷ leg length | side_left, side_right | *
toe_out | deg | Toes out | foot off the machine's axis | front, above | *
stand_shift | ratio | Shift in standing up | forward travel of the head when rising ÷ trunk length | side_left, side_right |
bike_body_lean | deg | Body against bike | trunk lean − bike lean in the corner | front, rear | *
elbow_flare | ratio | Elbow flare | elbow distance ÷ hand distance | front | *
heel_drop | deg | Heel drop | heel below the toe | side_left, side_right | *
knee_flare | ratio | Knee flare | knee distance ÷ pedal width | front | *
hip_height | ratio | Hip height | hip over the saddle ÷ leg length | side_left, side_right | *
chest_low | deg | Low chest | trunk pitch forward of the vertical | side_left, side_right | *
com_over_bb | ratio | Mass over the pedals | com ahead of the bottom bracket ÷ leg length | side_left, side_right | *
""")
