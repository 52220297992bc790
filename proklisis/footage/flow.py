"""How the ground at the rider's feet moves in the picture between two frames."""

from __future__ import annotations

from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
WIDTH = 640  # pictures are shrunk to this before corners are followed
#: Corners are sought in a grid of so many cells.
CELLS = (5, 4)
#: So many corners a cell.
PER_CELL = 14
#: Fewer corners tell nothing (house choice).
FEWEST = 12
#: Corners are sought again in each so-manyth frame; in between they are followed on.
FRESH_FOR = 4
#: Standard uncertainty of one step, pixels of the shrunk picture, from simulated pans.
STEP_U = 0.10
#: Ground as far from the camera as the feet lies in a band so much above and below them, in heights of the rider (house choice).
ABOVE, BELOW = 0.06, 0.16
#: Its corners are sought in so many cells side by side, so many in each: faint ones, since snow and water have no others.
GROUND_CELLS, GROUND_PER_CELL, FAINT = 8, 8, 0.02
#: The ground speaks where this share of what is followed on it moves as one.
AS_ONE = 0.5
#: Two guesses of where to look nearer than this are one, pixels.
SAME_PX = 1.0
#: A point that is followed forth and back comes back within so many pixels.
BACK_PX = 1.0


def _spread_corners(grey: NDArray[np.uint8], mask: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Corners from all over the picture, (k, 1, 2): a painted number must not outvote the snow."""
    h, w = grey.shape
    found = []
    for i in range(CELLS[0]):
        for j in range(CELLS[1]):
            x0, x1, y0, y1 = (
                w * i // CELLS[0],
                w * (i + 1) // CELLS[0],
                h * j // CELLS[1],
                h * (j + 1) // CELLS[1],
            )
            part = cv2.goodFeaturesToTrack(
                grey[y0:y1, x0:x1], PER_CELL, 0.05, 7, mask=mask[y0:y1, x0:x1]
            )
            if part is not None:
                found.append(part + np.array([x0, y0], np.float32))
    return np.concatenate(found) if found else np.empty((0, 1, 2), np.float32)


def _ground_corners(
    grey: NDArray[np.uint8], mask: NDArray[np.uint8], low: int, high: int
) -> NDArray[np.float32]:
    """Faint corners in the rows ``low`` to ``high``, from left to right, (k, 1, 2)."""
    w = grey.shape[1]
    found = []
    for i in range(GROUND_CELLS):
        x0, x1 = w * i // GROUND_CELLS, w * (i + 1) // GROUND_CELLS
        part = cv2.goodFeaturesToTrack(
            grey[low:high, x0:x1], GROUND_PER_CELL, FAINT, 5, mask=mask[low:high, x0:x1]
        )
        if part is not None:
            found.append(part + np.array([x0, low], np.float32))
    return np.concatenate(found) if found else np.empty((0, 1, 2), np.float32)


@dataclass
class BackgroundFlow:
    """Feed frames in order; each call returns the ground's shift since the frame before.

    A camera that travels beside the rider sees far hills stand still while the ground runs by. So the ground at the feet is asked
    first; where it shows nothing to follow, a pan, zoom and roll is fitted to corners from all over the picture by
    RANSAC, so that other people or a painted number do not pull it away.
    """

    #: Mean change of the picture at the last step, grey levels; NaN at the first.
    change: float = field(default=np.nan, init=False)
    _last: NDArray[np.uint8] | None = field(default=None, init=False, repr=False)
    _corners: NDArray[np.float32] | None = field(default=None, init=False, repr=False)
    _age: int = field(default=0, init=False, repr=False)
    #: The ground's shift at the last step, in the shrunk picture: about where to look now.
    _went: Array = field(default_factory=lambda: np.zeros(2), init=False, repr=False)

    def step(
        self, picture: NDArray[np.uint8], person: Array | None, at: Array
    ) -> tuple[Array, float]:
        """Shift (2,) in pixels of the point ``at``, and its standard uncertainty.

        ``person`` (k, 2) marks the rider in this picture, whose corners are left out. With too
        little to follow, the shift is 0 and its uncertainty says that it is worth nothing.
        """
        scale = WIDTH / picture.shape[1]
        size = (WIDTH, max(1, round(scale * picture.shape[0])))
        whole = cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY)
        grey = np.asarray(cv2.resize(whole, size, interpolation=cv2.INTER_AREA), np.uint8)
        last, self._last = self._last, grey
        if last is None:
            return np.zeros(2), 0.0
        self.change = float(cv2.absdiff(last, grey).mean())
        rider = None if person is None else scale * person
        far = self._of_all(last, grey, rider, scale * at)
        near = None if rider is None else self._of_ground(last, grey, rider, scale * at, far)
        shift = far if near is None else near
        if shift is None:
            self._went = np.zeros(2)
            return np.zeros(2), picture.shape[1] / 4.0
        self._went = shift
        return shift / scale, STEP_U / scale

    def _of_all(
        self, last: NDArray[np.uint8], grey: NDArray[np.uint8], rider: Array | None, here: Array
    ) -> Array | None:
        """Shift of ``here`` by a pan, zoom and roll of the whole picture; None where too little is followed."""
        corners = self._around(last, rider)
        if len(corners) < FEWEST:
            return None
        start = np.empty_like(corners)  # filled with what is found
        found, status, _ = cv2.calcOpticalFlowPyrLK(
            last, grey, corners, start, winSize=(17, 17), maxLevel=3
        )
        moved, ok = np.asarray(found, np.float32), np.asarray(status, bool).ravel()
        self._corners = moved[ok & _inside(moved[:, 0], grey.shape)]
        if ok.sum() < FEWEST:
            return None
        fit, inliers = cv2.estimateAffinePartial2D(
            corners[ok], moved[ok], ransacReprojThreshold=0.8
        )
        if fit is None or inliers.sum() < FEWEST // 2:
            return None
        return np.asarray(fit[:, :2] @ here + fit[:, 2] - here)

    def _of_ground(
        self, last: NDArray[np.uint8], grey: NDArray[np.uint8], rider: Array, here: Array, far: Array | None,
    ) -> Array | None:  # fmt: skip
        """Shift of ``here`` by the ground as far off as the feet; None where it shows too little, or moves every way."""
        tall = float(np.ptp(rider[:, 1]))
        h = last.shape[0]
        low, high = (int(np.clip(here[1] + k * tall, 0, h)) for k in (-ABOVE, BELOW))
        if high - low < 8:
            return None
        mask = np.full(last.shape, 255, np.uint8)
        (x0, y0), (x1, y1) = _box(rider, 0.12)
        mask[y0:y1, x0:x1] = 0
        corners = _ground_corners(last, mask, low, high)
        if len(corners) < FEWEST:
            return None
        best: tuple[int, Array] | None = None
        # It may have gone on as before, or as all the rest.
        guesses = [self._went]
        if far is not None and np.linalg.norm(far - self._went) > SAME_PX:
            guesses.append(far)
        for guess in guesses:
            moved, ok = _followed(last, grey, corners, guess)
            if ok.sum() < FEWEST:
                continue
            step = (moved - corners)[ok][:, 0]
            fit, inliers = cv2.estimateAffinePartial2D(
                corners[ok], moved[ok], ransacReprojThreshold=1.0
            )
            if fit is None or abs(float(np.hypot(fit[0, 0], fit[1, 0])) - 1) > 0.15:
                continue
            as_one = int(inliers.sum())
            if as_one >= max(FEWEST // 2, AS_ONE * len(step)) and (
                best is None or as_one > best[0]
            ):
                best = as_one, np.asarray(fit[:, :2] @ here + fit[:, 2] - here)
        return None if best is None else best[1]

    def _around(self, last: NDArray[np.uint8], person: Array | None) -> NDArray[np.float32]:
        """Corners beside the rider in the last picture: those followed so far while they are fresh and many."""
        lo = hi = np.zeros(2)
        if person is not None:
            lo, hi = person.min(axis=0), person.max(axis=0)
            grow = 0.35 * (hi - lo) + 4
            lo, hi = np.maximum(lo - grow, 0), hi + grow
        kept = self._corners
        if kept is not None and self._age < FRESH_FOR:
            kept = kept[~((kept[:, 0] >= lo) & (kept[:, 0] <= hi)).all(axis=1)]
            if len(kept) >= 2 * FEWEST:
                self._age += 1
                return kept
        mask = np.full(last.shape, 255, np.uint8)
        (x0, y0), (x1, y1) = lo.astype(int), hi.astype(int)
        mask[y0:y1, x0:x1] = 0
        self._age = 1
        return _spread_corners(last, mask)


def _followed(
    last: NDArray[np.uint8], grey: NDArray[np.uint8], corners: NDArray[np.float32], guess: Array
) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    """Where corners went, looked for around ``guess``, and which of them come back to where they were."""
    way = np.asarray(guess, np.float32)
    found, there, _ = cv2.calcOpticalFlowPyrLK(
        last, grey, corners, corners + way, winSize=(15, 15), maxLevel=2, flags=cv2.OPTFLOW_USE_INITIAL_FLOW,
    )  # fmt: skip
    moved = np.asarray(found, np.float32)
    back, here, _ = cv2.calcOpticalFlowPyrLK(
        grey, last, moved, moved - way, winSize=(15, 15), maxLevel=2, flags=cv2.OPTFLOW_USE_INITIAL_FLOW,
    )  # fmt: skip
    home = np.linalg.norm((np.asarray(back, np.float32) - corners)[:, 0], axis=1) < BACK_PX
    ok = np.asarray(there, bool).ravel() & np.asarray(here, bool).ravel() & home
    return moved, np.asarray(ok & _inside(moved[:, 0], grey.shape))


def _box(person: Array, grow: float) -> tuple[tuple[int, int], tuple[int, int]]:
    """Corners of the box around a person, larger by a share of its size."""
    lo, hi = person.min(axis=0), person.max(axis=0)
    more = grow * (hi - lo) + 4
    a, b = np.maximum(lo - more, 0).astype(int), (hi + more).astype(int)
    return (int(a[0]), int(a[1])), (int(b[0]), int(b[1]))


def _inside(points: NDArray[np.float32], shape: tuple[int, ...]) -> NDArray[np.bool_]:
    """Which of the (k, 2) points a picture of (height, width) holds, with a margin for the next step."""
    h, w = shape[:2]
    return np.asarray(((points > 8) & (points < [w - 8, h - 8])).all(axis=1))
