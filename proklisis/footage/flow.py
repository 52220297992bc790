"""How the scene moves in the picture between two frames, as seen beside the rider."""

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


@dataclass
class BackgroundFlow:
    """Feed frames in order; each call returns the ground's shift since the frame before.

    A pan, zoom and roll between the two frames is fitted to corners of the background by
    RANSAC, so that other people or a painted number do not pull it away.
    """

    #: Mean change of the picture at the last step, grey levels; NaN at the first.
    change: float = field(default=np.nan, init=False)
    _last: NDArray[np.uint8] | None = field(default=None, init=False, repr=False)
    _corners: NDArray[np.float32] | None = field(default=None, init=False, repr=False)
    _age: int = field(default=0, init=False, repr=False)

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
        nothing = np.zeros(2), picture.shape[1] / 4.0
        corners = self._around(last, None if person is None else scale * person)
        if len(corners) < FEWEST:
            return nothing
        start = np.empty_like(corners)  # filled with what is found
        found, status, _ = cv2.calcOpticalFlowPyrLK(
            last, grey, corners, start, winSize=(17, 17), maxLevel=3
        )
        moved, ok = np.asarray(found, np.float32), np.asarray(status, bool).ravel()
        self._corners = moved[ok & _inside(moved[:, 0], grey.shape)]
        if ok.sum() < FEWEST:
            return nothing
        fit, inliers = cv2.estimateAffinePartial2D(
            corners[ok], moved[ok], ransacReprojThreshold=0.8
        )
        if fit is None or inliers.sum() < FEWEST // 2:
            return nothing
        here = scale * at
        shift = fit[:, :2] @ here + fit[:, 2] - here
        return shift / scale, STEP_U / scale

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


def _inside(points: NDArray[np.float32], shape: tuple[int, ...]) -> NDArray[np.bool_]:
    """Which of the (k, 2) points a picture of (height, width) holds, with a margin for the next step."""
    h, w = shape[:2]
    return np.asarray(((points > 8) & (points < [w - 8, h - 8])).all(axis=1))
