"""From a clip to tracks: the body by the pose network, the scene by optical flow.

A long clip is followed in pieces, side by side on any number of workers. Each piece starts a
little before the one before it ends, so that the tracker has settled where they are joined.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import CHAIN
from proklisis.core.errors import InputError
from proklisis.core.gear.found import with_found_gear
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import SOURCES, ClipFacts, Tracks
from proklisis.footage.ahead import ahead
from proklisis.footage.edges import MOST, Edges
from proklisis.footage.flow import BackgroundFlow
from proklisis.footage.frames import frames
from proklisis.footage.looks import Looks, doubled
from proklisis.footage.people import Seeds, find_people, seeds_of
from proklisis.footage.point_u import ERROR_CORR_S, point_u
from proklisis.footage.pose import PoseTracker
from proklisis.footage.probe import Clip

Array = NDArray[np.float64]

#: A trunk this much shorter or longer than usual is a wrong find, not a rider.
TRUNK_LIMITS = (0.65, 1.5)
#: No camera ahead, behind or beside shows a trunk outside these shares of the leg (house choice).
TRUNK_TO_LEG = (0.30, 1.20)
#: For so many frames a lost rider is searched near where they were.
SEARCH_FRAMES = 60
#: In a window of so many heights.
WINDOW = 0.9
#: A find this many heights from where the rider was sampled is somebody else.
ELSEWHERE = 0.5
#: Among others this is held against so many frames on either side of a sample, too.
BETWEEN_FRAMES = 20
#: In a crowd the tracker sees this many heights around where the rider was sampled.
SURROUND = 0.8
#: The tracker gets what lies this many of the rider's heights around their places.
ROOM = 1.0
#: Where that is so much of the picture at the most.
MUCH = 0.6
#: How much of shank, thigh and trunk together a skier's usual crouch leaves to be seen (house choice).
SEEN_SHARE = 0.90
SCALE_REL_U = 0.08
#: Frames a piece is long.
PIECE_FRAMES = 480
#: Frames at its start that lie in the piece before: the first half of them settles the tracker, over the other half one goes
#: over into the other.
SHARED_FRAMES = 40


@dataclass(frozen=True)
class Piece:
    """Frames ``first`` … ``stop`` − 1 of a clip as one worker followed them, row for row.

    Attributes
    ----------
    xy : (m, 19, 2) pixels of the body, NaN where not seen
    step, step_u : (m, 2) and (m,) shift of the ground since the frame before, pixels
    change : (m,) mean change of the picture since the frame before, grey levels; NaN for the first
    decoded : (m,) whether the frame could be decoded
    blur, light : (m,) at the rider, NaN where they were not looked at (see ``looks``)
    depth : (m, 19) how far each point lies behind the middle of the hips, pixels, as the network has it
    edges : (m, MOST, 4) straight edges around the rider (see ``edges``), NaN where there are fewer
    """

    first: int
    xy: Array
    step: Array
    step_u: Array
    change: Array
    decoded: NDArray[np.bool_]
    blur: Array
    light: Array
    depth: Array
    edges: Array

    @property
    def stop(self) -> int:
        return self.first + len(self.xy)


@dataclass
class Person:
    """What this rider has looked like so far, to tell a find from a wrong find."""

    seeds: Seeds | None = None
    trunks: deque[float] = field(default_factory=lambda: deque(maxlen=120))
    centre: Array | None = None
    height: float = 0.0
    lost: int = 0
    started: bool = False
    #: Left, top, right and bottom of the part of the picture that the tracker gets; None for all of it.
    window: tuple[int, int, int, int] | None = None

    def keep_to(self, numbers: range, width: int, height: int) -> None:
        """Choose the part of the picture that holds the rider all the way: in it they are larger to the detector."""
        if self.seeds is None:
            return
        inside = [
            k
            for k, n in enumerate(self.seeds.numbers)
            if numbers.start - SEARCH_FRAMES <= n < numbers.stop + SEARCH_FRAMES
        ]
        if len(inside) < 2:
            return
        centres, room = self.seeds.centres[inside], ROOM * float(self.seeds.heights[inside].max())
        (x0, y0), (x1, y1) = (
            (centres.min(axis=0) - room).clip(0).astype(int),
            (centres.max(axis=0) + room).astype(int),
        )
        window = int(x0), int(y0), int(min(x1, width)), int(min(y1, height))
        if (window[2] - window[0]) * (window[3] - window[1]) < MUCH * width * height:
            self.window = window

    def find(
        self, tracker: PoseTracker, picture: NDArray[np.uint8], t: float, number: int = -1
    ) -> Array | None:
        """The rider in the next frame; a wrong find is searched again around their last place."""
        shown, corner = self._shown(picture, number), (0, 0)
        if self.window is not None:
            x0, y0, x1, y1 = self.window
            shown, corner = shown[y0:y1, x0:x1], (x0, y0)
        found = tracker.follow(shown, t)
        if found is not None:
            found = found + corner
        seed = self._known(number)
        if seed is not None and self._elsewhere(found, *seed):
            # Where the rider is known to be counts for more than where the tracker went.
            self.centre, self.height, self.lost = *seed, 0
            found = None
        if not self._fits(found) and self.centre is not None and self.lost < SEARCH_FRAMES:
            if found is not None:
                tracker.restart()
            found = tracker.look(picture, self.centre, WINDOW * self.height)
        if not self._fits(found) or (
            seed is not None and self._crowded and self._elsewhere(found, *seed)
        ):
            self.lost += 1
            return None
        assert found is not None
        self.lost = 0
        self.trunks.append(_trunk(found))
        self.centre = (found.min(axis=0) + found.max(axis=0)) / 2
        self.height = float(np.ptp(found[:, 1]))
        return found

    def _shown(self, picture: NDArray[np.uint8], number: int) -> NDArray[np.uint8]:
        """What the tracker gets to see: in a crowd, the rider's surroundings only, else all; it goes where it likes."""
        near = self.seeds.near(number, SEARCH_FRAMES) if self.seeds is not None else None
        if near is None or (self.started and not self._crowded):
            return picture
        self.started = True
        centre, height = near
        lo, hi = (
            (centre - SURROUND * height).astype(int).clip(0),
            (centre + SURROUND * height).astype(int).clip(0),
        )
        alone = np.full_like(picture, 127)
        alone[lo[1] : hi[1], lo[0] : hi[0]] = picture[lo[1] : hi[1], lo[0] : hi[0]]
        return alone

    @property
    def _crowded(self) -> bool:
        return self.seeds is not None and self.seeds.crowded

    def _known(self, number: int) -> tuple[Array, float] | None:
        """Where the rider must be: in a sampled frame, and among others between samples too."""
        if self.seeds is None:
            return None
        return self.seeds.near(number, BETWEEN_FRAMES if self._crowded else 0)

    @staticmethod
    def _elsewhere(found: Array | None, centre: Array, height: float) -> bool:
        if found is None:
            return True
        return bool(
            np.linalg.norm((found.min(axis=0) + found.max(axis=0)) / 2 - centre)
            > ELSEWHERE * height
        )

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

    return max(
        max(piece(f"{s}_hip", f"{s}_knee") + piece(f"{s}_knee", f"{s}_ankle") for s in "lr"), 1.0
    )


def _trunk(found: Array) -> float:
    at = [found[BODY.index(n)] for n in ("l_shoulder", "r_shoulder", "l_hip", "r_hip")]
    return float(np.linalg.norm((at[0] + at[1] - at[2] - at[3]) / 2))


def plan_pieces(n: int) -> list[tuple[int, int]]:
    """(first, stop) frames of each piece of a clip of ``n`` frames, sharing frames with the one before."""
    count = max(1, round(n / PIECE_FRAMES))
    edges = np.linspace(0, n, count + 1).round().astype(int)
    return [
        (max(0, int(a) - SHARED_FRAMES) if k else 0, int(b))
        for k, (a, b) in enumerate(pairwise(edges))
    ]


def follow_piece(clip: Clip, first: int, stop: int, seeds: Seeds | None = None,
                 progress: Callable[[int, int], None] | None = None) -> Piece:  # fmt: skip
    """Follow the rider through some frames; ``progress`` is called with (frames done, all) and may raise to stop.

    ``seeds`` say where the chosen rider is; without them it is whoever is seen first.
    """
    m = stop - first
    out = Piece(
        first, np.full((m, len(BODY), 2), np.nan), np.zeros((m, 2)), np.zeros(m), np.full(m, np.nan),
        np.zeros(m, bool), np.full(m, np.nan), np.full(m, np.nan), np.full((m, len(BODY)), np.nan),
        np.full((m, MOST, 4), np.nan),
    )  # fmt: skip
    flow, person, looks, edges = BackgroundFlow(), Person(seeds), Looks(), Edges()
    feet = np.array([clip.width, clip.height]) / 2.0
    person.keep_to(range(first, stop), clip.width, clip.height)

    def scene(i: int, picture: NDArray[np.uint8], found: Array | None) -> None:
        nonlocal feet
        out.step[i], out.step_u[i] = flow.step(picture, found, feet)
        out.change[i] = flow.change
        if found is not None:
            feet = found[[BODY.index("l_ankle"), BODY.index("r_ankle")]].mean(axis=0)
            out.blur[i], out.light[i] = looks.at(picture, found)
            out.edges[i] = edges.at(picture, found)

    # The next frame is decoded and the last one's scene looked at while the network works at this one.
    with PoseTracker() as tracker, ThreadPoolExecutor(1) as beside:
        last: Future[None] | None = None
        for frame in ahead(frames(clip, first, stop)):
            i = frame.number - first
            found = person.find(tracker, frame.picture, frame.t - clip.t[first], frame.number)
            out.decoded[i] = True
            if found is not None:
                out.xy[i], out.depth[i] = found, tracker.depth
            if last is not None:
                last.result()
            last = beside.submit(scene, i, frame.picture, found)
            if progress:
                progress(i + 1, m)
        if last is not None:
            last.result()
    return out


def joined(pieces: list[Piece], n: int) -> Piece:
    """One piece from those of a whole clip of ``n`` frames. Where two share frames, one goes over into the other."""
    pieces = sorted(pieces, key=lambda p: p.first)
    end = 0
    for p in pieces:
        if p.first > end:
            raise ValueError(f"frames {end} to {p.first - 1} belong to no piece")
        end = max(end, p.stop)
    if end < n:
        raise ValueError(f"frames {end} to {n - 1} belong to no piece")
    whole = {
        k: getattr(pieces[0], k).copy()
        for k in ("xy", "step", "step_u", "change", "decoded", "blur", "light", "depth", "edges")
    }
    for p in pieces[1:]:
        have = len(whole["xy"])
        shared = have - p.first
        # The tracker of the later piece has settled in its first half; the weights of it then rise.
        cut = p.first + shared // 2
        weight = np.clip((np.arange(cut, have) - cut + 0.5) / max(have - cut, 1), 0, 1)
        old, new = whole["xy"][cut:have], p.xy[cut - p.first : have - p.first]
        w = weight[:, None, None]
        mixed = (1 - w) * old + w * new
        # Where only one of the two saw the rider, or they saw different ones, there is nothing to mix.
        apart = np.linalg.norm(old - new, axis=-1).max(axis=-1) > 0.15 * np.ptp(
            old[..., 1], axis=-1
        )
        one = ~np.isfinite(mixed).all(axis=(1, 2)) | apart
        use_old = np.where(
            np.isfinite(old).all(axis=(1, 2)),
            ~np.isfinite(new).all(axis=(1, 2)) | (weight < 0.5),
            False,
        )
        mixed[one] = np.where(use_old[one][:, None, None], old[one], new[one])
        for k, rows in whole.items():
            whole[k] = np.concatenate([rows[:cut], getattr(p, k)[cut - p.first :]])
        whole["xy"][cut:have] = mixed
    return Piece(0, **whole)


def follow(clip: Clip, facts: ClipFacts, height_m: float | None = None,
           progress: Callable[[int, int], None] | None = None, gear: Sequence[str] = ()) -> Tracks:  # fmt: skip
    """Track the likeliest rider through a whole clip in this process; ``progress`` is called with (frames done, all).

    ``height_m``, the rider's stature, gives the scale that loads need; ``gear`` names what is looked for (see ``core/gear``).
    Raises InputError when hardly any frame shows a person.
    """
    people = find_people(clip)
    whole = follow_piece(clip, 0, len(clip.t), seeds_of(people) if people else None, progress)
    return with_found_gear(as_tracks(clip, facts, whole, height_m), whole.edges, gear)


def as_tracks(clip: Clip, facts: ClipFacts, whole: Piece, height_m: float | None) -> Tracks:
    """Tracks of a whole clip: wrong finds dropped, with ±. Frames that could not be decoded are empty.

    A doubled frame shows an earlier moment than its time tells, so nothing is read from it.
    Raises InputError when hardly any frame shows a person.
    """
    twice = doubled(whole.change)
    xy = whole.xy.copy()
    xy[twice] = np.nan
    _drop_implausible(xy)
    drift, drift_u = np.cumsum(whole.step, axis=0), whole.step_u
    seen = np.isfinite(xy[..., 0]).all(axis=1)
    if seen.sum() < 0.2 * max(int(whole.decoded.sum()) - len(twice), 1):
        share = "no frame" if not seen.any() else f"only {seen.mean():.0%} of the frames"
        raise InputError(
            f"a person can be followed in {share}", clip.path.name,
            "film closer, so that the rider is at least a third of the picture's height",
        )  # fmt: skip
    n, t = len(xy), clip.t
    names = (*BODY, "scene_drift")
    scale = None if height_m is None else _px_per_m(xy[seen], height_m)
    facts = facts.model_copy(
        update={
            "fps": true_fps(clip.t, twice), "width": clip.width, "height": clip.height, "error_corr_s": ERROR_CORR_S,
            **({"px_per_m": scale, "px_per_m_rel_u": SCALE_REL_U} if scale else {}),
        }
    )  # fmt: skip
    u = point_u(xy, facts.view)
    return Tracks(
        np.arange(n), t.copy(), names, np.concatenate([xy, drift[:, None]], axis=1),
        np.concatenate([u, drift_u[:, None]], axis=1), np.full((n, len(names)), SOURCES.index("auto"), np.uint8), facts,
        depth=np.where(np.isfinite(xy[..., 0]), whole.depth, np.nan),
    )  # fmt: skip


def true_fps(t: Array, twice: NDArray[np.int64]) -> float:
    """Frames a second that show something new."""
    single = np.delete(t, twice)
    return float(1.0 / np.median(np.diff(single if len(single) > 2 else t)))


def _drop_implausible(xy: Array) -> None:
    """Empty the frames whose trunk has a length no body of this rider can show."""
    at = {n: xy[:, BODY.index(n)] for n in ("l_shoulder", "r_shoulder", "l_hip", "r_hip")}
    trunk = np.linalg.norm(
        (at["l_shoulder"] + at["r_shoulder"] - at["l_hip"] - at["r_hip"]) / 2, axis=1
    )
    usual = np.nanmedian(trunk) if np.isfinite(trunk).any() else np.nan
    with np.errstate(invalid="ignore"):
        wrong = (trunk < TRUNK_LIMITS[0] * usual) | (trunk > TRUNK_LIMITS[1] * usual)
    xy[wrong] = np.nan


def _px_per_m(xy: Array, height_m: float) -> float:
    """Scale from the rider's stature and the longest shank–thigh–trunk chain that is seen."""
    mid = {
        p: (xy[:, BODY.index(f"l_{p}")] + xy[:, BODY.index(f"r_{p}")]) / 2
        for p in ("shoulder", "hip", "knee", "ankle")
    }
    chain = sum(
        np.linalg.norm(mid[a] - mid[b], axis=1)
        for a, b in (("shoulder", "hip"), ("hip", "knee"), ("knee", "ankle"))
    )
    return float(np.percentile(chain, 75) / (CHAIN * SEEN_SHARE * height_m))
