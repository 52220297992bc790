"""Multi-turn jumps on ice."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import THIGH_TO_TRUNK
from proklisis.core.measures import shared  # noqa: F401  (declares what is attached to here)
from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.physics import flight as fly
from proklisis.core.physics.rotation import air_time_needed
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import flexion, length
from proklisis.core.splitting.events import at, between, leg
from proklisis.core.splitting.flights import SET_S
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
#: Landmarks of the hips.
HIPS = ("l_hip", "r_hip")
#: Landmarks of the shoulders.
SHOULDERS = ("l_shoulder", "r_shoulder")
ANKLES = ("l_ankle", "r_ankle")
#: Share of the flight from which the tight position is read (house choice).
TIGHT_FROM = 0.35
#: Share of the flight up to which it is (house choice).
TIGHT_TO = 0.75
#: Nobody turns once in the air faster than this or slower, seconds (0.13 s is the best; common practice).
FASTEST_TO_SLOWEST_S = (0.11, 2.0)
#: No jump with a turn in it is shorter in the air, nor a kite's longer, seconds (house choice).
SHORTEST_TO_LONGEST_S = (0.22, 15.0)
#: The position is left where it is this many times wider than its tightness (house choice).
OPEN_FROM = 1.3
#: The swing of the free leg takes so long, seconds (house choice).
SWING_S = 0.6
#: The calf's push is read over so long before the last contact, seconds.
PUSH_S = 0.1
#: How far the shin leans forward as the blade touches down (house choice).
LANDING_SHIN_DEG = 8.0

declare_table("""
takeoff_tilt | deg | Take-off tilt | take-off foot → mid_shoulder off the vertical away from the landing side at the last contact | front, rear |
tightness | ratio | Tightness | greatest elbow or ankle distance from the axis ÷ shoulder width while spinning | front, rear |
free_leg_through | ratio | Free leg through | free knee ahead of the take-off knee at the last contact ÷ thigh length | side_left, side_right |
swing_width | ratio | Width of the swing | free foot's greatest distance to the side of the take-off leg in the swing ÷ leg length | front, rear |
ankle_push | deg | Calf's push | stretch of the take-off ankle in the last 0.1 s of contact | side_left, side_right |
check_out_at | s | Check-out | before the first contact at which the position leaves its tightness | front, rear, above |
entry_time | s | Entry time | from the turn of the entry step to the last contact | |
spin_up_time | s | Spin-up time | take-off to the tightest position | |
edge_at_landing | deg | Edge at the landing | blade's edge on touching down, + outside, − inside | front, rear |
air_margin | s | Air time to spare | air time − what the planned rotations need at this skater's rotation period | |
""")


def landing_sign(f: Figure) -> float:
    """+1 where the landing side is to the right of the travel, −1 to the left."""
    return -1.0 if f.given.get("landing_side") == "l" else 1.0


def _tilt(d: Array) -> Array:
    return np.asarray(np.degrees(np.arctan2(d[:, 0], d[:, 2])))


def takeoff_foot(f: Figure, unit: Unit) -> str:
    """The foot that leaves the ice last."""
    when = unit.events["takeoff"]
    low = {
        s: at(f, np.minimum(f[f"{s}_heel"][:, 2], f[f"{s}_toe"][:, 2]), when, 0.03) for s in "lr"
    }
    return min(low, key=lambda s: low[s])


@measure(
    "takeoff_tilt", points=(*SHOULDERS, *ANKLES), model_u=0.4, angle=("l_ankle", "mid_shoulder")
)
def takeoff_tilt(f: Figure, unit: Unit) -> float:
    d = f["mid_shoulder"] - f[f"{takeoff_foot(f, unit)}_ankle"]
    return -landing_sign(f) * at(f, _tilt(d), unit.events["takeoff"], 0.03)


@measure(
    "axis_tilt",
    over="phase",
    points=(*SHOULDERS, *ANKLES),
    model_u=0.4,
    angle=("mid_ankle", "mid_shoulder"),
)
def axis_tilt(f: Figure, unit: Unit, phase: str | None) -> float:
    tilt = landing_sign(f) * _tilt(f["mid_shoulder"] - f["mid_ankle"])
    if phase == "spin":
        return float(np.nanmean(between(f, tilt, *unit.phases["spin"])))
    return at(f, tilt, unit.events["takeoff"] + SET_S, 0.03)


@measure(
    "tightness",
    points=(*SHOULDERS, *HIPS, *ANKLES, "l_elbow", "r_elbow"),
    model_u=0.042,
    angle=("mid_ankle", "mid_shoulder"),
)
def tightness(f: Figure, unit: Unit) -> float:
    a, b = unit.start.t, unit.end.t
    wide = np.nanpercentile(length(f["r_shoulder"] - f["l_shoulder"]), 95)
    spinning = between(f, _off_axis(f), a + TIGHT_FROM * (b - a), a + TIGHT_TO * (b - a))
    return float(np.nanpercentile(spinning, 90)) / float(wide)


def _off_axis(f: Figure) -> Array:
    """Greatest distance of an elbow or ankle from the axis feet → shoulders, in the figure's unit."""
    foot = np.nan_to_num(f["mid_ankle"])
    axis = np.nan_to_num(f["mid_shoulder"]) - foot
    axis = axis / np.maximum(np.linalg.norm(axis, axis=1, keepdims=True), 1e-9)
    far = []
    for name in ("l_elbow", "r_elbow", *ANKLES):
        d = np.nan_to_num(f[name]) - foot
        far.append(np.linalg.norm(d - (d * axis).sum(axis=1, keepdims=True) * axis, axis=1))
    return np.asarray(np.max(far, axis=0))


def _all_round(seen: Array, fps: float, period: float) -> Array:
    """How far a turning body reaches, from how far it is seen to: with what is seen a quarter turn away, both ways."""
    if not np.isfinite(period):
        return np.full_like(seen, np.nan)
    k = max(1, round(period * fps / 4))
    before, after = np.roll(seen, k), np.roll(seen, -k)
    return np.asarray(np.sqrt(seen**2 + (before**2 + after**2) / 2))


@measure(
    "check_out_at",
    points=(*SHOULDERS, *HIPS, *ANKLES, "l_elbow", "r_elbow"),
    model_u=0.03,
    angle=("mid_ankle", "mid_shoulder"),
)
def check_out_at(f: Figure, unit: Unit) -> float:
    a, b = unit.start.t, unit.end.t
    wide = (
        _off_axis(f)
        if f.view in (None, "above")
        else _all_round(_off_axis(f), f.fps, rotation_period(f, unit))
    )
    far, t = between(f, wide, a, b), between(f, f.t, a, b)
    tight = float(
        np.nanpercentile(between(f, wide, a + TIGHT_FROM * (b - a), a + TIGHT_TO * (b - a)), 50)
    )
    held = np.flatnonzero(far <= OPEN_FROM * tight)
    return b - float(t[held[-1]]) if len(held) else float("nan")


@measure("swing_width", points=(*ANKLES, *HIPS, *SHOULDERS), model_u=0.05, angle=ANKLES)
def swing_width(f: Figure, unit: Unit) -> float:
    s = takeoff_foot(f, unit)
    free = "r" if s == "l" else "l"
    off = between(
        f,
        np.abs((f[f"{free}_ankle"] - f[f"{s}_ankle"])[:, 0]),
        unit.start.t - SWING_S,
        unit.start.t,
    )
    return float(np.nanmax(off)) / leg(f) if np.isfinite(off).any() else float("nan")


@measure(
    "ankle_push",
    points=(*ANKLES, "l_knee", "r_knee", "l_heel", "r_heel", "l_toe", "r_toe"),
    model_u=4.5,
    angle=("l_heel", "l_toe"),
)
def ankle_push(f: Figure, unit: Unit) -> float:
    """How far the angle between shin and sole opens in the last :data:`PUSH_S` of contact."""
    s, when = takeoff_foot(f, unit), unit.events["takeoff"]
    shin, sole = f[f"{s}_knee"] - f[f"{s}_ankle"], f[f"{s}_toe"] - f[f"{s}_heel"]
    opened = flexion(shin, np.zeros_like(shin), -sole)
    return at(f, opened, when, 0.02) - at(f, opened, when - PUSH_S, 0.02)


@measure("spin_up_time", points=(*SHOULDERS, *ANKLES, "l_elbow", "r_elbow"), model_u=0.2)
def spin_up_time(f: Figure, unit: Unit) -> float:
    """Until the elbows come closest to the axis, as far as the view shows their distance."""
    wide = length(f["r_elbow"] - f["l_elbow"])
    t, x = between(f, f.t, unit.start.t, unit.end.t), between(f, wide, unit.start.t, unit.end.t)
    return float(t[int(np.nanargmin(x))]) - unit.start.t if np.isfinite(x).any() else float("nan")


@measure(
    "free_leg_through",
    points=("l_knee", "r_knee", *HIPS, *SHOULDERS),
    model_u=0.03,
    angle=("l_knee", "r_knee"),
)
def free_leg_through(f: Figure, unit: Unit) -> float:
    s = takeoff_foot(f, unit)
    free = "r" if s == "l" else "l"
    trunk = np.nanpercentile(length(f["mid_shoulder"] - f["mid_hip"]), 90)
    return at(f, (f[f"{free}_knee"] - f[f"{s}_knee"])[:, 1], unit.events["takeoff"], 0.03) / float(
        THIGH_TO_TRUNK * trunk
    )


@measure(
    "edge_at_landing",
    points=("l_knee", "r_knee", *ANKLES, *HIPS),
    model_u=3.5,
    angle=("r_ankle", "r_knee"),
)
def edge_at_landing(f: Figure, unit: Unit) -> float:
    """From the shank of the landing leg, taken as square to the blade; + toward its outer side."""
    s = "r" if landing_sign(f) > 0 else "l"
    out = np.nan_to_num(f["r_hip"] - f["l_hip"]) * (1.0 if s == "r" else -1.0)
    out[:, 2] = 0.0
    out = out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-9)
    d = np.nan_to_num(f[f"{s}_knee"] - f[f"{s}_ankle"])
    when = unit.events["landing"] + 0.01
    lean = at(f, np.degrees(np.arctan2((d * out).sum(axis=1), d[:, 2])), when, 0.03)
    if f.view is None:
        return lean
    # Seen a little from the side, a tilt across the blade looks smaller than it is.
    seen = (f["r_hip"] - f["l_hip"])[:, f.axes[0]]
    wide = np.abs(seen) / float(np.nanpercentile(np.abs(seen), 98))
    square = float(np.clip(at(f, wide, when, 0.03), 0.5, 1.0))
    # Turned past square, the bend of the landing knee shows as a tilt outward; short of it, inward.
    past = 1.0 if at(f, wide, when + 0.03, 0.03) < at(f, wide, when - 0.03, 0.03) else -1.0
    return (lean - past * LANDING_SHIN_DEG * float(np.sqrt(1 - square**2))) / square


@measure("air_time", model_u=0.004, possible=SHORTEST_TO_LONGEST_S)
def air_time(f: Figure, unit: Unit) -> float:
    return unit.end.t - unit.start.t


@measure("flight_height", model_u=0.01)
def flight_height(f: Figure, unit: Unit) -> float:
    return fly.flight_height(unit.end.t - unit.start.t)


def turned(f: Figure, unit: Unit) -> tuple[Array, Array]:
    """Times and degrees that the body has turned since the take-off, always forward.

    From above or in 3-D the bearing of shoulders and hips is read as it is. From elsewhere their
    seen width is the cosine of it: it is nothing at every quarter and three-quarter turn, and
    what lies before the first and after the last of these is read from the width.
    """
    a, b = unit.start.t, unit.end.t
    t = between(f, f.t, a, b)
    if f.sideways:
        return _rolled(f, t, a, b)
    if f.view in (None, "above"):
        d = (f["r_shoulder"] - f["l_shoulder"]) / 2 + (f["r_hip"] - f["l_hip"]) / 2
        yaw = np.degrees(np.unwrap(np.arctan2(-d[:, 1], d[:, 0])))
        piece = between(f, yaw, a, b)
        way = 1.0 if piece[-1] >= piece[0] else -1.0
        ends = [at(f, yaw, x, 0.02) for x in (a, b)]
        x = np.concatenate([[ends[0]], piece, [ends[1]]]) * way
        return np.concatenate([[a], t, [b]]), x - x[0]
    axis = 1 if f.view in ("side_left", "side_right") else 0
    seen = np.zeros(len(f.t))
    for part in ("shoulder", "hip"):
        d = (f[f"r_{part}"] - f[f"l_{part}"])[:, axis]
        seen += d / np.nanpercentile(np.abs(d), 98) / 2
    c = np.clip(between(f, seen, a, b), -1, 1)
    return _from_width(t, c, a, b)


def _rolled(f: Figure, t: Array, a: float, b: float) -> tuple[Array, Array]:
    """A board rider rolls head over heels: the line feet → shoulders, in the plane along travel."""
    d = f["mid_shoulder"] - f["mid_ankle"]
    roll = np.degrees(np.unwrap(np.arctan2(d[:, 1], d[:, 2])))
    ends = [at(f, roll, x, 0.02) for x in (a, b)]
    x = np.concatenate([[ends[0]], between(f, roll, a, b), [ends[1]]])
    return np.concatenate([[a], t, [b]]), x - x[0]


def planned_rotations(f: Figure) -> float:
    """Turns that were meant: as the run says; one for a board rider's roll."""
    planned = f.given.get("planned_rotations", 1.0 if f.sideways else None)
    return float(planned) if isinstance(planned, int | float) else float("nan")


def _from_width(t: Array, c: Array, a: float, b: float) -> tuple[Array, Array]:
    i = np.flatnonzero(c[:-1] * c[1:] < 0)
    zeros = t[i] + (t[i + 1] - t[i]) * c[i] / (c[i] - c[i + 1])
    zeros = zeros[np.concatenate([[True], np.diff(zeros) > MIN_HALF_S])] if len(zeros) else zeros
    if not len(zeros):
        swing = float(np.degrees(np.abs(np.arccos(c[-1]) - np.arccos(c[0]))))
        return np.array([a, b]), np.array([0.0, swing])
    rate = 180.0 / float(np.min(np.diff(zeros))) if len(zeros) > 1 else 0.0
    before = _past(float(c[0]), rate * (float(zeros[0]) - a))
    after = _past(float(c[-1]), rate * (b - float(zeros[-1])))
    angles = before + 180.0 * np.arange(len(zeros))
    return np.concatenate([[a], zeros, [b]]), np.concatenate([[0.0], angles, [angles[-1] + after]])


#: Two quarter turns are never closer than this: 7 turns a second.
MIN_HALF_S = 0.06


#: A skater who opens or closes the position turns at about this share of the full rate (house choice).
OPENING_SHARE = 0.65


def _past(c: float, at_full_rate: float) -> float:
    """Degrees turned away from a zero of the seen width, which is ``c`` at the other end.

    The same width is seen before a quarter turn and after it; how far the body would have gone
    at its full rate tells which.
    """
    near = float(np.degrees(np.arcsin(min(abs(c), 1.0))))
    guess = OPENING_SHARE * at_full_rate
    return near if abs(guess - near) <= abs(guess - (180.0 - near)) else 180.0 - near


@measure(
    "rotation_period", possible=FASTEST_TO_SLOWEST_S, points=(*SHOULDERS, *HIPS), model_u=0.004
)
def rotation_period(f: Figure, unit: Unit) -> float:
    t, x = turned(f, unit)
    if x[-1] < 360.0:
        return float("nan")
    starts = x[x <= x[-1] - 360.0]
    return (
        float(np.min(np.interp(starts + 360.0, x, t) - np.interp(starts, x, t)))
        if len(starts)
        else float("nan")
    )


#: Nobody lands a jump that lacks more than a whole turn of those planned (common practice).
NOT_FOLLOWED = 1.0


@measure("rotations", points=(*SHOULDERS, *HIPS), model_u=0.034)
def rotations(f: Figure, unit: Unit) -> float:
    """Counted turns; NaN where so few of those planned are counted that they were rather not followed."""
    counted = float(turned(f, unit)[1][-1]) / 360.0
    return float("nan") if planned_rotations(f) - counted > NOT_FOLLOWED else counted


@measure("shortfall", points=(*SHOULDERS, *HIPS), model_u=12.0)
def shortfall(f: Figure, unit: Unit) -> float:
    return 360.0 * (planned_rotations(f) - rotations(f, unit))


@measure("air_margin", points=(*SHOULDERS, *HIPS), model_u=0.004)
def air_margin(f: Figure, unit: Unit) -> float:
    planned = planned_rotations(f)
    return (
        air_time(f, unit) - air_time_needed(planned, rotation_period(f, unit))
        if np.isfinite(planned)
        else planned
    )
