"""Most memory of a worker: judging ten minutes at 60 frames a second; or the whole intake of a long 1080p clip.

    python -m benchmarks.memory alpine_carve snowboard
    python -m benchmarks.memory --clip 10

The clip is a demo clip played again and again at 1920×1080 and 30 frames a second; its rider jumps back
to the start now and then, as no real one does. It takes about twice its own length on two cores.
"""

from __future__ import annotations

import argparse
import resource
import subprocess
import tempfile
import time
from pathlib import Path

from benchmarks.intake import intake
from proklisis.core.review import judge, review, run_sheet
from proklisis.footage.probe import probe
from proklisis.simulate.run import simulate

DEMO_CLIP = (
    Path(__file__).resolve().parents[1] / "proklisis" / "web" / "demo" / "clips" / "bram.mp4"
)


def mb(whose: int) -> float:
    return resource.getrusage(whose).ru_maxrss / 1024


def judged(discipline: str) -> None:
    sim = simulate(discipline, {}, units=40, seed=1)
    units = int(40 * 36_000 / len(sim.tracks))
    sim = simulate(discipline, {}, units=units, seed=1)
    before = mb(resource.RUSAGE_SELF)
    judge(run_sheet(review(sim.tracks, discipline), discipline, sim.about()))
    print(
        f"{discipline}: {len(sim.tracks)} frames, {units} units: {before:.0f} MB before, {mb(resource.RUSAGE_SELF):.0f} MB at most"
    )


def taken_in(minutes: float, workers: int) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "long.mp4"
        command = [
            "ffmpeg",
            "-v",
            "error",
            "-stream_loop",
            "-1",
            "-i",
            DEMO_CLIP,
            "-t",
            60 * minutes,
            "-an",
        ]
        command += [
            "-vf",
            "scale=1920:1080:flags=fast_bilinear,fps=30",
            "-c:v",
            "libx264",
            "-preset",
            "ultrafast",
            path,
        ]
        subprocess.run([str(c) for c in command], check=True)
        clip = probe(path)
        print(
            f"{len(clip.t)} frames of {clip.width}×{clip.height}, {path.stat().st_size / 2**20:.0f} MB on the disk",
            flush=True,
        )
        encoder = mb(resource.RUSAGE_CHILDREN)
        started = time.perf_counter()
        intake(path, Path(folder), workers)
        took = time.perf_counter() - started
        print(
            f"taken in by {workers} workers in {took:.0f} s: {mb(resource.RUSAGE_CHILDREN):.0f} MB in the largest process below them"
        )
        print(
            f"(making the clip: {encoder:.0f} MB), {mb(resource.RUSAGE_SELF):.0f} MB in the one that joins"
        )


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("disciplines", nargs="*")
    parser.add_argument("--clip", type=float, help="minutes of a clip to take in")
    parser.add_argument("--workers", type=int, default=2)
    args = parser.parse_args()
    if args.clip:
        taken_in(args.clip, args.workers)
    for discipline in args.disciplines or ([] if args.clip else ["alpine_carve"]):
        judged(discipline)


if __name__ == "__main__":
    main()
