"""Most memory of judging a long clip: ten minutes at 60 frames a second, each discipline family.

    python -m benchmarks.memory alpine_carve snowboard
"""

from __future__ import annotations

import resource
import sys

from proklisis.core.review import judge, review, run_sheet
from proklisis.simulate.run import simulate


def main() -> None:
    for discipline in sys.argv[1:] or ["alpine_carve"]:
        sim = simulate(discipline, {}, units=40, seed=1)
        units = int(40 * 36_000 / len(sim.tracks))
        sim = simulate(discipline, {}, units=units, seed=1)
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        judge(run_sheet(review(sim.tracks, discipline), discipline, sim.about()))
        after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        print(f"{discipline}: {len(sim.tracks)} frames, {units} units: {before:.0f} MB before, {after:.0f} MB at most")


if __name__ == "__main__":
    main()
