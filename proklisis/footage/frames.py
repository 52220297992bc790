"""Decode a clip frame by frame, upright, each with its number and its own time."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import av
import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError
from proklisis.footage.probe import Clip


class Frame(NamedTuple):
    """``picture`` is (height, width, 3) RGB; ``t`` seconds from the clip's first frame."""

    number: int
    t: float
    picture: NDArray[np.uint8]


def frames(clip: Clip) -> Iterator[Frame]:
    """Yield every frame in order of time.

    Raises InputError when the file stops decoding before its last frame.
    """
    number, first = 0, None
    with av.open(str(clip.path)) as box:
        stream = box.streams.video[0]
        stream.thread_type = "AUTO"
        try:
            for raw in box.decode(stream):
                if raw.pts is None:
                    continue
                t = float(raw.pts * (raw.time_base or stream.time_base))
                first = t if first is None else first
                picture = raw.to_ndarray(format="rgb24")
                if clip.rotation:
                    picture = np.ascontiguousarray(np.rot90(picture, clip.rotation // 90))
                yield Frame(number, t - first, picture)
                number += 1
        except av.error.FFmpegError as e:
            raise InputError(f"the video cannot be decoded after frame {number}", clip.path.name, "send it again, whole") from e
    if number < 0.97 * len(clip.t):
        raise InputError(f"the video breaks off after {number} of {len(clip.t)} frames", clip.path.name, "send it again, whole")
