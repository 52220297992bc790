"""A snowboarder linking turns, toe side and heel side."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline, PchipInterpolator

from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.score import Rider, Score

Array = NDArray[np.float64]
SLOPE, STANCE, BOARD, BASE = 15.0, 0.53, (0.78, 0.72), 0.125
#: A turn in seconds, and the heading at its ends in degrees.
TURN_S, SWING = 1.7, 58.0


def clean(level: Level) -> dict[str, float]:
    return {
        "knee_flex@belly.front": 48.0, "knee_flex@belly.back": 52.0, "hinge@belly#heel": 16.0, "hinge@belly#toe": 8.0,
        "lean-edge@belly#heel": -2.0, "flex_range": 24.0, "alignment@belly": 9.0, "hip_along_board": 0.01,
        "time_to_fall_line/turn_time": 0.46, "slip_angle@finish": 7.0, "turn_width": 0.78, "knee_gap": 1.0, "gaze_drop": 14.0,
        "rhythm_cv": 6.0, "hands_height": 0.32, "shin_to_boot@belly": 24.0,
    }  # fmt: skip


def move(score: Score) -> Motion:
    seg, n = score.seg, score.units
    times = _times(score)
    knots = np.concatenate([[0.0], np.cumsum(times)])
    a, b = (knots[0] + knots[1]) / 2, (knots[n + 1] + knots[n + 2]) / 2
    clock = a + np.arange(int((b - a) * score.fps)) / score.fps
    first = int(score.rng(3).integers(2))
    phase = np.maximum(CubicSpline(knots, np.arange(len(knots)) + first)(clock), first)
    tau = phase - np.floor(phase)
    side = np.where(np.floor(phase).astype(int) % 2 == 0, 1.0, -1.0)
    t = clock - clock[0]
    toe = 1.0 if score.stance == "regular" else -1.0

    def wish(key: str) -> Array:
        v = score.per_unit(key)
        v = np.concatenate([[v[0]], v, [v[-1]]])
        return np.asarray(
            PchipInterpolator(np.arange(len(v)) + 0.5 + first, v, extrapolate=True)(
                np.clip(phase, first + 0.5, first + len(v) - 0.5)
            )
        )

    tilt = side * np.sin(np.pi * tau)
    on_toe = side == toe
    swing = SWING + 55 * (np.clip(score["turn_width"], 0.05, 2.0) - 0.78)
    path = (
        -side
        * swing
        * np.cos(np.pi * _warp(tau, np.clip(score["time_to_fall_line/turn_time"], 0.2, 0.88)))
    )
    slip = wish("slip_angle@finish") * np.where(
        tau > 0.5, np.clip((tau - 0.55) / 0.15, 0, 1) * np.clip((1.0 - tau) / 0.06, 0, 1), 0.0
    )
    heading = path + side * slip
    speed = 7.0
    dt = 1 / score.fps
    across = np.cumsum(speed * np.sin(np.radians(path))) * dt
    across = across - np.polyval(np.polyfit(t, across, 1), t)
    down = np.cumsum(speed * np.cos(np.radians(path))) * dt
    s, c = np.sin(np.radians(SLOPE)), np.cos(np.radians(SLOPE))

    def world(x: Array, d: Array, up: Array) -> Array:
        return rig.stack(x, d * c + up * s, -d * s + up * c)

    h = np.radians(heading)
    zero = np.zeros_like(t)
    board = world(np.sin(h), np.cos(h), zero)
    normal = world(zero, zero, zero + 1)
    upright = rig.unit(rig.UP - (rig.UP * board).sum(axis=1, keepdims=True) * board)
    level_right = np.cross(board, upright)
    here = world(across, down, zero)
    hang = np.where(on_toe, 0.0, np.maximum(score["lean-edge@belly#heel"], 0.0))
    lean = (34.0 + 0.5 * hang) * tilt
    edge = lean - np.where(on_toe, -2.0, wish("lean-edge@belly#heel")) * np.abs(tilt) * side
    e = np.radians(edge)[:, None]
    p: rig.Points = {}
    base = level_right * np.cos(e) - upright * np.sin(e)
    deck = level_right * np.sin(e) + upright * np.cos(e)
    centre = here + 0.10 * np.abs(np.sin(e)) * normal
    p["board_nose"], p["board_tail"] = here + BOARD[0] * board, here - BOARD[1] * board
    p["base_in"], p["base_out"] = centre - BASE * base, centre + BASE * base
    front, back = ("l", "r") if toe > 0 else ("r", "l")
    yaw = heading + 90.0 * toe
    for foot, sign, turn in ((front, 1.0, -16.0), (back, -1.0, 4.0)):
        ankle = centre + sign * STANCE / 2 * board + (rig.ANKLE_HEIGHT + 0.04) * deck
        opened = np.radians(turn)
        rig.strapped(
            p, foot, ankle, np.cos(opened) * toe * base - np.sin(opened) * board, deck, seg
        )
    bend = {front: wish("knee_flex@belly.front"), back: wish("knee_flex@belly.back")}
    work = score["flex_range"] / 2 * np.cos(2 * np.pi * (tau - 0.5))
    chord = {
        k: rig.reach(
            seg["shank"], seg["thigh"], np.maximum(v + work - score["flex_range"] / 2, 0.0)
        )
        for k, v in bend.items()
    }
    along = wish("hip_along_board")
    high = {
        k: np.sqrt(
            np.maximum(
                chord[k] ** 2 - (STANCE / 2 - seg["hip_width"] / 2 - g * along * STANCE) ** 2, 0.05
            )
        )
        for k, g in ((front, 1.0), (back, -1.0))
    }
    lam = np.radians(lean)[:, None]
    # Who sits back off the boots' tongues has the hips over the heels, and the trunk folded to stay over the board.
    sat = (
        toe
        * np.radians(24.0 - wish("shin_to_boot@belly"))[:, None]
        * np.clip(1.3 * np.abs(tilt), 0, 1)[:, None]
    )
    legs = upright * np.cos(lam - sat) + level_right * np.sin(lam - sat)
    ankles = (p["l_ankle"] + p["r_ankle"]) / 2
    hips = (
        ankles
        + ((high[front] + high[back]) / 2)[:, None] * legs
        + (along * STANCE)[:, None] * board
    )
    half = seg["hip_width"] / 2
    dip = (high[front] - high[back])[:, None] / 2 * legs
    p[f"{front}_hip"], p[f"{back}_hip"] = hips + half * board + dip, hips - half * board - dip
    wide = wish("knee_gap") - 1.0
    hints = {
        k: rig.unit(toe * level_right + g * (0.28 + 1.5 * wide)[:, None] * board)
        for k, g in ((front, 1.0), (back, -1.0))
    }
    rig.legs(p, seg, hints)
    fold = np.where(on_toe, wish("hinge@belly#toe"), wish("hinge@belly#heel"))
    calm = 12.0
    fold = calm + (fold - calm) * np.clip(1.3 * np.abs(tilt), 0, 1)
    tau_trunk = np.radians(lean + toe * fold)[:, None]
    axis = upright * np.cos(tau_trunk) + level_right * np.sin(tau_trunk)
    opened = yaw - toe * wish("alignment@belly")
    rig.trunk(p, seg, zero, zero, opened, axis=axis)
    rig.head(p, seg, axis, heading - side * 0, wish("gaze_drop") + SLOPE)
    for foot, sign in ((front, 1.0), (back, -1.0)):
        low = (0.55 + 1.6 * (0.30 - wish("hands_height")))[:, None]
        reach = sign * 0.75 * board + toe * 0.35 * level_right - low * upright
        rig.held_arm(p, foot, reach, 40 + zero, -upright + 0 * board, seg)
    return Motion(t, p, np.array([]), SLOPE, {}, score.stature_m, surface=here, place="snow")


def _times(score: Score) -> Array:
    """Durations of the turns, spread by exactly the rhythm that is wished for."""
    n = score.units + 2
    dice = np.clip(score.rng(0).standard_normal(n), -1.3, 1.3)
    if score["rhythm_cv"] > 15:
        # An uneven rider hurries one turn and dwells on another.
        dice = (
            np.where(np.arange(n) % 3 == 0, 1.2, np.where(np.arange(n) % 3 == 1, -1.0, 0.1))
            + 0.1 * dice
        )
    own = dice[1:-1]
    dice = (dice - own.mean()) / max(own.std(ddof=1), 1e-6)
    return np.asarray(TURN_S * np.maximum(1 + score["rhythm_cv"] / 100 * dice, 0.32))


def _warp(tau: Array, at: float) -> Array:
    """Smooth map of [0, 1] onto itself that reaches one half at ``at``."""
    return np.clip(
        PchipInterpolator(
            [0.0, 0.1 * at, at, 1 - 0.1 * (1 - at), 1.0], [0.0, 0.03, 0.5, 0.97, 1.0]
        )(tau),
        0,
        1,
    )


RIDER = Rider(move, clean, "front", views=("side_right", "above", "rear"), given={"slope_deg": SLOPE}, stance="regular",
)  # fmt: skip
