"""A few seconds of a simulated run as one picture of many cells, which a page shows frame by frame."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from proklisis.core.rider.mass import MIDPOINTS
from proklisis.core.tracks.landmarks import SCENE, is_scene
from proklisis.core.tracks.tracks import Tracks
from proklisis.simulate.render.outfit import outfit
from proklisis.simulate.render.renderer import FAR_AWAY, Renderer
from proklisis.simulate.run import Simulated

Array = NDArray[np.float64]
#: Side of a cell, pixels; cells in a row.
CELL_PX, COLUMNS = 300, 8
#: How far around the rider a cell reaches, times the rider's own reach.
AROUND = 1.35
QUALITY = 70


@dataclass(frozen=True)
class Strip:
    """Cells row by row in one WebP picture; ``step_s`` seconds from one to the next."""

    webp: bytes
    count: int
    columns: int
    cell_px: int
    step_s: float


def rider_box(exact: Tracks, i: int) -> Array:
    """(left, top, right, bottom) pixels of rider and gear in a frame, without the scene and what is far off."""
    near = [
        xy for xy, n in zip(exact.xy[i], exact.names, strict=True)
        if np.isfinite(xy).all() and n not in SCENE and n not in FAR_AWAY and not is_scene(n)
    ]  # fmt: skip
    return np.concatenate([np.min(near, axis=0), np.max(near, axis=0)])


class Cells:
    """A window that keeps the rider in its middle, over chosen frames of a run."""

    def __init__(self, sim: Simulated, rows: list[int]) -> None:
        self.sim, self.rows = sim, rows
        boxes = np.array([rider_box(sim.exact, i) for i in rows])
        self.middle = (boxes[:, :2] + boxes[:, 2:]) / 2
        self.reach = (
            float(np.percentile((boxes[:, 2:] - boxes[:, :2]).max(axis=1), 95)) / 2 * AROUND
        )

    def place(self, k: int, landmark: str) -> Array | None:
        """Where a landmark stands in cell ``k``, shares of its side; None where it is not in the picture."""
        exact, i = self.sim.exact, self.rows[k]
        parts = MIDPOINTS.get(landmark, (landmark,))
        if any(p not in exact.names for p in parts):
            return None
        xy = np.mean([exact.xy[i, exact.names.index(p)] for p in parts], axis=0)
        share = (xy - self.middle[k]) / (2 * self.reach) + 0.5
        return np.asarray(share) if np.isfinite(share).all() and (share >= 0).all() and (share <= 1).all() else None  # fmt: skip

    def strip(self, seed: int) -> Strip:
        """Draw the cells, each a square of the run's own picture around the rider."""
        motion, columns = self.sim.motion, min(COLUMNS, len(self.rows))
        high = math.ceil(len(self.rows) / columns)
        sheet = np.zeros((high * CELL_PX, columns * CELL_PX, 3), np.uint8)
        with Renderer(motion, self.sim.shot, outfit(seed), seed) as renderer:
            for k, i in enumerate(self.rows):
                picture = renderer.frame(i, {n: p[i] for n, p in motion.points.items()})
                y, x = divmod(k, columns)
                sheet[y * CELL_PX : (y + 1) * CELL_PX, x * CELL_PX : (x + 1) * CELL_PX] = self._cut(picture, k)  # fmt: skip
        out = io.BytesIO()
        Image.fromarray(sheet).save(out, "WEBP", quality=QUALITY, method=4)
        steps = np.diff(motion.t[self.rows])
        return Strip(out.getvalue(), len(self.rows), columns, CELL_PX, float(np.mean(steps)) if len(steps) else 0.0)  # fmt: skip

    def _cut(self, picture: NDArray[np.uint8], k: int) -> NDArray[np.uint8]:
        """The square around the rider, its edges repeated where it reaches beyond the picture."""
        (x, y), r = self.middle[k], self.reach
        scale = CELL_PX / (2 * r)
        move = np.array([[scale, 0, CELL_PX / 2 - x * scale], [0, scale, CELL_PX / 2 - y * scale]])
        return np.asarray(
            cv2.warpAffine(picture, move, (CELL_PX, CELL_PX), flags=cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.uint8
        )  # fmt: skip


def rows_between(sim: Simulated, start_s: float, end_s: float, step_s: float) -> list[int]:
    """Frames from one moment to another, evenly, none of them twice."""
    t = sim.motion.t
    wanted = np.arange(max(start_s, float(t[0])), min(end_s, float(t[-1])) + 1e-9, step_s)
    return sorted({int(np.abs(t - w).argmin()) for w in wanted})
