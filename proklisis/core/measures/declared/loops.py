"""Figures on ice."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
loop_ratio | ratio | Loop width to length | width ÷ length of the closed part of the trace | above, oblique |
loop_length | ratio | Loop length | length of the loop ÷ blade length | above, oblique |
curvature_peak_at | ratio | Tightest point | where along the loop the curvature is greatest, 0.5 is the far end | above, oblique |
curvature_jumps | ratio | Cusps | number of cusps in the trace | above, oblique |
edge_changes | ratio | Edge changes | number of changes of edge in the loop | above, oblique |
press_peak_at | ratio | Deepest press | where along the loop the knee is bent most | side_left, side_right |
press_smooth | ratio | Smooth press | 1 is one smooth press and rise of the knee | side_left, side_right |
free_leg_pass | ratio | Free leg passes | where along the loop the free foot passes the skating foot | side_left, side_right, above |
shoulder_turn | deg | Shoulder turn | turn of the shoulders from entry to exit | above |
lean_in | deg | Lean into the circle | trunk lean toward the middle of the loop | front, rear |
blade_pressure | ratio | Pressure on the blade | −1 toe … +1 heel at the far end | side_left, side_right | round
""")
