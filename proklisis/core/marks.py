"""A coach's corrections on top of what a tracker gave: points put right, boundaries put right.

The tracker's own result is never changed: an ordered list of edits is applied to it, so any of
them can be taken back.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError
from proklisis.core.splitting.turns import SHORTEST_TURN_S, moved
from proklisis.core.splitting.units import Boundary
from proklisis.core.tracks import SOURCES, Tracks

Array = NDArray[np.float64]
#: A correction fades out over this time to either side of the marked frame (house choice).
FADE_S = 0.25
#: A hand puts a point to about this share of the picture's width, one standard deviation.
HAND_U_SHARE = 0.0015


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

    Between two marks of a landmark the shift goes over from one to the other; outside them it
    fades to nothing within :data:`FADE_S`. A later mark of the same frame replaces an earlier.
    Raises InputError for a landmark or frame that the tracks do not have.
    """
    wanted: dict[str, dict[int, tuple[float, float]]] = defaultdict(dict)
    for m in marks:
        if m.landmark not in tracks.index:
            raise InputError(f"the landmark {m.landmark!r} is not tracked on this clip", "mark")
        row = int(np.searchsorted(tracks.frames, m.frame))
        if row >= len(tracks) or tracks.frames[row] != m.frame:
            raise InputError(f"there is no frame {m.frame}", "mark", f"frames go from 0 to {tracks.frames[-1]}")
        if not (-tracks.facts.width <= m.x <= 2 * tracks.facts.width and -tracks.facts.height <= m.y <= 2 * tracks.facts.height):
            raise InputError("the point lies far outside the picture", "mark", "put it on the rider")
        wanted[m.landmark][row] = (m.x, m.y)
    if not wanted:
        return tracks
    xy, u, source = tracks.xy.copy(), tracks.u.copy(), tracks.source.copy()
    for landmark, points in wanted.items():
        _spread(tracks, landmark, points, xy, u, source)
    return replace(tracks, xy=xy, u=u, source=source)


def _spread(tracks: Tracks, landmark: str, points: dict[int, tuple[float, float]], xy: Array, u: Array,
            source: NDArray[np.uint8]) -> None:  # fmt: skip
    k, t = tracks.index[landmark], tracks.t
    rows = np.array(sorted(points))
    hand = np.array([points[r] for r in rows])
    hand_u = max(HAND_U_SHARE * tracks.facts.width, 0.5)
    path = tracks.xy[:, k]
    if not np.isfinite(path[rows]).all():
        # Where the tracker saw nothing there is nothing to shift: only the marked frames are known.
        shift = np.zeros_like(path)
        near = np.zeros(len(t))
    else:
        offset = hand - path[rows]
        shift = np.stack([np.interp(t, t[rows], offset[:, a]) for a in (0, 1)], axis=1)
        outside = np.maximum(t[rows[0]] - t, t - t[rows[-1]])
        inside_gap = np.array([np.abs(t[rows] - x).min() for x in t])
        near = np.where(outside > 0, 0.5 + 0.5 * np.cos(np.pi * np.clip(outside / FADE_S, 0, 1)), 1.0)
        # Two marks far apart say nothing of what lies between them.
        lonely = (outside <= 0) & (inside_gap > FADE_S)
        near[lonely] = 0.0
        soft = (outside <= 0) & ~lonely & (inside_gap > FADE_S / 2)
        near[soft] = 2 - 2 * inside_gap[soft] / FADE_S
        if len(rows) == 1 or t[rows[-1]] - t[rows[0]] <= 2 * FADE_S:
            near = np.where(outside > 0, near, 1.0)
    xy[:, k] = path + near[:, None] * shift
    touched = near > 0.02
    u[touched, k] = np.hypot(hand_u, (1 - near[touched]) * tracks.u[touched, k])
    source[touched, k] = SOURCES.index("interpolated")
    xy[rows, k] = hand
    u[rows, k] = hand_u
    source[rows, k] = SOURCES.index("marked")


def apply_cuts(
    found: list[Boundary], cuts: Iterable[Cut], fps: float, length_s: float, shortest_s: float = SHORTEST_TURN_S
) -> list[Boundary]:
    """Return the found boundaries as a coach's cuts change them, in time order.

    Raises InputError for a time outside the clip, one that leaves a turn shorter than the
    shortest, or a boundary that is not there.
    """
    out = list(found)
    for c in cuts:
        if c.kind in ("move", "delete"):
            if not out:
                raise InputError("there is no boundary to change", "boundary", "add one first")
            at = min(range(len(out)), key=lambda i: abs(out[i].t - c.old_t))
            if abs(out[at].t - c.old_t) > shortest_s / 2:
                # The tracker's boundaries moved since (a joint was corrected); this one is gone.
                continue
            gone = out.pop(at)
            if c.kind == "delete":
                continue
            new = moved(gone, c.t, fps)
        else:
            new = moved(Boundary(c.t, 0.0), c.t, fps)
        if not 0 <= c.t <= length_s:
            raise InputError(f"{c.t:.2f} s is outside the clip", "boundary", f"choose a time from 0 to {length_s:.2f} s")
        if any(abs(b.t - c.t) < shortest_s for b in out):
            raise InputError(
                f"a boundary at {c.t:.2f} s would leave a unit shorter than {shortest_s:g} s", "boundary",
                "move or delete the one beside it",
            )  # fmt: skip
        out = sorted([*out, new], key=lambda b: b.t)
    return out
