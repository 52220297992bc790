"""Figures on ice."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import full_leg, wrap
from proklisis.core.signals import lowpass
from proklisis.core.splitting.events import at, between, peak_time
from proklisis.core.splitting.loops import blade_m, skating_foot, trace
from proklisis.core.splitting.units import Unit
from proklisis.core.tracks.landmarks import BLADES

Array = NDArray[np.float64]
LEGS = ("l_hip", "r_hip", "l_knee", "r_knee", "l_ankle", "r_ankle")
SHOULDERS = ("l_shoulder", "r_shoulder")
#: Low-pass of the press, hertz (house choice).
PRESS_HZ = 3.0
#: A smaller press is none, leg lengths (house choice).
PRESS_MIN = 0.04
#: The trace is read at so many places.
PLACES = 101
#: A turn of the trace by more degrees over a hundredth of it is a cusp (house choice).
CUSP_DEG = 40.0
#: An edge changes where the trace bends the other way by more than this, degrees.
OTHER_WAY_DEG = 14.0

declare_table("""
loop_ratio | ratio | Loop width to length | width ÷ length of the closed part of the trace | above |
loop_length | ratio | Loop length | length of the loop ÷ blade length | above |
curvature_peak_at | ratio | Tightest point | where along the loop the curvature is greatest, 0.5 is the far end | above |
curvature_jumps | ratio | Cusps | number of cusps in the trace | above |
edge_changes | ratio | Edge changes | number of changes of edge in the loop | above |
press_peak_at | ratio | Deepest press | where along the loop the knee is bent most | side_left, side_right |
press_smooth | ratio | Smooth press | 1 is one smooth press and rise of the knee | side_left, side_right |
free_leg_pass | ratio | Free leg passes | where along the loop the free foot passes the skating foot | above |
shoulder_turn | deg | Shoulder turn | turn of the shoulders from entry to exit | above |
lean_in | deg | Lean into the circle | trunk lean toward the middle of the loop | front, rear |
blade_pressure | ratio | Pressure on the blade | −1 toe … +1 heel, at the far end or on the way in | above, front, rear | round, trace_in
""")


def _closed(f: Figure, unit: Unit) -> Array:
    """(PLACES, 2) the closed part of the trace at even steps of its length."""
    path, t = trace(f)[:, :2], f.t
    times = np.concatenate([[unit.start.t], between(f, t, unit.start.t, unit.end.t), [unit.end.t]])
    p = np.stack([np.interp(times, t, path[:, k]) for k in (0, 1)], axis=1)
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    even = np.linspace(0, way[-1], PLACES)
    return np.stack([np.interp(even, way, p[:, k]) for k in (0, 1)], axis=1)


def _size(p: Array) -> tuple[float, float]:
    """(length, width) of a closed trace: from the crossing to the far end, and square to that."""
    d = p - p[0]
    far = d[int(np.argmax(np.hypot(*d.T)))]
    long = float(np.hypot(*far))
    across = (d[:, 0] * far[1] - d[:, 1] * far[0]) / max(long, 1e-9)
    return long, float(np.ptp(across))


@measure("loop_ratio", points=BLADES, model_u=0.0)
def loop_ratio(f: Figure, unit: Unit) -> float:
    long, wide = _size(_closed(f, unit))
    return wide / long


@measure("loop_length", points=BLADES, model_u=0.008)
def loop_length(f: Figure, unit: Unit) -> float:
    return _size(_closed(f, unit))[0] * f.metres() / blade_m(f)


def _bends(p: Array) -> Array:
    """Turning of a trace at each of its inner places, degrees, + the way the whole of it turns."""
    d = np.diff(p, axis=0)
    turn = wrap(np.degrees(np.diff(np.arctan2(d[:, 0], d[:, 1]))))
    return turn * (1.0 if turn.sum() >= 0 else -1.0)


@measure("curvature_peak_at", points=BLADES, model_u=0.0)
def curvature_peak_at(f: Figure, unit: Unit) -> float:
    """In the middle of the tightest stretch, so that one noisy place does not decide."""
    bends = np.convolve(
        _bends(_closed(f, unit)), np.hanning(19) / np.hanning(19).sum(), mode="same"
    )
    tight = np.flatnonzero(bends >= 0.85 * bends.max())
    return float((tight[0] + tight[-1]) / 2 + 1) / (PLACES - 1)


@measure("curvature_jumps", points=BLADES, model_u=0.0)
def curvature_jumps(f: Figure, unit: Unit) -> float:
    sharp = np.abs(_bends(_closed(f, unit))) > CUSP_DEG
    return float(np.sum(np.diff(np.concatenate([[0], sharp.astype(int)])) == 1))


@measure("edge_changes", points=BLADES, model_u=0.0)
def edge_changes(f: Figure, unit: Unit) -> float:
    """Stretches that bend the other way."""
    bends = np.convolve(
        _bends(_closed(f, unit)), np.hanning(15) / np.hanning(15).sum(), mode="same"
    )
    count, run = 0, 0.0
    for b in bends:
        if b < 0:
            if run > -OTHER_WAY_DEG >= run + b:
                count += 1
            run += b
        else:
            run = 0.0
    return float(count)


def _share(unit: Unit, when: float) -> float:
    """Where along the loop a moment is: 0 the crossing, 0.5 the far end, 1 the crossing again."""
    a, far, b = unit.start.t, unit.events["far"], unit.end.t
    return 0.5 * (when - a) / (far - a) if when <= far else 0.5 + 0.5 * (when - far) / (b - far)


def _press(f: Figure) -> Array:
    """How far the hip has sunk over the skating foot, in leg lengths: any upright view shows it."""

    def work() -> Array:
        s = skating_foot(f)
        return lowpass(-(f[f"{s}_hip"] - f[f"{s}_ankle"])[:, 2] / full_leg(f), f.fps, PRESS_HZ)

    return f.once("press", work)


@measure("press_peak_at", points=LEGS, model_u=0.03, angle=("l_hip", "l_knee", "l_ankle"))
def press_peak_at(f: Figure, unit: Unit) -> float:
    t, x = (
        between(f, f.t, unit.start.t, unit.end.t),
        between(f, _press(f), unit.start.t, unit.end.t),
    )
    return _share(unit, peak_time(t, x))


@measure("press_smooth", points=LEGS, model_u=0.085, angle=("l_hip", "l_knee", "l_ankle"))
def press_smooth(f: Figure, unit: Unit) -> float:
    """The way down and up of one press ÷ all the knee's way, less where it hardly presses at all."""
    x = between(f, _press(f), unit.start.t, unit.end.t)
    whole = 2 * float(x.max()) - float(x[0] + x[-1])
    return (
        min(1.0, float(np.ptp(x)) / PRESS_MIN) * whole / max(float(np.abs(np.diff(x)).sum()), 1e-9)
    )


def _forward(f: Figure) -> Array:
    """Direction of the skating blade, (n, 3), unseen axes left out."""
    s = skating_foot(f)
    return np.nan_to_num(f[f"{s}_blade_front"] - f[f"{s}_blade_back"])


@measure(
    "free_leg_pass",
    points=(*BLADES, "l_ankle", "r_ankle"),
    model_u=0.005,
    angle=("l_ankle", "r_ankle"),
)
def free_leg_pass(f: Figure, unit: Unit) -> float:
    s = skating_foot(f)
    free = "r" if s == "l" else "l"
    d = np.nan_to_num(f[f"{free}_ankle"] - f[f"{s}_ankle"])
    ahead = (d * _forward(f)).sum(axis=1)
    a, b = unit.start.t, unit.end.t
    t, x = between(f, f.t, a, b), between(f, ahead, a, b)
    passed = np.flatnonzero((x[:-1] < 0) & (x[1:] >= 0))
    if not len(passed):
        return 1.0 if x[-1] < 0 else 0.0
    k = int(passed[0])
    return _share(unit, float(t[k] + (t[k + 1] - t[k]) * x[k] / (x[k] - x[k + 1])))


@measure(
    "shoulder_turn", points=(*SHOULDERS, *BLADES), model_u=1.0, angle=("l_shoulder", "r_shoulder")
)
def shoulder_turn(f: Figure, unit: Unit) -> float:
    """Against the blade: from one shoulder in front to the other."""
    d, b = f["r_shoulder"] - f["l_shoulder"], _forward(f)
    off = wrap(np.degrees(np.arctan2(-d[:, 1], d[:, 0]) - np.arctan2(b[:, 0], b[:, 1])))
    return abs(at(f, off, unit.end.t, 0.06) - at(f, off, unit.start.t, 0.06))


@measure(
    "lean_in", points=("l_hip", "r_hip", *SHOULDERS), model_u=0.6, angle=("mid_hip", "mid_shoulder")
)
def lean_in(f: Figure, unit: Unit) -> float:
    """Across the blade, toward the side that the trace turns to.

    From ahead or behind only its part across the picture shows, together with the trunk's pitch:
    on the way round the blade points everywhere, and a fit over the loop tells the two apart.
    """
    d, blade = np.nan_to_num(f["mid_shoulder"] - f["mid_hip"]), _forward(f)
    a, b = unit.start.t, unit.end.t
    d, blade, t = between(f, d, a, b), between(f, blade, a, b), between(f, f.t, a, b)
    size = np.hypot(blade[:, 0], blade[:, 1])
    if f.view is None:
        way = wrap(np.degrees(np.diff(np.unwrap(np.arctan2(blade[:, 0], blade[:, 1])))))
        left = -1.0 if way.sum() < 0 else 1.0
        inward = left * np.stack([blade[:, 1], -blade[:, 0]], axis=1) / size[:, None]
        return float(np.mean(np.degrees(np.arctan2((d[:, :2] * inward).sum(axis=1), d[:, 2]))))
    forward = np.clip(blade[:, 0] / np.nanpercentile(size, 95), -1, 1)
    side = np.sqrt(1 - forward**2) * np.where(t <= unit.events["far"], 1.0, -1.0)
    lean, _ = np.linalg.lstsq(np.stack([side, forward], axis=1), d[:, 0] / d[:, 2], rcond=None)[0]
    # On the way out the middle of the loop lies where the trace goes back at its far end.
    x = between(f, np.nan_to_num(trace(f)[:, 0]), a, b)
    back = (
        -1.0
        if float(
            np.interp(unit.events["far"] + 0.1, t, x) - np.interp(unit.events["far"] - 0.1, t, x)
        )
        < 0
        else 1.0
    )
    return float(np.degrees(np.arctan(lean * back)))


#: A blade that shows a lesser share of its length points too much toward the camera (house choice).
SHOWN = 0.9


@measure(
    "blade_pressure",
    over="phase",
    points=(*BLADES, *LEGS, *SHOULDERS),
    model_u=0.02,
    angle=("mid_ankle", "com"),
)
def blade_pressure(f: Figure, unit: Unit, phase: str | None) -> float:
    s = skating_foot(f)
    blade = _forward(f)
    d = np.nan_to_num(f["com"] - (f[f"{s}_blade_front"] + f[f"{s}_blade_back"]) / 2)
    blade[:, 2] = 0.0
    ahead = 2 * (d * blade).sum(axis=1) / np.maximum((blade**2).sum(axis=1), 1e-9)
    if phase == "trace_in":
        shown = np.linalg.norm(blade, axis=1) / max(
            float(np.nanmax(np.linalg.norm(blade, axis=1))), 1e-9
        )
        if (
            f.view in ("front", "rear")
            and np.nanmean(between(f, shown, *unit.phases["trace_in"])) < SHOWN
        ):
            return float("nan")  # the lean to a side would be read as pressure
        return -float(np.nanmean(between(f, ahead, *unit.phases["trace_in"])))
    return -at(f, ahead, unit.events["far"], 0.05)
