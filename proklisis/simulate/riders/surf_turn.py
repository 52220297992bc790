"""A surfer going down, round, up the face and round again; y is toward the beach, x along the wave."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.core.signals import lowpass
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, curve

Array = NDArray[np.float64]
RIDE_S, WAVE_M, DEEP_M, SHOREWARD, ALONG = 2.6, 1.6, 2.0, 4.0, 5.5
BOARD, STANCE = (0.95, 0.85), 0.62


def clean(level: Level) -> dict[str, float]:
    return {
        "face_seen@bottom_turn": 0.12, "chest_open@bottom_turn#back_hand": 52.0, "chest_open@bottom_turn#front_hand": 38.0,
        "fold@bottom_turn": 2.0, "compression@bottom_turn": 0.58, "knee_sway": 2.0, "top_turn_height": 0.86,
        "thirds_high": 38.0, "speed_out": 0.86, "lead_arm_open@bottom_turn": 45.0,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg = score.seg
    beats = score.beats(RIDE_S)
    beats = np.concatenate([beats[:1], beats, beats[-1:]])
    cuts = np.concatenate([[0.0], np.cumsum(beats)])
    t = score.clock(float(cuts[-1]) - 0.6 * float(beats[-1])) + 0.45 * float(beats[0])
    t0 = float(t[0])
    going = 1.0 if score.rng(3).integers(2) else -1.0
    front, back = ("l", "r") if score.stance == "regular" else ("r", "l")
    front_hand = (front == "l") == (going > 0)

    def per(key: str) -> Array:
        v = score.per_unit(key)
        return np.concatenate([v[:1], v, v[-1:]])

    # Way down through the middle, the bottom at a quarter, up, the top at 70 %: as long up high as is wished.
    tops, stay = (
        np.clip(per("top_turn_height"), 0.15, 1.05),
        np.clip(per("thirds_high") / 100, 0.02, 0.8),
    )
    height = curve(
        t,
        [
            k
            for c, d, top, s in zip(cuts, beats, tops, stay, strict=False)
            for k in _beat(float(c), float(d), float(top), float(s))
        ],
    )
    v = curve(t, [k for c, d, s in zip(cuts, beats, per("speed_out"), strict=False) for k in (
        (c + 0.02 * d, 0.92 + 0.0 * s), (c + 0.42 * d, 1.0), (c + 0.55 * d, 1.0), (c + 0.80 * d, float(np.clip(s, 0.1, 1.3))), (c + 0.88 * d, float(np.clip(s, 0.1, 1.3))))])  # fmt: skip
    dt = 1 / score.fps
    x = going * ALONG * np.cumsum(v) * dt
    beach = SHOREWARD * (t - t0)
    # The face: from the trough up and back to the lip.
    y = beach - DEEP_M * height
    z = WAVE_M * height
    rising = lowpass(np.gradient(height, t), score.fps, 4.0)
    climb = np.degrees(np.arctan2(rising * WAVE_M * 1.6, ALONG))
    bottom = np.zeros_like(t)
    for c, d in zip(cuts, beats, strict=False):
        bottom += np.exp(-(((t - c - 0.25 * d) / (0.22 * d)) ** 2))
    bottom = np.clip(bottom, 0, 1)
    zero = np.zeros_like(t)
    # Bearing of the nose: along the wave, turned shoreward on the way down and seaward on the way up.
    heading = going * (90.0 + 0.9 * climb)
    p: rig.Points = {}
    along = rig.unit(rig.bearing(heading) + np.sin(np.radians(0.6 * climb))[:, None] * rig.UP)
    here = rig.stack(x, y, z + 0.04)
    p["board_nose"], p["board_tail"] = here + BOARD[0] * along, here - BOARD[1] * along
    toes = 1.0 if front == "l" else -1.0
    body = heading + 90.0 * toes
    for s, sign in ((front, 1.0), (back, -1.0)):
        rig.feet(
            p,
            s,
            here + sign * STANCE / 2 * along + (rig.ANKLE_HEIGHT + 0.03) * rig.UP,
            body - toes * sign * 10.0,
            zero,
            seg,
        )

    def wish(key: str, calm: float) -> Array:
        values = per(key)
        level = curve(
            t, [(c + 0.25 * d, float(a)) for c, d, a in zip(cuts, beats, values, strict=False)]
        )
        return calm + (level - calm) * bottom

    leg = seg["shank"] + seg["thigh"]
    high = wish("compression@bottom_turn", 0.70) * leg - rig.ANKLE_HEIGHT - 0.03
    ankles = (p["l_ankle"] + p["r_ankle"]) / 2
    seat = -0.06 * rig.bearing(body)
    rig.pelvis(p, ankles + np.clip(high, 0.2, 0.97 * leg)[:, None] * rig.UP + seat, body, zero, seg)
    shake = np.clip(per("knee_sway"), 0.0, 25)
    wobble = (
        curve(t, [(c + 0.5 * d, float(a)) for c, d, a in zip(cuts, beats, shake, strict=False)])
        * 2**0.5
        * np.sin(2 * np.pi * 3.4 * t)
    )
    hints = {
        s: rig.unit(rig.bearing(body) + g * 0.25 * along) for s, g in ((front, 1.0), (back, -1.0))
    }
    rig.legs(p, seg, hints)
    for s in "lr":
        shank = p[f"{s}_knee"] - p[f"{s}_ankle"]
        p[f"{s}_knee"] = p[f"{s}_knee"] + (np.tan(np.radians(wobble)) * shank[:, 2])[
            :, None
        ] * np.array([1.0, 0.0, 0.0])
    knee = 2 * np.degrees(
        np.arccos(np.clip(np.linalg.norm(p["l_hip"] - p["l_ankle"], axis=1) / leg, 0, 1))
    )
    # Trunk and thigh make the hip's bend: the trunk goes so far forward that the fold is as wished.
    pitch = np.clip(0.5 * knee + wish("fold@bottom_turn", 8.0) - 4, -15, 84)
    axis = rig.trunk(p, seg, pitch, zero, body)
    opened = np.where(
        front_hand,
        wish("chest_open@bottom_turn#front_hand", 15.0),
        wish("chest_open@bottom_turn#back_hand", 15.0),
    )
    lead = heading + going * opened
    rig.trunk(p, seg, zero, zero, lead + 90.0 * toes, axis=axis)
    seen = np.clip(wish("face_seen@bottom_turn", 0.3), 0, 1)
    # Facing the beach is a bearing of 0; facing the wave is 180: the nose is on the way from one to the other.
    gaze = going * np.degrees(np.arccos(np.clip(2 * seen - 1, -1, 1)))
    rig.head(p, seg, axis, gaze, 4.0)
    # The front arm opens up the face with the chest, or stays shut.
    shut = heading + going * np.minimum(wish("lead_arm_open@bottom_turn", 60.0), 62.0)
    for s, sign in ((front, 1.0), (back, -1.0)):
        rig.held_arm(
            p,
            s,
            sign * rig.bearing(shut if s == front else lead) + 0.15 * rig.UP,
            30 + zero,
            -rig.UP + 0 * along,
            seg,
        )
    p["trough"], p["lip_top"] = (
        rig.stack(x, beach, 0.0 + zero),
        rig.stack(x, beach - DEEP_M, WAVE_M + zero),
    )
    return Motion(
        t - t0, p, np.array([]), 0.0, {}, score.stature_m, surface=rig.stack(x, y, z), place="wave"
    )


def _beat(c: float, d: float, top: float, stay: float) -> list[tuple[float, float]]:
    """Heights of one ride: down, round the bottom, up, and so long in the high third."""
    half = min(max(0.5 * stay * d, 0.03 * d), 0.32 * d)
    at = c + 0.68 * d
    edge = 2 / 3
    knots = [(c + 0.22 * d, 0.08), (c + 0.28 * d, 0.08)]
    if top > edge + 0.04:
        return [
            *knots,
            (at - half, edge),
            (at - 0.3 * half, top),
            (at + 0.3 * half, top),
            (at + half, edge),
        ]
    return [*knots, (at - 0.05 * d, top), (at + 0.05 * d, top)]


RIDER = Rider(
    move,
    clean,
    "front",
    views=("side_right", "above"),
    given={"power": "moderate", "wave_m": 1.6},
    stance="regular",
)
