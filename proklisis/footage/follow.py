"""From a clip to tracks: the body by the pose network, the scene by optical flow."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

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
    "knee": 0.012, "ankle": 0.024, "heel": 0.030, "toe": 0.035,
}  # fmt: skip
#: The network's errors are much the same from one frame to the next for about this long.
ERROR_CORR_S = 0.12
#: A trunk this much shorter or longer than usual is a wrong find, not a rider.
TRUNK_LIMITS = (0.65, 1.5)
#: No camera ahead, behind or beside shows a trunk outside these shares of the leg (house choice).
TRUNK_TO_LEG = (0.30, 1.20)
#: For so many frames a lost rider is searched near where they were, in a window of so many heights.
SEARCH_FRAMES, WINDOW = 60, 0.9
#: Shank, thigh and trunk together ÷ stature (Drillis & Contini, values from memory), and how
#: much of it a skier's usual crouch leaves to be seen (house choice).
CHAIN_TO_STATURE, SEEN_SHARE = 0.779, 0.90
SCALE_REL_U = 0.08

_U = np.array([POINT_U[n.split("_")[-1]] for n in BODY])


@dataclass
class Person:
    """What this rider has looked like so far, to tell a find from a wrong find."""

    trunks: deque[float] = field(default_factory=lambda: deque(maxlen=120))
    centre: Array | None = None
    height: float = 0.0
    lost: int = 0

    def find(self, tracker: PoseTracker, picture: NDArray[np.uint8], t: float) -> Array | None:
        """The rider in the next frame; a wrong find is searched again around their last place."""
        found = tracker.follow(picture, t)
        if not self._fits(found) and self.centre is not None and self.lost < SEARCH_FRAMES:
            if found is not None:
                tracker.restart()
            found = tracker.look(picture, self.centre, WINDOW * self.height)
        if not self._fits(found):
            self.lost += 1
            return None
        assert found is not None
        self.lost = 0
        self.trunks.append(_trunk(found))
        self.centre = (found.min(axis=0) + found.max(axis=0)) / 2
        self.height = float(np.ptp(found[:, 1]))
        return found

    def _fits(self, found: Array | None) -> bool:
        if found is None or not TRUNK_TO_LEG[0] < _trunk(found) / _leg(found) < TRUNK_TO_LEG[1]:
            return False
        if len(self.trunks) < 10:
            return True
        usual = float(np.median(self.trunks))
        near = self.centre is None or self.lost > SEARCH_FRAMES
        if not near:
            moved = np.linalg.norm((found.min(axis=0) + found.max(axis=0)) / 2 - self.centre)
            near = bool(moved < 0.6 * self.height)
        return near and TRUNK_LIMITS[0] * usual < _trunk(found) < TRUNK_LIMITS[1] * usual


def _leg(found: Array) -> float:
    """The longer leg as it shows, pixels."""
    at = {n: found[BODY.index(n)] for s in "lr" for n in (f"{s}_hip", f"{s}_knee", f"{s}_ankle")}

    def piece(a: str, b: str) -> float:
        return float(np.linalg.norm(at[a] - at[b]))

    return max(max(piece(f"{s}_hip", f"{s}_knee") + piece(f"{s}_knee", f"{s}_ankle") for s in "lr"), 1.0)


def _trunk(found: Array) -> float:
    at = [found[BODY.index(n)] for n in ("l_shoulder", "r_shoulder", "l_hip", "r_hip")]
    return float(np.linalg.norm((at[0] + at[1] - at[2] - at[3]) / 2))


def follow(clip: Clip, facts: ClipFacts, height_m: float | None = None,
           progress: Callable[[int, int], None] | None = None) -> Tracks:  # fmt: skip
    """Track the rider through ``clip``; ``progress`` is told (frames done, all) and may raise to stop.

    ``height_m``, the rider's stature, gives the scale that loads need.
    Raises InputError when hardly any frame shows a person.
    """
    n = len(clip.t)
    xy = np.full((n, len(BODY), 2), np.nan)
    drift, drift_u = np.zeros((n, 2)), np.zeros(n)
    flow, person = BackgroundFlow(), Person()
    last = n
    with PoseTracker() as tracker:
        feet = np.array([clip.width, clip.height]) / 2.0
        for frame in frames(clip):
            if frame.number >= n:
                break
            found = person.find(tracker, frame.picture, frame.t)
            if found is not None:
                xy[frame.number] = found
            step, u = flow.step(frame.picture, found, feet)
            i = frame.number
            drift[i] = drift[i - 1] + step if i else 0.0
            drift_u[i] = u
            if found is not None:
                feet = found[[BODY.index("l_ankle"), BODY.index("r_ankle")]].mean(axis=0)
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
