"""How good the pictures are: doubled frames, blur and light at the rider."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
#: A frame that changes less than this share of what its neighbours do is the one before it again (house choice).
AGAIN = 0.2
#: Grey levels that a picture changes by at the least, else nothing is known (house choice).
FEWEST_LEVELS = 0.25
#: So many neighbours to either side.
AROUND = 8
#: Blur and light are looked at in each so-manyth frame that shows the rider.
EVERY = 6
#: In a crop this high, pixels.
CROP = 256


def doubled(change: Array) -> NDArray[np.int64]:
    """Rows whose picture is the one before it again.

    ``change`` (n,): mean change of the picture since the frame before, grey levels. A rider at rest
    before a still camera changes little in every frame; only a drop against the neighbours counts.
    """
    n = len(change)
    if n < 6:
        return np.empty(0, np.int64)
    padded = np.pad(
        np.nan_to_num(change, nan=0.0), AROUND, mode="reflect" if n > AROUND else "edge"
    )
    # The lively half of the neighbours: where every second frame is doubled, the middle one would be too.
    usual = np.percentile(
        np.lib.stride_tricks.sliding_window_view(padded, 2 * AROUND + 1), 80, axis=1
    )
    with np.errstate(invalid="ignore"):
        return np.flatnonzero((change < AGAIN * usual) & (usual > FEWEST_LEVELS))


def blur(grey: NDArray[np.uint8]) -> float:
    """How blurred a picture is, from 0 (sharp) to 1, along its worse direction.

    The share of its differences between neighbours that a strong blur leaves over (Crété et al.,
    *The blur effect*, 2007; the form from memory).
    """
    f = grey.astype(np.float32)
    worst = 0.0
    for axis, kernel in ((0, (1, 9)), (1, (9, 1))):
        soft = cv2.blur(f, kernel)
        d, ds = np.abs(np.diff(f, axis=axis)), np.abs(np.diff(soft, axis=axis))
        total = float(d.sum())
        if total > 0:
            worst = max(worst, 1.0 - float(np.maximum(d - ds, 0).sum()) / total)
    return worst


@dataclass
class Looks:
    """Blur (0–1) and light (mean grey level, 0–255) at the rider, every few frames."""

    _count: int = 0

    def at(self, picture: NDArray[np.uint8], person: Array) -> tuple[float, float]:
        """Both for one frame; NaN where it is not this frame's turn."""
        self._count += 1
        if self._count % EVERY != 1:
            return np.nan, np.nan
        lo, hi = person.min(axis=0).clip(0).astype(int), person.max(axis=0).clip(0).astype(int)
        part = picture[lo[1] : hi[1] + 1, lo[0] : hi[0] + 1]
        if min(part.shape[:2]) < 24:
            return np.nan, np.nan
        grey = cv2.cvtColor(part, cv2.COLOR_RGB2GRAY)
        light = float(grey.mean())
        if grey.shape[0] > CROP:
            share = CROP / grey.shape[0]
            grey = cv2.resize(grey, None, fx=share, fy=share, interpolation=cv2.INTER_AREA)
        return blur(np.asarray(grey, np.uint8)), light


def summed_up(xy: Array, blur_at: Array, light_at: Array, height: int) -> dict[str, float | None]:
    """Blur, light and size of the rider over a clip, for its check.

    ``rider_px``, ``rider_px_least``: middle and tenth percentile of the rider's height; ``blur``,
    ``light``: middle values; ``seen``: share of the frames that show the rider.
    """
    y = xy[..., 1]
    # A joint or two may be hidden; a half of a figure says nothing of its height.
    seen = np.isfinite(y).mean(axis=1) > 0.8
    tall = np.nanmax(y[seen], axis=1) - np.nanmin(y[seen], axis=1) if seen.any() else np.empty(0)

    def of(values: Array, percent: float = 50) -> float | None:
        good = values[np.isfinite(values)]
        return round(float(np.percentile(good, percent)), 3) if len(good) else None

    return {
        "rider_px": of(tall), "rider_px_least": of(tall, 10), "blur": of(blur_at), "light": of(light_at),
        "seen": round(float(seen.mean()), 3), "picture_px": float(height),
    }  # fmt: skip
