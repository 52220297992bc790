"""One ski behind a boat. Lateral positions are in wakes: 0 the centre line, ±1 the crests."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
edge_change_start | ratio | Edge change starts | lateral position where the change of edge starts, wakes | front, rear |
edge_change_end | ratio | Edge change ends | lateral position where the change of edge ends, wakes | front, rear |
edge_change_sd | ratio | Spread of the edge change | spread of its start over the run, wakes | front, rear |
load_lean | deg | Lean under load | greatest lean away from the boat | front, rear |
load_peak_at | ratio | Place of the greatest load | lateral position of the greatest lean, wakes | front, rear |
turn_lean | deg | Turn lean | lean on the turning edge at the ball | front, rear |
preset_share | ratio | Lean set before the ball | lean half-way from edge change to ball ÷ turn lean | front, rear |
lean_reversals | ratio | Lean reversals | changes of the lean's direction between edge change and ball | front, rear |
body_open | deg | Body open | shoulders turned away from the boat, 0 square to it | front, above |
hip_give | deg | Hip give | change of hip flexion across the wakes | side_left, side_right |
knee_give | deg | Knee give | change of knee flexion across the wakes | side_left, side_right |
foot_sway | ratio | Foot-to-foot sway | swing of com fore and aft from crossing to ball ÷ leg length | side_left, side_right |
release_wakes | ratio | Release | lateral position where the outer hand lets go, wakes | front, rear |
inside_lean_at_release | deg | Lean at the release | lean to the inside when the hand lets go | front, rear |
apex_dwell | s | Time at the widest | from the widest point to turning in | front, rear, above |
turn_start | m | Turn start | before (−) or after the ball | front, rear, above |
glide_sway | deg | Rocking in the glide | rocking in the pull-out | front, rear |
feet_shove | deg/s | Feet shoved | speed of leg straightening at the centre line | side_left, side_right |
knee_snap | deg/s | Knee snap at the ball | speed of sudden knee straightening at the ball | side_left, side_right |
""")
