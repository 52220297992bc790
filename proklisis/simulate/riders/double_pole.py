"""A cross-country skier double poling on the flat or uphill."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, curve

Array = NDArray[np.float64]
CYCLE_S = 0.95
#: A pole's length ÷ stature (common practice: 83 to 85 %), and how clear of the snow it is carried, meters.
POLE, CLEAR_M = 0.84, 0.14
#: It is lifted and lowered within this long of the snow, seconds.
LOWERED_S = 0.08
#: Arm and pole are so nearly in one line at the release.
STRETCHED = 0.97
#: How far elbows and wrists lie outward, per length of upper arm and forearm.
OUT, OUT_FORE = 0.22, 0.066
#: The tip still comes forward while it sinks the last centimeters to the snow, leg lengths.
STILL_AHEAD = 0.04
#: A hand is held no farther than this share of the arm away at the plant.
FARTHEST = 0.9


def clean(level: Level) -> dict[str, float]:
    return {
        "pole_angle@plant": 10.0, "plant_fore@plant": 0.14 if level != "novice" else 0.10, "elbow_dip": 23.0,
        "elbow_flex@release": 24.0, "flex_range": 22.6, "body_fall@plant": 13.0, "heel_rise": 10.0, "heel_at_plant": 8.0, "heel_rise_lead": 0.03,
        "forefoot_at_release": 0.10, "reposition_share": 60.0, "trunk_onset-upper_arm_onset": -0.055,
        "upper_arm_onset-forearm_onset": -0.05,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    beats = score.beats(CYCLE_S)
    beats = np.concatenate([[beats[0]], beats, [beats[-1], beats[-1]]])
    plants = np.cumsum(beats) - 0.35 * beats[0]
    t = score.clock(float(plants[n]) + 0.45 * CYCLE_S)
    plants = np.concatenate([[plants[0] - beats[0]], plants])
    length = np.diff(plants, append=plants[-1] + beats[-1])
    units = np.clip(np.arange(len(plants)) - 1, 0, n - 1)

    def wish(key: str) -> Array:
        return score.per_unit(key)[units]

    held = length * (1 - np.clip(wish("reposition_share"), 30, 90) / 100)

    def over(knots: Callable[[int, float, float], list[tuple[float, float]]]) -> Array:
        """One curve through the knots of all cycles, given by cycle, contact time and length."""
        return curve(
            t,
            [
                (plants[k] + dt, v)
                for k in range(len(plants))
                for dt, v in knots(k, float(held[k]), float(length[k]))
            ],
        )

    at_plant, lead, rise = wish("heel_at_plant"), wish("heel_rise_lead"), wish("heel_rise")
    # Heels that are down again by the plant were up well before it; early ones sink on the way.
    lead = np.maximum(lead, 0.0041 * (rise - at_plant))
    at_plant = np.minimum(at_plant, rise - 32 * np.maximum(lead - 0.08, 0))
    heel = over(
        lambda k, c, d: [
            (-0.42, 0),
            (-0.34, 0.0),
            (-float(lead[k]), float(rise[k])),
            (-0.012, float(at_plant[k])),
            (0.02, float(at_plant[k])),
            (0.14, 0),
            (d - 0.45, 0),
        ]
    )
    # Belly, upper arm, forearm: each starts its own while after the plant.
    arm_on = 0.05
    fore_on = arm_on - wish("upper_arm_onset-forearm_onset")
    trunk_on = arm_on + wish("trunk_onset-upper_arm_onset")
    pitch = over(
        lambda k, c, d: [
            (float(trunk_on[k]) - 0.05, 32),
            (float(trunk_on[k]), 33),
            (c, 76),
            (c + 0.08, 79),
            (d - 0.22, 32),
        ]
    )
    pump = np.maximum(wish("flex_range"), 0.0) / 23.0
    knee = over(
        lambda k, c, d: [
            (0, 21 + pump[k]),
            (c, 21 + 23 * pump[k]),
            (c + 0.15, 21 + 19 * pump[k]),
            (d - 0.1, 21),
        ]
    )
    fall, end = wish("body_fall@plant"), wish("forefoot_at_release")
    tilt = over(
        lambda k, c, d: [
            (0.0, float(fall[k]) - 8.0),
            (c, 70 * float(end[k]) - 18),
            (c + 0.2, 70 * float(end[k]) - 22),
            (d - 0.16, float(fall[k]) - 11),
        ]
    )

    p: rig.Points = {}
    give, finish = wish("elbow_dip"), wish("elbow_flex@release")
    pole = POLE * score.stature_m
    y = _speed(seg, pole, held, finish, wish("plant_fore@plant")) * t
    leg = rig.reach(seg["shank"], seg["thigh"], knee)
    hips = np.zeros((len(t), 3))
    for s, x in (("l", -0.11), ("r", 0.11)):
        toe = rig.stack(x, y + 0.72 * seg["foot"], 0.03)
        turn = np.radians(heel)[:, None]
        forward = np.cos(turn) * rig.bearing(np.zeros_like(t)) - np.sin(turn) * rig.UP
        sole = np.sin(turn) * rig.bearing(np.zeros_like(t)) + np.cos(turn) * rig.UP
        rig.feet(
            p,
            s,
            toe - (1 - rig.HEEL_SHARE) * seg["foot"] * forward + rig.ANKLE_HEIGHT * sole,
            np.zeros_like(t),
            heel,
            seg,
        )
        p[f"{s}_ski_tip"], p[f"{s}_ski_tail"] = (
            rig.stack(x, y + 1.05, 0.02),
            rig.stack(x, y - 0.85, 0.02),
        )
    ankles = (p["l_ankle"] + p["r_ankle"]) / 2
    hips = ankles + leg[:, None] * rig.stack(
        0.0, np.sin(np.radians(tilt)), np.cos(np.radians(tilt))
    )
    zero = np.zeros_like(t)
    rig.pelvis(p, hips, zero, zero, seg)
    rig.legs(p, seg, dict.fromkeys("lr", rig.bearing(zero)))
    axis = rig.trunk(p, seg, pitch, zero, zero)
    rig.head(p, seg, axis, zero, 18 + 0.25 * pitch)
    ahead = (wish("plant_fore@plant") + STILL_AHEAD) * (seg["shank"] + seg["thigh"])
    _arms(
        p,
        seg,
        pole,
        t,
        (plants, held),
        (wish("pole_angle@plant"), ahead),
        (give, finish, fore_on),
        pitch,
    )
    return Motion(t, p, np.array([]), 0.0, {}, score.stature_m, surface=rig.stack(0.0, y, 0.0))


def _speed(seg: dict[str, float], pole: float, held: Array, finish: Array, fore: Array) -> float:
    """Meters a second at which the arms are as far stretched at the release as they should be, on the whole."""
    arm = float(rig.reach(seg["upper_arm"], seg["forearm"], finish).mean())
    # Where the shoulders are at the release, against the toes and the snow.
    level, behind = 0.50 * seg["trunk"] + 1.72 * seg["thigh"], 0.2 * seg["trunk"]
    stretched = np.sqrt((STRETCHED * (pole + arm)) ** 2 - level**2)
    return float((stretched - behind + fore.mean() * 2 * seg["thigh"]) / held.mean())


def _arms(
    p: rig.Points, seg: dict[str, float], pole: float, t: Array, contact: tuple[Array, Array],
    planted: tuple[Array, Array], bends: tuple[Array, Array, Array], pitch: Array,
) -> None:  # fmt: skip
    """Arms and poles, alike on both sides.

    From plant to release the tip stands on the snow: a stiff pole and the elbow's bend say where the hand is. Then the arm
    swings forward as joints do, and the pole hangs from the hand, its tip clear of the snow.
    ``contact`` is when each plant is and how long it lasts, ``planted`` the pole's angle and how far its tip is ahead of the
    toes, ``bends`` the elbow's give, its bend at the release and when it begins to stretch.
    """
    (plants, held), (angle, ahead), (give, finish, stretch) = contact, planted, bends
    upper, fore = seg["upper_arm"] / np.hypot(1, OUT), seg["forearm"] / np.hypot(1, OUT_FORE)
    inside = [n for n in range(len(plants)) if t[0] <= plants[n] <= t[-1]]
    shoulder, toe = p["l_shoulder"][:, 1:], p["l_toe"][:, 1]

    def then(x: Array, when: Array) -> Array:
        return np.stack([np.interp(when, t, x[:, k]) for k in (0, 1)], axis=1)

    # A plant before the clip begins is as the first one in it.
    seen = np.clip(plants, plants[inside[0]], plants[inside[-1]])
    tips = np.stack([np.interp(seen, t, toe) + ahead, np.zeros_like(seen)], axis=1)
    grips = tips + pole * np.stack([np.sin(np.radians(angle)), np.cos(np.radians(angle))], axis=1)
    # A slanted pole is put down nearer: the hand cannot be farther ahead than the arm is long.
    rise = grips[:, 1] - then(shoulder, seen)[:, 1]
    room = then(shoulder, seen)[:, 0] + np.sqrt(
        np.maximum((FARTHEST * (upper + fore)) ** 2 - rise**2, 0.0)
    )
    back = np.maximum(grips[:, 0] - room, 0.0)
    grips[:, 0], tips[:, 0] = grips[:, 0] - back, tips[:, 0] - back
    at_plant = _arm_angles(then(shoulder, seen), grips, upper, fore)
    moved = np.interp(plants, t, toe, left=np.nan, right=np.nan) - np.interp(seen, t, toe)
    speed = (toe[-1] - toe[0]) / (t[-1] - t[0])
    tips[:, 0] += np.where(np.isfinite(moved), moved, speed * (plants - seen))
    knots = []
    for k in range(len(plants)):
        c, at = float(held[k]), float(at_plant[1][k])
        least = min(0.075, 0.26 * c)
        knots += [
            (plants[k], at), (plants[k] + least, at + give[k]),
            # However short the push is, the forearm has begun before it ends: the arm does not snap open.
            (plants[k] + min(max(float(stretch[k]), least + 0.01), c - 0.06), at + give[k] - 0.5), (plants[k] + c, finish[k]),
        ]  # fmt: skip
    bend = curve(t, knots)
    latest = np.clip(np.searchsorted(plants, t, side="right") - 1, 0, len(plants) - 1)
    on_snow = (t <= plants[latest] + held[latest]) & (t >= plants[0])
    tip = tips[latest]
    hand = _where_they_meet(shoulder, rig.reach(upper, fore, bend), tip, pole)
    arm, flex = _arm_angles(shoulder, hand, upper, fore)
    swing, flexed = [], []
    trunk = np.interp(seen, t, pitch)
    for k in range(len(plants)):
        end = plants[k] + held[k]
        if not t[0] <= end <= t[-1]:
            continue
        i = int(np.searchsorted(t, end)) - 1
        swing += [
            (t[i - 1], arm[i - 1] + pitch[i - 1]),
            (t[i], arm[i] + pitch[i]),
            (t[i] + 0.07, arm[i] + pitch[i] - 4),
        ]
        flexed += [(t[i], flex[i]), (t[i] + 0.07, max(flex[i] - 3, 8.0)), (t[i] + 0.25, 60.0)]
    swing += [(w, a + b) for w, a, b in zip(plants, at_plant[0], trunk, strict=True)]
    swing += [(w - 0.05, a + b - 2) for w, a, b in zip(plants, at_plant[0], trunk, strict=True)]
    flexed += [(w, b) for w, b in zip(plants, at_plant[1], strict=True)]
    free_arm, free_flex = curve(t, swing) - pitch, curve(t, flexed)
    arm, flex = np.where(on_snow, arm, free_arm), np.where(on_snow, flex, free_flex)
    elbow = shoulder + upper * _hanging(arm)
    wrist = elbow + fore * _hanging(arm + flex)
    left = {"elbow": elbow, "wrist": np.where(on_snow[:, None], hand, wrist)}
    left["tip"] = np.where(
        on_snow[:, None], tip, _carried(t, left["wrist"], tip, pole, on_snow, angle[latest])
    )
    for s, sign in (("l", -1.0), ("r", 1.0)):
        x = p[f"{s}_shoulder"][:, 0]
        wide = {
            "elbow": OUT * upper,
            "wrist": OUT * upper + OUT_FORE * fore,
            "tip": OUT * upper + OUT_FORE * fore,
        }
        for name, place in left.items():
            key = f"{s}_{'pole_tip' if name == 'tip' else name}"
            p[key] = rig.stack(x + sign * wide[name], place[:, 0], place[:, 1])
        p[f"{s}_pole_grip"] = p[f"{s}_wrist"]


def _hanging(angle: Array) -> Array:
    """(n, 2) along and up of a limb that hangs ``angle`` degrees forward of straight down."""
    return np.stack([np.sin(np.radians(angle)), -np.cos(np.radians(angle))], axis=1)


def _arm_angles(shoulder: Array, hand: Array, upper: float, fore: float) -> tuple[Array, Array]:
    """How far forward the upper arm hangs and how far the elbow is bent, degrees, with the elbow below and behind the hand's line."""
    d = hand - shoulder
    far = np.clip(np.linalg.norm(d, axis=1), abs(upper - fore) + 1e-3, 0.9995 * (upper + fore))
    line = np.degrees(np.arctan2(d[:, 0], -d[:, 1]))
    flex = np.degrees(np.arccos(np.clip((far**2 - upper**2 - fore**2) / (2 * upper * fore), -1, 1)))
    at = np.degrees(np.arccos(np.clip((far**2 + upper**2 - fore**2) / (2 * far * upper), -1, 1)))
    return line - at, flex


def _where_they_meet(shoulder: Array, arm: Array, tip: Array, pole: float) -> Array:
    """(n, 2) the hand: an arm's length from the shoulder and a pole's from the tip, ahead of and below their line."""
    d = tip - shoulder
    far = np.linalg.norm(d, axis=1)
    arm = np.clip(arm, np.abs(pole - far) + 1e-3, None)
    along = (arm**2 + far**2 - pole**2) / (2 * far)
    off = np.sqrt(np.maximum(arm**2 - along**2, 0.0))
    u = d / far[:, None]
    aside = np.stack([-u[:, 1], u[:, 0]], axis=1)
    return np.asarray(shoulder + along[:, None] * u + off[:, None] * aside)


def _carried(
    t: Array, hand: Array, stood: Array, pole: float, on_snow: NDArray[np.bool_], angle: Array
) -> Array:
    """(n, 2) the tip of a pole that is carried forward: it swings from where it left the snow to how it is planted next."""
    d = hand - stood
    slant = np.degrees(np.arctan2(d[:, 0], d[:, 1]))
    knots = [(float(t[i]), float(slant[i])) for i in np.flatnonzero(on_snow)]
    if not on_snow[-1]:
        knots.append((float(t[-1]) + 0.3, float(angle[-1])))
    if not on_snow[0]:
        knots.append((float(t[0]) - 0.3, 60.0))
    slant = curve(t, knots)
    clear = np.degrees(np.arccos(np.clip((hand[:, 1] - CLEAR_M) / pole, -1, 1)))
    # Toward the plant the tip comes down to the snow.
    touch = t[np.flatnonzero(on_snow)]
    near = np.abs(t[:, None] - touch).min(axis=1) / LOWERED_S
    slant = slant + np.maximum(clear - slant, 0.0) * np.clip(near, 0, 1)
    return hand - pole * np.stack([np.sin(np.radians(slant)), np.cos(np.radians(slant))], axis=1)


RIDER = Rider(
    move,
    clean,
    "side_right",
    views=("side_left",),
    given={"effort": "race", "terrain": "flat"},
    high=frozenset({"pole_angle", "body_fall"}),
)  # fmt: skip
