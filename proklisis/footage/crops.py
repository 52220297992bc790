"""Parts of a clip's own frames as small pictures: sharp, since they come from the original."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from proklisis.footage.frames import frames
from proklisis.footage.probe import Clip

#: Longest side of a picture, pixels; what is smaller in the clip is not blown up.
SIDE_PX = 480
QUALITY = 85
#: Frames that lie nearer than this are decoded on one way, rather than sought anew (house choice).
ON_THE_WAY = 120

Box = Sequence[float]


def crops(
    clip: Clip, boxes: Mapping[int, Box], progress: Callable[[int], None] | None = None
) -> dict[int, NDArray[np.uint8]]:
    """Cut a box out of each frame that is asked for.

    Parameters
    ----------
    boxes : frame number → left, top, width, height in pixels of the clip, within the picture
    progress : called with each frame's number as it is made

    Returns
    -------
    frame number → bytes of its JPEG; frames that cannot be decoded are left out
    """
    out: dict[int, NDArray[np.uint8]] = {}
    for stretch in _stretches(sorted(boxes)):
        wanted = set(stretch)
        for f in frames(clip, stretch[0], stretch[-1] + 1, wanted):
            x, y, w, h = (round(v) for v in boxes[f.number])
            part: NDArray[Any] = f.picture[max(y, 0) : y + h, max(x, 0) : x + w]
            if part.size == 0:
                continue
            scale = SIDE_PX / max(part.shape[:2])
            if scale < 1:
                size = (max(1, round(part.shape[1] * scale)), max(1, round(part.shape[0] * scale)))
                part = cv2.resize(part, size, interpolation=cv2.INTER_AREA)
            ok, data = cv2.imencode(".jpg", part[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, QUALITY])
            if ok:
                out[f.number] = data.astype(np.uint8)
                if progress:
                    progress(f.number)
    return out


def _stretches(numbers: Sequence[int]) -> list[list[int]]:
    out: list[list[int]] = []
    for n in numbers:
        if out and n - out[-1][-1] <= ON_THE_WAY:
            out[-1].append(n)
        else:
            out.append([n])
    return out
