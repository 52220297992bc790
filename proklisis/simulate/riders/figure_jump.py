"""A figure skater jumping: glide, take-off from one foot, turns in the air, landing on the other."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.physics.flight import GRAVITY
from proklisis.core.physics.rotation import air_time_needed
from proklisis.core.rider.mass import centre_of_mass
from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, curve, lerp, step

Array = NDArray[np.float64]
GLIDE_S, ROLL_S, FIRST_YAW = 1.3, 1.2, -12.0
SPEED = 3.0


def clean(level: Level) -> dict[str, float]:
    return {
        "takeoff_tilt": 1.0, "free_leg_through": 0.55, "air_margin": 0.02, "axis_tilt@set": 3.0, "rotation_period": 0.19,
        "tightness": 0.62, "shortfall": 4.0, "edge_at_landing": 10.0,
        "swing_width": 0.35, "check_out_at": 0.03, "ankle_push": 36.0,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    planned = float(score.given.get("planned_rotations", 2.5))  # type: ignore[arg-type]
    sign = -1.0 if score.given.get("landing_side") == "l" else 1.0
    period = np.clip(score.per_unit("rotation_period"), 0.08, 0.6)
    air = np.clip(
        [
            air_time_needed(planned, float(p)) + float(m)
            for p, m in zip(period, score.per_unit("air_margin"), strict=True)
        ],
        0.25,
        1.2,
    )
    starts, ends, now = [], [], 0.0
    for k in range(n):
        now += GLIDE_S
        starts.append(now)
        now += float(air[k])
        ends.append(now)
        now += ROLL_S
    t = score.clock(now)
    yaw, flying = np.full_like(t, FIRST_YAW), np.zeros_like(t)
    for a, b, one, short in zip(starts, ends, period, score.per_unit("shortfall"), strict=True):
        yaw += _turned(t, a, b, float(one), planned - float(short) / 360.0)
        # Between jumps the skater comes round to the front again.
        yaw += (np.round((yaw[-1] - FIRST_YAW) / 360.0) * 360.0 + FIRST_YAW - yaw[-1]) * step(
            t, b + 0.85, 0.3
        )
        flying += (t >= a) * (t <= b)

    def over(knots: list[tuple[float, float]], first: float = 0.0) -> Array:
        """A curve through knots given relative to every take-off (|x| < 10) or landing (10 + x)."""
        return curve(
            t,
            [(0.0, first)]
            + [
                ((b + x - 10 if x > 5 else a + x), v)
                for a, b in zip(starts, ends, strict=True)
                for x, v in knots
            ],
        )

    def wished(key: str, places: list[float], rest: list[tuple[float, float]]) -> Array:
        out = [(0.0, rest[0][1])]
        for a, b, v in zip(starts, ends, score.per_unit(key), strict=True):
            out += [((b + x - 10 if x > 5 else a + x), float(v)) for x in places] + [
                ((b + x - 10 if x > 5 else a + x), r) for x, r in rest
            ]
        return curve(t, out)

    p: rig.Points = {}
    position = [(0.0, 1.5)]
    for a, b, v, out in zip(
        starts,
        ends,
        score.per_unit("tightness"),
        np.clip(score.per_unit("check_out_at"), 0.0, 0.4),
        strict=True,
    ):
        position += [
            (a - 0.25, 1.5),
            (a + 0.16, float(v)),
            (b - 0.01 - float(out), float(v)),
            (b + 0.24 - float(out), 1.5),
            (b + 0.31, 1.5),
        ]
    wide = curve(t, position)
    swung = np.zeros_like(t)
    for a, v in zip(starts, score.per_unit("swing_width"), strict=True):
        swung += (
            (float(v) - 0.33)
            * (seg["thigh"] + seg["shank"])
            * np.exp(-(((t - a + 0.35) / 0.15) ** 2))
        )
    free = wished(
        "free_leg_through", [-0.02, 0.03], [(-0.5, -0.9), (0.2, 0.05), (9.9, 0.05), (10.3, -0.9)]
    )
    edge = wished(
        "edge_at_landing", [9.99, 10.10], [(-0.2, 0.0), (0.1, 0.0), (9.9, 0.0), (10.5, 3.0)]
    )
    bend = over(
        [
            (-0.6, 28),
            (-0.28, 62),
            (-0.03, 8),
            (0.1, 6),
            (9.93, 14),
            (10.0, 20),
            (10.14, 58),
            (10.7, 32),
        ],
        28,
    )
    free_bend = over([(-0.6, 25), (-0.1, 70), (0.05, 62), (0.22, 12), (9.93, 14), (10.3, 18)], 25)
    # The foot that leaves the ice last is the other one's; in the air both hang under the axis.
    landed = np.zeros_like(t)
    for a, b in zip(starts, ends, strict=True):
        landed = np.where((t > (a + b) / 2) & (t < b + 0.85), 1.0, landed)
    swap = np.zeros_like(t)
    for a, b in zip(starts, ends, strict=True):
        swap += step(t, (a + b) / 2, 0.5 * (b - a) * 0.7) - step(t, b + 0.85, 0.12)
    off, on = ("l", "r") if sign > 0 else ("r", "l")
    ground = rig.ANKLE_HEIGHT + 0.05
    air_w = over([(-0.02, 0.0), (0.14, 1.0), (9.94, 1.0), (10.0, 0.0)])
    across, facing, up = np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), np.array([0, 0, 1.0])
    zero = np.zeros_like(t)
    # The calf's push: the heel comes up over a toe that stays on the ice, and the body with it.
    push = wished("ankle_push", [0.0], [(-0.5, 0.0), (-0.11, 0.0), (0.14, 0.0), (9.9, 0.0)])
    up_on_toe = (
        (1 - rig.HEEL_SHARE)
        * seg["foot"]
        * (np.sin(np.radians(8.0 + push)) - np.sin(np.radians(8.0)))
    )
    raised = up_on_toe * (1 - air_w)
    for s, carries in ((off, 1 - swap), (on, swap)):
        side = -1.0 if s == "l" else 1.0
        # Carrying foot under the body; the free one swings from behind to the front and hangs in the air.
        swing = np.clip(free, -1.0, 1.6)
        y = lerp(0.30 * swing if s == on else -0.28 + zero, 0.0, np.maximum(carries, air_w))
        z = ground + lerp(0.18 + 0.10 * np.abs(swing), 0.0, np.maximum(carries, 0.9 * air_w))
        x = side * (lerp(0.09, 0.05, air_w) + (swung if s == on else 0.0))
        pitch, lift = (
            (lerp(8.0 + push, 55.0, air_w), raised) if s == off else (lerp(8.0, 55.0, air_w), zero)
        )
        rig.feet(p, s, rig.stack(x, y, z + lift), zero, pitch, seg)
    carry = {off: lerp(bend, free_bend, swap), on: lerp(free_bend, bend, swap)}
    stand = np.where(
        swap < 0.5,
        rig.reach(seg["shank"], seg["thigh"], carry[off]),
        rig.reach(seg["shank"], seg["thigh"], carry[on]),
    )
    hips = rig.stack(
        0.0, 0.0, ground + raised * (swap < 0.5) + np.sqrt(np.maximum(stand**2 - 0.06**2, 0.1))
    )
    rig.pelvis(p, hips, zero, zero, seg)
    thigh_up = np.clip(free, 0, 1.8)
    hints = {
        s: rig.unit(
            facing + 0.02 * across + (1.2 * thigh_up * (s == on) * (1 - air_w))[:, None] * up
        )
        for s in "lr"
    }
    rig.legs(p, seg, hints)
    # The free knee leads by as much as is wished, at the moment the other foot leaves.
    lead = (
        wished(
            "free_leg_through", [-0.10, 0.04], [(-0.45, -0.2), (0.2, 0.0), (9.9, 0.0), (10.4, -0.2)]
        )
        * seg["thigh"]
        * (1 - air_w)
    )
    drive = np.zeros_like(t)
    for a in starts:
        drive += np.exp(-(((t - a + 0.02) / 0.14) ** 2))
    knee = p[f"{on}_knee"]
    target = knee.copy()
    target[:, 1] = p[f"{off}_knee"][:, 1] + lead
    p[f"{on}_knee"] = lerp(knee, target, drive[:, None])
    d = rig.unit(p[f"{on}_knee"] - p[f"{on}_hip"])
    p[f"{on}_knee"] = p[f"{on}_hip"] + seg["thigh"] * d
    shin = rig.unit(
        lerp(p[f"{on}_ankle"] - knee, np.array([0.0, -0.35, -1.0]) + 0 * knee, drive[:, None])
    )
    old = p[f"{on}_ankle"]
    p[f"{on}_ankle"] = p[f"{on}_knee"] + seg["shank"] * shin
    for part in ("heel", "toe"):
        p[f"{on}_{part}"] = p[f"{on}_{part}"] + p[f"{on}_ankle"] - old
    axis = rig.trunk(
        p,
        seg,
        over([(-0.5, 14), (-0.25, 20), (0.1, 2), (9.95, 2), (10.15, 14), (10.8, 8)], 10),
        zero,
        zero,
    )
    rig.head(p, seg, axis, zero, 8.0)
    for s, side in (("l", -1.0), ("r", 1.0)):
        spread = np.clip((wide - 0.5) * 1.29, -0.05, 0.999)
        out = np.arcsin(spread)
        folded = np.clip((wide - 0.6) / 0.6, 0, 1)
        elbow = p[f"{s}_shoulder"] + seg["upper_arm"] * rig.stack(
            side * np.sin(out), 0.25 * np.cos(out), -0.97 * np.cos(out)
        )
        p[f"{s}_elbow"] = elbow
        hand = lerp(
            rig.stack(-side * 0.75, 0.55, 0.35 + zero),
            rig.stack(side * 0.85, 0.35, 0.1 + zero),
            folded[:, None],
        )
        p[f"{s}_wrist"] = elbow + seg["forearm"] * rig.unit(hand)
    tilt = _tilts(t, starts, ends, score, sign)
    turn = np.radians(yaw)
    foot = np.where(swap[:, None] < 0.5, p[f"{off}_ankle"], p[f"{on}_ankle"])
    for name, q in p.items():
        x, y = q[:, 0], q[:, 1]
        p[name] = rig.stack(
            x * np.cos(turn) + y * np.sin(turn), -x * np.sin(turn) + y * np.cos(turn), q[:, 2]
        )
    _edge(p, on, edge, drive, starts, ends, t)
    pivot = rig.stack(
        foot[:, 0] * np.cos(turn) + foot[:, 1] * np.sin(turn),
        -foot[:, 0] * np.sin(turn) + foot[:, 1] * np.cos(turn),
        foot[:, 2],
    )
    lean = np.radians(tilt)
    for name, q in p.items():
        r = q - pivot
        p[name] = pivot + rig.stack(
            r[:, 0] * np.cos(lean) + r[:, 2] * np.sin(lean),
            r[:, 1],
            -r[:, 0] * np.sin(lean) + r[:, 2] * np.cos(lean),
        )
    _flown(p, t, starts, ends)
    travel = rig.stack(0.0, SPEED * t, 0.0)
    for name in p:
        p[name] = p[name] + travel
    for s in "lr":
        along = rig.unit(p[f"{s}_toe"] - p[f"{s}_heel"])
        p[f"{s}_blade_front"] = p[f"{s}_toe"] + 0.03 * along - 0.045 * up
        p[f"{s}_blade_back"] = p[f"{s}_heel"] - 0.03 * along - 0.045 * up
    return Motion(t, p, np.array([]), 0.0, {}, score.stature_m, surface=travel, place="ice")


def _turned(t: Array, a: float, b: float, period: float, turns: float) -> Array:
    """Degrees turned in one jump: the spin starts, holds its rate, and is opened to end at ``turns``."""
    air, lead, slow = b - a, 0.08, 0.35
    close = 2 * (air - turns * period - lead * (1 - slow) / 2) / (1 - slow)
    close = float(np.clip(close, 0.03, air - lead - 0.02))
    rate = 360.0 / period
    knots = np.array([a - 0.12, a, a + lead, b - close, b, b + 0.10])
    rates = np.array([0.0, slow * rate, rate, rate, slow * rate, 0.0])
    fine = np.linspace(knots[0], knots[-1], 400)
    total = np.concatenate(
        [
            [0.0],
            np.cumsum(
                (np.interp(fine, knots, rates)[1:] + np.interp(fine, knots, rates)[:-1])
                / 2
                * np.diff(fine)
            ),
        ]
    )
    return np.asarray(np.interp(t, fine, total))


def _tilts(t: Array, starts: list[float], ends: list[float], score: Score, sign: float) -> Array:
    """Tilt of the whole body toward +x, degrees."""
    knots = [(0.0, 0.0)]
    for a, b, off, axis in zip(
        starts, ends, score.per_unit("takeoff_tilt"), score.per_unit("axis_tilt@set"), strict=True
    ):
        knots += [
            (a - 0.35, 0.0),
            (a, -sign * float(off)),
            (a + 0.2, sign * float(axis)),
            (b - 0.08, sign * float(axis)),
            (b + 0.02, 0.0),
            (b + 0.6, 0.0),
        ]
    return curve(t, knots)


def _edge(
    p: rig.Points,
    on: str,
    edge: Array,
    drive: Array,
    starts: list[float],
    ends: list[float],
    t: Array,
) -> None:
    """Lean the landing leg's knee out over its edge, the hips staying where they are."""
    out = rig.unit((p["r_hip"] - p["l_hip"]) * np.array([1.0, 1.0, 0.0])) * (
        1.0 if on == "r" else -1.0
    )
    shank = p[f"{on}_knee"] - p[f"{on}_ankle"]
    wished = np.tan(np.radians(edge)) * shank[:, 2]
    now = (shank * out).sum(axis=1)
    near = np.zeros_like(t)
    for b in ends:
        near += np.exp(-(((t - b - 0.03) / 0.12) ** 2))
    p[f"{on}_knee"] = p[f"{on}_knee"] + (np.clip(near, 0, 1) * (wished - now))[:, None] * out


def _flown(p: rig.Points, t: Array, starts: list[float], ends: list[float]) -> None:
    """Let the centre of mass fall freely between the last contact and the first."""
    mids = {
        f"mid_{k}": (p[f"l_{k}"] + p[f"r_{k}"]) / 2 for k in ("hip", "shoulder", "ankle", "ear")
    }
    com = centre_of_mass({**p, **mids})[:, 2]
    lift = np.zeros_like(t)
    for a, b in zip(starts, ends, strict=True):
        air = (t > a) & (t < b)
        first, last = np.interp([a, b], t, com)
        w = (t[air] - a) / (b - a)
        lift[air] = (
            first + (last - first) * w + GRAVITY / 2 * (t[air] - a) * (b - t[air]) - com[air]
        )
    for name in p:
        p[name] = p[name] + lift[:, None] * rig.UP


RIDER = Rider(
    move,
    clean,
    "front",
    views=("side_right", "rear"),
    given={"planned_rotations": 2.5, "landing_side": "r"},
)
