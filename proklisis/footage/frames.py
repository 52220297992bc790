"""Decode a clip frame by frame, upright, each with its number and its own time."""

from __future__ import annotations

from collections.abc import Container, Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError
from proklisis.footage.probe import WHOLE, Clip, decoded, opened

#: A decoded frame belongs to the frame of the index whose time is this near, seconds.
SAME_S = 1e-4


class Frame(NamedTuple):
    """``picture`` is (height, width, 3) RGB; ``t`` seconds from the clip's first frame."""

    number: int
    t: float
    picture: NDArray[np.uint8]


def frames(
    clip: Clip, first: int = 0, stop: int | None = None, only: Container[int] | None = None
) -> Iterator[Frame]:
    """Yield the frames ``first`` … ``stop`` − 1 in order of time, each under its number in ``clip.t``.

    With ``only``, the others are decoded but not made into pictures. A frame that cannot be decoded is left out, and its number with it.
    Raises InputError when too much of the stretch cannot be decoded.
    """
    stop = len(clip.t) if stop is None else min(stop, len(clip.t))
    got, last = 0, first - 1
    turned = clip.rotation % 180 != 0
    size = (clip.height, clip.width) if turned else (clip.width, clip.height)
    with opened(clip.path, clip.container) as (box, stream):
        stream.thread_type = "AUTO"
        base = float(stream.time_base or 0)
        if first > 0 or clip.into > 0:
            box.seek(round((clip.start + clip.t[first]) / base), stream=stream)
        for raw in decoded(box, stream):
            stamp = raw.pts if raw.pts is not None else raw.dts
            if stamp is None:
                continue
            t = stamp * base - clip.start
            number = int(np.searchsorted(clip.t, t - SAME_S))
            if number >= stop:
                break
            if number <= last or abs(clip.t[number] - t) > SAME_S:
                continue
            last = number
            got += 1
            if only is not None and number not in only:
                continue
            same = (raw.width, raw.height) == size
            shown = raw if same else raw.reformat(*size, format="rgb24")
            picture: NDArray[np.uint8] = np.asarray(shown.to_ndarray(format="rgb24"), np.uint8)
            if clip.rotation:
                picture = np.ascontiguousarray(np.rot90(picture, clip.rotation // 90))
            yield Frame(number, float(clip.t[number]), picture)
            if number == stop - 1:
                break
    if got < min(WHOLE * (stop - first), stop - first - 1):
        raise InputError(
            f"only {got} of {stop - first} frames can be decoded from frame {first} on",
            clip.path.name,
            "send it again, whole",
        )
