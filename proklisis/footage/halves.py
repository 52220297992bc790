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
    scale, (right, down) = fit(box if box is not None else (0.0, 0.0, w, h), size)
    move = np.array([[scale, 0, right], [0, scale, down]])
    how = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
    out = cv2.warpAffine(picture, move, size, flags=how, borderValue=DARK)
    return np.asarray(out[:, ::-1] if mirror else out, np.uint8)


def fit(box: Sequence[float], size: tuple[int, int]) -> tuple[float, tuple[float, float]]:
    """How a box comes into the middle of a picture of ``size`` = width, height: a point p stands at scale · p + move there."""
    x, y, wide, tall = box
    scale = min(size[0] / wide, size[1] / tall)
    return scale, (size[0] / 2 - scale * (x + wide / 2), size[1] / 2 - scale * (y + tall / 2))


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
