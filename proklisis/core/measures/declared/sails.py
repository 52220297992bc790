"""Carve gybe."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
front_arm | deg | Front arm | elbow flexion of the front arm, 0 straight | side_left, side_right, front | *
rig_room | ratio | Room to the rig | head to mast ÷ arm length | side_left, side_right, front | *
hips_inside | ratio | Hips inside | mid_hip to the inside of the feet ÷ hip width | front, rear | *
rail_min | deg | Least rail | least board tilt to the inside over the arc | front, rear |
foot_change_time | s | Foot change | from opening the rig to the change of feet | |
entry_angle | deg | Entry angle | course off the wind on entering | above |
exit_angle | deg | Exit angle | course off the wind on leaving | above |
arc | deg | Arc | change of course | above |
speed_kept | ratio | Speed kept | speed out ÷ speed in | |
slow_zone_time | s | Time in the slow zone | time between 120° and 240° off the wind | |
rig_release_gap | s | Hand free | time the hand is free while the rig swings | |
head_ahead_of_mast | ratio | Head past the mast | head ahead of the mast after the release ÷ arm length | side_left, side_right |
""")
