"""What the intake of a clip costs beside the bare tracker on the same frames, in one run.

    python -m benchmarks.intake

Prints seconds and ratios: the bare tracker (decoding and the pose network, nothing else); the whole
intake as the queue's jobs do it, on one worker and on two; the working copy beside a plain transcode of
the same clip; and the most memory that following, and judging ten minutes, took.
"""

from __future__ import annotations

import argparse
import resource
import subprocess
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from proklisis.core.tracks.tracks import ClipFacts
from proklisis.footage.follow import as_tracks, follow_piece, joined, plan_pieces
from proklisis.footage.frames import frames
from proklisis.footage.limited import limited
from proklisis.footage.people import find_people, seeds_of
from proklisis.footage.pose import PoseTracker
from proklisis.footage.probe import Clip, probe
from proklisis.footage.working_copy import TALLEST, make_working_copy
from proklisis.simulate.clip import write_clip
from proklisis.simulate.render.outfit import outfit
from proklisis.simulate.run import simulate


def seconds(work: Callable[[], Any]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def bare(clip: Clip, first: int, stop: int, progress: Callable[..., None] | None = None) -> int:
    found = 0
    with PoseTracker() as tracker:
        for frame in frames(clip, first, stop):
            found += tracker.follow(frame.picture, frame.t) is not None
    return found


def intake(path: Path, folder: Path, workers: int) -> None:
    """As ``web.runs.work`` does it: look who is there, the copy and the pieces, as far as there are workers, then join."""
    clip = limited(probe, path, name=path.name, seconds=300)
    with ThreadPoolExecutor(workers) as pool:
        looking = pool.submit(
            limited, find_people, clip, name=path.name, seconds=9e3, progress=lambda *_: None
        )
        copy = pool.submit(make_working_copy, clip, folder / f"copy{workers}.mp4")
        seeds = seeds_of(looking.result())
        pieces = list(
            pool.map(
                lambda cut: limited(
                    follow_piece,
                    clip,
                    *cut,
                    seeds,
                    name=path.name,
                    seconds=9e3,
                    progress=lambda *_: None,
                ),
                plan_pieces(len(clip.t)),
            )
        )
        copy.result()
    as_tracks(clip, ClipFacts(fps=clip.fps, view="front"), joined(pieces, len(clip.t)), 1.75)


def main() -> None:
    from benchmarks.intake import (
        bare,
    )  # a child finds it by its module, which is not __main__ there

    parser = argparse.ArgumentParser()
    parser.add_argument("--height", type=int, default=1080)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        sim = simulate("alpine_carve", {"not_level": 1.5}, units=8, view="front", seed=5)
        write_clip(sim, folder / "small.mp4", outfit(1), 1)
        path = folder / "clip.mp4"
        subprocess.run(
            ["ffmpeg", "-v", "error", "-y", "-i", str(folder / "small.mp4"), "-vf", f"scale=-2:{args.height}", "-crf", "20", "-g", "30", str(path)],
            check=True,
        )  # fmt: skip
        clip = probe(path)
        n = len(clip.t)
        print(f"{n} frames of {clip.width} × {clip.height}")
        alone = seconds(lambda: limited(bare, clip, 0, n, name="clip", seconds=9e3))
        print(f"bare tracker, one process        {alone:7.1f} s  {n / alone:5.1f} frames/s")
        halves = [(0, n // 2), (n // 2, n)]
        with ThreadPoolExecutor(2) as pool:
            twice = seconds(
                lambda: list(
                    pool.map(
                        lambda cut: limited(bare, clip, *cut, name="clip", seconds=9e3), halves
                    )
                )
            )
        print(f"bare tracker, two processes      {twice:7.1f} s")
        one, two = (seconds(lambda w=w: intake(path, folder, w)) for w in (1, 2))  # type: ignore[misc]
        print(
            f"whole intake on one worker       {one:7.1f} s  {one / alone:5.2f} × the bare tracker in one process"
        )
        print(
            f"whole intake on two workers      {two:7.1f} s  {two / twice:5.2f} × the bare tracker in two; {one / two:4.2f} times as fast as one worker"
        )
        copy = seconds(lambda: make_working_copy(clip, folder / "copy.mp4"))
        plain = ["ffmpeg", "-v", "error", "-y", "-i", str(path), "-vf", f"scale=-2:{TALLEST}", "-c:v", "libx264", "-preset", "veryfast", "-an", str(folder / "plain.mp4")]  # fmt: skip
        transcode = seconds(lambda: subprocess.run(plain, check=True))
        print(
            f"working copy                     {copy:7.1f} s  {copy / transcode:5.2f} × a plain transcode"
        )
        most = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
        print(f"most memory of a child           {most:7.0f} MB")


if __name__ == "__main__":
    main()
