"""How near the lines of a map lie to where the rider was, and how often within the ± that they show.

    python -m benchmarks.maps [--seeds 21 22 23 24]

Simulated runs at 2 px of noise, exact positions taken from the simulator. Constants were set on seeds 3, 4 and 11.
"""

from __future__ import annotations

import argparse
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from proklisis.core.comparing.pair import of_review
from proklisis.core.maps.maps import run_map
from proklisis.core.review import review
from proklisis.simulate.run import Simulated, simulate

Array = NDArray[np.float64]
True_ = Callable[[Simulated, Array], Array]


def place(sim: Simulated, t: Array, *names: str) -> Array:
    p = np.mean([sim.motion.points[n] for n in names], axis=0)
    return np.stack([np.interp(t, sim.motion.t, p[:, k]) for k in range(3)], axis=1)


def wakes(sim: Simulated, t: Array) -> Array:
    left, right = (place(sim, t, n)[:, 0] for n in ("wake_l", "wake_r"))
    return (place(sim, t, "l_ankle", "r_ankle")[:, 0] - (left + right) / 2) / ((right - left) / 2)


def across_gates(sim: Simulated, t: Array) -> Array:
    return (place(sim, t, "l_ankle", "r_ankle") - place(sim, np.zeros(1), "gate_1"))[:, 0]


def down_gates(sim: Simulated, t: Array) -> Array:
    off = (place(sim, t, "l_ankle", "r_ankle") - place(sim, np.zeros(1), "gate_1"))[:, 1]
    return -off / np.cos(np.radians(sim.motion.slope_deg))


def face(sim: Simulated, t: Array) -> Array:
    foot = place(sim, t, "trough")
    up, d = place(sim, t, "lip_top") - foot, place(sim, t, "board_nose", "board_tail") - foot
    up[:, 0] = d[:, 0] = 0
    return np.asarray((d * up).sum(axis=1) / (up**2).sum(axis=1))


def course(sim: Simulated, t: Array) -> Array:
    d = place(sim, t, "board_nose") - place(sim, t, "board_tail")
    return np.degrees(np.arctan2(d[:, 0], d[:, 1]))


#: Map, its view, which axis, the true value there, and its unit.
ROWS: list[tuple[str, str, int, True_, str]] = [
    ("slalom_ski", "rear", 0, wakes, "wakes"), ("alpine_gates", "front", 0, across_gates, "m across"),
    ("alpine_gates", "front", 1, down_gates, "m down"), ("surf_turn", "front", 1, face, "of the face"),
    ("windsurf_gybe", "above", 1, course, "°"), ("windsurf_gybe", "front", 1, course, "°"),
]  # fmt: skip


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, nargs="+", default=[21, 22, 23, 24])
    seeds = parser.parse_args().seeds
    print(
        "| map | from | places | root mean square error | middle U | within U |\n|---|---|---|---|---|---|"
    )
    for discipline, view, axis, exact, unit in ROWS:
        errors, us = [], []
        for seed in seeds:
            sim = simulate(discipline, {}, seed=seed, view=view, units=6)  # type: ignore[arg-type]
            done = review(sim.tracks, discipline)
            for line in run_map(of_review("a", done, discipline, sim.about()))["lines"]:
                if line["kind"] == "path":
                    errors.append(np.array(line["at"])[:, axis] - exact(sim, np.array(line["t"])))
                    us.append(np.array(line["u"])[:, axis])
        e, u = np.concatenate(errors), np.concatenate(us)
        print(f"| {discipline} | {view} | {len(e)} | {np.sqrt(np.mean(e**2)):.3f} {unit} | {np.median(u):.3f} | {100 * np.mean(np.abs(e) <= u):.0f} % |")  # fmt: skip


if __name__ == "__main__":
    main()
