"""A coach's corrections on top of what a tracker gave: points put right, boundaries put right.

The tracker's own result is never changed: an ordered list of edits is applied to it, so any of
them can be taken back.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from proklisis.core.errors import InputError
from proklisis.core.splitting.turns import SHORTEST_TURN_S, moved
from proklisis.core.splitting.units import Boundary
from proklisis.core.tracks.by_hand import hand_u
from proklisis.core.tracks.landmarks import in_words
from proklisis.core.tracks.tracks import SOURCES, Tracks

Array = NDArray[np.float64]
#: A correction fades out over at most this time to either side of the marked frame (house choice); the
#: shorter times it may take, and by what factor the path must be smoother for one.
FADE_S = 0.25
#: Times that a correction may take to fade, seconds.
FADES = (0.03, 0.06, 0.09, 0.12, 0.16, 0.20, 0.25)
#: A fade is taken where it leaves this share of the roughness (house choice).
SMOOTHER = 0.9
#: Bends of the path are looked at over this time: those from frame to frame are mostly jitter.
LAG_S = 0.05
#: A gap between a mark and the next sight of a joint is bridged up to this long.
BRIDGE_S = 0.30
#: A path's jitter is taken from so many frames to either side of a mark.
NOISE_ROWS = 12
#: A boundary is named by its time, to so many seconds.
NEAR_S = 0.05


@dataclass(frozen=True)
class Mark:
    """A landmark put to (x, y) pixels in one frame."""

    frame: int
    landmark: str
    x: float
    y: float


@dataclass(frozen=True)
class Cut:
    """A change to the boundaries: ``add`` one at ``t``, ``move`` the one at ``old_t``, ``delete`` it."""

    kind: str  # add | move | delete
    t: float = 0.0
    old_t: float = 0.0


def apply_marks(tracks: Tracks, marks: Iterable[Mark]) -> Tracks:
    """Return the tracks with every mark applied, spread to its neighbours and fading.

    Only what the neighbours share is spread: the tracker's jitter is each frame's own.

    Between two marks of a landmark the shift goes over from one to the other; outside them it
    fades to nothing within :data:`FADE_S`. A gap beside a mark is bridged. A later mark of the same frame replaces an earlier.
    Raises InputError for a landmark or frame that the tracks do not have.
    """
    wanted: dict[str, dict[int, tuple[float, float]]] = defaultdict(dict)
    for m in marks:
        if m.landmark not in tracks.index:
            raise InputError(
                f"the {in_words(m.landmark)} is not tracked on this clip",
                "mark",
                "hand in tracks that have it",
            )
        row = int(np.searchsorted(tracks.frames, m.frame))
        if row >= len(tracks) or tracks.frames[row] != m.frame:
            raise InputError(
                f"there is no frame {m.frame}", "mark", f"frames go from 0 to {tracks.frames[-1]}"
            )
        if not (
            -tracks.facts.width <= m.x <= 2 * tracks.facts.width
            and -tracks.facts.height <= m.y <= 2 * tracks.facts.height
        ):
            raise InputError(
                "the point lies far outside the picture", "mark", "put it on the rider"
            )
        wanted[m.landmark][row] = (m.x, m.y)
    if not wanted:
        return tracks
    xy, u, source = tracks.xy.copy(), tracks.u.copy(), tracks.source.copy()
    for landmark, points in wanted.items():
        rows = np.array(sorted(points))
        # Two marks far apart say nothing of what lies between them.
        for group in np.split(rows, np.flatnonzero(np.diff(tracks.t[rows]) > 2 * FADE_S) + 1):
            _spread(tracks, landmark, {int(r): points[r] for r in group}, xy, u, source)
    return replace(tracks, xy=xy, u=u, source=source)


def _spread(tracks: Tracks, landmark: str, points: dict[int, tuple[float, float]], xy: Array, u: Array,
            source: NDArray[np.uint8]) -> None:  # fmt: skip
    k, t = tracks.index[landmark], tracks.t
    rows = np.array(sorted(points))
    hand = np.array([points[r] for r in rows])
    by_hand = hand_u(tracks.facts.width)
    path = _bridged(tracks, k, rows, hand)
    noise = _noise(path, rows)
    offset = _lasting(hand - path[rows], np.hypot(noise, by_hand))
    shift = np.stack([np.interp(t, t[rows], offset[:, a]) for a in (0, 1)], axis=1)
    gap = np.abs(t[:, None] - t[rows]).min(axis=1)
    before, after = t < t[rows[0]], t > t[rows[-1]]
    left, right = _fades(t, path, shift, rows)
    near = np.where(before, _fade(gap, left), np.where(after, _fade(gap, right), 1.0))
    lost = ~np.isfinite(tracks.u[:, k]) & np.isfinite(path[:, 0])
    moved_rows = (near > 0) | lost
    xy[moved_rows, k] = (path + near[:, None] * shift)[moved_rows]
    touched = near > 0.02
    usual_u = np.nanmedian(tracks.u[:, k]) if np.isfinite(tracks.u[:, k]).any() else by_hand
    before_u = np.where(lost[touched], usual_u, tracks.u[touched, k])
    # What jitters from frame to frame stays in those that were not marked themselves.
    u[touched, k] = np.hypot(
        by_hand, np.hypot(np.minimum(noise, before_u), (1 - near[touched]) * before_u)
    )
    # What is bridged from a mark to where the tracker sees again is known the worse the farther from both.
    u[lost, k] = np.hypot(by_hand, usual_u * (1 + 4 * gap[lost] / FADE_S))
    touched |= lost
    source[touched, k] = SOURCES.index("interpolated")
    xy[rows, k] = hand
    u[rows, k] = by_hand
    source[rows, k] = SOURCES.index("marked")


def _noise(path: Array, rows: NDArray[np.int64]) -> float:
    """How much a path jitters from frame to frame around some rows, pixels, one standard deviation."""
    around = [path[max(0, r - NOISE_ROWS) : r + NOISE_ROWS + 1] for r in rows]
    jumps = np.concatenate([np.diff(p, n=2, axis=0).ravel() for p in around])
    jumps = jumps[np.isfinite(jumps)]
    # A second difference of independent errors has six times their variance; the median is not taken in by slips.
    return float(np.median(np.abs(jumps)) / 0.6745 / 6**0.5) if len(jumps) else 0.0


def _lasting(offset: Array, noise: float) -> Array:
    """The part of (k, 2) offsets that the neighbouring frames share: none of one that jitter alone explains.

    Of its square, twice the jitter's variance is taken away (house choice): what two coordinates of jitter have on average.
    """
    size2 = np.maximum((offset**2).sum(axis=1, keepdims=True), 1e-12)
    return np.asarray(offset * np.maximum(0.0, 1.0 - 2 * noise**2 / size2))


def _fade(gap: Array, width: float) -> Array:
    return np.asarray(0.5 + 0.5 * np.cos(np.pi * np.clip(gap / width, 0, 1)))


def _fades(t: Array, path: Array, shift: Array, rows: NDArray[np.int64]) -> tuple[float, float]:
    """How long a correction takes to fade before the first and after the last mark, seconds.

    A tracker that slipped for a moment left a bump, which only a correction of the bump's own length
    takes away; one that is off all the time left none, and the longest fade adds the least of its own.
    So the fades are those that leave the smoothest path, and the longest where that tells nothing.
    """
    around = (
        (t >= t[rows[0]] - 2 * FADE_S) & (t <= t[rows[-1]] + 2 * FADE_S) & np.isfinite(path[:, 0])
    )
    if around.sum() < 16:
        return FADE_S, FADE_S
    tt, pp, ss = t[around], path[around], shift[around]
    gap = np.abs(tt[:, None] - t[rows]).min(axis=1)
    before, after = tt < t[rows[0]], tt > t[rows[-1]]
    lag = max(1, round(LAG_S / float(np.median(np.diff(tt)))))

    def rough(left: float, right: float) -> float:
        share = np.where(before, _fade(gap, left), np.where(after, _fade(gap, right), 1.0))
        p = pp + share[:, None] * ss
        return float(np.sum((p[2 * lag :] - 2 * p[lag:-lag] + p[: -2 * lag]) ** 2))

    best, kept = (FADE_S, FADE_S), SMOOTHER * rough(FADE_S, FADE_S)
    for left in FADES:
        for right in FADES:
            if (r := rough(left, right)) < kept:
                best, kept = (left, right), r
    return best


def _bridged(tracks: Tracks, k: int, rows: NDArray[np.int64], hand: Array) -> Array:
    """A landmark's path (n, 2) with the gaps around marks filled: from the last sight to the mark and on
    to the next, where they lie no farther apart than :data:`BRIDGE_S`."""
    path, t = tracks.xy[:, k].copy(), tracks.t
    lost = ~np.isfinite(path[:, 0])
    if not lost[rows].any():
        return path
    path[rows[lost[rows]]] = hand[lost[rows]]
    known = np.flatnonzero(np.isfinite(path[:, 0]))
    marked = np.isin(known, rows)
    if len(known) < 2:
        return path
    curve = PchipInterpolator(t[known], path[known])
    for (a, b), by_mark in zip(pairwise(known), marked[1:] | marked[:-1], strict=True):
        if by_mark and b > a + 1 and t[b] - t[a] <= BRIDGE_S:
            path[a + 1 : b] = curve(t[a + 1 : b])
    return path


def apply_cuts(
    found: list[Boundary], cuts: Iterable[Cut], fps: float, shortest_s: float = SHORTEST_TURN_S
) -> list[Boundary]:
    """Return the found boundaries as a coach's cuts change them, in time order.

    What is found can move after a cut was made, when a joint is put right. A cut of a boundary that is gone then does
    nothing, and a found boundary too near a coach's own gives way to it.
    """
    out = sorted(found, key=lambda b: b.t)
    for c in cuts:
        if c.kind in ("move", "delete"):
            at = min(range(len(out)), key=lambda i: abs(out[i].t - c.old_t), default=None)
            if at is None or abs(out[at].t - c.old_t) > shortest_s / 2:
                continue
            gone = out.pop(at)
            if c.kind == "delete":
                continue
            new = moved(gone, c.t, fps)
        else:
            new = moved(Boundary(c.t, 0.0), c.t, fps)
        out = [b for b in out if b.source == "coach" or abs(b.t - c.t) >= shortest_s]
        out = sorted([*out, new], key=lambda b: b.t)
    return out


def check_cut(
    boundaries: list[float],
    cut: Cut,
    first_s: float,
    last_s: float,
    shortest_s: float = SHORTEST_TURN_S,
) -> None:
    """Raise InputError for a cut of a boundary that is not there, outside the clip, or that leaves a unit too short.

    ``boundaries`` are times in seconds as they stand, ``first_s`` to ``last_s`` the clip.
    """
    rest = list(boundaries)
    for t in [cut.t] * (cut.kind != "delete") + [cut.old_t] * (cut.kind != "add"):
        if not first_s <= t <= last_s:
            raise InputError(
                f"{t:.4g} s is outside the clip",
                "boundary",
                f"choose a time from {first_s:.2f} to {last_s:.2f} s",
            )
    if cut.kind != "add":
        old = min(rest, key=lambda t: abs(t - cut.old_t), default=None)
        if old is None or abs(old - cut.old_t) > NEAR_S:
            raise InputError(
                f"there is no boundary at {cut.old_t:.2f} s",
                "boundary",
                "load the page again; somebody may have moved it",
            )
        rest.remove(old)
    if cut.kind != "delete" and any(abs(t - cut.t) < shortest_s for t in rest):
        raise InputError(
            f"a boundary at {cut.t:.2f} s would leave a unit shorter than {shortest_s:g} s", "boundary",
            "move or delete the one beside it",
        )  # fmt: skip
