"""A camera that travels with the skier and pans after them, and what a tracker would make of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from proklisis.core.camera import projection
from proklisis.core.signals import lowpass
from proklisis.core.tracks.landmarks import ALL, BODY, is_scene
from proklisis.core.tracks.tracks import SOURCES, ClipFacts, Tracks, View
from proklisis.simulate.motion import Motion

Array = NDArray[np.float64]
#: How far off a stated fact usually is (one standard deviation): the sheet's ± must cover it.
STATED_U = {"roll": 0.2, "pitch": 0.7, "offset": 0.8, "slope": 1.0, "scale": 0.02}
DISTANCE_M = 60.0
FIGURE_SHARE = 0.97  # of stature: how tall a skier in a turn looks on average
DIRECTION: dict[str, tuple[float, float, float]] = {
    "front": (0, 1, 0), "rear": (0, -1, 0), "side_left": (-1, 0, 0), "side_right": (1, 0, 0), "above": (0, 0, 1),
}  # fmt: skip


@dataclass(frozen=True)
class Shot:
    """A camera over time: (n, 3) positions, (n, 3, 3) rotations, focal length in pixels."""

    position: Array
    rotation: Array
    focal_px: float
    width: int
    height: int
    view: View
    offset_deg: float
    roll_deg: float
    k1: float

    @property
    def centre(self) -> Array:
        return np.array([self.width, self.height]) / 2.0

    def project(self, points: Array) -> Array:
        """(n, …, 3) metres → (n, …, 2) pixels, lens and roll included."""
        extra = points.ndim - 2
        shape = (len(points),) + (1,) * extra
        xy = projection.project(
            points,
            self.rotation.reshape(*shape, 3, 3),
            self.position.reshape(*shape, 3),
            self.focal_px,
            self.centre,
        )
        if self.k1:
            xy = projection.distort_radial(xy, float(self.width), self.centre, self.k1, 0.0)
        return xy


def film(
    motion: Motion, view: View, *, figure_px: float = 300.0, offset_deg: float = 0.0, roll_deg: float = 0.0,
    k1: float = 0.0, width: int = 1280, height: int = 720,
) -> Shot:  # fmt: skip
    """Film a motion from a view, ``offset_deg`` toward the rider's right of it, with the camera rolled."""
    p = motion.points
    body = (p["l_ankle"] + p["r_ankle"] + p["l_hip"] + p["r_hip"]) / 4
    fps = 1.0 / (motion.t[1] - motion.t[0])
    base = "front" if view == "oblique" else view
    turn = np.radians(offset_deg + (45.0 if view == "oblique" else 0.0))
    d = np.array(DIRECTION[base], float)
    # "Toward the rider's right" turns the front view clockwise seen from above, the rear view the other way.
    sign = -1.0 if base == "rear" else 1.0
    c, s = np.cos(turn), sign * np.sin(turn)
    d = np.array([c * d[0] + s * d[1], -s * d[0] + c * d[1], d[2]])
    carried = lowpass(body, fps, 0.5)
    carried[:, 2] += 0.3
    position = carried + DISTANCE_M * d
    aim = lowpass(body, fps, 0.9)
    rotation = projection.look_at(position, aim, roll_deg)
    focal = figure_px / (FIGURE_SHARE * motion.stature_m) * DISTANCE_M
    return Shot(position, rotation, focal, width, height, view, offset_deg, roll_deg, k1)


def mean_pitch(shot: Shot) -> float:
    """Mean angle of the camera's axis above the horizon, degrees."""
    forward = shot.rotation[:, 2]
    return float(np.degrees(np.arcsin(forward[:, 2])).mean())


def exact_tracks(motion: Motion, shot: Shot, fps: float) -> Tracks:
    """Where every landmark is, in pixels and in metres, without any noise."""
    names = (*(n for n in ALL if n in motion.points), *(n for n in motion.points if is_scene(n)))
    world = np.stack([motion.points[n] for n in names], axis=1)
    xy = shot.project(world)
    feet = motion.ground()
    slope = np.radians(motion.slope_deg)
    down = np.array([0.0, np.cos(slope), -np.sin(slope)])
    lines = [feet - 1.5 * down, feet + 1.5 * down]
    if shot.view in ("front", "rear"):
        lines = [feet - np.array([1.5, 0, 0]), feet + np.array([1.5, 0, 0])]
    surface = shot.project(np.stack(lines, axis=1))
    drift = _drift(shot, feet)
    scale = shot.focal_px / DISTANCE_M
    facts = ClipFacts(
        fps=fps, width=shot.width, height=shot.height, view=shot.view, view_offset_deg=shot.offset_deg,
        roll_deg=shot.roll_deg, pitch_deg=mean_pitch(shot), slope_deg=motion.slope_deg, k1=shot.k1,
        focal_px=float(shot.width), px_per_m=scale,
    )  # fmt: skip
    n = len(motion.t)
    flows = {name: _drift(shot, feet, gone) for name, gone in motion.flow.items()}
    all_names = (*names, "surface_a", "surface_b", "scene_drift", *flows)
    drift_world = np.stack([np.zeros((n, 3)), *motion.flow.values()], axis=1)
    drifts = np.stack([drift, *flows.values()], axis=1)
    surface_world = np.stack(lines, axis=1)
    return Tracks(
        np.arange(n), motion.t.copy(), all_names, np.concatenate([xy, surface, drifts], axis=1),
        np.zeros((n, len(all_names))), np.full((n, len(all_names)), SOURCES.index("simulated"), np.uint8), facts,
        np.concatenate([world, surface_world, drift_world], axis=1),
    )  # fmt: skip


def _drift(shot: Shot, feet: Array, gone: Array | None = None) -> Array:
    """Summed motion of the ground under the rider in the picture, as the background's flow would give.

    ``gone`` is how far a moving surface, such as a river's water, has gone by itself.
    """
    moved = np.zeros_like(feet) if gone is None else gone
    n = len(feet)
    later = np.minimum(np.arange(n) + 1, n - 1)

    def at(points: Array, index: NDArray[np.int64]) -> Array:
        return projection.project(
            points, shot.rotation[index], shot.position[index], shot.focal_px, shot.centre
        )

    flow = at(feet + moved[later] - moved, later) - at(feet, np.arange(n))
    return np.concatenate([np.zeros((1, 2)), np.cumsum(flow[:-1], axis=0)])


def tracked(exact: Tracks, noise_px: float, seed: int) -> Tracks:
    """What a tracker and a careful coach would hand in: noisy points, and facts a little wrong.

    Every landmark gets white noise of ``noise_px`` per coordinate; the stated roll, pitch,
    view offset, slope and scale are off by as much as their stated uncertainty says.
    """
    rng = np.random.default_rng([seed, 77])
    f = exact.facts
    wrong = {k: rng.standard_normal() * u for k, u in STATED_U.items()}
    xy = exact.xy + noise_px * rng.standard_normal(exact.xy.shape)
    u = np.full(exact.u.shape, float(noise_px))
    step = 0.04 * noise_px
    for name in ("scene_drift", "water_drift"):
        if name in exact.index:
            k = exact.index[name]
            xy[:, k] = exact.xy[:, k] + np.cumsum(
                step * rng.standard_normal((len(exact), 2)), axis=0
            )
            u[:, k] = step
    # The surface line is drawn once and carried: its error is one of the level, not of each frame.
    for name in ("surface_a", "surface_b"):
        i = exact.index[name]
        xy[:, i] = exact.xy[:, i] + 0.3 * noise_px * rng.standard_normal((len(exact), 2))
    facts = f.model_copy(
        update={
            "roll_deg": f.roll_deg + wrong["roll"], "roll_u_deg": STATED_U["roll"],
            "pitch_deg": f.pitch_deg + wrong["pitch"], "pitch_u_deg": STATED_U["pitch"],
            "view_offset_deg": f.view_offset_deg + wrong["offset"], "view_offset_u_deg": STATED_U["offset"],
            "slope_deg": f.slope_deg + wrong["slope"], "slope_u_deg": STATED_U["slope"],
            "px_per_m": (f.px_per_m or 0) * (1 + wrong["scale"]), "px_per_m_rel_u": STATED_U["scale"],
        }
    )  # fmt: skip
    return Tracks(exact.frames, exact.t, exact.names, xy, u, exact.source, facts)


#: Spread of a network's guess of depth ÷ the figure's height, by point; and how long its errors stay alike, seconds (measured
#: on rendered people).
GUESS_U = {
    "nose": 0.06, "ear": 0.06, "shoulder": 0.05, "elbow": 0.07, "wrist": 0.10, "hip": 0.02, "knee": 0.05, "ankle": 0.07, "heel": 0.07, "toe": 0.07,
}  # fmt: skip
GUESS_CORR_S = 0.3


def exact_depths(motion: Motion, shot: Shot) -> Array:
    """(n, 19) how far each point of the body lies behind the middle of the hips, in pixels at the rider's distance."""
    world = np.stack([motion.points[n] for n in BODY], axis=1)
    forward = shot.rotation[:, 2]
    far = np.einsum("ni,nki->nk", forward, world - shot.position[:, None])
    hips = far[:, [BODY.index("l_hip"), BODY.index("r_hip")]].mean(axis=1, keepdims=True)
    return np.asarray((far - hips) * shot.focal_px / DISTANCE_M)


def guessed_depths(motion: Motion, shot: Shot, fps: float, seed: int) -> Array:
    """What a pose network would guess of :func:`exact_depths`: each point wanders about its depth."""
    rng = np.random.default_rng([seed, 78])
    exact = exact_depths(motion, shot)
    height = FIGURE_SHARE * motion.stature_m * shot.focal_px / DISTANCE_M
    kept = float(np.exp(-1.0 / (fps * GUESS_CORR_S)))
    off = np.zeros_like(exact)
    off[0] = rng.standard_normal(len(BODY))
    for i in range(1, len(off)):
        off[i] = kept * off[i - 1] + np.sqrt(1 - kept**2) * rng.standard_normal(len(BODY))
    spread = np.array([GUESS_U[n.split("_")[-1]] for n in BODY])
    return np.asarray(exact + height * off * spread)
