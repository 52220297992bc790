"""Ask-me-first: from tracks with a tenth of their frames broken, how often ten corrections bring back the verdict.

    python -m benchmarks.corrections [discipline …] [--runs 20]

Joints slip off and back over the very phases that decide, by an eighth to a third of the rider's height,
without a jump that would give them away. Each suggested correction is answered with the truth.
"""

from __future__ import annotations

import argparse
from dataclasses import replace
from typing import Any

import numpy as np

from benchmarks.accuracy import LEVELS, _right
from proklisis.core.corrections.asking import ask_first
from proklisis.core.corrections.marks import Mark, apply_marks
from proklisis.core.errors import InputError
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.review import judge, playbook, review, run_sheet
from proklisis.core.rider.mass import MIDPOINTS
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.outlier_rejection import figure_height, without_outliers
from proklisis.core.tracks.tracks import Tracks
from proklisis.simulate.inject import measurable
from proklisis.simulate.riders import RIDERS
from proklisis.simulate.run import Simulated, simulate
from proklisis.simulate.style import injectable

DRAWS = 24


def slipped(
    sim: Simulated, fault: str | None, rng: np.random.Generator, share: float = 0.10
) -> Tracks | None:
    """The run's tracks with joints slipping in the phases that the fault (or any) is judged by."""
    tracks, book = sim.tracks, playbook(sim.discipline)
    done = review(tracks, sim.discipline, draws=DRAWS)
    read = {r.id for r in done.readings}
    faults = [book.faults[fault]] if fault else list(book.faults.values())
    leaves = [
        leaf
        for f in faults
        for leaf in f.when.leaves()
        if leaf.measure in read and leaf.measure in REGISTRY
    ]
    rng.shuffle(leaves)  # type: ignore[arg-type]
    for leaf in leaves:
        points = REGISTRY[str(leaf.measure)].points
        joints = [
            j
            for p in points
            for j in MIDPOINTS.get(p.replace("outside_", "l_").replace("inside_", "r_"), (p,))
            if j in BODY and j in tracks.index
        ]
        if joints:
            break
    else:
        return None
    xy, height, bad, units = (
        tracks.xy.copy(),
        figure_height(tracks.xy, tracks.names),
        np.zeros(len(tracks), bool),
        list(done.units),
    )
    for k in range(40):
        if bad.mean() >= share:
            break
        unit = units[int(rng.integers(len(units)))] if k >= len(units) else units[k]
        a, b = unit.phases.get(leaf.phase or "", (unit.start.t, unit.end.t))
        length = rng.uniform(0.2, 0.5)
        rows = np.flatnonzero(np.abs(tracks.t - (a + b) / 2) <= length / 2)
        way = rng.normal(size=2)
        bump = np.sin(np.pi * ((tracks.t[rows] - (a + b) / 2) / length + 0.5)) ** 2
        xy[rows, tracks.index[joints[int(rng.integers(len(joints)))]]] += (
            bump[:, None] * rng.uniform(0.12, 0.35) * height * way / np.linalg.norm(way)
        )
        bad[rows] = True
    return replace(tracks, xy=xy)


def verdicts(sim: Simulated, fault: str | None, broken: Tracks) -> tuple[bool, bool, bool]:
    """Whether the verdict is right: from whole tracks, from broken ones, and after ten corrections."""

    def worked(tracks: Tracks) -> tuple[Any, Any, dict[str, Any]]:
        done = review(tracks, sim.discipline, draws=DRAWS)
        sheet = run_sheet(done, sim.discipline, sim.about())
        return done, sheet, judge(sheet)

    whole = _right(worked(sim.tracks)[2], fault)
    state = worked(broken)
    first, marks, mended = _right(state[2], fault), [], without_outliers(broken)
    for _ in range(10):
        questions = ask_first(*state)
        if not questions:
            break
        q = questions[0]
        row = int(np.searchsorted(broken.frames, q.frame))
        x, y = sim.exact.point(q.landmark)[row]
        marks.append(Mark(q.frame, q.landmark, float(x), float(y)))
        state = worked(apply_marks(mended, marks))
    return whole, first, _right(state[2], fault)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument(
        "disciplines", nargs="*", default=["alpine_carve", "snowboard", "slalom_ski"]
    )
    parser.add_argument("--runs", type=int, default=20)
    args = parser.parse_args()
    for discipline in args.disciplines:
        level: Any = LEVELS.get(discipline, "intermediate")
        book = playbook(discipline)
        names = (
            measurable(book, RIDERS[discipline])
            if discipline in RIDERS
            else list(injectable(discipline))
        )
        names = [f for f in names if level in book.faults[f].levels]
        right = []
        for k in range(args.runs):
            fault = names[k % len(names)] if k % 4 else None
            try:
                sim = simulate(
                    discipline, {fault: 1.5} if fault else {}, seed=8000 + k, units=6, level=level
                )
            except InputError:
                continue  # not judged at this level
            broken = slipped(sim, fault, np.random.default_rng(k))
            if broken is not None:
                right.append(verdicts(sim, fault, broken))
        share = np.mean(right, axis=0)
        print(
            f"{discipline}: {len(right)} runs; right from whole tracks {share[0]:.0%}, from broken ones {share[1]:.0%}, after ten corrections {share[2]:.0%}"
        )


if __name__ == "__main__":
    main()
