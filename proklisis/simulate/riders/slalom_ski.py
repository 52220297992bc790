"""A slalom skier behind a boat, crossing the wakes from ball to ball."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score, bump, curve, step

Array = NDArray[np.float64]
CROSSING_S, WIDE_M, WAKE_M, BOAT_MS = 2.7, 11.7, 2.2, 15.3
#: How far the ski points along the skier's way across the course.
SKI_SHARE = 0.3
PULL_DEG = {"novice": 30.0, "intermediate": 42.0, "advanced": 50.0, "elite": 52.0}


def clean(level: Level) -> dict[str, float]:
    return {
        "edge_change_start": 1.6, "edge_change_sd": 0.08, "edge_change_end-edge_change_start": 0.9, "preset_share": 0.94,
        "lean_reversals": 0.0, "knee_snap": 50.0, "load_lean": PULL_DEG[level], "load_peak_at": 0.0, "feet_shove": 40.0,
        "body_open": 48.0, "hip_give": 6.0, "hip_give-knee_give": -6.0, "foot_sway": 0.03, "inside_lean_at_release": 16.0,
        "apex_dwell": 1.0, "turn_start": -0.6, "glide_sway": 2.0,
        "first_wake_rise": 0.0, "handle_gap@edge_change": 0.42,
        "foot_bias@ball#onside": -0.02, "foot_bias@ball#offside": 0.03, "arrival_time": 0.0,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg = score.seg
    beats = score.beats(CROSSING_S, 0.02)
    beats = np.concatenate([beats[:1], beats, beats[-1:]])
    apex = np.cumsum(beats) - 0.45 * beats[0]
    apex = np.concatenate([[apex[0] - beats[0]], apex])
    t = score.clock(float(apex[-2]) + 0.55 * float(beats[-1]))
    first = 1.0 if score.rng(3).integers(2) else -1.0
    ways = np.array([first * (-1) ** k for k in range(len(apex))])

    def per(key: str) -> Array:
        v = score.per_unit(key)
        return np.concatenate([v[:1], v, v[-1:]])

    dwell = (
        np.clip(score["apex_dwell"] - 0.55, 0.0, 1.2) if not score.given.get("buoys", True) else 0.0
    )
    # One crossing in three comes late to the wakes and has to hurry from there.
    late = np.where(np.arange(len(apex)) % 3 == 2, 1.5 * max(score["arrival_time"], 0.0), 0.0)
    x = np.zeros_like(t)
    for k in range(len(apex) - 1):
        a, b = apex[k], apex[k + 1]
        inside = (t >= a) & (t < b)
        w = _held_up(
            np.clip((t[inside] - a - dwell / 2) / (b - a - dwell), 0, 1), late[k] / (b - a - dwell)
        )
        x[inside] = -ways[k] * WIDE_M * np.cos(np.pi * w)
    x[t >= apex[-1]] = ways[-2] * WIDE_M

    def when(k: int, place: float) -> float:
        """Time at which crossing ``k`` passes a place in wakes, − before the centre line."""
        a, b = apex[k], apex[k + 1]
        w = np.arccos(np.clip(-place * WAKE_M / WIDE_M, -1, 1)) / np.pi
        w += late[k] / (b - a - dwell) * np.sin(np.pi * w) ** 2
        return float(a + dwell / 2 + w * (b - a - dwell))

    starts = per("edge_change_start") + score["edge_change_sd"] * _dice(score, len(beats))
    length, share, pull = (
        per("edge_change_end-edge_change_start"),
        per("preset_share"),
        per("load_lean"),
    )
    peak_at, turned = per("load_peak_at"), 34.0
    knots: list[tuple[float, float]] = []
    changes = []
    for k in range(len(beats)):
        a, b, way = float(apex[k]), float(apex[k + 1]), ways[k]
        load, ball = float(pull[k]), turned
        small = 0.3 * min(load, ball)
        one, two = when(k, float(starts[k])), when(k, float(starts[k] + max(length[k], 0.15)))
        top = min(when(k, float(peak_at[k])), one - 0.03)
        changes.append((one, two))
        half = two + 0.5 * (b - two)
        mid = [(half, -float(np.clip(share[k], 0.02, 1.4)) * ball)]
        turns = round(float(np.clip(score["lean_reversals"], 0, 2)))
        if turns == 2:
            mid = [(two + 0.22 * (b - two), -0.85 * ball), (two + 0.48 * (b - two), -0.42 * ball)]
        elif turns == 1:
            mid = [(two + 0.45 * (b - two), -1.0 * ball)]
        last = -ball if turns != 1 else -0.5 * ball
        knots += [
            (a + 0.06 * (b - a), way * 0.94 * ball),
            (a + 0.26 * (b - a), way * 0.80 * load),
            (top - 0.28, way * 0.86 * load),
            (top, way * load),
            (one, way * small),
            (two, -way * small),
        ]
        knots += [(m, way * v) for m, v in mid] + [(b - 0.01, way * last)]
    lean = curve(t, knots)
    rock = np.zeros_like(t)
    for k, (_, two) in enumerate(changes):
        b = float(apex[k + 1])
        rock += np.clip(
            np.where((t > two) & (t < b), np.sin(np.pi * (t - two) / max(b - two, 0.1)), 0), 0, 1
        )
    for k, v in enumerate(per("first_wake_rise")):
        lean = lean - ways[k] * max(float(v), 0.0) * bump(t, when(k, -1.0) + 0.06, 0.16)
    lean = lean + np.clip(score["glide_sway"], 0, 40) / 2 * np.sin(2 * np.pi * 3.3 * t) * np.clip(
        2 * rock, 0, 1
    )
    centre = [when(k, 0.0) for k in range(len(beats))]
    rope = float(score.given.get("rope_m", 18.25)) + 0.8  # type: ignore[arg-type]
    boat = BOAT_MS * t
    y = boat - np.sqrt(np.maximum(rope**2 - x**2, 1.0))
    zero = np.zeros_like(t)
    p: rig.Points = {}
    here = rig.stack(x, y, 0.0)
    drift = np.degrees(np.arctan2(np.gradient(x, t), np.gradient(y, t)))
    # The body leans across the course and not across the ski: a ski turned all the way would bend one knee and lock the other.
    heading = SKI_SHARE * np.clip(drift, -60, 60)
    along = rig.bearing(heading)
    p["l_ski_tip"], p["l_ski_tail"] = (
        here + 0.95 * along + 0.02 * rig.UP,
        here - 0.70 * along + 0.02 * rig.UP,
    )
    front, back = ("l", "r") if score.stance == "regular" else ("r", "l")
    for s, ahead in ((front, 0.16), (back, -0.16)):
        rig.feet(
            p, s, here + ahead * along + (rig.ANKLE_HEIGHT + 0.03) * rig.UP, heading, zero, seg
        )
    # The legs: a soft give over the wakes, a shove or a snap where one is wished for.
    give = per("hip_give")
    knee_give = give - per("hip_give-knee_give")
    knee, hips = np.full_like(t, 34.0), np.zeros_like(t)
    shove, snap = per("feet_shove"), per("knee_snap")
    for k, c in enumerate(centre):
        knee += np.clip(knee_give[k], 0, 60) * bump(t, c - 0.02, 0.42)
        hips += (give[k] - 0.5 * knee_give[k]) * bump(t, c - 0.02, 0.42)
        hard = np.clip((shove[k] - 45) * 0.11, 0, 30)
        knee += hard * (
            bump(t, c - 0.10, 0.30) * (t < c - 0.10)
            + (t >= c - 0.10) * (1 - step(t, c - 0.02, 0.08))
        )
        b = float(apex[k + 1])
        hard = np.clip((snap[k] - 40) * 0.11, 0, 34)
        knee += hard * (
            bump(t, b - 0.08, 0.45) * (t < b - 0.08) + (t >= b - 0.08) * (1 - step(t, b, 0.08))
        )
    chord = rig.reach(seg["shank"], seg["thigh"], np.clip(knee, 0, 120))
    bias = {side: per(f"foot_bias@ball#{side}") for side in ("onside", "offside")}
    at_ball = [
        bias[_hand(score, ways[k])][k] + float(v) - 0.03 for k, v in enumerate(per("foot_sway"))
    ]
    sway = curve(
        t,
        [(c, 0.0) for c in centre]
        + [(float(apex[k + 1]), float(v)) for k, v in enumerate(at_ball)],
    )
    lam = np.radians(lean)[:, None]
    upright = np.cos(lam) * rig.UP + np.sin(lam) * np.array([1.0, 0.0, 0.0])
    # Who folds forward at the hips puts them back, to stay over the feet.
    folded = np.sin(np.radians(np.clip(10 + hips, -10, 80))) - np.sin(np.radians(10))
    ahead = (0.02 + 0.85 * sway) * (seg["shank"] + seg["thigh"]) - 0.42 * seg["trunk"] * folded
    ankles = (p["l_ankle"] + p["r_ankle"]) / 2
    up = np.sqrt(np.maximum(chord**2 - 0.16**2 - ahead**2, 0.05))
    facing = np.zeros_like(t)
    opened = per("body_open")
    facing = curve(
        t,
        [
            q
            for k, c in enumerate(centre)
            for q in (
                (float(apex[k]) + 0.32, ways[k] * float(opened[k])),
                (c + 0.28, ways[k] * float(opened[k])),
                (float(apex[k + 1]) - 0.25, 0.0),
            )
        ],
    )
    rig.pelvis(
        p,
        ankles + up[:, None] * upright + ahead[:, None] * np.array([0.0, 1.0, 0.0]),
        0.6 * facing,
        0.9 * lean,
        seg,
    )
    rig.legs(p, seg, dict.fromkeys("lr", rig.unit(rig.bearing(0.5 * heading))))
    pitch = np.radians(np.clip(10 + hips, -10, 80))[:, None]
    axis = rig.unit(np.cos(pitch) * upright + np.sin(pitch) * rig.bearing(0.6 * facing))
    rig.trunk(p, seg, zero, zero, facing, axis=axis)
    rig.head(p, seg, axis, 0.3 * facing, 6.0)
    p["pylon"] = rig.stack(0.0, boat, 1.0)
    hold = (p["l_hip"] + p["r_hip"]) / 2 + 0.12 * upright
    p["handle"] = hold + (
        per("handle_gap@edge_change") * (seg["upper_arm"] + seg["forearm"])
    ).mean() * rig.unit(p["pylon"] - hold)
    away = {"l": np.zeros_like(t), "r": np.zeros_like(t)}
    release = per("inside_lean_at_release")
    for k, (one, _) in enumerate(changes):
        b = float(apex[k + 1])
        span = np.linspace(when(k, 0.2), b, 300)
        inside = -ways[k] * np.interp(span, t, lean)
        hit = np.flatnonzero(inside >= release[k])
        go = float(span[hit[0]]) if len(hit) else one
        # The hand that lets go is the outer one of this turn, until it is back on the handle.
        outer = "l" if np.interp(b, list(centre), ways[: len(centre)]) > 0 else "r"
        away[outer] += step(t, go - 0.02, 0.10) - step(t, b + 0.25, 0.12)
    for s, sign in (("l", -1.0), ("r", 1.0)):
        free = np.clip(away[s], 0, 1)
        grip = p["handle"] + 0.05 * sign * np.array([1.0, 0.0, 0.0])
        off = grip + rig.stack(0.55 * sign, -0.30, 0.12)
        rig.arm(
            p,
            s,
            grip + free[:, None] * (off - grip),
            np.array([0.4 * sign, -0.6, 0.0]) - upright,
            seg,
        )
    p["wake_l"], p["wake_r"] = rig.stack(-WAKE_M, y, 0.0), rig.stack(WAKE_M, y, 0.0)
    for k in range(len(beats)):
        b = float(apex[k + 1])
        at = float(np.interp(b, t, y)) - float(per("turn_start")[k])
        p[f"buoy_{k}"] = np.broadcast_to(np.array([ways[k] * 11.5, at, 0.05]), (len(t), 3)).copy()
    return Motion(t, p, np.array([]), 0.0, {}, score.stature_m, surface=here, place="water")


def _held_up(w: Array, by: float) -> Array:
    """Share of a crossing that is done when its middle is reached ``by`` later than half-way."""
    even = np.linspace(0, 1, 201)
    return np.interp(w, even + by * np.sin(np.pi * even) ** 2, even)


def _hand(score: Score, way: float) -> str:
    """Of the turn that a crossing ends in: with the left foot in front the turn to the right is onside."""
    return "onside" if (way > 0) == (score.stance != "regular") else "offside"


def _dice(score: Score, k: int) -> Array:
    """Alternating early and late changes with a standard deviation of exactly one over the run."""
    own = np.array([(-1.0) ** (i // 2) * (1.0 + 0.15 * (i % 3)) for i in range(score.units)])
    own = (own - own.mean()) / max(float(own.std(ddof=1)), 1e-9)
    return np.concatenate([[0.0], own, [0.0]])[:k]


RIDER = Rider(
    move,
    clean,
    "front",
    views=("side_right", "above"),
    given={"rope_m": 18.25, "boat_kmh": 55.0, "buoys": True},
    stance="regular",
    # Late against the skier's own even time: some crossings are, so that their mean tells nothing.
    rough=frozenset({"arrival_time"}),
)  # fmt: skip
