"""Two clips as one film, beside or over each other, frame by frame as they were matched; whose each is stands under it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import repeat
from pathlib import Path
from typing import Literal

import av
import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from proklisis.core.shapes.telling import Mark
from proklisis.footage.drawn import draw, font
from proklisis.footage.frames import Frame, frames
from proklisis.footage.halves import fit, fitted
from proklisis.footage.probe import Clip

Picture = NDArray[np.uint8]
#: Points of a line, x and y.
Line = Sequence[Sequence[float]]
#: Size of one half and of the strip under it, pixels; both even, as H.264 wants them.
WIDE, TALL, STRIP, GAP = 640, 480, 40, 8
PAPER, INK = (255, 255, 255), (22, 32, 43)
#: Size of the picture where one lies over the other, pixels, and the line between them.
OVER_WIDE, OVER_TALL, EDGE_PX = 960, 720, 2
#: How much of the one that lies over the other is seen.
SHARE = 0.5
How = Literal["beside", "over", "edge", "outline"]
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
    outline : the body's limbs as lines, pixels of the clip, one set a frame of the film; where only an outline of it is shown
    """

    clip: Clip
    numbers: Sequence[int]
    boxes: Sequence[Sequence[float]]
    words: str
    mirror: bool = False
    outline: Sequence[Sequence[Line]] = ()


@dataclass(frozen=True)
class Lay:
    """How the two lie: beside each other, B over A, B right of an edge, or B as an outline over A."""

    how: How = "beside"
    #: Where the edge is, a share of the width from the left.
    edge: float = 0.5

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of one picture."""
        return (WIDE, TALL) if self.how == "beside" else (OVER_WIDE, OVER_TALL)


def paired(
    a: Half,
    b: Half,
    fps: float,
    lay: Lay,
    out: Path,
    progress: Callable[[float], None] | None = None,
) -> None:
    """Write the film as H.264, ``fps`` frames a second. Raises InputError where a clip cannot be decoded."""
    wide, tall = lay.size
    across = 2 * WIDE + GAP if lay.how == "beside" else wide
    foot = np.full((STRIP, across, 3), 255, np.uint8)
    # Half a strip each, also where one picture lies over the other.
    each = (across - GAP) // 2
    foot[:, :each], foot[:, across - each :] = _strip(a.words, each), _strip(b.words, each)
    rate = Fraction(fps).limit_denominator(1001)
    with av.open(str(out), "w", format="mp4", options={"movflags": "+faststart"}) as box:
        stream = box.add_stream("libx264", rate=rate)
        stream.width, stream.height, stream.pix_fmt = across, tall + STRIP, "yuv420p"
        stream.codec_context.time_base = TIME_BASE
        stream.options = {"crf": "21", "preset": "veryfast"}
        others = repeat(None) if lay.how == "outline" else _shown(b, lay.size)
        for i, (one, other) in enumerate(zip(_shown(a, lay.size), others, strict=False)):
            page = np.concatenate([_laid(one, other, b, i, lay), foot])
            frame = av.VideoFrame.from_ndarray(page, format="rgb24")
            frame.pts, frame.time_base = round(i / rate / TIME_BASE), TIME_BASE
            box.mux(stream.encode(frame))
            if progress and i % EVERY == 0:
                progress(i / len(a.numbers))
        box.mux(stream.encode(None))


def _laid(one: Picture, other: Picture | None, b: Half, i: int, lay: Lay) -> Picture:
    """Frame ``i`` of the film, without the words under it."""
    if other is None:
        return _outlined(one, b, i)
    if lay.how == "beside":
        gap = np.full((TALL, GAP, 3), 255, np.uint8)
        return np.concatenate([one, gap, other], axis=1)
    if lay.how == "over":
        return np.asarray(cv2.addWeighted(one, 1 - SHARE, other, SHARE, 0), np.uint8)
    at = round(lay.edge * one.shape[1])
    page = np.concatenate([one[:, :at], other[:, at:]], axis=1)
    page[:, max(at - EDGE_PX // 2, 0) : at + EDGE_PX // 2] = PAPER
    return page


def _outlined(page: Picture, b: Half, i: int) -> Picture:
    wide, tall = page.shape[1], page.shape[0]
    box = b.boxes[i] if b.boxes else (0.0, 0.0, b.clip.width, b.clip.height)
    scale, move = fit(box, (wide, tall))
    marks: list[Mark] = []
    for line in b.outline[i]:
        points = np.asarray(line, float) * scale + move
        if b.mirror:
            points[:, 0] = wide - 1 - points[:, 0]
        marks.append({"kind": "body", "points": points.tolist(), "words": "", "tone": "ghost"})
    return draw(page, marks)


def _shown(half: Half, size: tuple[int, int]) -> Iterator[Picture]:
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
        yield fitted(last, half.boxes[k] if half.boxes else None, half.mirror, size)


def _strip(words: str, wide: int) -> Picture:
    page = Image.new("RGB", (wide, STRIP), PAPER)
    face = font(20 if wide >= WIDE else 16)
    ImageDraw.Draw(page).text((10, 8), words, fill=INK, font=face)
    return np.asarray(page)
