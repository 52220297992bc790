"""How far apart the clocks of two clips are, by what both heard or by when their files say they began."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray
from scipy.signal import correlate, correlation_lags

from proklisis.core.errors import InputError
from proklisis.footage.sniff import container_of

Array = NDArray[np.float64]
#: Loudness is compared so many times a second.
RATE_HZ = 500
#: The best offset must fit this much better than any other (house choice, set on made sound).
CLEARER = 1.6
#: Offsets this near to the best one are the same, seconds.
SAME_S = 0.1
#: Fewer seconds in common prove nothing (house choice).
LEAST_COMMON_S = 0.5
#: So long a sound track takes to begin, seconds.
BEGINS_S = 0.1
#: Standard uncertainty: sound runs 343 m/s (common practice), so cameras 10 m apart hear a clap 0.03 s apart; and sound lies beside its picture within 0.03 s.
U_S = 0.04
#: A file's clock is that of a phone or camera: set by the network within a second, written in whole seconds (common practice).
CLOCK_U_S = 1.0


def offset_by_sound(one: Path, other: Path) -> tuple[float, float]:
    """Seconds to add to ``other``'s times to get ``one``'s, and their standard uncertainty.

    Sudden sounds, as a clap, lie over each other at one offset. Raises InputError where a file has no sound, or no
    offset stands out.
    """
    a, b = _onsets(one), _onsets(other)
    fit = correlate(a, b, mode="full")
    lags = correlation_lags(len(a), len(b), mode="full")
    common = np.minimum(len(a), lags + len(b)) - np.maximum(0, lags)
    fit[common < LEAST_COMMON_S * RATE_HZ] = 0.0
    best = int(np.argmax(fit))
    away = np.abs(lags - lags[best]) > SAME_S * RATE_HZ
    second = float(fit[away].max(initial=0.0))
    if fit[best] <= 0 or fit[best] < CLEARER * second:
        raise InputError(
            "no sound that both clips heard stands out", other.name, "clap once in front of both, or show one moment in both"
        )  # fmt: skip
    return float(lags[best] / RATE_HZ), U_S


def offset_by_clock(one: Path, other: Path) -> tuple[float, float]:
    """Seconds to add to ``other``'s times to get ``one``'s by when the files say they began, and their standard uncertainty.

    Raises InputError where a file does not say.
    """
    a, b = _began(one), _began(other)
    return (b - a).total_seconds(), float(np.hypot(CLOCK_U_S, CLOCK_U_S))


def _onsets(path: Path) -> Array:
    """(k,) how suddenly it grew louder, :data:`RATE_HZ` times a second from the first frame's time, without mean and of unit size."""
    with opened_sound(path) as box:
        if not box.streams.audio:
            raise InputError("the file has no sound", path.name, "show one moment in both clips")
        video = box.streams.video[0]
        start = float((video.start_time or 0) * (video.time_base or 0))
        stream = box.streams.audio[0]
        resampler = av.AudioResampler(format="flt", layout="mono", rate=RATE_HZ * 16)
        heard: list[Array] = []
        began: float | None = None
        for frame in box.decode(stream):
            if began is None and frame.time is not None:
                began = float(frame.time)
            heard += [f.to_ndarray()[0].astype(float) for f in resampler.resample(frame)]
    sound = np.concatenate(heard) if heard else np.zeros(0)
    n = len(sound) // 16
    if n < LEAST_COMMON_S * RATE_HZ:
        raise InputError(
            "the file has hardly any sound", path.name, "show one moment in both clips"
        )
    loud = np.log10(np.sqrt((sound[: 16 * n].reshape(n, 16) ** 2).mean(axis=1)) + 1e-4)
    smooth = np.convolve(np.pad(loud, 2, mode="edge"), np.full(5, 0.2), mode="valid")
    sudden = np.maximum(np.diff(smooth, prepend=smooth[0]), 0.0) ** 2
    # A track that begins in silence grows loud with its first sound; that is no clap.
    sudden[: round(BEGINS_S * RATE_HZ)] = 0.0
    late = round(((began or 0.0) - start) * RATE_HZ)
    sudden = np.concatenate([np.zeros(late), sudden]) if late > 0 else sudden[-late:]
    sudden -= sudden.mean()
    size = float(np.linalg.norm(sudden))
    return np.asarray(sudden / size if size > 0 else sudden)


def _began(path: Path) -> datetime:
    with opened_sound(path) as box:
        tags = [box.metadata, *(s.metadata for s in box.streams)]
        for tag in tags:
            said = {k.lower(): v for k, v in tag.items()}.get("creation_time")
            if said:
                try:
                    at = datetime.fromisoformat(said.replace("Z", "+00:00"))
                except ValueError:
                    continue
                # A camera whose clock was never set counts from the beginning of its time.
                if at.year > 2000:
                    return at if at.tzinfo else at.replace(tzinfo=UTC)
    raise InputError(
        "the file does not say when it was filmed",
        path.name,
        "match it by sound, or show one moment in both",
    )


def opened_sound(path: Path) -> Any:
    """Open a file for its sound: of a kind that its first bytes show, and nothing that it points to. InputError for no such file."""
    with path.open("rb") as f:
        begin = f.read(64)
    kind = "ogg" if begin.startswith(b"OggS") else container_of(begin, path.name)
    return av.open(str(path), format=kind, options={"protocol_whitelist": "file"})
