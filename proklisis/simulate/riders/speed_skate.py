"""A speed skater in a left-hand corner: right pushes and left crossing pushes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.core.signals import lowpass
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, bump, curve, lerp

Array = NDArray[np.float64]
SPEED = 11.0
BLADE_M = 0.42


def clean(level: Level) -> dict[str, float]:
    lean = {"novice": 40.0, "intermediate": 46.0, "advanced": 56.0, "elite": 64.0}[level]
    return {
        "late_share": 14.0, "push_side@push_end": 49.0, "knee_drive": 0.5, "blade_lean": lean, "curl": 2.0, "sit": 78.0,
        "recovery_time": 0.38, "cadence": 2.1, "pressure_delay": 0.02,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    beat = 1.0 / max(score["cadence"], 0.4)
    beats = score.beats(beat, 0.02)
    # Two pushes before and behind, so that the clip begins and ends in the middle of skating.
    beats = np.concatenate([[beat] * 2, beats, [beat] * 3])
    touch = np.cumsum(beats) - 1.5 * beat
    t = score.clock(float(touch[n + 2] - 0.5 * beat + 1.0 * beat))
    first = int(score.rng(3).integers(2))
    feet = ["lr"[(k + first) % 2] for k in range(len(touch))]
    ks = np.clip(np.arange(len(touch)) - 1, 0, n - 1)

    def wish(key: str) -> Array:
        return score.per_unit(key)[ks]

    rest = np.clip(wish("recovery_time"), 0.1, 1.4 * beat)
    # A foot lifts so long before its own next touch-down, two beats on.
    lifts = np.array(
        [
            touch[k] + (touch[k + 2] - touch[k] if k + 2 < len(touch) else 2 * beat) - rest[k]
            for k in range(len(touch))
        ]
    )
    sit, late, side = wish("sit"), np.clip(wish("late_share"), 2, 80), wish("push_side@push_end")
    drive, curl, wait = wish("knee_drive"), wish("curl"), np.maximum(wish("pressure_delay"), 0.0)
    bent = rig.reach(seg["shank"], seg["thigh"], np.clip(sit + 8, 20, 125))
    height = curve(
        t,
        [
            (touch[k] + 0.15 * (lifts[k] - touch[k]), 0.90 * float(bent[k]))
            for k in range(len(touch))
        ],
    )
    for k in range(len(touch)):
        height = height - np.clip(0.005 * (side[k] - 62), -0.14, 0.18) * bump(
            t, lifts[k] + 0.02, 0.24
        )
    y = SPEED * t
    p: rig.Points = {}
    hips = rig.stack(0.0, y, height + 0.05)
    yaw = np.zeros_like(t)
    rig.pelvis(p, hips, yaw, -12 + yaw, seg)
    for s in "lr":
        _foot(p, s, t, y, hips, height, touch, lifts, feet, drive, curl, wait, late, sit, seg)
    lean = wish("blade_lean")
    lying = curve(
        t,
        [
            (touch[k] + 0.5 * (lifts[k] - touch[k]), float(lean[k]) - 46.0)
            for k in range(len(touch))
        ],
    )
    hint = np.clip(0.7 + 0.035 * lying, -1.5, 2.6)
    rig.legs(p, seg, dict.fromkeys("lr", rig.unit(rig.stack(-hint, 1.0, 0.25))))
    axis = rig.trunk(p, seg, 68 + yaw, -26.0, yaw, drop=-8.0)
    rig.head(p, seg, axis, -8 + yaw, 6.0)
    swing = curve(t, [(touch[k], 1.0 if feet[k] == "l" else -1.0) for k in range(len(touch))])
    for s, sign in (("l", -1.0), ("r", 1.0)):
        forward = rig.stack(sign * 0.25, 0.15 + 0.75 * sign * swing, -0.65 + 0.2 * np.abs(swing))
        rig.held_arm(
            p, s, forward, 35 + 0 * t, rig.stack(sign * 0.6, -0.6, -0.3) + 0 * forward, seg
        )
    return Motion(
        t, p, np.array([]), 0.0, {}, score.stature_m, surface=rig.stack(0.3, y, 0.0), place="ice"
    )


def _foot(p: rig.Points, s: str, t: Array, y: Array, hips: Array, height: Array, touch: Array, lifts: Array, feet: list[str],
          drive: Array, curl: Array, wait: Array, late: Array, sit: Array, seg: dict[str, float]) -> None:  # fmt: skip
    """One foot's way: out along its push on the ice, then up, in and forward to the next."""
    ground = rig.ANKLE_HEIGHT + 0.055
    x, ahead, up, turn = (np.zeros_like(t) for _ in range(4))
    mine = [k for k in range(len(touch)) if feet[k] == s]
    bend, land = [], []
    for k in mine:
        a, b = touch[k], lifts[k]
        most = float(sit[k]) + 6
        done = b - late[k] / 100 * (b - a)
        last = min(done + 0.35 * (b - done), b - 0.01)
        bend += [
            (a, most),
            (float(np.clip(a + float(wait[k]) - 0.02, a + 0.005, done - 0.08)), most),
            (done, 0.28 * most),
            (last, 17.0),
            (b, 15.0),
        ]
        land.append((a, 0.9 * (drive[k] - 0.7)))
        land.append((b, -0.12))
    bend = sorted(bend)
    flex = lowpass(np.interp(t, [k[0] for k in bend], [k[1] for k in bend]), 1 / (t[1] - t[0]), 9.0)
    chord = rig.reach(seg["shank"], seg["thigh"], flex)
    place = curve(t, land)
    hip = p[f"{s}_hip"]
    out = np.sqrt(
        np.maximum(chord**2 - (hip[:, 2] - ground) ** 2 - (place - (hip[:, 1] - y)) ** 2, 0.02**2)
    )
    pushed = hip[:, 0] + out
    x, ahead, up = pushed.copy(), place.copy(), np.full_like(t, ground)
    for i, k in enumerate(mine[:-1]):
        a, b = lifts[k], touch[mine[i + 1]]
        air = (t > a) & (t < b)
        w = (t[air] - a) / (b - a)
        go = w * w * (3 - 2 * w)
        x_a, x_b = np.interp([a, b], t, pushed)
        x[air] = lerp(x_a, x_b, go)
        ahead[air] = lerp(-0.12, np.interp(b, t, place), go) - 0.22 * np.sin(np.pi * w)
        up[air] = ground + 0.13 * np.sin(np.pi * w) ** 0.7
    for k in mine:
        turn = turn - (1.0 if s == "r" else -1.0) * curl[k] * np.clip(
            (t - (lifts[k] - 0.2 * (lifts[k] - touch[k]))) / (0.2 * (lifts[k] - touch[k])), 0, 1
        ) * (t < lifts[k] + 0.15)
    away = 4.0 if s == "r" else 2.0
    rig.feet(p, s, rig.stack(x, y + ahead, up), away + turn, np.zeros_like(t), seg)
    along = rig.bearing(away + turn)
    middle = p[f"{s}_ankle"] + 0.05 * along - np.array([0, 0, ground - 0.01])
    p[f"{s}_blade_front"], p[f"{s}_blade_back"] = (
        middle + BLADE_M / 2 * along,
        middle - BLADE_M / 2 * along,
    )


RIDER = Rider(move, clean, "front", views=("side_right", "rear"), given={"corner": True, "distance_m": 500.0},
    # A blade that passes this low is not told from one on the ice.
    unmoved=frozenset({"clearance"}),
)  # fmt: skip
