"""Measures that several disciplines share."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
alignment | deg | Alignment | angle of the shoulder axis to the board's long axis, unsigned | above | *
ankle_flex | deg | Ankle flexion | bend of the ankle, 0 where the shin stands square to the foot | side_left, side_right | *
air_time | s | Air time | last contact → first contact | |
flight_height | m | Flight height | g·t²/8 from the air time | |
axis_tilt | deg | Axis tilt | mid_ankle → mid_shoulder off the vertical in flight, + toward the landing side | front, rear | set, spin
rotation_period | s | Rotation period | shortest time of one full turn in the air | |
rotations | ratio | Rotations | turns in the air, from the take-off heading to the landing heading | |
shortfall | deg | Shortfall | planned − landed rotation | |
side_gap | ratio | Side gap | mean of left − mean of right | |
""")
