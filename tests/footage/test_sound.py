"""Two clips of one pass are laid over each other by what both heard, or by their files' clocks."""

from __future__ import annotations

import subprocess
import wave
from pathlib import Path

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.footage.sound import offset_by_clock, offset_by_sound

RATE = 16000


def clip(path: Path, sound: np.ndarray | None, began: str | None = None) -> Path:
    """A film of a few seconds with a sound track."""
    wav = path.with_suffix(".wav")
    command = ["ffmpeg", "-v", "error", "-y", "-f", "lavfi", "-i", "color=gray:s=64x64:r=25:d=6"]
    if sound is not None:
        with wave.open(str(wav), "wb") as w:
            w.setnchannels(1)
            w.setsampwidth(2)
            w.setframerate(RATE)
            w.writeframes((np.clip(sound, -1, 1) * 32000).astype("<i2").tobytes())
        command += ["-i", str(wav), "-c:a", "aac"]
    if began:
        command += ["-metadata", f"creation_time={began}"]
    subprocess.run([*command, "-c:v", "libx264", "-shortest", str(path)], check=True)
    return path


def claps(at: list[float], seed: int, rushing: float = 0.02, seconds: float = 6.0) -> np.ndarray:
    """Claps in the noise of snow that each microphone hears in its own way."""
    rng = np.random.default_rng(seed)
    out = rushing * rng.standard_normal(int(seconds * RATE))
    for s in at:
        a = int(s * RATE)
        tail = np.exp(-np.arange(int(0.08 * RATE)) / (0.012 * RATE))
        end = min(len(out), a + len(tail))
        out[a:end] += 0.7 * tail[: end - a] * rng.standard_normal(end - a)
    return out


@pytest.mark.slow
@pytest.mark.parametrize("off", [1.24, -0.8, 0.0])
def test_a_clap_that_both_heard_tells_the_offset(tmp_path, off):
    one = clip(tmp_path / "a.mp4", claps([2.0], 1))
    other = clip(tmp_path / "b.mp4", claps([2.0 - off], 2))
    found, u = offset_by_sound(one, other)
    assert found == pytest.approx(off, abs=2 * u) and u < 0.05


@pytest.mark.slow
def test_where_nothing_stands_out_it_is_said_and_not_guessed(tmp_path):
    one = clip(tmp_path / "a.mp4", claps([2.0], 1))
    # Claps as even as a clock fit at several offsets.
    even = [clip(tmp_path / f"{k}.mp4", claps([1.0, 2.0, 3.0, 4.0], k)) for k in (3, 4)]
    with pytest.raises(InputError, match="stands out"):
        offset_by_sound(one, clip(tmp_path / "c.mp4", claps([], 5)))
    with pytest.raises(InputError, match="stands out"):
        offset_by_sound(even[0], clip(tmp_path / "d.mp4", claps([0.5, 1.5, 2.5, 3.5, 4.5], 9)))
    with pytest.raises(InputError, match="no sound"):
        offset_by_sound(one, clip(tmp_path / "e.mp4", None))


@pytest.mark.slow
def test_the_files_clocks_tell_it_to_a_second(tmp_path):
    one = clip(tmp_path / "a.mp4", None, "2026-11-28T10:00:00Z")
    other = clip(tmp_path / "b.mp4", None, "2026-11-28T10:00:03Z")
    assert offset_by_clock(one, other) == (3.0, pytest.approx(1.41, abs=0.01))
    with pytest.raises(InputError, match="does not say when"):
        offset_by_clock(one, clip(tmp_path / "c.mp4", None))
    # A camera whose clock was never set.
    with pytest.raises(InputError, match="does not say when"):
        offset_by_clock(one, clip(tmp_path / "d.mp4", None, "1970-01-01T00:00:10Z"))
