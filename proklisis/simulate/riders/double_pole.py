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


def clean(level: Level) -> dict[str, float]:
    return {
        "pole_angle@plant": 3.0, "plant_fore@plant": 0.12 if level != "novice" else 0.08, "elbow_dip": 28.0,
        "elbow_flex@release": 24.0, "flex_range": 22.6, "body_fall@plant": 16.0, "heel_rise": 10.0, "heel_at_plant": 8.0, "heel_rise_lead": 0.03,
        "forefoot_at_release": 0.10, "reposition_share": 60.0, "trunk_onset-upper_arm_onset": -0.04,
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
    reach_more = 170 * (wish("plant_fore@plant") - 0.12) - 20
    folded = np.full(len(plants), 98.0)
    shoulder = over(
        lambda k, c, d: [
            (-0.02, 50 + float(reach_more[k])),
            (arm_on, 49.5 + float(reach_more[k])),
            (c, -30 + min(float(reach_more[k]), 0.0)),
            (c + 0.06, -36 + min(float(reach_more[k]), 0.0)),
            (d - 0.06, 50 + float(reach_more[k])),
        ]
    )
    dip, finish = wish("elbow_dip"), wish("elbow_flex@release")
    bend = over(
        lambda k, c, d: [
            (-0.03, float(folded[k]) - 1),
            (0.0, float(folded[k])),
            (min(0.075, 0.26 * c), float(folded[k] + dip[k])),
            # However short the push is, the forearm has begun before it ends: the arm does not snap open.
            (min(max(float(fore_on[k]), 0.085), c - 0.06), float(folded[k]) - 0.5 + float(dip[k])),
            (c, float(finish[k])),
            (c + 0.05, float(finish[k]) - 3),
            (c + 0.25, 60),
            (d - 0.08, float(folded[k]) - 2),
        ]
    )
    pump = wish("flex_range") / 23.0
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
    speed = 1.45 / float(held.mean())
    y = speed * t
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
    arm = np.radians(shoulder - pitch)
    fore = arm + np.radians(bend)
    for s, sign in (("l", -1.0), ("r", 1.0)):
        out = 0.22 * sign
        p[f"{s}_elbow"] = p[f"{s}_shoulder"] + seg["upper_arm"] * rig.unit(
            rig.stack(out, np.sin(arm), -np.cos(arm))
        )
        p[f"{s}_wrist"] = p[f"{s}_elbow"] + seg["forearm"] * rig.unit(
            rig.stack(0.3 * out, np.sin(fore), -np.cos(fore))
        )
        p[f"{s}_pole_grip"] = p[f"{s}_wrist"]
        p[f"{s}_pole_tip"] = _tip(
            t, p[f"{s}_wrist"], plants, held, wish("pole_angle@plant"), y, sign
        )
    return Motion(t, p, np.array([]), 0.0, {}, score.stature_m)


def _tip(
    t: Array, grip: Array, plants: Array, held: Array, angle: Array, y: Array, sign: float
) -> Array:
    """The basket: still on the snow from plant to release, carried through the air in between."""
    out = np.empty_like(grip)
    spots, lifts = [], plants + held
    for k, when in enumerate(plants):
        at = np.array([np.interp(when, t, grip[:, a]) for a in range(3)])
        if when < t[0]:
            at = grip[0] - [0, 0, 0.1]
        spots.append(np.array([sign * 0.30, at[1] - at[2] * np.tan(np.radians(angle[k])), 0.0]))
    latest = np.clip(np.searchsorted(plants, t, side="right") - 1, 0, len(plants) - 1)
    for i, c in enumerate(latest):
        if t[i] <= lifts[c] or c + 1 >= len(plants):
            out[i] = (
                spots[c]
                if t[i] <= lifts[c]
                else spots[c]
                + [0, y[i] - np.interp(lifts[c], t, y), min(0.2, 2 * (t[i] - lifts[c]))]
            )
            continue
        w = (t[i] - lifts[c]) / (plants[c + 1] - lifts[c])
        # Carried with the body: from where it was left behind to where it will be put down.
        left = spots[c] - [0, np.interp(lifts[c], t, y), 0]
        right = spots[c + 1] - [0, np.interp(plants[c + 1], t, y), 0]
        go = w * w * (3 - 2 * w)
        out[i] = left + (right - left) * go + [0, y[i], 0.40 * np.sin(np.pi * w) ** 0.8]
    return out


RIDER = Rider(
    move,
    clean,
    "side_right",
    views=("side_left",),
    given={"effort": "race", "terrain": "flat"},
    high=frozenset({"pole_angle", "body_fall"}),
)  # fmt: skip
