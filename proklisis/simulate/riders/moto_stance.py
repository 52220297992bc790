"""A dirt-bike rider who sits down into a corner and stands up out of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, curve, lerp

Array = NDArray[np.float64]
#: Metres from the foot pegs: the bike in its own upright frame.
PEG, SEAT, BAR, AXLE = (0.24, 0.0, 0.40), 0.92, (0.38, 0.56, 1.14), 0.72
WHEEL = 0.34


def clean(level: Level) -> dict[str, float]:
    return {
        "seat_fore@seat_change": 0.10, "seat_fore@exit": 0.10, "elbow_lift": 14.0, "head_over_bars@mid_corner": 0.06,
        "head_over_bars@seat_change": 0.06, "head_over_bars@exit": 0.06, "stand_shift": 0.02, "hip_back_standing": 0.14,
        "knee_flex@approach": 34.0, "toe_out": 4.0, "knee_gap": 1.0, "bike_body_lean": 0.0,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    rest, sit = score.beats(1.7), 1.9 * (1 + 0.03 * np.clip(score.rng(4).standard_normal(n), -2, 2))
    down = 1.6 + np.concatenate([[0.0], np.cumsum(rest + sit)[:-1]])
    up = down + sit
    t = score.clock(float(up[-1]) + 1.6)
    seated = curve(
        t,
        [(0.0, 0.0)]
        + [
            k
            for a, b in zip(down, up, strict=True)
            for k in ((a - 0.24, 0.0), (a + 0.24, 1.0), (b - 0.24, 1.0), (b + 0.24, 0.0))
        ],
    )
    first = 1 if score.rng(5).integers(2) else -1
    sides = [first * (-1) ** k for k in range(n)]
    stand = bool(score.given.get("on_stand"))
    lean = curve(
        t,
        [(0.0, 0.0)]
        + [
            k
            for a, b, s in zip(down, up, sides, strict=True)
            for k in ((a - 0.1, 0.0), (a + 0.4, 22.0 * s), (b - 0.35, 22.0 * s), (b + 0.2, 0.0))
        ],
    )
    if stand:
        lean = 0 * lean

    def over(key: str, off: float = 0.0) -> Array:
        values = score.per_unit(key) + off
        return curve(t, [((a + b) / 2, float(v)) for a, b, v in zip(down, up, values, strict=True)])

    length = seg["shank"] + seg["thigh"]
    p: rig.Points = {}
    zero = np.zeros_like(t)
    for s, sign in (("l", -1.0), ("r", 1.0)):
        rig.feet(
            p,
            s,
            rig.stack(
                sign * (PEG[0] - 0.02), PEG[1] - 0.03, PEG[2] + rig.ANKLE_HEIGHT + 0.02 + zero
            ),
            sign * over("toe_out"),
            zero - 4,
            seg,
        )
        p[f"pedal_{s}"] = rig.stack(sign * PEG[0], PEG[1], PEG[2] + zero)
        p[f"bar_end_{s}"] = rig.stack(sign * BAR[0], BAR[1], BAR[2] + zero)
    p["front_axle"], p["rear_axle"] = (
        rig.stack(0.0, AXLE, WHEEL + zero),
        rig.stack(0.0, -AXLE, WHEEL + zero),
    )
    p["saddle"] = rig.stack(0.0, -0.15, SEAT + zero)
    ankle = PEG[2] + rig.ANKLE_HEIGHT + 0.02
    chord = rig.reach(seg["shank"], seg["thigh"], np.clip(over("knee_flex@approach"), 0, 90))
    chord = chord - 0.0015 * np.minimum(over("knee_flex@approach"), 0)
    risen = BAR[1] + 0.03 + over("stand_shift") * seg["trunk"]
    # A head that travels further than the trunk can carry it takes the hips along.
    back = (
        over("hip_back_standing")
        - np.maximum(
            risen
            - 0.13
            - 0.9 * (seg["trunk"] + 0.6 * seg["head"])
            + over("hip_back_standing") * length,
            0,
        )
        / length
    )
    hips_up = rig.stack(
        0.0,
        -back * length,
        ankle + np.sqrt(np.maximum(chord**2 - (back * length) ** 2 - 0.14**2, 0.05)),
    )
    early = curve(t, [k for a, b, x, y in zip(down, up, score.per_unit("seat_fore@seat_change"), score.per_unit("seat_fore@exit"), strict=True)
                      for k in ((a - 0.3, float(x)), (a + 0.5, float(x)), (b - 0.6, float(y)), (b + 0.3, float(y)))])  # fmt: skip
    hips_down = rig.stack(0.0, early * length, SEAT + 0.10 + zero)
    rig.pelvis(p, lerp(hips_up, hips_down, seated[:, None]), zero, zero, seg)
    wide = over("knee_gap", -1.0)
    rig.legs(
        p,
        seg,
        {
            s: rig.unit(rig.stack(sign * (0.02 + 1.1 * wide), 1.0, 0.4 + zero))
            for s, sign in (("l", -1.0), ("r", 1.0))
        },
    )
    # The trunk tips so far that the head is where it is wished: over the bars, or left behind.
    fore = curve(t, [k for a, b, x, y, z in zip(down, up, score.per_unit("head_over_bars@seat_change"), score.per_unit("head_over_bars@mid_corner"),
                                               score.per_unit("head_over_bars@exit"), strict=True)
                     for k in ((a + 0.1, float(x)), (a + 0.35, float(x)), ((a + b) / 2 - 0.1, float(y)), (b - 0.6, float(z)), (b - 0.2, float(z)))])  # fmt: skip
    seated_nose = BAR[1] + fore * (seg["upper_arm"] + seg["forearm"])
    hip_y = ((p["l_hip"] + p["r_hip"]) / 2)[:, 1]
    want = lerp(risen, seated_nose, seated) - hip_y - 0.13
    pitch = np.degrees(np.arcsin(np.clip(want / (seg["trunk"] + 0.6 * seg["head"]), -0.5, 0.97)))
    side_lean = over("bike_body_lean") * np.sign(lean) * np.clip(np.abs(lean) / 15, 0, 1) * seated
    axis = rig.trunk(p, seg, pitch, side_lean, zero)
    rig.head(p, seg, axis, zero, 14 + zero)
    lift = over("elbow_lift")
    for s, sign in (("l", -1.0), ("r", 1.0)):
        a = np.radians(1.5 * (lift - 10.0))
        hint = rig.stack(sign * np.cos(a), -0.15, np.sin(a))
        rig.arm(p, s, p[f"bar_end_{s}"] + np.array([-0.04 * sign, -0.02, 0.0]), hint, seg)
    speed = 0.0 if stand else 7.0
    turn = np.radians(lean)
    for name, x in p.items():
        across = x[:, 0] * np.cos(turn) + x[:, 2] * np.sin(turn)
        upward = -x[:, 0] * np.sin(turn) + x[:, 2] * np.cos(turn)
        p[name] = rig.stack(across, x[:, 1] + speed * t, upward)
    return Motion(
        t,
        p,
        np.array([]),
        0.0,
        {},
        score.stature_m,
        surface=rig.stack(0.0, speed * t, zero),
        place="dirt",
    )


RIDER = Rider(move, clean, "side_right", views=("front", "above"), given={"on_stand": False})
