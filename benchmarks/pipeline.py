"""Cost of splitting, measuring and judging against the length of the track, side by side in one run.

    python -m benchmarks.pipeline

Prints seconds for 4,500 to 36,000 frames (ten minutes at 60 a second) and how cost grows: a ratio
of 8 from the first to the last is linear.
"""

from __future__ import annotations

import time

from proklisis.core.review import judge, review, run_sheet
from proklisis.simulate.run import Simulated, simulate


def cost(sim: Simulated) -> float:
    started = time.perf_counter()
    judge(run_sheet(review(sim.tracks, "alpine_carve"), "alpine_carve", sim.about()))
    return time.perf_counter() - started


def main() -> None:
    seconds = {}
    for units in (53, 107, 213, 428):
        sim = simulate("alpine_carve", {"banking": 1.5}, units=units, view="front", seed=1)
        cost(sim)
        seconds[len(sim.tracks)] = min(cost(sim) for _ in range(3))
        print(f"{len(sim.tracks):6d} frames  {seconds[len(sim.tracks)]:6.2f} s")
    lengths = list(seconds)
    print(
        f"cost grows {seconds[lengths[-1]] / seconds[lengths[0]]:.1f} times over {lengths[-1] / lengths[0]:.1f} times the length"
    )


if __name__ == "__main__":
    main()
