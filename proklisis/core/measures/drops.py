"""River drops."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
lead_speed | ratio | Boat speed | boat speed ÷ water speed | | *
boat_angle | deg | Boat angle | boat off the drop's line, + right | above, front, rear | *
catch_at_lip | s | Catch at the lip | catch of the last stroke relative to the bow over the lip, − early | side_left, side_right |
reach | ratio | Reach | blade ahead of the feet ÷ arm length | side_left, side_right |
stroke_depth | ratio | Stroke depth | share of the blade under water | side_left, side_right |
missed_strokes | ratio | Missed strokes | beats without a stroke in the lead-in | |
landing_stroke | s | Landing stroke | first stroke after touch-down | |
boat_pitch | deg | Boat pitch | 0 flat, + nose up | side_left, side_right | *
""")
