"""Two pictures as halves of one, each with the rider in its middle and whose it is written on it."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from proklisis.footage.drawn import labelled

Picture = NDArray[np.uint8]
#: Beyond a picture's edge, RGB.
DARK = (16, 32, 46)


def fitted(
    picture: Picture, box: Sequence[float] | None, mirror: bool, size: tuple[int, int]
) -> Picture:
    """A part of a picture in the middle of a (height, width) one of ``size`` = width, height; what lies outside it is dark.

    ``box`` is left, top, width, height in pixels; None: all of it.
    """
    h, w = picture.shape[:2]
    x, y, bw, bh = box if box is not None else (0.0, 0.0, float(w), float(h))
    wide, tall = size
    scale = min(wide / bw, tall / bh)
    # From the middle of the part to the middle of the half.
    move = np.array(
        [[scale, 0, wide / 2 - scale * (x + bw / 2)], [0, scale, tall / 2 - scale * (y + bh / 2)]]
    )
    how = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
    out = cv2.warpAffine(picture, move, (wide, tall), flags=how, borderValue=DARK)
    return np.asarray(out[:, ::-1] if mirror else out, np.uint8)


def beside(
    own: Picture,
    other: Picture,
    boxes: tuple[Sequence[float], Sequence[float]],
    words: Sequence[str],
    mirror: bool,
) -> Picture:
    """Both in one picture of ``own``'s size: beside each other, or one over the other where it is upright.

    ``boxes`` are left, top, width, height of what is shown of each, in pixels of each; ``mirror`` turns ``other`` left to right.
    """
    h, w = own.shape[:2]
    page = np.full_like(own, 255)
    upright = h > w
    gap = max(2, round((h if upright else w) / 160))
    tall, wide = ((h - gap) // 2, w) if upright else (h, (w - gap) // 2)
    for k, (picture, box) in enumerate(zip((own, other), boxes, strict=True)):
        half = fitted(picture, box, mirror and k == 1, (wide, tall))
        half = labelled(half, words[k])
        top, left = (h - tall if upright and k else 0), (w - wide if not upright and k else 0)
        page[top : top + tall, left : left + wide] = half
    return page
