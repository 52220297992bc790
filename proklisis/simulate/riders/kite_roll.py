"""A kite rider doing forward rolls: edging, leaving the water, rolling once, landing."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, curve, lerp, step

Array = NDArray[np.float64]
AIR_S, RUN_S, OUT_S, HEIGHT, SPEED = 1.15, 2.4, 1.3, 1.7, 8.0
LINES_M, BOARD_M, WIDE_M, STANCE = 20.0, 1.38, 0.40, 0.50


def clean(level: Level) -> dict[str, float]:
    return {
        "kite_climb": 2.0, "edge_hold": 0.9, "front_leg_lead": 0.13, "torso_lead": 42.0, "legs_back": 92.0, "shortfall": 6.0,
        "over_rotation": 0.0, "absorb": 62.0,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    air = AIR_S * (1 + 0.03 * np.clip(score.rng(2).standard_normal(n), -2, 2))
    starts = RUN_S + np.concatenate([[0.0], np.cumsum(air + OUT_S + RUN_S)[:-1]])
    ends = starts + air
    t = score.clock(float(ends[-1]) + OUT_S)
    zero = np.zeros_like(t)

    def over(parts: list[list[tuple[float, float]]], first: float) -> Array:
        return curve(t, [(0.0, first), *(k for part in parts for k in part)])

    def each(key: str) -> list[tuple[float, float, float]]:
        return [
            (float(a), float(b), float(v))
            for a, b, v in zip(starts, ends, score.per_unit(key), strict=True)
        ]

    bend = over(
        [
            [
                (a - 0.5, 40),
                (a - 0.12, 52),
                (a + 0.02, 18),
                (a + 0.3, v),
                (b - 0.28, v),
                (b - 0.04, 28),
            ]
            for a, b, v in each("legs_back")
        ],
        40,
    )
    fold = over(
        [
            [(b - 0.02, 0.0), (b + 0.26, 0.5 * v), (b + 0.34, 0.5 * v), (b + 0.9, 0.0)]
            for a, b, v in each("absorb")
        ],
        0.0,
    )
    bend = bend + np.clip(fold, 0, 95)
    lead = over(
        [
            [(a - 0.08, 6), (a + 0.10, v), (a + 0.34, v), (a + 0.6, 8), (b - 0.05, 6)]
            for a, b, v in each("torso_lead")
        ],
        6,
    )
    edge = over(
        [
            [
                (a - max(v, 0.02) - 0.22, 6),
                (a - max(v, 0.02) - 0.06, 40),
                (a - 0.10, 42),
                (a - 0.01, 24),
                (a + 0.1, 4),
                (b + 0.6, 6),
            ]
            for a, b, v in each("edge_hold")
        ],
        6,
    )
    climb = over(
        [
            [
                (a - 1.25, 52.0),
                (a - 1.1, 52.0),
                (a - 0.02, 52.0 + v),
                (b, 56.0 + v),
                (b + 1.2, 52.0),
            ]
            for a, b, v in each("kite_climb")
        ],
        52,
    )
    nose = np.radians(
        over(
            [
                [
                    (a - max(v, 0.0) - 0.05, 0.0),
                    (a, 2.0 + 34 * min(max(v, 0.0) / 0.1, 1.0)),
                    (a + 0.2, 0.0),
                ]
                for a, b, v in each("front_leg_lead")
            ],
            0.0,
        )
    )
    roll = np.zeros_like(t)
    short, more = score.per_unit("shortfall"), score.per_unit("over_rotation")
    for k, (a, b) in enumerate(zip(starts, ends, strict=True)):
        whole = (
            360.0 - float(short[k])
            if abs(short[k] - 6) >= abs(360 * more[k])
            else 360.0 + 360.0 * float(more[k])
        )
        s = np.clip((t - a) / (b - a), 0, 1)
        roll += whole * lerp(s, s * s * (3 - 2 * s), 0.6) * ((t >= a) & (t <= b))
        left = whole - 360.0
        roll += left * (1 - step(t, b + 0.18, 0.18)) * (t > b)
    lift = np.zeros_like(t)
    for a, b in zip(starts, ends, strict=True):
        w = np.clip((t - a) / (b - a), 0, 1)
        lift += HEIGHT * 4 * w * (1 - w)
    y = SPEED * t
    sideways = np.array([1.0, 0.0, 0.0])
    front, back = ("l", "r") if score.stance == "regular" else ("r", "l")
    facing = 55.0 if score.stance == "regular" else -55.0
    p: rig.Points = {}
    board = rig.stack(0.0, np.cos(nose), np.sin(nose))
    deck = rig.stack(0.0, -np.sin(nose), np.cos(nose))
    # The nose rises over the back foot, which leaves the water last.
    middle = rig.stack(0.0, -STANCE / 2, 0.03 + zero) + STANCE / 2 * board
    p["board_nose"], p["board_tail"] = middle + BOARD_M / 2 * board, middle - BOARD_M / 2 * board
    e = np.radians(edge)[:, None]
    base = sideways * np.cos(e) + deck * np.sin(e)
    p["base_in"], p["base_out"] = middle - WIDE_M / 2 * base, middle + WIDE_M / 2 * base
    for s, sign in ((front, 1.0), (back, -1.0)):
        rig.feet(
            p,
            s,
            middle + sign * STANCE / 2 * board + (rig.ANKLE_HEIGHT + 0.02) * deck,
            facing + zero,
            zero,
            seg,
        )
    chord = rig.reach(seg["shank"], seg["thigh"], np.clip(bend, 0, 140))
    high = np.sqrt(np.maximum(chord**2 - (STANCE / 2 - seg["hip_width"] / 4) ** 2, 0.02))
    ankles = (p["l_ankle"] + p["r_ankle"]) / 2
    back_lean = np.radians(0.75 * np.clip(edge, 0, 40))[:, None]
    legs = deck * np.cos(back_lean) - sideways * np.sin(back_lean)
    rig.pelvis(p, ankles + high[:, None] * legs, facing + zero, zero, seg)
    rig.legs(p, seg, dict.fromkeys("lr", rig.unit(rig.bearing(facing + zero) * 1.0)))
    a = np.radians(lead)[:, None]
    axis = rig.unit(
        np.cos(a) * legs
        + np.sin(a) * rig.stack(0.0, 1.0, 0.0 * t)
        + 0.5 * np.clip(np.sin(np.radians(fold)), 0, 1)[:, None] * rig.bearing(facing + zero)
    )
    rig.trunk(p, seg, zero, zero, facing + zero, axis=axis)
    rig.head(p, seg, axis, 30.0 + zero, 4.0)
    grip = (p["l_shoulder"] + p["r_shoulder"]) / 2 + 0.48 * rig.unit(
        rig.stack(0.5, 0.8, 0.05 + zero)
    )
    p["bar_l"], p["bar_r"] = (
        grip - 0.22 * rig.rightward(50 + zero),
        grip + 0.22 * rig.rightward(50 + zero),
    )
    for s in "lr":
        rig.arm(
            p,
            s,
            grip + (0.12 if s == "r" else -0.12) * rig.rightward(50 + zero),
            rig.stack(0.0, 0.0, -1.0 + zero),
            seg,
        )
    pivot = (p["l_hip"] + p["r_hip"]) / 2
    angle = np.radians(roll)
    # The roll begins and ends on the water: it turns about the hips in the air, about the feet on it.
    flying = np.zeros_like(t)
    for a0, b0 in zip(starts, ends, strict=True):
        flying += step(t, a0 + 0.12, 0.12) - step(t, b0 - 0.12, 0.12)
    pivot = lerp(ankles, pivot, flying[:, None])
    for name, q in p.items():
        r = q - pivot
        p[name] = pivot + rig.stack(
            r[:, 0],
            r[:, 1] * np.cos(angle) + r[:, 2] * np.sin(angle),
            -r[:, 1] * np.sin(angle) + r[:, 2] * np.cos(angle),
        )
    for name in p:
        p[name] = p[name] + rig.stack(0.0, y, lift)
    el = np.radians(climb)
    p["kite"] = rig.stack(1.5, y + LINES_M * np.cos(el), 1.0 + LINES_M * np.sin(el))
    return Motion(
        t, p, np.array([]), 0.0, {}, score.stature_m, surface=rig.stack(0.0, y, 0.0), place="water"
    )


RIDER = Rider(
    move,
    clean,
    "side_right",
    views=("side_left", "above"),
    given={"hooked": False, "wind_kn": 18.0},
    stance="regular",
)
