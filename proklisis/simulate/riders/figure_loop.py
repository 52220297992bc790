"""A figure skater drawing loops on one edge, one after the other along the ice."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicHermiteSpline

from proklisis.core.shapes.run_sheet import Level
from proklisis.core.signals import lowpass
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, curve

Array = NDArray[np.float64]
BLADE_M, ROUND_S, APART_M, TURN_DEG = 0.28, 2.1, 1.5, 292.0


def clean(level: Level) -> dict[str, float]:
    return {
        "loop_ratio": 0.667, "loop_length": 1.2, "curvature_peak_at": 0.5, "edge_changes": 0.0, "press_peak_at": 0.5,
        "press_smooth": 0.97, "free_leg_pass": 0.52, "shoulder_turn": 88.0, "lean_in": 3.0, "blade_pressure@round": 0.45,
        "blade_pressure@trace_in": -0.05,
        "gaze_drop": 12.0,
    }  # fmt: skip


def _loop(ratio: float, size: float, peak: float, ripple: float) -> Array:
    """The closed part of one loop, from the crossing round to it again, tightest at ``peak`` of its way.

    Drawn by its curvature: two straight arms and one swell of turning between them, steep or broad.
    """
    s = np.linspace(-1.2, 2.2, 1601)
    broad = 0.22
    swell = np.exp(-(((s - 0.5) / broad) ** 2))
    # A rushed or a late loop has its tightest place before or behind the far end.
    hook = 0.5 - peak
    if abs(hook) > 0.06:
        sharp = 3.0 * min(1.0, (abs(hook) - 0.06) / 0.1)
        swell += sharp * np.exp(-(((s - 0.5 + 1.9 * np.sign(hook) * broad) / (0.28 * broad)) ** 2))
    turn = np.cumsum(swell) / swell.sum() * TURN_DEG
    bearing = np.radians(-90.0 + TURN_DEG / 2 - turn)
    step = s[1] - s[0]
    p = np.cumsum(np.stack([np.sin(bearing), np.cos(bearing)], axis=1) * step, axis=0)
    i, j = _crossing(p)
    p = p[i : j + 1] - p[i]
    long, wide = p[int(np.hypot(*p.T).argmax())], 0.0
    axis = long / np.hypot(*long)
    across = np.array([axis[1], -axis[0]])
    wide = np.ptp(p @ across) / np.hypot(*long)
    p = np.outer(p @ axis, axis) + np.outer(p @ across, across) * (ratio / wide)
    p *= size / np.hypot(*p.T).max()
    if ripple:
        u = np.linspace(0, 1, len(p))
        d = np.gradient(p, axis=0)
        normal = np.stack([d[:, 1], -d[:, 0]], axis=1) / np.hypot(*d.T)[:, None]
        p = p + normal * (ripple * size * np.sin(np.pi * u) ** 2 * np.sin(8 * np.pi * u))[:, None]
    return np.asarray(p[:: max(1, len(p) // 240)])


def _crossing(p: Array) -> tuple[int, int]:
    """Indices at which a path that turns once meets itself."""
    low = p[: len(p) // 2 : 2]
    high = p[len(p) // 2 :: 2]
    apart = ((low[:, None] - high[None]) ** 2).sum(axis=2)
    # Near the far end the two halves touch by themselves: only the outermost meeting counts.
    near = np.argwhere(apart < 4 * (p[1] - p[0]) @ (p[1] - p[0]))
    i, j = near[np.argmin(near[:, 0] - near[:, 1])]
    return 2 * int(i), len(p) // 2 + 2 * int(j)


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    ratio, size = (
        np.clip(score.per_unit("loop_ratio"), 0.1, 1.6),
        np.clip(score.per_unit("loop_length"), 0.3, 3.5) * BLADE_M,
    )
    tight = np.clip(score.per_unit("curvature_peak_at"), 0.06, 0.94)
    wave = 0.09 if score["edge_changes"] >= 0.5 else 0.0
    pieces, marks = [], []
    for k in range(n):
        pieces.append(
            _loop(float(ratio[k]), float(size[k]), float(tight[k]), wave) + [APART_M * k, 0.0]
        )
    path: list[Array] = []
    for k, lobe in enumerate(pieces):
        enter = lobe[1] - lobe[0]
        if k == 0:
            path.append(_bridge(lobe[0] - [0.8, 0.55], np.array([1.0, 0.1]), lobe[0], enter))
        marks.append((sum(map(len, path)), sum(map(len, path)) + len(lobe) - 1))
        path.append(lobe)
        leave = lobe[-1] - lobe[-2]
        if k + 1 < n:
            nxt = pieces[k + 1]
            path.append(_bridge(lobe[-1], leave, nxt[0], nxt[1] - nxt[0]))
        else:
            path.append(_bridge(lobe[-1], leave, lobe[-1] + [0.8, -0.55], np.array([1.0, -0.1])))
    points = np.concatenate(path)
    step = np.hypot(*np.diff(points, axis=0).T)
    way = np.concatenate([[0.0], np.cumsum(np.maximum(step, 1e-6))])
    lap = float(np.mean([way[b] - way[a] for a, b in marks]))
    speed = lap / ROUND_S
    t = score.clock(float(way[-1]) / speed - 0.05)
    here = np.stack([np.interp(speed * t, way, points[:, k]) for k in (0, 1)], axis=1)
    v = np.gradient(here, t, axis=0)
    bearing = np.degrees(np.unwrap(np.arctan2(v[:, 0], v[:, 1])))
    bearing = lowpass(bearing, score.fps, 7.0)
    times = [(float(way[a]) / speed, float(way[b]) / speed) for a, b in marks]

    def place(k: int, share: float) -> float:
        a, b = times[k]
        return a + share * (b - a)

    def per(key: str, knots: list[tuple[float, float]], calm: float) -> Array:
        """Calm between loops; within each, knots of (share of the loop, weight of the wish)."""
        out = [(0.0, calm)]
        for k, value in enumerate(score.per_unit(key)):
            out += [(place(k, s), calm + w * (float(value) - calm)) for s, w in knots]
        return curve(t, out)

    s, free = ("l", "r") if score.seed % 2 else ("r", "l")
    zero = np.zeros_like(t)
    p: rig.Points = {}
    ice = rig.ANKLE_HEIGHT + 0.06
    rig.feet(
        p,
        s,
        rig.stack(here[:, 0], here[:, 1], ice + zero) - 0.04 * rig.bearing(bearing),
        bearing,
        zero,
        seg,
    )
    along = rig.bearing(bearing)
    middle = rig.stack(here[:, 0], here[:, 1], 0.01 + zero)
    p[f"{s}_blade_front"], p[f"{s}_blade_back"] = (
        middle + BLADE_M / 2 * along,
        middle - BLADE_M / 2 * along,
    )
    peak, smooth = (
        np.clip(score.per_unit("press_peak_at"), 0.05, 0.95),
        score.per_unit("press_smooth"),
    )
    press = [(0.0, 20.0)]
    for k in range(n):
        deep = 20 + 34 * float(np.clip(smooth[k] / 0.97, 0.02, 1.0))
        press += [(place(k, -0.05), 20.0), (place(k, float(peak[k])), deep), (place(k, 1.05), 20.0)]
    knee = curve(t, press)
    chord = rig.reach(seg["shank"], seg["thigh"], knee)
    # The pressure wanders back to the heel by the far end, and forward again on the way out.
    wander = [(0.0, 0.0)]
    for k, (early, far) in enumerate(
        zip(
            score.per_unit("blade_pressure@trace_in"),
            score.per_unit("blade_pressure@round"),
            strict=True,
        )
    ):
        wander += [(place(k, x), float(early)) for x in (-0.05, 0.30)] + [
            (place(k, x), float(far)) for x in (0.45, 0.60)
        ]
        wander += [(place(k, 1.0), 0.5 * float(far))]
    back = -0.04 - 0.5 * BLADE_M * curve(t, wander) + 0.03
    right = rig.rightward(bearing)
    hips = (
        p[f"{s}_ankle"]
        + back[:, None] * along
        + np.sqrt(np.maximum(chord**2 - back**2 - 0.07**2, 0.1))[:, None] * rig.UP
    )
    offset = np.zeros_like(t)
    for k, turned in enumerate(score.per_unit("shoulder_turn")):
        begin, end = times[k]
        until = times[k + 1][0] if k + 1 < n else float(t[-1])
        offset += np.where(
            (t >= begin) & (t <= end), turned * ((t - begin) / (end - begin) - 0.5), 0.0
        )
        gone = (t > end) & ((t < until) | (k == n - 1))
        offset += np.where(
            gone, turned * (0.5 - np.clip((t - end) / max(until - end, 0.1), 0, 1)), 0.0
        )
    offset += np.where(t < times[0][0], -0.5 * score.per_unit("shoulder_turn")[0], 0.0)
    # The trace turns to the left: the body's left is toward the middle of the loop.
    lean = per("lean_in", [(-0.15, 0.0), (0.05, 1.0), (0.95, 1.0), (1.15, 0.0)], 2.0)
    body = bearing + 0.4 * offset
    rig.pelvis(p, hips, body, zero, seg)
    when = np.clip(score.per_unit("free_leg_pass"), 0.03, 0.97)
    swing = [(0.0, -0.42)]
    for k in range(n):
        swing += [
            (place(k, -0.08), -0.42),
            (place(k, float(when[k]) - 0.16), -0.30),
            (place(k, float(when[k])), 0.0),
            (place(k, float(when[k]) + 0.16), 0.30),
            (place(k, 1.08), 0.40),
            (place(k, 1.5), 0.30),
        ]
        if k + 1 < n:
            swing += [(place(k + 1, -0.5), -0.30)]
    sign = -1.0 if free == "l" else 1.0
    ahead = curve(t, swing)
    rig.feet(
        p,
        free,
        p[f"{s}_ankle"]
        + ahead[:, None] * along
        + 0.22 * sign * right
        + (0.16 + 0.1 * np.abs(ahead))[:, None] * rig.UP,
        bearing + sign * 12,
        25 + zero,
        seg,
    )
    blade = rig.unit(p[f"{free}_toe"] - p[f"{free}_heel"])
    p[f"{free}_blade_front"], p[f"{free}_blade_back"] = (
        p[f"{free}_toe"] + 0.02 * blade,
        p[f"{free}_heel"] - 0.02 * blade,
    )
    rig.legs(p, seg, dict.fromkeys("lr", along))
    axis = rig.unit(
        rig.UP + np.tan(np.radians(8)) * along - np.tan(np.radians(lean))[:, None] * right
    )
    rig.trunk(p, seg, zero, zero, bearing + offset, axis=axis)
    rig.head(p, seg, axis, bearing - 15, np.clip(score["gaze_drop"] + zero, -60, 80))
    for limb, sgn in (("l", -1.0), ("r", 1.0)):
        rig.held_arm(
            p,
            limb,
            sgn * rig.rightward(bearing + offset) + 0.35 * along - 0.1 * rig.UP,
            30 + zero,
            -rig.UP + 0 * along,
            seg,
        )
    return Motion(t, p, np.array([]), 0.0, {}, score.stature_m, surface=middle, place="ice")


def _bridge(start: Array, out: Array, end: Array, into: Array) -> Array:
    """A smooth way from one loop to the next that leaves and arrives in their directions."""
    size = float(np.hypot(*(end - start)))
    tangents = [
        1.3 * size * out / max(float(np.hypot(*out)), 1e-9),
        1.3 * size * into / max(float(np.hypot(*into)), 1e-9),
    ]
    return np.asarray(
        CubicHermiteSpline([0, 1], np.stack([start, end]), np.stack(tangents))(
            np.linspace(0, 1, 160)[1:-1]
        )
    )


RIDER = Rider(
    move, clean, "above", views=("side_right", "front"), given={"edge": "outside", "blade_m": BLADE_M},
    rough=frozenset({"edge_changes"}), unmoved=frozenset({"trunk_pitch"}),
)  # fmt: skip
