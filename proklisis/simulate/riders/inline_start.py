"""A beginner's first strides on inline skates: small steps in a V, then a glide on both feet."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, curve, lerp, step

Array = NDArray[np.float64]
GLIDE_S = 1.6


def clean(level: Level) -> dict[str, float]:
    return {
        "v_angle": 42.0, "v_angle_glide": 3.0, "step_width": 1.25, "single_support": 0.34, "step_forward": 0.02,
        "shoulder_over_hip": 0.14, "trunk_pitch": 9.0, "knee_flex": 36.0, "cadence": 2.2,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    beat = 1.0 / max(score["cadence"], 0.4)
    touch = 0.6 + np.concatenate([[0.0], np.cumsum(score.beats(beat, 0.03))])
    t = score.clock(float(touch[-1]) + GLIDE_S)
    first = int(score.rng(3).integers(2))
    feet = ["lr"[(k + first) % 2] for k in range(len(touch))]
    ks = np.clip(np.arange(len(touch)), 0, n - 1)

    def wish(key: str) -> Array:
        return score.per_unit(key)[ks]

    single = np.clip(wish("single_support"), 0.08, 0.9 * beat)
    width, ahead, opening = wish("step_width"), wish("step_forward"), wish("v_angle")
    # Two ways of saying the same: the one that was asked for by a fault leads.
    asked = max(score["trunk_pitch"], 0.0)
    over = np.degrees(np.arcsin(np.clip(score["shoulder_over_hip"], -0.9, 0.9)))
    pitch = asked if abs(asked - 9) > abs(over - 8) else over
    last = float(touch[-1])
    speed = curve(t, [(0, 0.2), (0.5, 0.3), (last, 2.2), (last + GLIDE_S, 1.9)])
    y = np.cumsum(speed) / score.fps
    flex = max(score["knee_flex"], 0.0) + 3 * np.sin(2 * np.pi * t / (2 * beat))
    foot_gap = float(np.mean(width)) * seg["hip_width"]
    glide = step(t, last + 0.18, 0.16)
    v = lerp(float(np.mean(opening)), score["v_angle_glide"], glide)
    p: rig.Points = {}
    ground = rig.ANKLE_HEIGHT + 0.09
    shift = curve(
        t,
        [
            (touch[k] + 0.05, (0.30 if feet[k] == "r" else -0.30) * foot_gap)
            for k in range(len(touch))
        ]
        + [(last + 0.5, 0.0)],
    )
    for s, sign in (("l", -1.0), ("r", 1.0)):
        across, along, up = (
            np.full_like(t, sign * foot_gap / 2),
            np.zeros_like(t),
            np.full_like(t, ground),
        )
        mine = [k for k in range(len(touch)) if feet[k] == s]
        for k in mine:
            # In the air from the other foot's landing on, for as long as that foot stands alone.
            alone = single[max(k - 1, 0)]
            air = (t > touch[k] - alone) & (t < touch[k])
            w = (t[air] - (touch[k] - alone)) / alone
            up[air] = ground + 0.085 * np.sin(np.pi * w) ** 0.7
        along = curve(t, [(0.0, 0.0)] + [knot for k in mine for knot in (
            (touch[k] - single[max(k - 1, 0)], -0.10), (touch[k], float(ahead[k]) * seg["foot"] * 0.5),
            (touch[k] + 0.1, float(ahead[k]) * seg["foot"] * 0.5))] + [(last + 0.35, 0.0)])  # fmt: skip
        rig.feet(p, s, rig.stack(across, y + along, up), sign * v / 2, np.zeros_like(t), seg)
    chord = rig.reach(seg["shank"], seg["thigh"], flex)
    pitch_now = np.full_like(t, pitch)
    hips = rig.stack(
        shift, y - 0.02 - 0.0012 * pitch, ground + np.sqrt(np.maximum(chord**2 - 0.10**2, 0.1))
    )
    zero = np.zeros_like(t)
    rig.pelvis(p, hips, zero, zero, seg)
    rig.legs(p, seg, {"l": rig.bearing(-v / 3), "r": rig.bearing(v / 3)})
    axis = rig.trunk(p, seg, pitch_now, zero, zero)
    rig.head(p, seg, axis, zero, 12 + 0.3 * pitch_now)
    for s, sign in (("l", -1.0), ("r", 1.0)):
        wave = 0.15 * np.sin(2 * np.pi * t / (2 * beat)) * sign
        rig.held_arm(
            p,
            s,
            rig.stack(0.55 * sign, 0.45 + wave, -0.6),
            55 + 0 * t,
            rig.stack(sign * 0.4, -0.5, -0.7) + 0 * p["l_hip"],
            seg,
        )
    return Motion(
        t, p, np.array([]), 0.0, {}, score.stature_m, surface=rig.stack(0.0, y, 0.0), place="track"
    )


RIDER = Rider(move, clean, "front", views=("side_right", "front"), given={"surface": "asphalt"})
