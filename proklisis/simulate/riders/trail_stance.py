"""A mountain biker who rolls through dips of a trail."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, bump, curve

Array = NDArray[np.float64]
SPEED, WHEELBASE, WHEEL, DEPTH = 5.0, 1.16, 0.36, 0.55
#: From the bottom bracket: half the crank's length, half the pedals' width, the bars, the saddle.
CRANK, PEDAL, BAR, SADDLE = 0.17, 0.19, (0.31, 0.52, 0.68), (-0.25, 0.52)


def clean(level: Level) -> dict[str, float]:
    return {
        "elbow_flare": 1.42, "heel_drop@roll_in": 16.0, "heel_drop@compress": 20.0, "knee_flare": 1.35, "com_over_bb": -0.06,
        "elbow_flex@compress": 58.0, "chest_low": 48.0, "gaze_drop": 18.0,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg = score.seg
    lows = 1.4 + np.concatenate([[0.0], np.cumsum(score.beats(2.0))[:-1]])
    t = score.clock(float(lows[-1]) + 1.5)
    y = SPEED * t

    def ground(at: Array) -> Array:
        when = at / SPEED
        return np.asarray(
            -0.10 * at - DEPTH * np.sum([bump(when, low, 0.62) for low in lows], axis=0)
        )

    def over(key: str) -> Array:
        return curve(t, list(zip(lows, score.per_unit(key), strict=True)))

    front, rear = ground(y + WHEELBASE / 2) + WHEEL, ground(y - WHEELBASE / 2) + WHEEL
    tip = np.arctan2(front - rear, WHEELBASE)
    p: rig.Points = {}
    p["front_axle"], p["rear_axle"] = (
        rig.stack(0.0, y + WHEELBASE / 2, front),
        rig.stack(0.0, y - WHEELBASE / 2, rear),
    )
    middle = rig.stack(0.0, y, (front + rear) / 2 - 0.02)
    along, up = rig.stack(0.0, np.cos(tip), np.sin(tip)), rig.stack(0.0, -np.sin(tip), np.cos(tip))
    right = np.array([1.0, 0.0, 0.0])
    # Heels drop with the ground: the feet are wished against the line of the axles.
    heel = curve(t, [k for low, a, b in zip(lows, score.per_unit("heel_drop@roll_in"), score.per_unit("heel_drop@compress"), strict=True)
                     for k in ((low - 0.55, float(a)), (low - 0.25, float(a)), (low - 0.1, float(b)), (low + 0.4, float(b)))])  # fmt: skip
    for s, sign in (("l", -1.0), ("r", 1.0)):
        pedal = middle + sign * PEDAL * right - sign * CRANK * along
        p[f"pedal_{s}"] = pedal
        rig.feet(
            p,
            s,
            pedal + rig.ANKLE_HEIGHT * up - 0.05 * along + 0.02 * up,
            6.0 * sign + 0 * t,
            -heel - np.degrees(tip),
            seg,
        )
        p[f"bar_end_{s}"] = middle + BAR[1] * along + BAR[2] * up + sign * BAR[0] * right
    p["saddle"] = middle + SADDLE[0] * along + SADDLE[1] * up
    length = seg["shank"] + seg["thigh"]
    sink = np.sum([bump(t, low, 0.45) for low in lows], axis=0)
    flex = 45 + 22 * sink
    chord = rig.reach(seg["shank"], seg["thigh"], flex)
    pitch = over("chest_low") + 5 * (sink - 0.35)
    back = -0.30 + (over("com_over_bb") + 0.06) * 1.3 - 0.16 * np.sin(np.radians(pitch - 48))
    hips = middle + rig.stack(
        0.0,
        back * length,
        np.sqrt(np.maximum(chord**2 - (back * length) ** 2 - CRANK**2, 0.08)) + rig.ANKLE_HEIGHT,
    )
    zero = np.zeros_like(t)
    rig.pelvis(p, hips, zero, zero, seg)
    wide = over("knee_flare") - 1.35
    rig.legs(
        p,
        seg,
        {
            s: rig.unit(rig.stack(sign * (0.45 + 1.3 * wide), 1.0, 0.3 + zero))
            for s, sign in (("l", -1.0), ("r", 1.0))
        },
    )
    axis = rig.trunk(p, seg, pitch, zero, zero)
    rig.head(p, seg, axis, zero, over("gaze_drop"))
    flare, bend = over("elbow_flare") - 1.42, over("elbow_flex@compress") - 58
    for s, sign in (("l", -1.0), ("r", 1.0)):
        a = np.clip(0.25 + 2.6 * flare, -1.3, 1.3)
        hint = rig.stack(sign * np.cos(a - 0.9), -0.2 + zero, np.sin(a - 0.9))
        # The arms bend as the shoulders come down to the bars; a stiff arm holds them off.
        hold = rig.unit(p[f"bar_end_{s}"] - p[f"{s}_shoulder"])
        far = np.linalg.norm(p[f"bar_end_{s}"] - p[f"{s}_shoulder"], axis=1)
        want = rig.reach(
            seg["upper_arm"], seg["forearm"], np.clip(58 + bend + 12 * (sink - 1), 2, 150)
        )
        rig.arm(
            p,
            s,
            p[f"{s}_shoulder"] + np.where(sink > 0, far + sink * (want - far), far)[:, None] * hold,
            hint,
            seg,
        )
    for s, sign in (("l", -1.0), ("r", 1.0)):
        p[f"bar_end_{s}"] = p[f"{s}_wrist"] + 0.03 * sign * right
    return Motion(
        t,
        p,
        np.array([]),
        0.0,
        {},
        score.stature_m,
        surface=rig.stack(0.0, y, ground(y)),
        place="trail",
    )


RIDER = Rider(move, clean, "side_right", views=("front",), given={"grade": "blue"})
