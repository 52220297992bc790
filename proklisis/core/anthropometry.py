"""How long the parts of a body are, as shares of its stature and of each other.

Drillis & Contini (1966), *Body Segment Parameters*, as Winter gives them (*Biomechanics and Motor
Control of Human Movement*, figure 4.1); values from memory. They are a grown person's on the
average: a single rider differs by some per cent, children by more.

Nothing in ``simulate`` uses them: its riders have bodies of their own.
"""

from __future__ import annotations

#: Hip to shoulder, thigh, shank, upper arm, forearm (elbow to wrist) and foot ÷ stature.
TRUNK, THIGH, SHANK = 0.288, 0.245, 0.246
UPPER_ARM, FOREARM, FOOT = 0.186, 0.146, 0.152
#: Across the hips at their widest ÷ stature; across the two joints, where trackers put their points (house choice).
HIPS, HIP_JOINTS = 0.191, 0.16
#: Across the two shoulder joints ÷ stature (house choice, inside the width over the shoulders of 0.259).
SHOULDER_JOINTS = 0.24

#: The same ÷ trunk, which a picture shows of nearly every rider.
THIGH_TO_TRUNK, SHANK_TO_TRUNK, FOOT_TO_TRUNK = THIGH / TRUNK, SHANK / TRUNK, FOOT / TRUNK
LEG_TO_TRUNK = THIGH_TO_TRUNK + SHANK_TO_TRUNK
UPPER_ARM_TO_TRUNK, FOREARM_TO_TRUNK = UPPER_ARM / TRUNK, FOREARM / TRUNK
ARM_TO_TRUNK = UPPER_ARM_TO_TRUNK + FOREARM_TO_TRUNK
HIPS_TO_TRUNK, HIP_JOINTS_TO_TRUNK = HIPS / TRUNK, HIP_JOINTS / TRUNK
SHOULDERS_TO_TRUNK = SHOULDER_JOINTS / TRUNK
UPPER_ARM_TO_SHOULDERS = UPPER_ARM / SHOULDER_JOINTS
FOOT_TO_LEG = FOOT / (THIGH + SHANK)
#: Shank, thigh and trunk in one line ÷ stature.
CHAIN = TRUNK + THIGH + SHANK
