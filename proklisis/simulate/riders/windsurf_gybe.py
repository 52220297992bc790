"""A windsurfer gybing from one tack to the other and back; y is straight downwind."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, bump, curve, lerp, step

Array = NDArray[np.float64]
REACH_DEG, REACH_S, SPEED = 74.0, 2.6, 8.5
BOARD_M, WIDE_M, BOOM_M, MAST_M = 2.35, 0.62, 1.75, 4.2
#: Share of an arm's length that a hand is put from its shoulder at the most: no arm is quite straight on a boom.
REACH = 0.98


def clean(level: Level) -> dict[str, float]:
    return {
        "front_arm@carve_in": 9.0, "front_arm@open": 8.0, "rig_room@open": 1.12, "hips_inside@foot_change": 0.55, "rail_min": 12.0,
        "foot_change_time": 1.1, "rig_release_gap": 0.55, "slow_zone_time": 1.6, "speed_kept": 0.68,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    zone = np.clip(score.per_unit("slow_zone_time"), 0.6, 7.0)
    gaps = score.beats(REACH_S + max(0.0, score["foot_change_time"] - 1.1), 0.03)
    starts, now = [], 0.4
    for k in range(n):
        now += float(gaps[k])
        starts.append(now)
        now += float(zone[k])
    t = score.clock(now + REACH_S + 0.6)
    first = 1.0 if score.rng(3).integers(2) else -1.0
    turns = [first * (-1) ** k for k in range(n)]
    zero = np.zeros_like(t)
    knots = [(0.0, -turns[0] * REACH_DEG)]
    for a, z, d in zip(starts, zone, turns, strict=True):
        knots += [
            (a - 0.55, -d * REACH_DEG),
            (a, -d * 60.0),
            (a + z / 2, 0.0),
            (a + z, d * 60.0),
            (a + z + 0.55, d * REACH_DEG),
        ]
    h = curve(t, knots)

    def over(key: str, places: list[tuple[float, float]], calm: float) -> Array:
        """Knots of (time from the zone's start, weight of the wish); times above 100 count from its end."""
        out = [(0.0, calm)]
        for a, z, v in zip(starts, zone, score.per_unit(key), strict=True):
            out += [
                (a + z + x - 100 if x > 50 else a + x, calm + w * (float(v) - calm))
                for x, w in places
            ]
        return curve(t, out)

    kept = over("speed_kept", [(-0.2, 0.0), (100.2, 1.0), (100.75, 1.0), (101.5, 0.0)], 1.0)
    v = SPEED * np.clip(kept, 0.05, 1.5)
    dt = 1 / score.fps
    x, y = np.cumsum(v * np.sin(np.radians(h))) * dt, np.cumsum(v * np.cos(np.radians(h))) * dt
    feet_at = [
        a + 0.12 + float(c) for a, c in zip(starts, score.per_unit("foot_change_time"), strict=True)
    ]
    swings = [a + 0.62 * z for a, z in zip(starts, zone, strict=True)]
    sign = np.zeros_like(t)
    for a, z, d in zip(starts, zone, turns, strict=True):
        near = (t > a - 1.2) & (t < a + z + 0.9)
        sign = np.where(near, d, sign)
    rail = over("rail_min", [(-0.45, 1.0), (100.0, 1.0), (100.7, 0.0)], 1.5)
    e = np.radians(rail * sign)[:, None]
    along, side = rig.bearing(h), rig.rightward(h)
    here = rig.stack(x, y, 0.06)
    p: rig.Points = {}
    p["board_nose"], p["board_tail"] = here + 1.30 * along, here - 1.05 * along
    base, deck = side * np.cos(e) - rig.UP * np.sin(e), rig.UP * np.cos(e) + side * np.sin(e)
    p["base_in"], p["base_out"] = here - WIDE_M / 2 * base, here + WIDE_M / 2 * base
    # Right tack: the left foot is in front while the board goes to the left of downwind.
    lead = np.full_like(t, 1.0 if turns[0] > 0 else -1.0)
    lifted = np.zeros_like(t)
    for f, d in zip(feet_at, turns, strict=True):
        lead = lerp(lead, -1.0 if d > 0 else 1.0, step(t, f, 0.17))
        lifted += bump(t, f, 0.22)
    face = np.zeros_like(t)
    for k, (s, d) in enumerate(zip(swings, turns, strict=True)):
        face = lerp(face if k else np.full_like(t, 55.0 * turns[0]), -55.0 * d, step(t, s, 0.35))
    for s, w in (("l", lead), ("r", -lead)):
        ahead = -0.22 + 0.26 * w
        up = rig.ANKLE_HEIGHT + 0.05 + 0.16 * np.clip(lifted, 0, 1) * (1.0 if s == "l" else 0.55)
        rig.feet(
            p,
            s,
            here
            + ahead[:, None] * along
            + 0.03 * (-1 if s == "l" else 1) * side
            + up[:, None] * deck,
            h + 0.7 * face,
            zero,
            seg,
        )
    ankles = (p["l_ankle"] + p["r_ankle"]) / 2
    want = curve(t, [(0.0, 0.1)] + [q for f, a, z, u in zip(feet_at, starts, zone, score.per_unit("hips_inside@foot_change"), strict=True) for q in (
        (a - 0.5, 0.15), (a + 0.1, 0.45), (max(f - 0.25, a + 0.2), float(u)), (f + 0.32, float(u)), (max(f + 0.7, a + z + 0.5), 0.1))])  # fmt: skip
    width = seg["hip_width"]
    chord = rig.reach(seg["shank"], seg["thigh"], 42 + 6 * np.clip(lifted, 0, 1))
    inside = (want * width * sign)[:, None] * np.array([1.0, 0.0, 0.0])
    flat_ankles = ankles - rig.stack(0.0, 0.0, np.maximum(ankles[:, 2] - 0.17, 0.0))
    rig.pelvis(
        p,
        flat_ankles
        + inside
        + np.sqrt(np.maximum(chord**2 - 0.24**2 - (want * width) ** 2, 0.1))[:, None] * rig.UP,
        h + face,
        zero,
        seg,
    )
    rig.legs(p, seg, dict.fromkeys("lr", rig.bearing(h + 0.7 * face)))
    room = over("rig_room@open", [(-0.3, 0.6), (0.05, 1.0), (0.5, 1.0), (1.0, 0.6)], 1.05)
    pitch = np.clip(12 + 34 * (1.12 - room), -10, 42)
    axis = rig.unit(
        rig.UP + np.tan(np.radians(pitch))[:, None] * along + 0.05 * rig.bearing(h + face)
    )
    rig.trunk(p, seg, zero, zero, h, axis=axis)
    rig.head(p, seg, axis, h + 0.3 * face, 4.0)
    bend = np.full_like(t, 12.0)
    for a, u, w in zip(
        starts, score.per_unit("front_arm@carve_in"), score.per_unit("front_arm@open"), strict=True
    ):
        span = curve(
            t,
            [
                (a - 1.5, 12.0),
                (a - 0.85, float(u)),
                (a - 0.05, float(u)),
                (a + 0.06, float(w)),
                (a + 0.5, float(w)),
                (a + 1.0, 12.0),
            ],
        )
        near = (t > a - 1.5) & (t < a + 1.0)
        bend = np.where(near, span, bend)
    _rig(p, t, along, here, bend, room, swings, starts, turns, score, seg)
    return Motion(
        t, p, np.array([]), 0.0, {}, score.stature_m, surface=rig.stack(x, y, 0.0), place="water"
    )


def _rig(p: rig.Points, t: Array, along: Array, here: Array, bend: Array, room: Array, swings: list[float], starts: list[float],
         turns: list[float], score: Score, seg: dict[str, float]) -> None:  # fmt: skip
    """The front hand pushes the rig out on its arm; the boom opens, swings over downwind and closes."""
    boom = np.zeros_like(t)
    knots = [(0.0, turns[0] * (180 - 74 - 18))]
    for a, s, d in zip(starts, swings, turns, strict=True):
        knots += [
            (a - 0.15, d * (180 - 66 - 20)),
            (a + 0.32, d * 52.0),
            (s - 0.22, d * 40.0),
            (s, 0.0),
            (s + 0.22, -d * 40.0),
            (s + 0.7, -d * 82.0),
            (s + 1.2, -d * (180 - 74 - 18)),
        ]
    boom = curve(t, knots)
    line = rig.bearing(boom) + 0.04 * rig.UP
    line = rig.unit(line)
    hand = np.ones_like(t)
    for k, (s, d) in enumerate(zip(swings, turns, strict=True)):
        # The hands change places on the boom one past the other, not in no time.
        hand = lerp(
            hand if k else np.full_like(t, 1.0 if turns[0] > 0 else -1.0),
            -1.0 if d > 0 else 1.0,
            step(t, s, 0.14),
        )
    front_l = ((hand + 1) / 2)[:, None]
    shoulder = lerp(p["r_shoulder"], p["l_shoulder"], front_l)
    far = rig.reach(seg["upper_arm"], seg["forearm"], np.clip(bend, 0, 130))
    # Less room: the hand stays up and near, and the mast comes back over the rider.
    low = np.radians(np.clip(-120 * (1.12 - room), -88, 15))[:, None]
    push = rig.unit(np.cos(low) * along + (0.10 - np.sin(low)) * rig.UP)
    grip = shoulder + far[:, None] * push
    p["boom_front"] = grip - 0.28 * line
    p["boom_end"] = p["boom_front"] + BOOM_M * line
    p["mast_foot"] = here + 0.62 * along + 0.05 * rig.UP
    p["mast_head"] = p["mast_foot"] + MAST_M * rig.unit(p["boom_front"] - p["mast_foot"])
    free = np.zeros_like(t)
    for s, gap in zip(swings, score.per_unit("rig_release_gap"), strict=True):
        half = max(float(gap), 0.0) / 2
        free = np.maximum(
            free,
            step(t, s - half - 0.03, 0.05) * (1 - step(t, s + half + 0.03, 0.05))
            if half > 0.01
            else np.zeros_like(t),
        )
    outward = rig.unit(np.cross(line, rig.UP)) * np.sign(np.interp(t, swings, turns))[:, None]
    arm = REACH * (seg["upper_arm"] + seg["forearm"])
    for limb, mine in (("l", front_l), ("r", 1 - front_l)):
        hint = -rig.UP - 1.5 * along
        back = p[f"{limb}_shoulder"]
        second = _nearest_hold(back, p["boom_front"], line, arm)
        loose = back + 0.9 * arm * rig.unit(0.9 * outward + 0.4 * rig.UP)
        held = lerp(lerp(second, loose, free[:, None]), grip, mine)
        elbow, wrist = rig.bent(back, held, seg["upper_arm"], seg["forearm"], hint)
        p[f"{limb}_elbow"], p[f"{limb}_wrist"] = elbow, wrist


def _nearest_hold(shoulder: Array, front: Array, line: Array, arm: float) -> Array:
    """(n, 3) where a second hand holds the boom: 0.85 m behind its front, or as far back as the ``arm`` in metres reaches."""
    to = shoulder - front
    foot = (to * line).sum(axis=1)
    beside = np.maximum((to**2).sum(axis=1) - foot**2, 0.0)
    half = np.sqrt(np.maximum(arm**2 - beside, 0.0))
    return np.asarray(
        front + np.clip(np.clip(0.85, foot - half, foot + half), 0.05, BOOM_M)[:, None] * line
    )


RIDER = Rider(move, clean, "side_right", views=("above", "front"), given={"wind_kn": 17.0, "water": "flat"}, unmoved=frozenset({"head_ahead_of_mast", "feet_from_start"}),
)  # fmt: skip
