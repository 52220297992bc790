"""Double poling."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
pole_angle | deg | Pole angle | pole off the vertical at the plant, + tip behind the grip | side_left, side_right | plant
plant_fore | ratio | Plant ahead | pole tip ahead of the binding at the plant ÷ leg length | side_left, side_right | plant
elbow_dip | deg | Elbow give | elbow angle at the plant − smallest in the first third of the drive | side_left, side_right |
body_fall | deg | Body fall | ankle → mid_shoulder forward of the vertical at the plant | side_left, side_right | plant
heel_rise | deg | Heel rise | angle of the foot at its highest | side_left, side_right |
heel_rise_lead | s | Heel lead | highest heel before (+) the plant | side_left, side_right |
heel_at_plant | deg | Heel at the plant | angle of the foot at the plant | side_left, side_right |
forefoot_at_release | ratio | Forefoot at the release | com ahead of the ankle at the release ÷ leg length | side_left, side_right |
reposition_share | pct | Reposition share | share of the cycle without pole contact | side_left, side_right |
trunk_onset | s | Trunk starts | start of the trunk's flexion after the plant | side_left, side_right |
upper_arm_onset | s | Upper arm starts | start of the upper arm's swing after the plant | side_left, side_right |
forearm_onset | s | Forearm starts | start of the elbow's extension after the plant | side_left, side_right |
""")
