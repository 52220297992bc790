"""The skier's motion: a style and a seed in, exact joint positions in the world out.

World axes: x across the slope to the rider's right, y along the course (horizontal), z up.
The slope drops along y. The pose of each frame is solved from the style's targets (leans,
bends, positions of hips and hands), and the path follows from the pose: the lateral
acceleration is the one that puts the load where the style wants it between the feet.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline, PchipInterpolator

from proklisis.core.physics.flight import GRAVITY
from proklisis.core.rider.mass import centre_of_mass
from proklisis.core.signals import lowpass
from proklisis.simulate.motion import Motion
from proklisis.simulate.style import Style

Array = NDArray[np.float64]

#: Segment lengths ÷ stature (Drillis & Contini, as given by Winter; values from memory).
PROPORTION = {
    "shank": 0.246, "thigh": 0.245, "trunk": 0.288, "upper_arm": 0.186, "forearm": 0.146,
    "hip_width": 0.16, "shoulder_width": 0.24, "head": 0.13,
}  # fmt: skip
ANKLE_HEIGHT, BOOT_BACK, BOOT_FRONT = 0.11, 0.09, 0.23
SKI_FRONT, SKI_BACK = 0.95, 0.75


def ski(
    style: Style,
    turns: int,
    fps: float,
    seed: int,
    stature_m: float = 1.75,
    slope_deg: float = 17.0,
) -> Motion:
    """Ski ``turns`` turns in a style; every number differs a little from turn to turn."""
    rng = np.random.default_rng(seed)
    jitter = _Jitter(rng, turns + 4)
    times = style.turn_time * jitter.around(1.0, 0.05)
    times = times + style.slow_gate * (np.arange(len(times)) % 3 == 0)
    knots = np.concatenate([[0.0], np.cumsum(times)])
    first_right = int(rng.integers(2))
    # The clip starts in the middle of one turn and ends in the middle of another.
    a, b = (knots[1] + knots[2]) / 2, (knots[turns + 2] + knots[turns + 3]) / 2
    n = int((b - a) * fps)
    t_abs = a + np.arange(n) / fps
    turn_phase = CubicSpline(knots, np.arange(len(knots)) + first_right)(t_abs)
    shape = _Shape(turn_phase, style, jitter, knots)
    points, edges = _pose(shape, style, stature_m, slope_deg, t_abs, fps, rng)
    com = centre_of_mass({**points, **_mids(points)})
    return _travelled(
        Motion(t_abs - a, points, knots[2 : turns + 3] - a, slope_deg, edges, stature_m), com, fps
    )


class _Jitter:
    """Small differences from turn to turn, the same for the same seed."""

    def __init__(self, rng: np.random.Generator, turns: int) -> None:
        self.rng, self.turns = rng, turns

    def around(self, value: float, sd: float) -> Array:
        return value + sd * np.clip(self.rng.standard_normal(self.turns), -2, 2)


class _Shape:
    """Profiles over a turn. ``phase`` counts turns; even ones go right."""

    def __init__(self, phase: Array, style: Style, jitter: _Jitter, knots: Array) -> None:
        self.phase = phase
        self.tau = phase - np.floor(phase)
        self.s = np.sin(np.pi * phase)
        self.side = np.where(np.floor(phase).astype(int) % 2 == 0, 1.0, -1.0)
        self.mid = np.arange(len(knots) - 1) + 0.5 + (np.floor(phase[0]) - 1)
        self.jitter = jitter
        k = style.sharpness
        self.tilt = (
            np.sign(self.s) * np.abs(self.s) if k <= 1.05 else np.tanh(k * self.s) / np.tanh(k)
        )
        if style.twice:
            self.tilt = self.tilt * (1.12 - 0.62 * np.exp(-(((self.tau - 0.5) / 0.13) ** 2)))
        #: 1 through transition and entry, 0 from the belly on.
        self.early = 0.5 - 0.5 * np.tanh((np.minimum(self.tau, 1 - self.tau + 0.28) - 0.43) / 0.06)
        self.early = np.where(
            self.tau > 0.72, 0.5 + 0.5 * np.tanh((self.tau - 0.86) / 0.05), self.early
        )
        #: 1 in the belly, 0 at the change.
        self.belly = self.s**2

    def per_turn(self, value: float, sd: float) -> Array:
        """A value that wanders from turn to turn, smooth in between."""
        values = self.jitter.around(value, sd)[: len(self.mid)]
        return np.asarray(PchipInterpolator(self.mid, values, extrapolate=True)(self.phase))


def _mids(p: dict[str, Array]) -> dict[str, Array]:
    return {
        f"mid_{k}": (p[f"l_{k}"] + p[f"r_{k}"]) / 2 for k in ("hip", "shoulder", "ankle", "ear")
    }


class _Basis:
    """Slope axes in the world: across, down the slope, normal."""

    def __init__(self, slope_deg: float) -> None:
        s = np.radians(slope_deg)
        self.c, self.s = np.cos(s), np.sin(s)
        self.down = np.array([0.0, self.c, -self.s])
        self.up = np.array([0.0, self.s, self.c])

    def world(self, across: Array, down: Array, normal: Array) -> Array:
        return np.stack(
            [across, down * self.c + normal * self.s, -down * self.s + normal * self.c], axis=-1
        )


def _heading(shape: _Shape, style: Style, path: Array) -> Array:
    """Ski heading in degrees, + to the right: along the path, or swung on purpose."""
    skid = style.skid * shape.tilt * np.abs(shape.tilt)
    if style.fall_line_at is None and style.heading_swing is None:
        return np.asarray(path + skid)
    at = style.fall_line_at or 0.5
    u = _warp(shape.tau, at)
    swing = style.heading_swing or float(2 * np.percentile(np.abs(path), 97))
    return np.asarray(-shape.side * swing / 2 * np.cos(np.pi * u))


def _warp(tau: Array, at: float) -> Array:
    """Smooth map of [0, 1] onto itself that reaches one half at ``at``."""
    edge = 0.12 * min(at, 1 - at)
    knots = np.array([0.0, edge, at, 1 - edge, 1.0])
    values = np.array([0.0, 0.08 * edge / 0.12, 0.5, 1 - 0.08 * edge / 0.12, 1.0])
    return np.clip(PchipInterpolator(knots, values)(tau), 0, 1)


def _pose(shape: _Shape, style: Style, stature: float, slope_deg: float, t: Array, fps: float,
          rng: np.random.Generator) -> tuple[dict[str, Array], dict[str, Array]]:  # fmt: skip
    """Joint positions relative to the point on the snow under mid_ankle, which is the origin."""
    basis = _Basis(slope_deg)
    seg = {k: v * stature * (1 + 0.02 * rng.standard_normal()) for k, v in PROPORTION.items()}
    leg_lean = shape.per_turn(style.leg_lean, 0.03 * style.leg_lean) * shape.tilt
    angulation = shape.per_turn(style.angulation, 0.6) * shape.tilt
    heading = np.zeros_like(t)
    points: dict[str, Array] = {}
    edges: dict[str, Array] = {}
    # The path follows from the pose, and the skis' heading from the path: three rounds settle it.
    frozen = shape.jitter.rng.bit_generator.state
    for _ in range(3):
        shape.jitter.rng.bit_generator.state = frozen
        points, edges = _joints(shape, style, seg, basis, leg_lean, angulation, heading)
        com = centre_of_mass({**points, **_mids(points)})
        path_x = _path(shape, style, points, com, t, fps)
        vx = lowpass(np.gradient(path_x, t), fps, 3.0)
        heading = _heading(shape, style, np.degrees(np.arctan2(vx, style.speed)))
    shape.jitter.rng.bit_generator.state = frozen
    points, edges = _joints(shape, style, seg, basis, leg_lean, angulation, heading)
    com = centre_of_mass({**points, **_mids(points)})
    path_x = _path(shape, style, points, com, t, fps)
    where = basis.world(path_x, style.speed * (t - t[0]), np.zeros_like(t))
    return {k: v + where for k, v in points.items()}, edges


def _path(
    shape: _Shape, style: Style, p: dict[str, Array], com: Array, t: Array, fps: float
) -> Array:
    """x of the origin under the feet, so that gravity and turning load the feet as the style says."""
    early = np.exp(-(((shape.tau - 0.24) / 0.17) ** 2)) if style.weight_entry < 60 else shape.early
    weight = style.weight_belly + (style.weight_entry - style.weight_belly) * early
    away = np.tanh(3.0 * shape.tilt) / np.tanh(3.0)
    gap = np.abs(p["r_ankle"][:, 0] - p["l_ankle"][:, 0])
    centre = -away * (weight - 50.0) / 100.0 * gap
    height = com[:, 2] - (p["l_ankle"][:, 2] + p["r_ankle"][:, 2]) / 2
    mid = (p["l_ankle"][:, 0] + p["r_ankle"][:, 0]) / 2
    accel = GRAVITY * (com[:, 0] - mid - centre) / height
    dt = 1.0 / fps
    v = np.concatenate([[0.0], np.cumsum((accel[1:] + accel[:-1]) / 2 * dt)])
    x = np.concatenate([[0.0], np.cumsum((v[1:] + v[:-1]) / 2 * dt)])
    # A skier steers back to the line: take out what is slower than a turn, which no turn is made of.
    x = x - np.polyval(np.polyfit(t, x, 1), t)
    return np.asarray(x - com[:, 0])


def _joints(shape: _Shape, style: Style, seg: dict[str, float], basis: _Basis, leg_lean: Array,
            angulation: Array, heading: Array) -> tuple[dict[str, Array], dict[str, Array]]:  # fmt: skip
    n = len(heading)
    zero = np.zeros(n)
    h = np.radians(heading)
    scissor = shape.per_turn(style.scissor, 0.5) * np.abs(np.tanh(4 * shape.tilt))
    inside_right = shape.side > 0
    headings = {
        "l": h + np.radians(np.where(inside_right, 0, -scissor)),
        "r": h + np.radians(np.where(inside_right, scissor, 0)),
    }
    ratio = style.stance * (1 + (style.boot_growth - 1) * np.clip(1.25 * shape.belly - 0.1, 0, 1))
    gap = ratio * seg["hip_width"]
    lead = 0.09 * shape.tilt
    p: dict[str, Array] = {}
    ahead = {s: basis.world(np.sin(headings[s]), np.cos(headings[s]), zero) for s in "lr"}
    mean_ahead = basis.world(np.sin(h), np.cos(h), zero)
    right = basis.world(np.cos(h), -np.sin(h), zero)
    for s, sign in (("l", -1.0), ("r", 1.0)):
        foot = right * (sign * gap / 2)[:, None] + mean_ahead * (sign * lead / 2)[:, None]
        p[f"{s}_ankle"] = foot + ANKLE_HEIGHT * basis.up
        p[f"{s}_heel"] = foot + 0.04 * basis.up - BOOT_BACK * ahead[s]
        p[f"{s}_toe"] = foot + 0.04 * basis.up + BOOT_FRONT * ahead[s]
        p[f"{s}_ski_tip"] = foot + SKI_FRONT * ahead[s]
        p[f"{s}_ski_tail"] = foot - SKI_BACK * ahead[s]
    _hips(p, shape, style, seg, basis, leg_lean, heading)
    edges = _knees(p, shape, style, seg, basis, ahead)
    _trunk(p, shape, style, seg, basis, leg_lean - angulation, h)
    _arms(p, shape, style, seg, basis)
    return p, edges


def _hips(p: dict[str, Array], shape: _Shape, style: Style, seg: dict[str, float], basis: _Basis,
          leg_lean: Array, heading: Array) -> None:  # fmt: skip
    """Place the pelvis so that leg lean, fore–aft and the outside knee's bend are as wanted."""
    flex = shape.per_turn(style.knee_flex, 1.0) + style.flex_range / 2 * np.cos(
        2 * np.pi * (shape.tau - 0.58)
    )
    if style.change_flex is not None:
        near = np.exp(-((np.minimum(shape.tau, 1 - shape.tau) / 0.055) ** 2))
        flex = flex + (style.change_flex - flex) * near
    reach = np.sqrt(
        seg["shank"] ** 2
        + seg["thigh"] ** 2
        + 2 * seg["shank"] * seg["thigh"] * np.cos(np.radians(flex))
    )
    fore = shape.per_turn(style.hip_fore, 0.008)
    fore = fore + (style.hip_fore_early - style.hip_fore) * shape.early
    # Hips square to the skis, rolled with about half of the legs' lean.
    roll, yaw = np.radians(0.5 * leg_lean), np.radians(0.7 * heading)
    half = seg["hip_width"] / 2
    axis = half * np.stack(
        [np.cos(yaw) * np.cos(roll), -np.sin(yaw) * np.cos(roll), -np.sin(roll)], axis=-1
    )
    outside_sign = -shape.side
    # Around the change the outside foot swaps: blend so that the pelvis does not jump.
    blend = np.tanh(4.0 * np.abs(shape.tilt)) * outside_sign
    mid = (p["l_ankle"] + p["r_ankle"]) / 2
    support = mid + (p["r_ankle"] - p["l_ankle"]) / 2 * blend[:, None]
    leg = seg["shank"] + seg["thigh"]
    down = fore * leg + (support - mid) @ basis.down
    tan = np.tan(np.radians(leg_lean))
    # mid_hip = mid + a·x + down·d + c·n with a = tan·(c·cosθ − down·sinθ); |hip_out − support| = reach.
    offset = axis * blend[:, None] + mid - support
    ox, od, on = offset[:, 0], offset @ basis.down + down, offset @ basis.up
    qa = tan**2 * basis.c**2 + 1
    k = ox - tan * down * basis.s
    qb = 2 * (tan * basis.c * k + on)
    qc = k**2 + od**2 + on**2 - reach**2
    c = (-qb + np.sqrt(np.maximum(qb**2 - 4 * qa * qc, 0))) / (2 * qa)
    a = tan * (c * basis.c - down * basis.s)
    mid_hip = mid + basis.world(a, down, c)
    p["l_hip"], p["r_hip"] = mid_hip - axis, mid_hip + axis


def _knees(p: dict[str, Array], shape: _Shape, style: Style, seg: dict[str, float], basis: _Basis,
           ahead: dict[str, Array]) -> dict[str, Array]:  # fmt: skip
    """Bend the knees forward, swung in or out so that each shin has the wanted edge."""
    profile = shape.per_turn(style.edge, 0.02 * style.edge + 0.4) * shape.tilt
    if style.edge_at_change is not None:
        bump = np.abs(np.tanh(shape.s / 0.15))
        at = style.edge_at_change + (style.edge - style.edge_at_change) * np.clip(
            (np.abs(shape.s) - 0.3) / 0.6, 0, 1
        )
        profile = shape.side * at * bump
    wanted = np.tan(np.radians(profile))
    out = {}
    for s in "lr":
        ankle, hip = p[f"{s}_ankle"], p[f"{s}_hip"]
        d = hip - ankle
        length = np.linalg.norm(d, axis=1)
        u = d / length[:, None]
        length = np.minimum(length, 0.999 * (seg["shank"] + seg["thigh"]))
        along = (length**2 + seg["shank"] ** 2 - seg["thigh"] ** 2) / (2 * length)
        off = np.sqrt(np.maximum(seg["shank"] ** 2 - along**2, 1e-6))
        f = ahead[s]
        front = f - (f * u).sum(axis=1, keepdims=True) * u
        front /= np.linalg.norm(front, axis=1, keepdims=True)
        sideways = np.cross(front, u)
        across = np.cross(f, np.broadcast_to(basis.up, f.shape))
        normal = np.broadcast_to(basis.up, f.shape)

        def parts(axis: Array, u: Array = u, front: Array = front, sideways: Array = sideways,
                  along: Array = along, off: Array = off) -> tuple[Array, Array, Array]:  # fmt: skip
            return (
                along * (u * axis).sum(1),
                off * (front * axis).sum(1),
                off * (sideways * axis).sum(1),
            )

        (a0, b0, c0), (a1, b1, c1) = parts(across), parts(normal)
        ka, kb, kc = a0 - wanted * a1, b0 - wanted * b1, c0 - wanted * c1
        size = np.hypot(kb, kc)
        turn = np.arctan2(kc, kb)
        swing = np.arccos(np.clip(-ka / size, -1, 1))
        options = np.stack([turn + swing, turn - swing])
        options = (options + np.pi) % (2 * np.pi) - np.pi
        omega = np.take_along_axis(options, np.abs(options).argmin(axis=0)[None], axis=0)[0]
        omega = np.clip(omega, -1.2, 1.2)
        shin = along[:, None] * u + off[:, None] * (
            np.cos(omega)[:, None] * front + np.sin(omega)[:, None] * sideways
        )
        p[f"{s}_knee"] = ankle + shin
        out[s] = np.degrees(np.arctan2((shin * across).sum(1), (shin * normal).sum(1)))
    return out


def _trunk(p: dict[str, Array], shape: _Shape, style: Style, seg: dict[str, float], basis: _Basis,
           trunk_lean: Array, h: Array) -> None:  # fmt: skip
    slope = np.degrees(np.arctan2(basis.s, basis.c))
    outside = np.where(shape.side > 0, "l", "r")
    shin = np.where(
        (outside == "l")[:, None], p["l_knee"] - p["l_ankle"], p["r_knee"] - p["r_ankle"]
    )
    shin_pitch = np.degrees(np.arctan2(shin @ basis.down, shin @ basis.up))
    blend = np.clip(np.abs(shape.tilt) / 0.25, 0, 1)
    both = (p["l_knee"] - p["l_ankle"] + p["r_knee"] - p["r_ankle"]) / 2
    both_pitch = np.degrees(np.arctan2(both @ basis.down, both @ basis.up))
    follow = both_pitch + blend * (shin_pitch - both_pitch)
    pitch = slope + np.clip(follow, 8, 40) * 0.6 + 12.0 + style.trunk_pitch_early * shape.early
    if style.hip_flex_at_change is not None:
        thigh = (p["l_hip"] - p["l_knee"] + p["r_hip"] - p["r_knee"]) / 2
        straight = np.degrees(np.arctan2(thigh[:, 1], thigh[:, 2])) + style.hip_flex_at_change
        near = np.clip(1.4 * np.exp(-((np.minimum(shape.tau, 1 - shape.tau) / 0.16) ** 4)), 0, 1)
        pitch = pitch + (straight - pitch) * near
    d = np.stack(
        [np.tan(np.radians(trunk_lean)), np.tan(np.radians(pitch)), np.ones_like(pitch)], axis=-1
    )
    d /= np.linalg.norm(d, axis=1, keepdims=True)
    mid_hip = (p["l_hip"] + p["r_hip"]) / 2
    mid = mid_hip + seg["trunk"] * d
    turned = shape.per_turn(style.separation, 1.0) * shape.tilt * np.abs(np.tanh(3 * shape.tilt))
    if style.separation_at_change is not None:
        ending = np.where(shape.tau < 0.5, -shape.side, shape.side)
        near = np.exp(-((np.minimum(shape.tau, 1 - shape.tau) / 0.24) ** 4))
        turned = turned + (ending * style.separation_at_change - turned) * near
    face = h - np.radians(turned)
    tilt = np.radians(shape.per_turn(style.shoulder_tilt, 0.8) * shape.tilt)
    axis = np.stack(
        [np.cos(face) * np.cos(tilt), -np.sin(face) * np.cos(tilt), -np.sin(tilt)], axis=-1
    )
    half = seg["shoulder_width"] / 2
    p["l_shoulder"], p["r_shoulder"] = mid - half * axis, mid + half * axis
    neck = 0.5 * d + 0.5 * np.array([0.0, 0.0, 1.0])
    neck /= np.linalg.norm(neck, axis=1, keepdims=True)
    head = mid + 0.85 * seg["head"] * neck
    ear = np.stack([np.cos(face), -np.sin(face), np.zeros_like(face)], axis=-1)
    p["l_ear"], p["r_ear"] = head - 0.075 * ear, head + 0.075 * ear
    look = np.stack(
        [np.sin(face), np.cos(face), np.full_like(face, np.tan(np.radians(-slope - 12)))], axis=-1
    )
    look /= np.linalg.norm(look, axis=1, keepdims=True)
    p["nose"] = head + 0.11 * look


def _arms(
    p: dict[str, Array], shape: _Shape, style: Style, seg: dict[str, float], basis: _Basis
) -> None:
    """Hands and elbows as far ahead of the trunk line as wanted; poles hang or touch the snow."""
    mid_hip, mid = (p["l_hip"] + p["r_hip"]) / 2, (p["l_shoulder"] + p["r_shoulder"]) / 2
    trunk = mid - mid_hip
    lean = (trunk @ basis.down) / (trunk @ basis.up)
    upper, fore = seg["upper_arm"], seg["forearm"]
    spread = 0.30

    def angle(target: Array, factor: float) -> Array:
        slope = lean * factor
        along = np.arcsin(np.clip(target / np.sqrt(1 + slope**2), -0.98, 0.98))
        return np.asarray(along - np.arctan(slope))

    elbow_fore = np.full(len(lean), style.elbow_fore)
    hand_more = (style.hand_fore - style.elbow_fore) * upper / fore
    both = {
        s: (angle(elbow_fore, np.cos(spread)), angle(np.full(len(lean), hand_more), np.cos(spread)))
        for s in "lr"
    }
    if style.hand_inside is not None:
        for s, sign in (("l", -1.0), ("r", 1.0)):
            w = np.clip(1.6 * sign * shape.tilt, 0, 1)
            back_elbow = elbow_fore + w * (0.35 * style.hand_inside - elbow_fore)
            back_more = hand_more + w * (0.65 * style.hand_inside * upper / fore - hand_more)
            both[s] = (angle(back_elbow, np.cos(spread)), angle(back_more, np.cos(spread)))
    if style.hand_outside is not None:
        for s, sign in (("l", -1.0), ("r", 1.0)):
            w = np.clip(-1.6 * sign * shape.tilt, 0, 1)
            back_elbow = elbow_fore + w * (0.35 * style.hand_outside - elbow_fore)
            back_more = hand_more + w * (0.65 * style.hand_outside * upper / fore - hand_more)
            both[s] = (angle(back_elbow, np.cos(spread)), angle(back_more, np.cos(spread)))
    for s, sign in (("l", -1.0), ("r", 1.0)):
        out = np.full(len(lean), sign * np.sin(spread))
        a1, a2 = both[s]

        def limb(a: Array, out: Array = out) -> Array:
            return basis.world(out, np.sin(a) * np.cos(spread), -np.cos(a) * np.cos(spread))

        p[f"{s}_elbow"] = p[f"{s}_shoulder"] + upper * limb(a1)
        p[f"{s}_wrist"] = p[f"{s}_elbow"] + fore * limb(a2)
        p[f"{s}_pole_grip"] = p[f"{s}_wrist"]
        p[f"{s}_pole_tip"] = _pole(p, s, sign, shape, style, basis)


def _pole(
    p: dict[str, Array], s: str, sign: float, shape: _Shape, style: Style, basis: _Basis
) -> Array:
    grip, toe = p[f"{s}_wrist"], p[f"{s}_toe"]
    length = 1.15
    # Between plants the basket trails behind, always clear of the snow.
    drop = np.minimum(0.52 * length, (grip - toe) @ basis.up - 0.12)
    behind = np.sqrt(np.maximum(length**2 - drop**2 - (0.35 * length) ** 2, 0.2))
    trail = grip + basis.world(np.full(len(grip), sign * 0.35 * length), -behind, -drop)
    # The plant is with the inside pole of the turn to come, just before the change.
    boot = BOOT_BACK + BOOT_FRONT
    down = toe @ basis.down + style.plant_fore * boot
    dn, dd = grip @ basis.up, down - grip @ basis.down
    aside = np.sqrt(np.maximum(length**2 - dn**2 - dd**2, 0.03**2))
    planted = basis.world(grip[:, 0] + sign * np.minimum(aside, 0.55), down, np.zeros(len(grip)))
    next_side = -shape.side
    before = np.where(next_side == sign, np.maximum(1 - shape.tau, 0), np.inf)
    after = np.where(shape.side == sign, shape.tau, np.inf)
    distance = np.where(np.isfinite(before), before - 0.05, after + 0.05)
    w = np.where(np.isfinite(distance), np.exp(-((distance / 0.10) ** 4)), 0.0)[:, None]
    tip = trail + w * (planted - trail)
    return np.asarray(tip)


def _travelled(m: Motion, com: Array, fps: float) -> Motion:
    """Settle the exact boundaries: where the body's tilt over mid_ankle passes zero."""
    mid = (m.points["l_ankle"] + m.points["r_ankle"]) / 2
    tilt = np.arctan2(com[:, 0] - mid[:, 0], com[:, 2] - mid[:, 2])
    exact = []
    for b in m.boundaries:
        near = np.abs(m.t - b) < 0.25
        i = np.flatnonzero(near[:-1] & near[1:] & (tilt[:-1] * tilt[1:] <= 0))
        if len(i):
            k = i[np.abs(m.t[i] - b).argmin()]
            exact.append(m.t[k] + (m.t[k + 1] - m.t[k]) * tilt[k] / (tilt[k] - tilt[k + 1]))
        else:
            exact.append(b)
    return Motion(m.t, m.points, np.asarray(exact), m.slope_deg, m.edges, m.stature_m)
