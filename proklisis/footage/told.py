"""A told film: the run's own frames as they were told, with what was drawn over them, captions and voice, as MP4."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from proklisis.core.errors import InputError
from proklisis.core.shapes.telling import Overlay, Played
from proklisis.core.telling.played import FPS
from proklisis.footage.drawn import draw, inset, panel
from proklisis.footage.frames import frames
from proklisis.footage.probe import Clip
from proklisis.footage.sound import opened_sound

Picture = NDArray[np.uint8]
#: A told film is no larger than this.
TALLEST, WIDEST = 720, 1280
SOUND_HZ = 48_000
TIME_BASE = Fraction(1, 90_000)
EVERY = 15


def told(
    clip: Clip,
    played: Played,
    rows: Sequence[int],
    numbers: Mapping[int, int],
    figures: Mapping[str, Path],
    recordings: Mapping[int, Path],
    burnt: bool,
    out: Path,
    progress: Callable[[float], None] | None = None,
) -> None:
    """Write the film as H.264, with AAC where anything is heard.

    Parameters
    ----------
    rows : the frame of the run in each frame of the film, :data:`FPS` a second
    numbers : frame of the run → its number in the clip
    figures : fault → picture of its figure
    recordings : number → file of a recording
    burnt : captions stand on the picture, not beside the film

    Raises InputError where the clip or a recording cannot be decoded.
    """
    count = len(rows)
    width, height, scale = _size(clip)
    pictures = _Pictures(clip, [numbers[r] for r in rows], (width, height))
    shown_figures: dict[str, Picture] = {}
    with av.open(str(out), "w", format="mp4", options={"movflags": "+faststart"}) as box:
        video = box.add_stream("libx264", rate=FPS)
        video.width, video.height, video.pix_fmt = width, height, "yuv420p"
        video.codec_context.time_base = TIME_BASE
        # A coach waits for it; a smaller file would take twice as long.
        video.options = {"crf": "24", "preset": "superfast", "g": str(2 * FPS)}
        video.codec_context.thread_count = 0
        audio = None
        if played["heard"]:
            audio = box.add_stream("aac", rate=SOUND_HZ, layout="mono", bit_rate=96_000)
        key: Any = None
        for i, row in enumerate(rows):
            t = (i + 0.5) / FPS
            over = [o for o in played["overlays"] if o["from_s"] <= t < o["to_s"]]
            said = next((c["text"] for c in played["captions"] if c["from_s"] <= t < c["to_s"]), "")
            # A picture that stands is made once.
            now = (row, [id(o) for o in over], said)
            if now != key:
                page = laid_over(pictures.at(i), row, over, scale, figures, shown_figures)
                if burnt and said:
                    page = panel(page, "", [said], below=True)
                key = now
                yuv = cv2.cvtColor(page, cv2.COLOR_RGB2YUV_I420).astype(np.uint8, copy=False)
                frame = av.VideoFrame.from_ndarray(yuv, format="yuv420p")
            frame.pts, frame.time_base = round(i / FPS / TIME_BASE), TIME_BASE
            box.mux(video.encode(frame))
            if progress and i % EVERY == 0:
                progress(0.95 * i / count)
        box.mux(video.encode(None))
        if audio is not None:
            for block in _blocks(_voice(played, recordings, count / FPS)):
                box.mux(audio.encode(block))
            box.mux(audio.encode(None))


def _size(clip: Clip) -> tuple[int, int, float]:
    """Even width and height of the film, and its scale."""
    scale = min(1.0, TALLEST / min(clip.height, clip.width), WIDEST / max(clip.width, clip.height))
    width, height = (2 * round(x * scale / 2) for x in (clip.width, clip.height))
    return width, height, width / clip.width


class _Pictures:
    """The frames in the order in which they are shown, each decoded on the way where that is forward."""

    def __init__(self, clip: Clip, wanted: Sequence[int], size: tuple[int, int]) -> None:
        self.clip, self.wanted, self.size = clip, wanted, size
        self.flow: Iterator[Any] | None = None
        self.next: Any = None
        self.number, self.last = -1, np.zeros((size[1], size[0], 3), np.uint8)

    def at(self, i: int) -> Picture:
        number = self.wanted[i]
        if number == self.number:
            return self.last
        if self.flow is None or number < self.number:
            self._seek(i)
        while self.next is not None and self.next.number <= number:
            held = self.next
            self.next = next(self.flow, None)  # type: ignore[arg-type]
            if self.next is None or self.next.number > number:
                self.last = held.picture
                if held.picture.shape[1::-1] != self.size:
                    smaller = cv2.resize(held.picture, self.size, interpolation=cv2.INTER_AREA)
                    self.last = smaller.astype(np.uint8)
        self.number = number
        return self.last

    def _seek(self, i: int) -> None:
        """Begin to decode at a frame; as far as the Telling goes forward from it."""
        ahead = [self.wanted[i]]
        for n in self.wanted[i + 1 :]:
            if n < ahead[-1]:
                break
            ahead.append(n)
        self.flow = frames(self.clip, ahead[0], ahead[-1] + 1, set(ahead))
        self.next = next(self.flow, None)


def laid_over(
    picture: Picture, row: int, over: Sequence[Overlay], scale: float, figures: Mapping[str, Path], kept: dict[str, Picture]
) -> Picture:  # fmt: skip
    """A copy of a frame's picture with all that lies over it.

    ``row`` is the frame of the run, ``scale`` the picture's to the clip; ``kept`` holds figures that were read before.
    """
    marks = [m for o in over for m in o["marks"].get(row, [])]
    page = draw(picture, marks, scale) if marks else picture
    for o in over:
        if o["figure"] in figures:
            if o["figure"] not in kept:
                with Image.open(figures[o["figure"]]) as image:
                    kept[o["figure"]] = np.array(image.convert("RGB"), np.uint8)
            page = inset(page, kept[o["figure"]])
        if o["title"] or o["lines"]:
            page = panel(page, o["title"], o["lines"])
    return page


def _voice(played: Played, recordings: Mapping[int, Path], length_s: float) -> NDArray[np.float32]:
    """(n,) what is heard, from −1 to 1, at :data:`SOUND_HZ`."""
    out = np.zeros(round(length_s * SOUND_HZ), np.float32)
    known: dict[int, NDArray[np.float32]] = {}
    for h in played["heard"]:
        if h["recording"] not in recordings:
            continue
        if h["recording"] not in known:
            known[h["recording"]] = heard(recordings[h["recording"]])
        a, b = (round(h[k] * SOUND_HZ) for k in ("from_s", "to_s"))  # type: ignore[literal-required]
        part = known[h["recording"]][a:b]
        at = round(h["at_s"] * SOUND_HZ)
        part = part[: max(0, len(out) - at)]
        out[at : at + len(part)] += part
    return np.clip(out, -1, 1)


def heard(path: Path) -> NDArray[np.float32]:
    """(n,) a recording as one channel, from −1 to 1, at :data:`SOUND_HZ`. What breaks off is heard as far as it goes."""
    out: list[NDArray[np.float32]] = []
    try:
        box = opened_sound(path)
    except (av.FFmpegError, OSError, InputError) as e:
        raise InputError("a recording cannot be read", path.name, "record its passage anew") from e
    with box:
        if not box.streams.audio:
            return np.zeros(0, np.float32)
        turn = av.AudioResampler(format="flt", layout="mono", rate=SOUND_HZ)
        try:
            for frame in box.decode(box.streams.audio[0]):
                out += [r.to_ndarray()[0].astype(np.float32) for r in turn.resample(frame)]
        except av.FFmpegError:
            pass
        out += [r.to_ndarray()[0].astype(np.float32) for r in turn.resample(None)]
    return np.concatenate(out) if out else np.zeros(0, np.float32)


def loudness(path: Path) -> tuple[list[float], float]:
    """Loudest sample of each tenth of a second, 0 to 1, and the length in seconds."""
    voice = np.abs(heard(path))
    step = SOUND_HZ // 10
    rows = voice[: len(voice) // step * step].reshape(-1, step)
    return rows.max(axis=1).tolist() if len(rows) else [], round(len(voice) / SOUND_HZ, 3)


def _blocks(voice: NDArray[np.float32]) -> Iterator[av.AudioFrame]:
    size = 1024
    for k in range(0, len(voice), size):
        part = voice[k : k + size]
        frame = av.AudioFrame.from_ndarray(part[None, :], format="flt", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = SOUND_HZ, k, Fraction(1, SOUND_HZ)
        yield frame
