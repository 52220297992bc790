"""Speed skating."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import knee_flexion, length
from proklisis.core.splitting.events import at, between, leg
from proklisis.core.splitting.steps import foot_height, foot_of
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
LEGS = ("l_hip", "r_hip", "l_knee", "r_knee", "l_ankle", "r_ankle")
FEET = ("l_toe", "r_toe", "l_heel", "r_heel")
BLADES = ("l_blade_front", "l_blade_back", "r_blade_front", "r_blade_back")
#: Length of a long-track blade, metres, to read its heading from how wide it looks (house choice).
BLADE_M = 0.42
#: Height of a boot's blade over the ice, metres (house choice).
BLADE_HEIGHT_M = 0.055
#: A knee angle counts as held while it stays within so many degrees to either side.
HELD_DEG = 3.0
#: Shares of the knee's extension whose times tell when it began (house choice).
EXTENDED = (0.2, 0.5)
#: A leg that stretches by less than this tells nothing of when it began, degrees (set on simulated runs).
STRETCHES_DEG = 40.0
#: The end of a push, over which its direction is read (house choice).
LAST_SHARE = 0.4

declare_table("""
blade_lean | deg | Blade lean | shank and blade off the vertical at the middle of the push | front, rear |
push_time | s | Push time | touch-down to lift | |
pressure_delay | s | Delay of the pressure | touch-down to the start of the knee's extension; a picture does not show it of a leg that leans | 3d |
late_share | pct | Late share | share of the push after the knee has 90 % of its extension | front, rear, side_left, side_right |
push_side | deg | Push direction | direction of the push across travel, 0 down through the skate, 90 out to the side | front, rear | push_end
knee_drive | ratio | Knee drive | recovering knee ahead of the support ankle at touch-down ÷ thigh | side_left, side_right |
pause | s | Pause | time with the knee angle held within ±3° | side_left, side_right |
sit | deg | Sit | knee flexion in the glide | side_left, side_right |
curl | deg | Curl | how far the blade turns in over the last fifth of the push | front, rear, above |
recovery_time | s | Recovery time | lift to touch-down | |
clearance | ratio | Clearance | height of the recovering blade over the ice ÷ blade height | side_left, side_right |
""")


def _push(unit: Unit) -> tuple[float, float]:
    return unit.start.t, unit.events["lift"]


@measure("blade_lean", points=LEGS, model_u=1.0, angle=("l_ankle", "l_knee"))
def blade_lean(f: Figure, unit: Unit) -> float:
    s, _ = foot_of(unit)
    d = f[f"{s}_knee"] - f[f"{s}_ankle"]
    return at(f, np.degrees(np.arctan2(np.abs(d[:, 0]), d[:, 2])), sum(_push(unit)) / 2, 0.03)


@measure("push_time", points=FEET, model_u=0.012)
def push_time(f: Figure, unit: Unit) -> float:
    a, b = _push(unit)
    return b - a


def extension(f: Figure, s: str) -> Array:
    """Distance from hip to ankle in leg lengths, as far as the view shows it.

    From the side a leg that pushes outward looks short however straight it is: there the bend of
    the knee tells its length.
    """
    hip, ankle = f[f"{s}_hip"], f[f"{s}_ankle"]
    if f.view not in ("side_left", "side_right"):
        return length(hip - ankle) / leg(f)
    return np.asarray(np.cos(np.radians(knee_flexion(f, s)) / 2))


@measure("late_share", points=LEGS, model_u=5.0)
def late_share(f: Figure, unit: Unit) -> float:
    a, b = _push(unit)
    if not np.isfinite(b):
        return float("nan")
    t, x = between(f, f.t, a, b), between(f, extension(f, foot_of(unit)[0]), a, b)
    if len(x) < 5 or not np.isfinite(x).all():
        return float("nan")
    level = x[0] + 0.9 * (x.max() - x[0])
    k = int(np.argmax(x >= level))
    when = float(t[k]) if k == 0 else float(np.interp(level, x[k - 1 : k + 1], t[k - 1 : k + 1]))
    return 100 * (b - when) / (b - a)


@measure("pressure_delay", points=LEGS, model_u=0.025, angle=("l_hip", "l_knee", "l_ankle"))
def pressure_delay(f: Figure, unit: Unit) -> float:
    """The straight line through a fifth and a half of the knee's extension, back to its start."""
    a, b = _push(unit)
    if not np.isfinite(b):
        return float("nan")
    foot = foot_of(unit)[0]
    t, x = between(f, f.t, a, b), between(f, knee_flexion(f, foot), a, b)
    if len(x) < 5 or not np.isfinite(x).all():
        return float("nan")
    top = int(np.argmax(x[: max(2, 2 * len(x) // 3)]))
    if x[top] - x.min() < STRETCHES_DEG:
        return float("nan")  # so small a stretch begins nowhere that can be told
    done = np.maximum.accumulate((x[top] - x[top:]) / float(x[top] - x.min()))
    fifth, half = (float(np.interp(share, done, t[top:])) for share in EXTENDED)
    return max(fifth - EXTENDED[0] / (EXTENDED[1] - EXTENDED[0]) * (half - fifth) - a, 0.0)


@measure("push_side", points=LEGS, model_u=3.5, angle=("l_hip", "l_ankle"))
def push_side(f: Figure, unit: Unit) -> float:
    s, _ = foot_of(unit)
    a, b = _push(unit)
    if not np.isfinite(b):
        return float("nan")
    r = np.nan_to_num(f[f"{s}_ankle"] - f[f"{s}_hip"])
    r[:, 1] = 0.0  # across the travel only
    when = (b - LAST_SHARE * (b - a), b - 0.01)
    start, end = (np.array([at(f, r[:, k], x, 0.035) for k in range(3)]) for x in when)
    d, leg_line = end - start, (start + end) / 2
    size = float(np.linalg.norm(d) * np.linalg.norm(leg_line))
    return (
        float(np.degrees(np.arccos(np.clip(d @ leg_line / size, -1, 1))))
        if size > 0
        else float("nan")
    )


@measure("knee_drive", points=LEGS, model_u=0.05, angle=("l_ankle", "r_knee"))
def knee_drive(f: Figure, unit: Unit) -> float:
    s, other = foot_of(unit)
    thigh = np.nanpercentile(length(f[f"{s}_hip"] - f[f"{s}_knee"]), 90)
    return at(f, (f[f"{s}_knee"] - f[f"{other}_ankle"])[:, 1] / thigh, unit.start.t)


@measure("pause", points=LEGS, model_u=0.03)
def pause(f: Figure, unit: Unit) -> float:
    if "pressure" not in unit.phases:
        return float("nan")
    a, b = unit.phases["pressure"]
    t, x = between(f, f.t, a, b), between(f, knee_flexion(f, foot_of(unit)[0]), a, b)
    longest, i = 0.0, 0
    for j in range(len(x)):
        while x[i : j + 1].max() - x[i : j + 1].min() > 2 * HELD_DEG:
            i += 1
        longest = max(longest, float(t[j] - t[i]))
    return longest


@measure("sit", points=LEGS, model_u=8.0, angle=("l_hip", "l_knee", "l_ankle"))
def sit(f: Figure, unit: Unit) -> float:
    a, b = _push(unit)
    if not np.isfinite(b):
        return float("nan")
    return float(
        np.nanmean(
            between(f, knee_flexion(f, foot_of(unit)[0]), a + 0.05 * (b - a), a + 0.3 * (b - a))
        )
    )


def _blade_heading(f: Figure, s: str) -> Array:
    d = f[f"{s}_blade_front"] - f[f"{s}_blade_back"]
    if f.view in ("front", "rear"):
        wide = BLADE_M * f.facts["scale"]
        return np.asarray(np.degrees(np.arcsin(np.clip(d[:, 0] / wide, -0.98, 0.98))))
    return np.asarray(np.degrees(np.arctan2(d[:, 0], d[:, 1])))


@measure("curl", points=BLADES, model_u=1.0, angle=("l_blade_back", "l_blade_front"))
def curl(f: Figure, unit: Unit) -> float:
    s, _ = foot_of(unit)
    a, b = _push(unit)
    h = _blade_heading(f, s)
    return (-1.0 if s == "r" else 1.0) * (at(f, h, b) - at(f, h, b - 0.2 * (b - a)))


@measure("recovery_time", points=FEET, model_u=0.012)
def recovery_time(f: Figure, unit: Unit) -> float:
    return unit.events["landed"] - unit.events["lift"]


@measure("clearance", points=FEET, model_u=0.1)
def clearance(f: Figure, unit: Unit) -> float:
    if "recovery" not in unit.phases or not np.isfinite(f.facts["scale"]):
        return float("nan")
    s, other = foot_of(unit)
    up = between(f, foot_height(f, s) - foot_height(f, other), *unit.phases["recovery"])
    return float(np.nanmax(up)) / (BLADE_HEIGHT_M * f.facts["scale"])
