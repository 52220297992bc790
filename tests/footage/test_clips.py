"""Real files: every frame and its time are exact, and what is no clip is told in one sentence."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.footage.frames import frames
from proklisis.footage.probe import probe
from proklisis.footage.still import still
from proklisis.footage.working_copy import make_working_copy
from proklisis.simulate import framecode


def write(path: Path, times: np.ndarray, codec: str = "libx264", size: tuple[int, int] = (320, 240), rotate: int = 0) -> Path:
    """A clip of numbered frames at the given times."""
    base = Fraction(1, 90_000)
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=60)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        stream.codec_context.time_base = base
        for i, t in enumerate(times):
            picture = np.full((size[1], size[0], 3), 90, np.uint8)
            picture[60 + i % 100 : 80 + i % 100, 150:200] = 200
            framecode.paint(picture, i)
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
            frame.pts, frame.time_base = round(t / base), base
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


EVEN = np.arange(40) / 60
UNEVEN = np.cumsum(np.tile([1 / 120, 1 / 60, 1 / 90, 1 / 240], 10))


@pytest.mark.parametrize(
    ("name", "codec"), [("a.mp4", "libx264"), ("a.mov", "libx264"), ("a.webm", "libvpx"), ("b.webm", "libvpx-vp9")]
)
@pytest.mark.parametrize("times", [EVEN, UNEVEN], ids=["even", "uneven"])
def test_every_frame_has_its_number_and_its_own_time(tmp_path, name, codec, times):
    clip = probe(write(tmp_path / name, times, codec))
    got = list(frames(clip))
    assert [framecode.read(f.picture) for f in got] == list(range(len(times)))
    # WebM keeps whole milliseconds.
    np.testing.assert_allclose([f.t for f in got], times - times[0], atol=1.1e-3 if name.endswith("webm") else 2e-5)
    np.testing.assert_allclose(clip.t, [f.t for f in got], atol=1e-6)


@pytest.mark.parametrize("times", [EVEN, UNEVEN], ids=["even", "uneven"])
def test_the_working_copy_has_the_same_frames_at_the_same_times(tmp_path, times):
    clip = probe(write(tmp_path / "a.mp4", times))
    shares: list[float] = []
    assert make_working_copy(clip, tmp_path / "copy.mp4", shares.append) == (320, 240)
    copy = probe(tmp_path / "copy.mp4")
    got = list(frames(copy))
    assert [framecode.read(f.picture) for f in got] == list(range(len(times)))
    np.testing.assert_allclose(copy.t, clip.t, atol=2e-5)
    assert shares[-1] == 1.0


def test_a_still_is_the_asked_frame(tmp_path):
    path = write(tmp_path / "a.mp4", UNEVEN)
    for i in (0, 1, 7, 23, 39):
        assert framecode.read(still(path, float(UNEVEN[i] - UNEVEN[0]))) == i


def test_missing_frames_are_found(tmp_path):
    times = np.delete(EVEN, [12, 13, 30])
    clip = probe(write(tmp_path / "a.mp4", times))
    assert clip.gaps.tolist() == [11, 27]
    assert clip.fps == pytest.approx(60, rel=1e-3)


def bad_files(folder: Path) -> dict[str, Path]:
    good = write(folder / "good.mp4", EVEN).read_bytes()
    sound = folder / "sound.mp4"
    with av.open(str(sound), "w") as out:
        stream = out.add_stream("aac", rate=44_100)
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 4096), np.float32), format="fltp", layout="mono")
        frame.sample_rate = 44_100
        out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    made = {
        "empty": b"", "text": b"this is not a film\n" * 200, "cut": good[: len(good) // 2],
        "zip": b"PK\x03\x04" + bytes(2000), "zeros": bytes(5000),
    }  # fmt: skip
    paths = {name: folder / f"{name}.mp4" for name in made}
    for name, data in made.items():
        paths[name].write_bytes(data)
    return {**paths, "sound": sound, "one": write(folder / "one.mp4", EVEN[:1]), "missing": folder / "nothing.mp4"}


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("empty", "empty"), ("text", "not a video"), ("cut", "not a video|breaks off"), ("zip", "not a video"),
        ("zeros", "not a video"), ("sound", "only sound"), ("one", "1 frame"), ("missing", "no such file"),
    ],
)  # fmt: skip
def test_what_is_no_clip_gets_one_sentence(tmp_path, name, words):
    path = bad_files(tmp_path)[name]
    with pytest.raises(InputError, match=words) as error:
        probe(path)
    assert path.name in str(error.value)
    assert str(error.value).count(".") <= 2 + path.name.count(".")


def test_a_file_cut_off_after_its_index_is_told(tmp_path):
    whole = write(tmp_path / "a.mp4", np.arange(200) / 60)
    fast = tmp_path / "fast.mp4"
    make_working_copy(probe(whole), fast)  # its index comes first
    data = fast.read_bytes()
    fast.write_bytes(data[: int(0.6 * len(data))])
    with pytest.raises(InputError, match=r"breaks off|not a video|cannot be decoded"):
        list(frames(probe(fast)))


def test_frame_numbers_read_back_through_compression():
    picture = np.full((240, 320, 3), 128, np.uint8)
    assert framecode.read(picture) is None
    for n in (0, 1, 4095, 65_535):
        framecode.paint(picture, n)
        assert framecode.read(picture) == n
