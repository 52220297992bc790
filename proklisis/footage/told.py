"""A told film: the run's own frames as they were told, with what was drawn over them, captions and voice, as MP4."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterator, Mapping, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

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
from proklisis.footage.halves import beside
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
    others: Mapping[int, Other],
    burnt: bool,
    out: Path,
    progress: Callable[[float], None] | None = None,
) -> None:
    """Write the film as H.264, with AAC where anything is heard.

    Parameters
    ----------
    rows : the frame of the run in each frame of the film, :data:`FPS` a second
    numbers : frame of the run → its number in the clip
    figures : fault → picture of its figure, still or moving
    recordings : number → file of a recording
    others : run → the clip of another run that is shown beside this one
    burnt : captions stand on the picture, not beside the film

    Raises InputError where the clip or a recording cannot be decoded.
    """
    count = len(rows)
    width, height, scale = _size(clip)
    pictures = _Pictures(clip, [numbers[r] for r in rows], (width, height))
    shown_figures: dict[str, Moving] = {}
    shown_beside = {run: _Beside(run, other, played, rows) for run, other in others.items()}
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
            moving = [
                figure_at(o["figure"], t - o["from_s"], figures, shown_figures)[0] for o in over
            ]
            now = (row, [id(o) for o in over], said, moving)
            if now != key:
                page = laid_over(
                    pictures.at(i),
                    row,
                    over,
                    scale,
                    figures,
                    shown_figures,
                    t,
                    lambda run, _: shown_beside[run].at(i),  # noqa: B023
                )
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


class Other(NamedTuple):
    """Another run's clip, and the numbers in it of the run's frames."""

    clip: Clip
    numbers: Mapping[int, int]


class _Beside:
    """The pictures of another run, as they are shown beside this one's frames."""

    def __init__(self, run: int, other: Other, played: Played, rows: Sequence[int]) -> None:
        wide, tall, self.scale = _size(other.clip)
        wanted: list[int] = []
        run_pairs = [o for o in played["overlays"] if "pair" in o and o["pair"]["run"] == run]
        for i, row in enumerate(rows):
            t = (i + 0.5) / FPS
            now = next(
                (o["pair"]["at"].get(row) for o in run_pairs if o["from_s"] <= t < o["to_s"]), None
            )
            known = other.numbers.get(now["other"]) if now else None
            wanted.append(known if known is not None else (wanted[-1] if wanted else -1))
        first = next((n for n in wanted if n >= 0), 0)
        self.pictures = _Pictures(other.clip, [first if n < 0 else n for n in wanted], (wide, tall))

    def at(self, i: int) -> tuple[Picture, float]:
        return self.pictures.at(i), self.scale


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


class Moving(NamedTuple):
    """A figure's pictures, each (h, w, 3) RGB, and when each ends, seconds; one picture where it stands still."""

    pictures: list[Picture]
    ends: list[float]


def figure_at(
    fault: str, t: float, figures: Mapping[str, Path], kept: dict[str, Moving]
) -> tuple[int, Picture | None]:
    """Which picture of a figure is shown ``t`` seconds after it came, and the picture; −1 and None where there is none.

    ``kept`` holds figures that were read before.
    """
    if fault not in figures:
        return -1, None
    if fault not in kept:
        kept[fault] = _read_figure(figures[fault])
    moving = kept[fault]
    k = bisect_right(moving.ends, t % moving.ends[-1]) if len(moving.pictures) > 1 else 0
    k = min(k, len(moving.pictures) - 1)
    return k, moving.pictures[k]


def _read_figure(path: Path) -> Moving:
    pictures, ends, end = [], [], 0.0
    with Image.open(path) as image:
        for n in range(getattr(image, "n_frames", 1)):
            image.seek(n)
            pictures.append(np.array(image.convert("RGB"), np.uint8))
            end += max(image.info.get("duration", 100), 10) / 1000
            ends.append(end)
    return Moving(pictures, ends)


def laid_over(
    picture: Picture,
    row: int,
    over: Sequence[Overlay],
    scale: float,
    figures: Mapping[str, Path],
    kept: dict[str, Moving],
    t: float = 0.0,
    other: Callable[[int, int], tuple[Picture, float]] | None = None,
) -> Picture:
    """A copy of a frame's picture with all that lies over it.

    Parameters
    ----------
    row : the frame of the run
    scale : the picture's to the clip
    kept : figures that were read before
    t : seconds after the Telling's begin
    other : run and its frame → (h, w, 3) RGB picture of it, and its scale to its clip
    """
    marks = [m for o in over for m in o["marks"].get(row, [])]
    page = draw(picture, marks, scale) if marks else picture
    pair = next((o["pair"] for o in over if "pair" in o and row in o["pair"]["at"]), None)
    if pair is not None and other is not None:
        half = pair["at"][row]
        theirs, their_scale = other(pair["run"], half["other"])
        boxes = [x * scale for x in half["box"]], [x * their_scale for x in half["other_box"]]
        page = beside(page, theirs, boxes, pair["words"], pair["mirror"])
    for o in over:
        figure = figure_at(o["figure"], t - o["from_s"], figures, kept)[1]
        if figure is not None:
            page = inset(page, figure)
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
