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

COMMON = """
lean leg_lean trunk_lean angulation edge edge_gain edge_rate knee_flex hip_flex ankle_flex elbow_flex flex_range
trunk_pitch shin_pitch trunk_shin_gap hip_fore_aft com_fore_aft hand_fore elbow_fore elbow_lift head_fore gaze_drop
shoulder_tilt separation hip_separation alignment stance_width knee_gap scissor weight_outside heading skid_angle
time_to_fall_line swing_in_half_second turn_time transition_time turn_shape rhythm_cv side_gap air_time flight_height
axis_tilt rotation_period rotations shortfall cadence
"""
#: Measures of the common vocabulary: a run sheet of any discipline may carry them.
SHARED = frozenset(COMMON.split())
