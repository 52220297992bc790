"""How long the parts of a body are, as shares of its stature and of each other.

Drillis & Contini (1966), *Body Segment Parameters*, as Winter gives them (*Biomechanics and Motor
Control of Human Movement*, figure 4.1); values from memory. They are a grown person's on the
average: a single rider differs by some per cent, children by more.

Nothing in ``simulate`` uses them: its riders have bodies of their own.
"""

from __future__ import annotations

#: Hip to shoulder ÷ stature.
TRUNK = 0.288
#: Hip to knee ÷ stature.
THIGH = 0.245
#: Knee to ankle ÷ stature.
SHANK = 0.246
#: Shoulder to elbow ÷ stature.
UPPER_ARM = 0.186
#: Elbow to wrist ÷ stature.
FOREARM = 0.146
#: Heel to toe ÷ stature.
FOOT = 0.152
#: Across the hips at their widest ÷ stature.
HIPS = 0.191
#: Across the two hip joints, where trackers put their points, ÷ stature (house choice).
HIP_JOINTS = 0.16
#: Across the two shoulder joints ÷ stature (house choice, inside the width over the shoulders of 0.259).
SHOULDER_JOINTS = 0.24

#: The thigh ÷ trunk, which a picture shows of nearly every rider.
THIGH_TO_TRUNK = THIGH / TRUNK
#: The shank ÷ trunk.
SHANK_TO_TRUNK = SHANK / TRUNK
#: The foot ÷ trunk.
FOOT_TO_TRUNK = FOOT / TRUNK
LEG_TO_TRUNK = THIGH_TO_TRUNK + SHANK_TO_TRUNK
#: The upper arm ÷ trunk.
UPPER_ARM_TO_TRUNK = UPPER_ARM / TRUNK
#: The forearm ÷ trunk.
FOREARM_TO_TRUNK = FOREARM / TRUNK
ARM_TO_TRUNK = UPPER_ARM_TO_TRUNK + FOREARM_TO_TRUNK
#: The hips at their widest ÷ trunk.
HIPS_TO_TRUNK = HIPS / TRUNK
#: The hip joints apart ÷ trunk.
HIP_JOINTS_TO_TRUNK = HIP_JOINTS / TRUNK
SHOULDERS_TO_TRUNK = SHOULDER_JOINTS / TRUNK
UPPER_ARM_TO_SHOULDERS = UPPER_ARM / SHOULDER_JOINTS
FOOT_TO_LEG = FOOT / (THIGH + SHANK)
#: Shank, thigh and trunk in one line ÷ stature.
CHAIN = TRUNK + THIGH + SHANK
