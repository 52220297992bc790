"""What a video file holds, found without decoding it: size, rotation and each frame's own time."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError

LARGEST_PIXELS = 3840 * 2400
LONGEST_S = 1800.0
FEWEST_FRAMES = 10
#: A gap longer than this many usual frame times means that frames are missing.
GAP = 1.6


@dataclass(frozen=True)
class Clip:
    """A readable clip. ``t`` holds each frame's own time in seconds, the first at 0."""

    path: Path
    width: int
    height: int
    codec: str
    rotation: int
    t: NDArray[np.float64]

    @property
    def fps(self) -> float:
        """Frames per second from the middle gap between frames."""
        return float(1.0 / np.median(np.diff(self.t)))

    @property
    def gaps(self) -> NDArray[np.int64]:
        """Indices of frames after which at least one frame is missing."""
        d = np.diff(self.t)
        return np.flatnonzero(d > GAP * np.median(d))


def probe(path: Path) -> Clip:
    """Open a clip and index its frames.

    Raises InputError, in one sentence, for anything that is not a whole, usable video.
    """
    name = path.name
    if not path.exists():
        raise InputError("there is no such file", name, "check its name")
    if path.stat().st_size == 0:
        raise InputError("the file is empty", name, "send it again; the upload may have broken off")
    try:
        with av.open(str(path)) as box:
            return _index(box, path)
    except InputError:
        raise
    except (av.error.FFmpegError, ValueError, OSError) as e:
        raise InputError(
            "this is not a video that can be opened", name,
            "it may be damaged or cut off; send the original MP4, MOV or WebM from the camera again",
        ) from e  # fmt: skip


def _index(box: av.container.InputContainer, path: Path) -> Clip:
    name = path.name
    streams = [s for s in box.streams.video if "attached_pic" not in str(s.disposition)]
    if not streams:
        what = "only sound" if box.streams.audio else "no pictures"
        raise InputError(f"the file holds {what}", name, "send the video itself")
    stream = streams[0]
    context = stream.codec_context
    if context.width * context.height > LARGEST_PIXELS:
        raise InputError(f"the picture of {context.width} × {context.height} is too large", name, "export it at 4K or less")
    base = float(stream.time_base or 0)
    times = []
    for packet in box.demux(stream):
        if packet.pts is not None and packet.size:
            times.append(packet.pts * base)
    if not times:
        raise InputError("the video holds no frames", name, "send the original from the camera again")
    if stream.frames and len(times) < 0.97 * stream.frames:
        raise InputError(f"the file breaks off after {len(times)} of {stream.frames} frames", name, "send it again, whole")
    t = np.unique(np.round(np.sort(times), 9))
    if len(t) < FEWEST_FRAMES:
        raise InputError(f"the clip has only {len(t)} frame{'s' * (len(t) != 1)}", name, "film a run of at least two turns")
    if t[-1] - t[0] > LONGEST_S:
        raise InputError(f"the clip is {(t[-1] - t[0]) / 60:.0f} minutes long", name, "cut it to the run, 30 minutes at most")
    rotation = _rotation(path)
    width, height = context.width, context.height
    if rotation % 180:
        width, height = height, width
    return Clip(path, width, height, context.name, rotation, t - t[0])


def _rotation(path: Path) -> int:
    """Degrees counter-clockwise by which a player turns the stored picture (0, 90, 180, 270)."""
    with av.open(str(path)) as box:
        for frame in box.decode(box.streams.video[0]):
            return round(frame.rotation / 90.0) * 90 % 360
    raise InputError("no frame of the video can be decoded", path.name, "send the original from the camera again")
