"""From a clip to tracks: the body by the pose network, the scene by optical flow."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError
from proklisis.core.landmarks import BODY
from proklisis.core.tracks import SOURCES, ClipFacts, Tracks
from proklisis.footage.flow import BackgroundFlow
from proklisis.footage.frames import frames
from proklisis.footage.pose import PoseTracker
from proklisis.footage.probe import Clip

Array = NDArray[np.float64]

#: Standard uncertainty of each point as a share of the figure's height, from simulated skiers
#: with exact truth; the network's own visibility is not an uncertainty.
POINT_U: dict[str, float] = {
    "nose": 0.012, "ear": 0.012, "shoulder": 0.009, "elbow": 0.014, "wrist": 0.015, "hip": 0.012,
    "knee": 0.012, "ankle": 0.017, "heel": 0.030, "toe": 0.035,
}  # fmt: skip
#: The network's errors are much the same from one frame to the next for about this long.
ERROR_CORR_S = 0.12
#: A trunk this much shorter or longer than usual is a wrong find, not a rider.
TRUNK_LIMITS = (0.5, 1.6)
#: Shank, thigh and trunk together ÷ stature (Drillis & Contini, values from memory), and how
#: much of it a skier's usual crouch leaves to be seen (house choice).
CHAIN_TO_STATURE, SEEN_SHARE = 0.779, 0.90
SCALE_REL_U = 0.08

_U = np.array([POINT_U[n.split("_")[-1]] for n in BODY])


def follow(clip: Clip, facts: ClipFacts, height_m: float | None = None,
           progress: Callable[[int, int], None] | None = None) -> Tracks:  # fmt: skip
    """Track the rider through ``clip``; ``progress`` is told (frames done, all) and may raise to stop.

    ``height_m``, the rider's stature, gives the scale that loads need.
    Raises InputError when hardly any frame shows a person.
    """
    n = len(clip.t)
    xy = np.full((n, len(BODY), 2), np.nan)
    drift, drift_u = np.zeros((n, 2)), np.zeros(n)
    flow = BackgroundFlow()
    last = n
    with PoseTracker() as tracker:
        feet = np.array([clip.width, clip.height]) / 2.0
        for frame in frames(clip):
            if frame.number >= n:
                break
            found = tracker.follow(frame.picture, frame.t)
            if found is not None:
                xy[frame.number] = found[0]
            step, u = flow.step(frame.picture, None if found is None else found[0], feet)
            i = frame.number
            drift[i] = drift[i - 1] + step if i else 0.0
            drift_u[i] = u
            if found is not None:
                feet = found[0][[BODY.index("l_ankle"), BODY.index("r_ankle")]].mean(axis=0)
            last = i + 1
            if progress:
                progress(last, n)
    return _as_tracks(clip, facts, xy[:last], drift[:last], drift_u[:last], height_m)


def _as_tracks(clip: Clip, facts: ClipFacts, xy: Array, drift: Array, drift_u: Array, height_m: float | None) -> Tracks:
    _drop_implausible(xy)
    seen = np.isfinite(xy[..., 0]).all(axis=1)
    if seen.mean() < 0.2:
        share = "no frame" if not seen.any() else f"only {seen.mean():.0%} of the frames"
        raise InputError(
            f"a person can be followed in {share}", clip.path.name,
            "film closer, so that the rider is at least a third of the picture's height",
        )  # fmt: skip
    figure = np.nanmax(xy[..., 1], axis=1, initial=-np.inf, where=np.isfinite(xy[..., 1]))
    figure = figure - np.nanmin(xy[..., 1], axis=1, initial=np.inf, where=np.isfinite(xy[..., 1]))
    height = float(np.median(figure[seen]))
    u = np.where(np.isfinite(xy[..., 0]), height * _U, np.nan)
    n = len(xy)
    names = (*BODY, "scene_drift")
    scale = None if height_m is None else _px_per_m(xy[seen], height_m)
    facts = facts.model_copy(
        update={
            "fps": clip.fps, "width": clip.width, "height": clip.height, "error_corr_s": ERROR_CORR_S,
            **({"px_per_m": scale, "px_per_m_rel_u": SCALE_REL_U} if scale else {}),
        }
    )  # fmt: skip
    return Tracks(
        np.arange(n), clip.t[:n].copy(), names, np.concatenate([xy, drift[:, None]], axis=1),
        np.concatenate([u, drift_u[:, None]], axis=1), np.full((n, len(names)), SOURCES.index("auto"), np.uint8), facts,
    )  # fmt: skip


def _drop_implausible(xy: Array) -> None:
    """Empty the frames whose trunk has a length no body of this rider can show."""
    at = {n: xy[:, BODY.index(n)] for n in ("l_shoulder", "r_shoulder", "l_hip", "r_hip")}
    trunk = np.linalg.norm((at["l_shoulder"] + at["r_shoulder"] - at["l_hip"] - at["r_hip"]) / 2, axis=1)
    usual = np.nanmedian(trunk) if np.isfinite(trunk).any() else np.nan
    with np.errstate(invalid="ignore"):
        wrong = (trunk < TRUNK_LIMITS[0] * usual) | (trunk > TRUNK_LIMITS[1] * usual)
    xy[wrong] = np.nan


def _px_per_m(xy: Array, height_m: float) -> float:
    """Scale from the rider's stature and the longest shank–thigh–trunk chain that is seen."""
    mid = {p: (xy[:, BODY.index(f"l_{p}")] + xy[:, BODY.index(f"r_{p}")]) / 2 for p in ("shoulder", "hip", "knee", "ankle")}
    chain = sum(np.linalg.norm(mid[a] - mid[b], axis=1) for a, b in (("shoulder", "hip"), ("hip", "knee"), ("knee", "ankle")))
    return float(np.percentile(chain, 75) / (CHAIN_TO_STATURE * SEEN_SHARE * height_m))
