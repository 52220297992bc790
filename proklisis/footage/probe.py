"""What a video file holds, found without decoding it: size, rotation and each frame's own time."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError
from proklisis.footage.sniff import container

Array = NDArray[np.float64]
LARGEST_PIXELS = 4096 * 2400
LONGEST_S = 1800.0
MOST_FRAMES = 600_000
FEWEST_FRAMES = 10
#: A gap longer than this many usual frame times means that frames are missing.
GAP = 1.6
#: Tags in which cameras write the rate at which a slow-motion file was filmed.
RATE_TAGS = (
    "com.android.capture.fps",
    "com.apple.quicktime.capture.fps",
    "capture_fps",
    "capture_framerate",
)
#: How much of what a file promises must be there.
WHOLE = 0.97
MOST_FAILURES = 2000
AGAIN = "send the original from the camera again"


@dataclass(frozen=True)
class Clip:
    """A readable clip.

    Attributes
    ----------
    width, height : pixels of the upright picture with square pixels
    stored : (width, height) as stored, before it is turned and its pixels are made square
    rotation : degrees counter-clockwise by which the stored picture is turned to stand upright
    t : (n,) each frame's own time in seconds, the first at 0
    start : the first frame's time by the file's own clock, seconds
    keys : numbers of the frames that can be decoded by themselves
    filmed_fps : the rate at which the file says it was filmed, where that is not the rate it plays at
    into : how far into the file its first frame lies, seconds; 0 of a whole file
    """

    path: Path
    width: int
    height: int
    codec: str
    rotation: int
    t: Array = field(repr=False)
    container: str = "mov"
    stored: tuple[int, int] = (0, 0)
    start: float = 0.0
    filmed_fps: float | None = None
    keys: NDArray[np.int64] = field(default_factory=lambda: np.zeros(1, np.int64), repr=False)
    into: float = 0.0

    @property
    def fps(self) -> float:
        """Frames per second from the middle gap between frames."""
        return float(1.0 / np.median(np.diff(self.t)))

    @property
    def gaps(self) -> NDArray[np.int64]:
        """Indices of frames after which at least one frame is missing."""
        return gaps(self.t)


def part(clip: Clip, from_s: float, to_s: float) -> Clip:
    """The part of a clip from one time to another, seconds from its first frame, as a clip of its own in the same file.

    Raises InputError for a part outside the clip, or of too few frames.
    """
    a = int(np.searchsorted(clip.t, from_s - 1e-6))
    b = int(np.searchsorted(clip.t, to_s + 1e-6, side="right"))
    if b - a < FEWEST_FRAMES:
        raise InputError(
            f"from {from_s:g} to {to_s:g} s there are only {max(0, b - a)} frames", clip.path.name,
            f"the clip goes from 0 to {clip.t[-1]:.2f} s; a part has at least {FEWEST_FRAMES} frames",
        )  # fmt: skip
    first = float(clip.t[a])
    keys = clip.keys[(clip.keys >= a) & (clip.keys < b)] - a
    return replace(
        clip, t=clip.t[a:b] - first, start=clip.start + first, keys=keys, into=clip.into + first
    )


def gaps(t: Array) -> NDArray[np.int64]:
    """Indices of frames after which at least one frame is missing.

    Judged by the usual gap nearby, so that a file whose rate changes on the way is not all gaps.
    """
    d = np.diff(t)
    if len(d) < 3:
        return np.empty(0, np.int64)
    padded = np.pad(d, 6, mode="reflect" if len(d) > 6 else "edge")
    usual = np.median(np.lib.stride_tricks.sliding_window_view(padded, 13), axis=1)
    # Where a file's times jump about all the time, no single gap stands out.
    uneven = np.median(np.abs(d - usual)) / np.median(d) > 0.25
    return np.empty(0, np.int64) if uneven else np.flatnonzero(d > GAP * usual)


@contextmanager
def opened(
    path: Path, kind: str
) -> Iterator[tuple[av.container.InputContainer, av.video.stream.VideoStream]]:
    """The file and its first moving picture. Raises InputError when it has none or cannot be opened."""
    try:
        with av.open(str(path), format=kind, options={"protocol_whitelist": "file"}) as box:
            streams = [s for s in box.streams.video if "attached_pic" not in str(s.disposition)]
            if not streams:
                what = "only sound" if box.streams.audio else "no pictures"
                raise InputError(f"the file holds {what}", path.name, "send the video itself")
            yield box, streams[0]
    except InputError:
        raise
    except (av.error.FFmpegError, ValueError, OSError, OverflowError, MemoryError, IndexError) as e:
        raise InputError(
            "this is not a video that can be opened", path.name, f"it may be damaged or cut off; {AGAIN}"
        ) from e  # fmt: skip


def probe(path: Path) -> Clip:
    """Open a clip and index its frames.

    Raises InputError, in one sentence, for anything that is not a whole, usable video.
    """
    kind = container(path)
    with opened(path, kind) as (box, stream):
        _check_header(box, stream, path.name)
        times, keys = _times(box, stream, path.name)
        hint = _filmed_at(box, stream)
    name = path.name
    if not len(times):
        raise InputError("the video holds no frames", name, AGAIN)
    if (
        stream.frames
        and len(times) < WHOLE * stream.frames
        and not _edited(path, kind, len(times), stream.frames)
    ):
        raise InputError(
            f"the file breaks off after {len(times)} of {stream.frames} frames",
            name,
            "send it again, whole",
        )
    if len(times) < FEWEST_FRAMES:
        raise InputError(
            f"the clip has only {len(times)} frame{'s' * (len(times) != 1)}",
            name,
            "film a run of at least two turns",
        )
    _check_length(float(times[-1] - times[0]), name)
    rotation, (width, height) = _upright(path, kind)
    t = times - times[0]
    rate = float(1.0 / np.median(np.diff(t)))
    filmed = hint if hint is not None and abs(hint / rate - 1) > 0.2 else None
    stored = (stream.codec_context.width, stream.codec_context.height)
    return Clip(
        path,
        width,
        height,
        stream.codec_context.name,
        rotation,
        t,
        kind,
        stored,
        float(times[0]),
        filmed,
        keys,
    )


def _check_header(
    box: av.container.InputContainer, stream: av.video.stream.VideoStream, name: str
) -> None:
    """Refuse by what the header says, before a single frame is decoded."""
    context = stream.codec_context
    if context is None or not context.width or not context.height:
        raise InputError("the size of the picture is not known", name, AGAIN)
    if context.width * context.height > LARGEST_PIXELS or max(context.width, context.height) > 8192:
        raise InputError(
            f"the picture of {context.width} × {context.height} is too large",
            name,
            "export it at 4K or less",
        )
    if min(context.width, context.height) < 64:
        raise InputError(
            f"the picture of {context.width} × {context.height} is too small to measure on",
            name,
            "film at 720p or more",
        )
    lengths = (
        [float(stream.duration * stream.time_base)] if stream.duration and stream.time_base else []
    )
    lengths += [box.duration / 1e6] if box.duration else []
    if lengths:
        # An AVI tells frames ÷ nominal rate, which a broken header makes absurd: the least is meant.
        _check_length(min(lengths), name)


def _check_length(seconds: float, name: str) -> None:
    if seconds > LONGEST_S:
        long = f"{seconds / 60:.0f} minutes" if seconds < 5400 else f"{seconds / 3600:.1f} hours"
        raise InputError(f"the clip is {long} long", name, "cut it to the run, 30 minutes at most")


def _times(
    box: av.container.InputContainer, stream: av.video.stream.VideoStream, name: str
) -> tuple[Array, NDArray[np.int64]]:
    """Rising times of all frames that are shown, seconds by the file's clock, and which are key frames."""
    base = float(stream.time_base or 0)
    shown, order, keys = [], [], []
    try:
        for packet in box.demux(stream):
            # An edit list hides frames that are there only to decode the ones after them.
            if not packet.size or packet.is_discard:
                continue
            if packet.pts is not None:
                shown.append(packet.pts)
            if packet.dts is not None:
                order.append(packet.dts)
            if packet.is_keyframe:
                keys.append((packet.pts, packet.dts))
            if len(shown) + len(order) > 2 * MOST_FRAMES:
                raise InputError(
                    f"the clip has more than {MOST_FRAMES:,} frames", name, "cut it to the run"
                )
    except av.error.FFmpegError:
        if not shown and not order:
            raise
        # Cut off in the middle: what is there is judged by how much of it there is.
    by_order = len(shown) < 0.5 * len(order) or box.format.name == "avi"
    times = np.unique(np.asarray(order if by_order else shown, float) * base)
    stamps = [k[by_order] for k in keys if k[by_order] is not None]
    return times, np.flatnonzero(np.isin(times, np.asarray(stamps, float) * base))


def _edited(path: Path, kind: str, shown: int, all_frames: int) -> bool:
    """Whether the frames that lack are hidden by an edit list, and not cut off the file."""
    if kind != "mov":
        return False
    try:
        with av.open(
            str(path), format=kind, options={"ignore_editlist": "1", "protocol_whitelist": "file"}
        ) as box:
            there = sum(1 for p in box.demux(box.streams.video[0]) if p.size)
    except av.error.FFmpegError:
        return False
    return there >= WHOLE * all_frames and shown <= there


def _filmed_at(
    box: av.container.InputContainer, stream: av.video.stream.VideoStream
) -> float | None:
    """Frames per second at filming, where a tag of the file tells them."""
    tags = {k.lower(): v for k, v in {**stream.metadata, **box.metadata}.items()}
    for tag in RATE_TAGS:
        try:
            rate = float(tags[tag])
        except (KeyError, ValueError):
            continue
        if 10 <= rate <= 2000:
            return rate
    return None


def _upright(path: Path, kind: str) -> tuple[int, tuple[int, int]]:
    """The turn to upright (0, 90, 180, 270 counter-clockwise) and the upright size in square pixels."""
    with opened(path, kind) as (box, stream):
        for raw in decoded(box, stream):
            aspect = stream.sample_aspect_ratio or 1
            width, height = raw.width, raw.height
            if 0.2 < float(aspect) < 5 and aspect != 1:
                width = round(width * float(aspect) / 2) * 2
            rotation = round(raw.rotation / 90.0) * 90 % 360
            return rotation, (height, width) if rotation % 180 else (width, height)
    raise InputError("no frame of the video can be decoded", path.name, AGAIN)


def decoded(
    box: av.container.InputContainer, stream: av.video.stream.VideoStream
) -> Iterator[av.VideoFrame]:
    """Frames as they can be decoded; a damaged packet costs its own frames and not the rest.

    AVI holds no times but the order: its frames are counted in the order they are shown, from the
    place of the key frame that is read first.
    """
    failures, counted = 0, None
    step = (
        float(1 / (stream.average_rate or 25) / (stream.time_base or 1))
        if box.format.name == "avi"
        else None
    )
    packets = box.demux(stream)
    while True:
        try:
            packet = next(packets)
        except (StopIteration, av.error.FFmpegError):
            return
        if step is not None and counted is None and packet.dts is not None:
            counted = float(packet.dts)
        try:
            for frame in packet.decode():
                if step is not None and counted is not None:
                    frame.pts = round(counted)
                    counted += step
                yield frame
        except av.error.FFmpegError:
            failures += 1
            if failures > MOST_FAILURES:
                return
