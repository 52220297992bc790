"""Speed skating."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
blade_lean | deg | Blade lean | shank and blade off the vertical at the middle of the push | front, rear |
push_time | s | Push time | touch-down to lift | |
late_share | pct | Late share | share of the push after the knee has 90 % of its extension | side_left, side_right, front, rear |
push_side | deg | Push direction | direction of the push across travel, 0 down through the skate, 90 out to the side | front, rear | push_end
knee_drive | ratio | Knee drive | recovering knee ahead of the support ankle at touch-down ÷ thigh | side_left, side_right |
pause | s | Pause | time with the knee angle held within ±3° | side_left, side_right |
sit | deg | Sit | knee flexion in the glide | side_left, side_right |
curl | deg | Curl | how far the blade turns in over the last fifth of the push | front, rear, above |
recovery_time | s | Recovery time | lift to touch-down | |
clearance | ratio | Clearance | height of the recovering blade over the ice ÷ blade height | side_left, side_right |
""")
