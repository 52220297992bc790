"""Real files: every frame and its time are exact, and what is no clip is told in one sentence."""

from __future__ import annotations

import os
import subprocess
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.footage.flow import BackgroundFlow
from proklisis.footage.frames import frames
from proklisis.footage.limited import limited
from proklisis.footage.looks import doubled
from proklisis.footage.probe import probe
from proklisis.footage.still import still
from proklisis.footage.working_copy import make_working_copy
from proklisis.simulate import fiducial


def write(
    path: Path,
    times: np.ndarray,
    codec: str = "libx264",
    size: tuple[int, int] = (320, 240),
    options: dict | None = None,
) -> Path:
    """A clip of numbered frames at the given times."""
    # Run by root, one encoder (SVT-AV1) gives the thread that calls it real-time priority, which the thread hands
    # on to all it starts: tests after it would have left no other process a turn on the processor.
    with ThreadPoolExecutor(1) as aside:
        aside.submit(_write, path, times, codec, size, options or {}).result()
    return path


def _write(path: Path, times: np.ndarray, codec: str, size: tuple[int, int], options: dict) -> None:
    # AVI counts frames, MPEG-4 holds at most 65,535 ticks a second.
    base = (
        Fraction(1, 60)
        if path.suffix == ".avi"
        else Fraction(1, 14_400)
        if codec == "mpeg4"
        else Fraction(1, 90_000)
    )
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=60, options=options)
        stream.width, stream.height, stream.pix_fmt = (
            *size,
            "yuvj420p" if codec == "mjpeg" else "yuv420p",
        )
        stream.codec_context.time_base = base
        for i, t in enumerate(times):
            picture = np.full((size[1], size[0], 3), 90, np.uint8)
            picture[60 + i % 100 : 80 + i % 100, 150:200] = 200
            fiducial.paint(picture, i)
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
            frame.pts, frame.time_base = round(t / base), base
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


EVEN = np.arange(40) / 60
UNEVEN = np.cumsum(np.tile([1 / 120, 1 / 60, 1 / 90, 1 / 240], 10))


#: Every container with every codec that it may hold and this machine can encode.
KINDS = [
    *((f"a.{end}", codec) for end in ("mp4", "mov", "mkv") for codec in ("libx264", "libx265", "mpeg4", "mjpeg")),
    ("b.mp4", "libvpx-vp9"), ("b.mp4", "libsvtav1"), ("b.mkv", "libvpx"), ("b.mkv", "libvpx-vp9"), ("b.mkv", "libsvtav1"),
    ("b.webm", "libvpx"), ("b.webm", "libvpx-vp9"), ("b.webm", "libsvtav1"),
    ("b.avi", "libx264"), ("b.avi", "mpeg4"), ("b.avi", "mjpeg"), ("b.avi", "libvpx"),
]  # fmt: skip
QUIET = {"libx265": {"x265-params": "log-level=none"}, "libsvtav1": {"svtav1-params": "preset=12"}}


@pytest.mark.slow
@pytest.mark.parametrize(("name", "codec"), KINDS)
@pytest.mark.parametrize("times", [EVEN, UNEVEN], ids=["even", "uneven"])
def test_every_frame_has_its_number_and_its_own_time(tmp_path, name, codec, times):
    if name.endswith("avi") and times is UNEVEN:
        pytest.skip("AVI holds one rate")
    clip = probe(write(tmp_path / name, times, codec, options=QUIET.get(codec)))
    got = list(frames(clip))
    numbers = list(range(len(times)))
    assert [fiducial.read(f.picture) for f in got] == [f.number for f in got] == numbers
    # Matroska and WebM keep whole milliseconds.
    np.testing.assert_allclose(
        [f.t for f in got],
        times - times[0],
        atol=1.1e-3 if name.endswith(("webm", "mkv")) else 4e-5,
    )
    np.testing.assert_allclose(clip.t, [f.t for f in got], atol=1e-6)
    # A piece from the middle has the same frames.
    assert [(f.number, fiducial.read(f.picture)) for f in frames(clip, 17, 26)] == [
        (i, i) for i in range(17, 26)
    ]
    make_working_copy(clip, tmp_path / "copy.mp4")
    copy = probe(tmp_path / "copy.mp4")
    assert [fiducial.read(f.picture) for f in frames(copy)] == numbers
    np.testing.assert_allclose(copy.t, clip.t, atol=2e-5)


@pytest.mark.parametrize("fps", [24, 30, 60, 120, 240])
def test_rates_from_24_to_240_are_told_by_the_frames_themselves(tmp_path, fps):
    clip = probe(write(tmp_path / "a.mp4", np.arange(60) / fps))
    assert clip.fps == pytest.approx(fps, rel=1e-3)
    assert len(clip.t) == 60
    assert len(clip.gaps) == 0


def ffmpeg(*args: object) -> None:
    subprocess.run(["ffmpeg", "-v", "error", "-y", *map(str, args)], check=True)


@pytest.mark.parametrize("turn", [90, 180, 270])
def test_a_rotation_flag_stands_the_picture_upright(tmp_path, turn):
    plain = write(tmp_path / "a.mp4", EVEN)
    ffmpeg("-i", plain, "-c", "copy", "-metadata:s:v", f"rotate={turn}", tmp_path / "turned.mov")
    clip = probe(tmp_path / "turned.mov")
    assert (clip.width, clip.height) == ((240, 320) if turn % 180 else (320, 240))
    assert clip.rotation in (turn, 360 - turn)
    picture = next(frames(clip)).picture
    assert picture.shape[:2] == (clip.height, clip.width)
    stored = np.rot90(picture, -clip.rotation // 90)
    assert fiducial.read(stored) == 0
    make_working_copy(clip, tmp_path / "copy.mp4")
    shown = next(frames(probe(tmp_path / "copy.mp4"))).picture
    # What the browser shows is what is measured.
    assert np.abs(shown.astype(int) - picture).mean() < 4


def test_an_edit_list_hides_frames_and_the_rest_keep_their_numbers(tmp_path):
    whole = write(tmp_path / "a.mp4", np.arange(80) / 60, options={"g": "20", "bf": "3"})
    ffmpeg("-ss", 0.61, "-i", whole, "-t", 0.6, "-c", "copy", tmp_path / "cut.mp4")
    clip = probe(tmp_path / "cut.mp4")
    read = [fiducial.read(f.picture) for f in frames(clip)]
    # The last few may lack frames that were not copied; none is counted twice and none out of order.
    assert read[:30] == list(range(read[0], read[0] + 30))
    assert read == sorted(set(read))
    assert read[0] in (36, 37)
    make_working_copy(clip, tmp_path / "copy.mp4")
    assert [fiducial.read(f.picture) for f in frames(probe(tmp_path / "copy.mp4"))] == read


def test_pictures_that_start_after_the_sound_start_at_nought(tmp_path):
    plain = write(tmp_path / "a.mp4", EVEN)
    ffmpeg(
        "-f",
        "lavfi",
        "-i",
        "sine=d=1",
        "-itsoffset",
        0.08,
        "-i",
        plain,
        "-map",
        "1:v",
        "-map",
        "0:a",
        "-c:v",
        "copy",
        "-c:a",
        "aac",
        tmp_path / "late.mp4",
    )
    clip = probe(tmp_path / "late.mp4")
    assert clip.start == pytest.approx(0.08, abs=1e-3)
    np.testing.assert_allclose(clip.t, EVEN, atol=1e-4)
    make_working_copy(clip, tmp_path / "copy.mp4")
    copy = probe(tmp_path / "copy.mp4")
    assert copy.start == 0
    np.testing.assert_allclose(copy.t, clip.t, atol=2e-5)


def test_pixels_that_are_not_square_are_made_so(tmp_path):
    plain = write(tmp_path / "a.mp4", EVEN)
    ffmpeg("-i", plain, "-vf", "setsar=4/3", tmp_path / "wide.mp4")
    clip = probe(tmp_path / "wide.mp4")
    assert (clip.width, clip.height) == (426, 240)
    assert next(frames(clip)).picture.shape == (240, 426, 3)


def test_a_camera_that_says_at_what_rate_it_filmed_is_heard(tmp_path):
    plain = write(tmp_path / "a.mp4", EVEN)
    ffmpeg(
        "-i",
        plain,
        "-c",
        "copy",
        "-metadata",
        "com.android.capture.fps=240",
        "-movflags",
        "use_metadata_tags",
        tmp_path / "slow.mp4",
    )
    assert probe(tmp_path / "slow.mp4").filmed_fps == 240
    assert probe(plain).filmed_fps is None


@pytest.mark.thorough
def test_doubled_frames_are_found(tmp_path):
    plain = write(tmp_path / "a.mp4", np.arange(60) / 60)
    ffmpeg("-i", plain, "-vf", "fps=120", "-crf", 18, tmp_path / "twice.mp4")
    for path, share in ((plain, 0.0), (tmp_path / "twice.mp4", 0.5)):
        flow, change, seen = BackgroundFlow(), [], []
        for frame in frames(probe(path)):
            flow.step(frame.picture, None, np.array([160.0, 120.0]))
            change.append(flow.change)
            seen.append(fiducial.read(frame.picture))
        again = [i for i in range(1, len(seen)) if seen[i] == seen[i - 1]]
        found = doubled(np.array(change))
        assert len(again) == pytest.approx(share * len(seen), abs=2)
        assert set(found) == set(again)


@pytest.mark.parametrize("times", [EVEN, UNEVEN], ids=["even", "uneven"])
def test_the_working_copy_has_the_same_frames_at_the_same_times(tmp_path, times):
    clip = probe(write(tmp_path / "a.mp4", times))
    shares: list[float] = []
    assert make_working_copy(clip, tmp_path / "copy.mp4", shares.append) == (320, 240)
    copy = probe(tmp_path / "copy.mp4")
    got = list(frames(copy))
    assert [fiducial.read(f.picture) for f in got] == list(range(len(times)))
    np.testing.assert_allclose(copy.t, clip.t, atol=2e-5)
    assert shares[-1] == 1.0


def test_a_still_is_the_asked_frame(tmp_path):
    path = write(tmp_path / "a.mp4", UNEVEN)
    for i in (0, 1, 7, 23, 39):
        assert fiducial.read(still(path, float(UNEVEN[i] - UNEVEN[0]))) == i


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
        frame = av.AudioFrame.from_ndarray(
            np.zeros((1, 4096), np.float32), format="fltp", layout="mono"
        )
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
    return {
        **paths,
        "sound": sound,
        "one": write(folder / "one.mp4", EVEN[:1]),
        "missing": folder / "nothing.mp4",
    }


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("empty", "empty"), ("text", "not a video"), ("cut", "not a video|breaks off"), ("zip", "ZIP archive, not a video"),
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
    assert fiducial.read(picture) is None
    for n in (0, 1, 4095, 65_535):
        fiducial.paint(picture, n)
        assert fiducial.read(picture) == n


def damaged(folder: Path, rng: np.random.Generator, count: int) -> list[Path]:
    """Files cut short, with bits turned over, under a wrong name, with wild headers, too large or too long."""
    sources = [
        write(folder / name, EVEN, codec, options=QUIET.get(codec))
        for name, codec in (("s0.mp4", "libx264"), ("s1.mov", "mpeg4"), ("s2.mkv", "libvpx-vp9"), ("s3.webm", "libvpx"), ("s4.avi", "mjpeg"))
    ]  # fmt: skip
    out = []
    for k in range(count):
        source = sources[k % len(sources)]
        data = bytearray(source.read_bytes())
        match k % 7:
            case 0:
                data = data[: int(rng.integers(1, len(data)))]
            case 1:
                for at in rng.integers(0, len(data), max(3, len(data) // 200)):
                    data[at] ^= 1 << int(rng.integers(8))
            case 2:  # the header alone is hit
                for at in rng.integers(0, min(600, len(data)), 12):
                    data[at] = int(rng.integers(256))
            case 3:
                data = bytearray(rng.integers(0, 256, 3000, np.uint8).tobytes())
            case 4:
                data = (
                    bytearray(b"PK\x03\x04" + bytes(500))
                    if k % 2
                    else bytearray(b"\xff\xd8\xff\xe0JFIF" + bytes(500))
                )
            case 5:  # a box that says it is huge
                data[0:4] = b"\xff\xff\xff\xfe"
            case 6:
                cut = int(rng.integers(100, len(data) - 100))
                data[cut : cut + 64] = bytes(64)
        path = folder / f"bad{k}{source.suffix}"
        path.write_bytes(bytes(data))
        out.append(path)
    return out


def verdict(path: Path) -> str:
    """What a coach is told of a file: one sentence, or that it is whole."""
    try:
        clip = limited(probe, path, name=path.name, seconds=20, silence_s=20)
        seen = sum(1 for _ in frames(clip)) if path.stat().st_size < 10**6 else len(clip.t)
    except InputError as e:
        return str(e)
    return f"whole, {seen} frames"


@pytest.mark.slow
def test_two_hundred_broken_files_get_one_sentence_each(tmp_path):
    paths = damaged(tmp_path, np.random.default_rng(4), 200)
    with ThreadPoolExecutor(3) as pool:
        told = dict(zip(paths, pool.map(verdict, paths), strict=True))
    for path, words in told.items():
        if words.startswith("whole"):
            continue  # a turned bit or two in a picture leaves a clip that can be used
        assert path.name in words
        assert words.endswith(".")
        assert "\n" not in words
        assert len(words) < 250
    refused = [w for w in told.values() if not w.startswith("whole")]
    assert len(refused) > 120
    assert len(list(tmp_path.iterdir())) == 205  # nothing is left lying about


def empty_pictures(path: Path, side: int) -> Path:
    """A dozen empty pictures of a large size, which take hardly any room in the file."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=30, options={"preset": "ultrafast", "qp": "50"})
        stream.width, stream.height, stream.pix_fmt = side, side, "yuv420p"
        frame = av.VideoFrame(side, side, "yuv420p")
        for plane in frame.planes:
            plane.update(bytes(plane.buffer_size))
        for i in range(12):
            frame.pts = i
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def test_what_is_too_large_or_too_long_is_refused_by_its_header(tmp_path):
    small = empty_pictures(tmp_path / "bomb.mkv", 4352)
    assert small.stat().st_size < 100_000
    with pytest.raises(InputError, match="4352 × 4352 is too large"):
        probe(small)
    data = bytearray(write(tmp_path / "a.webm", EVEN, "libvpx").read_bytes())
    width = data.index(b"\xb0\x82\x01\x40") + 2  # the element PixelWidth, two bytes long
    data[width : width + 2] = (20_000).to_bytes(2, "big")
    (tmp_path / "huge.webm").write_bytes(bytes(data))
    with pytest.raises(InputError, match="20000 × 240 is too large"):
        probe(tmp_path / "huge.webm")
    long = write(tmp_path / "long.mp4", np.concatenate([EVEN, [4 * 3600.0]]))
    with pytest.raises(InputError, match=r"4\.0 hours long"):
        probe(long)


def spin(path: Path) -> None:
    while True:
        pass


def crash(path: Path) -> None:
    os.abort()


def hog(path: Path) -> None:
    kept = []
    while True:
        kept.append(bytearray(10**8))


def sleep(path: Path) -> None:
    time.sleep(60)


def fill(path: Path) -> None:
    raise OSError(28, "No space left on device")


@pytest.mark.thorough
@pytest.mark.parametrize(
    ("work", "words"),
    [
        (spin, "too long"),
        (crash, "decoder fail"),
        (hog, "too much memory"),
        (sleep, "stuck"),
        (fill, "disk is full"),
    ],
)
def test_a_decoder_that_spins_crashes_eats_memory_or_hangs_is_stopped(work, words):
    with pytest.raises(InputError, match=words) as error:
        limited(
            work,
            Path("a.mp4"),
            name="a.mp4",
            seconds=10 if work is hog else 1,
            silence_s=0.8 if work is sleep else 120,
            memory_mb=1500,
        )
    assert str(error.value).startswith("a.mp4: ")


@pytest.mark.thorough
def test_a_working_copy_of_a_badly_damaged_clip_ends_whatever_is_complained_of(tmp_path):
    """ffmpeg's complaints once filled a pipe that nobody read, and the work stood still for good."""
    data = bytearray(write(tmp_path / "long.mp4", np.arange(900) / 60, "mpeg4").read_bytes())
    rng = np.random.default_rng(8)
    for at in rng.integers(2000, len(data) - 40_000, 3000):
        data[at] ^= 1 << int(rng.integers(8))
    path = tmp_path / "flipped.mp4"
    path.write_bytes(bytes(data))
    began = time.monotonic()
    # Refused or copied with its damage, either will do.
    with suppress(InputError):
        clip = limited(probe, path, name=path.name, seconds=20)
        limited(
            make_working_copy,
            clip,
            tmp_path / "out.mp4",
            name=path.name,
            seconds=60,
            silence_s=20,
            progress=lambda share: None,
        )
    assert time.monotonic() - began < 60


def starts_another(path: Path) -> None:
    subprocess.Popen(["sleep", "300"])
    (path.parent / "started").touch()
    time.sleep(60)


@pytest.mark.thorough
def test_what_a_child_started_ends_with_it_and_a_cancel_is_heard_while_nothing_comes(tmp_path):
    class Cancelled(Exception):
        pass

    def alive() -> None:
        if (tmp_path / "started").exists():
            raise Cancelled

    began = time.monotonic()
    with pytest.raises(Cancelled):
        limited(starts_another, tmp_path / "a.mp4", name="a.mp4", seconds=60, alive=alive)
    assert time.monotonic() - began < 15
    assert subprocess.run(["pgrep", "-f", "^sleep 300$"], capture_output=True).stdout == b""
