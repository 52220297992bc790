"""One exact frame of a clip as a picture."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError


def still(path: Path, t: float) -> NDArray[np.uint8]:
    """Return the (h, w, 3) RGB frame whose time is nearest to ``t`` seconds from the first frame."""
    best: tuple[float, av.VideoFrame] | None = None
    with av.open(str(path)) as box:
        stream = box.streams.video[0]
        base = float(stream.time_base or 0)
        start = (stream.start_time or 0) * base
        box.seek(int(max(t + start - 0.001, 0) / base), stream=stream)
        for frame in box.decode(stream):
            if frame.pts is None:
                continue
            off = frame.pts * base - start - t
            if best is None or abs(off) < abs(best[0]):
                best = off, frame
            if off >= 0:
                break
    if best is None:
        raise InputError(f"there is no frame at {t:.2f} s", path.name)
    return np.asarray(best[1].to_ndarray(format="rgb24"))
