"""A kayaker over one river drop after another: lead-in strokes, the stroke at the lip, the landing."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, curve, step

Array = NDArray[np.float64]
DROP_S, HEIGHT, WATER = 5.2, 1.3, 2.0
BOAT_M, WIDE_M, BEAT_S, PADDLE_M, BLADE_M = 2.7, 0.62, 0.62, 1.98, 0.46
FALL_S = 0.52
#: How long a blade stays in the water, seconds.
IN_WATER_S = 0.36
#: Catch in seconds, blade, depth in blades, reach in arm lengths, seconds in the water.
Stroke = tuple[float, str, float, float, float]


def clean(level: Level) -> dict[str, float]:
    return {
        "lead_speed@lead_in": 1.35, "lead_speed@lip": 1.6, "missed_strokes": 0.0, "boat_angle@approach": 2.0, "boat_angle@lip": 1.0,
        "catch_at_lip": 0.0, "reach": 1.10, "stroke_depth": 1.15, "trunk_pitch@lip": 18.0, "trunk_pitch@landing": 44.0,
        "landing_stroke": 0.22, "boat_pitch@landing": 2.0, "edge@lip": 0.0,
        "stroke_hold": 0.34,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    lips = 3.4 + np.concatenate([[0.0], np.cumsum(score.beats(DROP_S, 0.02))[:-1]])
    t = score.clock(float(lips[-1]) + 2.4)
    zero, dt = np.zeros_like(t), 1 / score.fps
    falls = lips + 0.20

    def shape(values: Array, knots: list[tuple[float, float]], calm: float) -> Array:
        """A value around every lip: knots of (time from the lip, share of the value against the calm one)."""
        return curve(
            t,
            [(0.0, calm)]
            + [
                (lip + x, calm + w * (float(v) - calm))
                for lip, v in zip(lips, values, strict=True)
                for x, w in knots
            ],
        )

    lead, fast = score.per_unit("lead_speed@lead_in"), score.per_unit("lead_speed@lip")
    ratio = curve(
        t,
        [(0.0, float(lead[0]))]
        + [
            k
            for lip, a, b in zip(lips, lead, fast, strict=True)
            for k in (
                (lip - 2.3, float(a)),
                (lip - 1.15, float(a)),
                (lip - 0.35, float(b)),
                (lip + 0.5, float(b)),
                (lip + 1.6, 1.1),
            )
        ],
    )
    speed = WATER * ratio
    y = np.cumsum(speed) * dt
    at_lip = np.interp(lips, t, y) + BOAT_M / 2 - 0.0
    level = HEIGHT * (n - np.sum([step(t, f + FALL_S / 2, FALL_S / 2) for f in falls], axis=0))
    water = HEIGHT * (n - np.sum([1.0 * (t > f + 0.5 * FALL_S) for f in falls], axis=0))
    water = np.where(np.abs(level - water) < 0.02, level, water)
    float_z = level + 0.10
    yaw = shape(score.per_unit("boat_angle@approach"), [(-2.0, 0), (-1.0, 1), (-0.35, 1)], 0.0)
    late = score.per_unit("boat_angle@lip")
    yaw = curve(
        t,
        [(0.0, 0.0)]
        + [
            k
            for lip, a, b in zip(lips, score.per_unit("boat_angle@approach"), late, strict=True)
            for k in (
                (lip - 1.7, 0.0),
                (lip - 1.0, float(a)),
                (lip - 0.35, float(a)),
                (lip - 0.14, float(b)),
                (lip + 0.3, float(b)),
                (lip + 1.2, 0.0),
            )
        ],
    )
    pitch = curve(
        t,
        [(0.0, 0.0)]
        + [
            k
            for lip, v in zip(lips, score.per_unit("boat_pitch@landing"), strict=True)
            for k in (
                (lip - 0.1, 1.0),
                (lip + 0.25, 4.0),
                (lip + 0.2 + FALL_S - 0.06, float(v)),
                (lip + 0.2 + FALL_S + 0.36, float(v)),
                (lip + 1.7, 0.0),
            )
        ],
    )
    roll = shape(score.per_unit("edge@lip"), [(-0.8, 0), (-0.15, 1), (0.2, 1), (0.9, 0)], 0.0)
    p: rig.Points = {}
    a, b, r = np.radians(yaw), np.radians(pitch), np.radians(roll)
    along = rig.stack(np.sin(a) * np.cos(b), np.cos(a) * np.cos(b), np.sin(b))
    side = rig.rightward(yaw)
    deck = rig.unit(np.cross(side, along))
    across = side * np.cos(r)[:, None] - deck * np.sin(r)[:, None]
    deck = np.cross(across, along)
    here = rig.stack(0.0, y, float_z)
    p["bow"], p["stern"] = here + BOAT_M / 2 * along, here - BOAT_M / 2 * along
    p["base_in"], p["base_out"] = here - WIDE_M / 2 * across, here + WIDE_M / 2 * across
    for s, sign in (("l", -1.0), ("r", 1.0)):
        ankle = here + 0.62 * along + sign * 0.13 * across + 0.06 * deck
        rig.feet(p, s, ankle, yaw + sign * 20, -50 + zero, seg)
    rig.pelvis(p, here - 0.12 * along + 0.06 * deck, yaw, roll, seg)
    rig.legs(
        p, seg, {s: rig.unit(deck + sign * 0.8 * across) for s, sign in (("l", -1.0), ("r", 1.0))}
    )
    lip_pitch, land_pitch = score.per_unit("trunk_pitch@lip"), score.per_unit("trunk_pitch@landing")
    lean = curve(
        t,
        [(0.0, 14.0)]
        + [
            k
            for lip, u, v in zip(lips, lip_pitch, land_pitch, strict=True)
            for k in (
                (lip - 0.5, 14.0),
                (lip - 0.14, float(u)),
                (lip + 0.15, float(u)),
                (lip + 0.16 + FALL_S, float(v)),
                (lip + 0.2 + FALL_S + 0.33, float(v)),
                (lip + 1.9, 14.0),
            )
        ],
    )
    strokes = _strokes(lips, score)
    wind = np.zeros_like(t)
    for when, blade, *_ in strokes:
        wind += (1 if blade == "l" else -1) * np.exp(-(((t - when) / 0.17) ** 2))
    axis = rig.trunk(p, seg, lean, zero, yaw, shoulder_yaw=yaw + 30 * np.clip(wind, -1, 1))
    rig.head(p, seg, axis, yaw, 8.0)
    _paddle(p, t, strokes, along, across, here, float_z - 0.10, seg)
    lip_y = at_lip[np.clip(np.searchsorted(lips + 1.0, t), 0, n - 1)]
    p["lip"] = rig.stack(
        0.0, lip_y, HEIGHT * (n - np.clip(np.searchsorted(lips + 1.0, t), 0, n - 1))
    )
    surface = rig.stack(0.0, y, float_z - 0.10)
    gone = rig.stack(0.0, WATER * t, 0.0)
    return Motion(
        t,
        p,
        np.array([]),
        0.0,
        {},
        score.stature_m,
        surface=surface,
        place="river",
        flow={"water_drift": gone},
    )


def _strokes(lips: Array, score: Score) -> list[Stroke]:
    """All strokes, in time order."""
    led: list[Stroke] = []
    landed: list[Stroke] = []
    after: list[Stroke] = []
    wishes = zip(
        lips,
        score.per_unit("catch_at_lip"),
        score.per_unit("stroke_depth"),
        score.per_unit("reach"),
        score.per_unit("landing_stroke"),
        score.per_unit("stroke_hold"),
        strict=True,
    )
    for k, (lip, catch, deep, far, landing, hold) in enumerate(wishes):
        last = float(lip + catch)
        blade = "lr"[k % 2]
        leave_out = round(float(np.clip(score["missed_strokes"], 0, 3)))
        for j in range(6):
            # The beats that are missed are the ones in the middle of the lead-in.
            if j and 2 <= j < 2 + leave_out:
                continue
            led.append(
                (
                    last - j * BEAT_S,
                    blade if j % 2 == 0 else "lr"[1 - "lr".index(blade)],
                    float(deep) if j == 0 else 1.1,
                    float(far) if j == 0 else 1.0,
                    max(float(hold - catch), 0.12) if j == 0 else IN_WATER_S,
                )
            )
        down = float(lip) + 0.2 + FALL_S * 0.87
        landed.append((down + float(landing), "lr"[1 - "lr".index(blade)], 1.1, 1.0, IN_WATER_S))
        after.append((down + float(landing) + BEAT_S, blade, 1.1, 1.0, IN_WATER_S))
    # Where one drop follows close on another, its lead-in begins once the landing is paddled away.
    out = list(landed)
    for stroke in (*sorted(led, reverse=True), *after):
        if all(abs(stroke[0] - other[0]) > 0.7 * BEAT_S for other in out):
            out.append(stroke)
    return sorted(out)


def _paddle(p: rig.Points, t: Array, strokes: list[Stroke], along: Array, across: Array, here: Array, water: Array,
            seg: dict[str, float]) -> None:  # fmt: skip
    """Both blades: in the water from catch to exit, in the air between; the hands hold the shaft."""
    arm = seg["upper_arm"] + seg["forearm"]
    feet = 0.62
    low = {}
    for s, sign in (("l", -1.0), ("r", 1.0)):
        ahead, deep = [(0.0, 0.75 * arm + 0.3)], [(0.0, -0.55)]
        own = [when for when, blade, *_ in strokes if blade == s]
        for when, blade, depth, far, held in strokes:
            if blade == s:
                ahead += [
                    (when - 0.12, feet + far * arm + 0.02),
                    (when, feet + far * arm),
                    (when + 0.30, 0.02),
                    (when + 0.42, -0.12),
                ]
                deep += [
                    (when - 0.16, -0.42),
                    (when, 0.062),
                    (when + min(0.10, 0.45 * held), depth * BLADE_M),
                    (when + 0.67 * held, depth * BLADE_M),
                    (when + held, -0.02),
                    (when + held + 0.10, -0.45),
                ]
            elif all(not -0.25 < when + 0.1 - o < 0.6 for o in own):
                # While the other blade is in the water this one is up, unless its own stroke is under way.
                ahead += [(when + 0.1, 0.45)]
                deep += [(when + 0.1, -0.95)]
        low[s] = here + curve(t, ahead)[:, None] * along + sign * 0.48 * across
        low[s][:, 2] = water - curve(t, deep)
    for s in "lr":
        p[f"blade_{s}"] = low[s]
    shaft = p["blade_r"] - p["blade_l"]
    middle = (p["blade_l"] + p["blade_r"]) / 2
    d = rig.unit(shaft)
    for s, sign in (("l", -1.0), ("r", 1.0)):
        rig.arm(p, s, middle + 0.36 * sign * d, rig.stack(sign * 0.6, -0.2, -0.7) + 0 * d, seg)


RIDER = Rider(move, clean, "side_right", views=("front", "above"), given={"height_m": HEIGHT})
