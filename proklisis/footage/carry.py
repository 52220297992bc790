"""Carry a point that was marked in a few frames through the frames between, by optical flow both ways.

From each mark the point is followed forward to the next mark and backward to the one before. Where both
ways agree it is known well; how far they are apart tells how well.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError
from proklisis.core.tracks.by_hand import hand_u
from proklisis.footage.frames import frames
from proklisis.footage.probe import Clip

Array = NDArray[np.float64]
#: Before the first and after the last mark a point is carried so long, seconds.
BEYOND_S = 0.4
#: The flow looks at a window this wide, pixels.
WINDOW = 25
#: At each of so many halvings of the picture.
LEVELS = 4
#: Each step of flow adds so many pixels.
STEP_U = 0.25
#: Both ways apart by this share of the longer side of the picture: nothing is known any more.
LOST_SHARE = 0.04
#: Frames held at once, which bounds the memory of a long stretch between two marks.
MOST_HELD = 600


@dataclass(frozen=True)
class Carried:
    """(m,) frame numbers, (m, 2) pixels, (m,) standard uncertainty in pixels and confidence 0–1."""

    frames: NDArray[np.int64]
    xy: Array
    u: Array
    confidence: Array


def carry(
    clip: Clip,
    marks: dict[int, tuple[float, float]],
    progress: Callable[[int, int], None] | None = None,
) -> Carried:
    """Carry one point from its marks (frame → pixels of the upright clip).

    Raises InputError for a mark outside the clip, or a stretch between marks too long to carry over.
    """
    if not marks:
        raise InputError(
            "there is no mark to carry", clip.path.name, "mark the point in a frame or two"
        )
    rows = sorted(marks)
    n = len(clip.t)
    if rows[0] < 0 or rows[-1] >= n:
        raise InputError(
            f"there is no frame {rows[-1]}", clip.path.name, f"frames go from 0 to {n - 1}"
        )
    first = int(np.searchsorted(clip.t, clip.t[rows[0]] - BEYOND_S))
    stop = int(np.searchsorted(clip.t, clip.t[rows[-1]] + BEYOND_S, side="right"))
    xy = np.full((stop - first, 2), np.nan)
    u, sure = np.full(stop - first, np.nan), np.zeros(stop - first)
    edges = [first, *rows, stop - 1]
    done = 0
    for a, b in pairwise(edges):
        if b - a > MOST_HELD:
            raise InputError(
                f"frames {a} to {b} are too far apart to carry a point over",
                clip.path.name,
                "mark it once more between them",
            )
        if b == a:
            continue
        grey = _grey(clip, a, b + 1)
        here = slice(a - first, b + 1 - first)
        xy[here], u[here], sure[here] = _between(clip, grey, a, marks.get(a), marks.get(b))
        done += b - a
        if progress:
            progress(done, stop - first)
    by_hand = hand_u(clip.width)
    for row in rows:
        xy[row - first], u[row - first], sure[row - first] = marks[row], by_hand, 1.0
    known = np.isfinite(xy[:, 0])
    return Carried(np.arange(first, stop)[known], xy[known], u[known], sure[known])


def _grey(clip: Clip, first: int, stop: int) -> dict[int, NDArray[np.uint8]]:
    return {
        f.number: np.asarray(cv2.cvtColor(f.picture, cv2.COLOR_RGB2GRAY), np.uint8)
        for f in frames(clip, first, stop)
    }


def _between(
    clip: Clip, grey: dict[int, NDArray[np.uint8]], a: int, at_a: tuple[float, float] | None, at_b: tuple[float, float] | None,
) -> tuple[Array, Array, Array]:  # fmt: skip
    """Paths over the frames of ``grey``, from the mark at its first frame, at its last, or both."""
    numbers = sorted(grey)
    m = numbers[-1] - a + 1
    steps = np.arange(m, dtype=float)
    by_hand = hand_u(clip.width)
    forward = _follow(grey, numbers, a, m, at_a, at_b) if at_a is not None else None
    backward = _follow(grey, numbers[::-1], a, m, at_b, at_a) if at_b is not None else None
    if forward is None or backward is None:
        path = forward if forward is not None else backward
        assert path is not None
        far = steps if forward is not None else steps[::-1]
        u = np.hypot(by_hand, STEP_U * far)
        return (
            path,
            np.where(np.isfinite(path[:, 0]), u, np.nan),
            np.exp(-u / (LOST_SHARE * clip.width)),
        )
    w = (steps / max(m - 1, 1))[:, None]
    apart = np.linalg.norm(forward - backward, axis=1)
    path = (1 - w) * forward + w * backward
    # Where the flow lost the point, one way or both, what is left stands alone.
    one = ~np.isfinite(apart)
    path[one] = np.where(np.isfinite(forward[one]), forward[one], backward[one])
    near = STEP_U * np.minimum(steps, steps[::-1])
    u = np.hypot(np.hypot(by_hand, near), np.where(one, 0.5 * LOST_SHARE * clip.width, apart / 2))
    path[u > LOST_SHARE * clip.width] = np.nan
    return (
        path,
        np.where(np.isfinite(path[:, 0]), u, np.nan),
        np.exp(-u / (LOST_SHARE * clip.width)),
    )


def _follow(
    grey: dict[int, NDArray[np.uint8]], numbers: list[int], a: int, m: int, start: tuple[float, float] | None, end: tuple[float, float] | None,
) -> Array:  # fmt: skip
    """(m, 2) path in the order of ``numbers``; where the other mark is known, it tells about where to look."""
    out = np.full((m, 2), np.nan)
    assert start is not None
    point = np.array(start, np.float32)
    out[numbers[0] - a] = point
    step = np.zeros(2, np.float32)
    way = None if end is None else np.array(end, np.float32)
    for k, (old, new) in enumerate(pairwise(numbers)):
        guess = point + (step if k else ((way - point) / len(numbers) if way is not None else 0))
        found, ok, _ = cv2.calcOpticalFlowPyrLK(
            grey[old], grey[new], point.reshape(1, 1, 2), np.asarray(guess, np.float32).reshape(1, 1, 2).copy(),
            winSize=(WINDOW, WINDOW), maxLevel=LEVELS, flags=cv2.OPTFLOW_USE_INITIAL_FLOW,
        )  # fmt: skip
        moved = np.asarray(found, np.float32).reshape(2)
        h, w = grey[new].shape
        if not ok.ravel()[0] or not (0 <= moved[0] < w and 0 <= moved[1] < h):
            break
        step = moved - point
        point = moved
        out[new - a] = point
    return out
