"""Two clips beside each other as one film, frame by frame as they were matched, whose each is written under it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from proklisis.footage.drawn import font
from proklisis.footage.frames import Frame, frames
from proklisis.footage.halves import fitted
from proklisis.footage.probe import Clip

Picture = NDArray[np.uint8]
#: Size of one half and of the strip under it, pixels; both even, as H.264 wants them.
WIDE, TALL, STRIP, GAP = 640, 480, 40, 8
PAPER, INK = (255, 255, 255), (22, 32, 43)
TIME_BASE = Fraction(1, 90_000)
#: A film is told of after so many frames.
EVERY = 10


@dataclass(frozen=True)
class Half:
    """One clip of the film.

    Attributes
    ----------
    numbers : the frame that is shown in each of the film's frames, never falling
    boxes : left, top, width, height in pixels of the clip, one a frame of the film; empty: all of it
    words : what stands under it
    """

    clip: Clip
    numbers: Sequence[int]
    boxes: Sequence[Sequence[float]]
    words: str
    mirror: bool = False


def paired(
    a: Half, b: Half, fps: float, out: Path, progress: Callable[[float], None] | None = None
) -> None:
    """Write the film as H.264, ``fps`` frames a second. Raises InputError where a clip cannot be decoded."""
    strips = _strip(a.words), _strip(b.words)
    rate = Fraction(fps).limit_denominator(1001)
    with av.open(str(out), "w", format="mp4", options={"movflags": "+faststart"}) as box:
        stream = box.add_stream("libx264", rate=rate)
        stream.width, stream.height, stream.pix_fmt = 2 * WIDE + GAP, TALL + STRIP, "yuv420p"
        stream.codec_context.time_base = TIME_BASE
        stream.options = {"crf": "21", "preset": "veryfast"}
        for i, (one, other) in enumerate(zip(_shown(a), _shown(b), strict=True)):
            page = np.full((TALL + STRIP, 2 * WIDE + GAP, 3), 255, np.uint8)
            for k, (half, strip) in enumerate(zip((one, other), strips, strict=True)):
                left = k * (WIDE + GAP)
                page[:TALL, left : left + WIDE] = half
                page[TALL:, left : left + WIDE] = strip
            frame = av.VideoFrame.from_ndarray(page, format="rgb24")
            frame.pts, frame.time_base = round(i / rate / TIME_BASE), TIME_BASE
            box.mux(stream.encode(frame))
            if progress and i % EVERY == 0:
                progress(i / len(a.numbers))
        box.mux(stream.encode(None))


def _shown(half: Half) -> Iterator[Picture]:
    """The half's pictures; a frame that cannot be decoded is stood in for by the one before it."""
    wanted = set(half.numbers)
    decoded = frames(half.clip, min(wanted), max(wanted) + 1, wanted)
    held: Frame | None = next(decoded, None)
    last: Picture | None = None if held is None else held.picture
    for k, number in enumerate(half.numbers):
        while held is not None and held.number <= number:
            last = held.picture
            held = next(decoded, None)
        if last is None:
            last = np.zeros((half.clip.height, half.clip.width, 3), np.uint8)
        yield fitted(last, half.boxes[k] if half.boxes else None, half.mirror, (WIDE, TALL))


def _strip(words: str) -> Picture:
    page = Image.new("RGB", (WIDE, STRIP), PAPER)
    ImageDraw.Draw(page).text((10, 8), words, fill=INK, font=font(20))
    return np.asarray(page)
