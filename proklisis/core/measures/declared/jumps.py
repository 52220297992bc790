"""Multi-turn jumps on ice."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
takeoff_tilt | deg | Take-off tilt | take-off foot → mid_shoulder off the vertical away from the landing side at the last contact | front, rear |
tightness | ratio | Tightness | greatest elbow or ankle distance from the axis ÷ shoulder width while spinning | front, rear |
free_leg_through | ratio | Free leg through | free knee ahead of the take-off knee at the last contact ÷ thigh length | side_left, side_right |
spin_up_time | s | Spin-up time | take-off to the tightest position | |
edge_at_landing | deg | Edge at the landing | blade's edge on touching down, + outside, − inside | front, rear |
air_margin | s | Air time to spare | air time − what the planned rotations need at this skater's rotation period | |
""")
