"""How often it is told rightly what became of a target: after a fault was lessened by a known amount, and where nothing changed.

    python -m benchmarks.followed [--seeds 71 72] [--discipline ID …]

Every pair is two simulated runs of one rider, of two seeds, each filmed in noise of 2 px (a figure of 300 px) from the view that shows
the fault. The first run has one fault at 1.5 scales, the second the same fault at a part of that, or as much.
The truth of a target is what the two exact runs have of its measure. Constants were set on seeds 1 and 2 of turns on piste.
"""

from __future__ import annotations

import argparse
import sys
import time
from collections import Counter
from math import hypot

from proklisis.core.comparing.pair import of_review
from proklisis.core.errors import InputError, Lacking
from proklisis.core.playbook.followed import aims_with
from proklisis.core.review import judge, playbook, playbook_ids, review
from proklisis.core.shapes.prescription import Followed
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.simulate.filming import tracked
from proklisis.simulate.run import simulate

NOISE_PX, STRENGTH, UNITS = 2.0, 1.5, 8
#: How much of the fault is left in the second run.
LEFT = (0.0, 0.5, 1.0)
#: A target's measure has changed where the exact runs differ by this share of what missed the band.
SOME = 0.1


def filmed(discipline: str, faults: dict[str, float], seed: int, noise: int, view: str | None) -> tuple[RunSheet, RunSheet]:  # fmt: skip
    """A run by its sheet as a tracker gives it, and by its exact one."""
    sim = simulate(discipline, faults, seed=seed, view=view, units=UNITS)  # type: ignore[arg-type]
    done = review(tracked(sim.exact, NOISE_PX, noise), discipline)
    exact = review(sim.exact, discipline)
    return tuple(of_review("x", r, discipline, sim.about()).sheet for r in (done, exact))  # type: ignore[return-value]


def of_discipline(discipline: str, seeds: list[int]) -> Counter[str]:
    """Counts of what came out."""
    out: Counter[str] = Counter()
    book = playbook(discipline)
    for fault in book.faults:
        for seed in seeds:
            try:
                view = simulate(discipline, {fault: STRENGTH}, seed=seed, units=UNITS).shot.view
                before, was = filmed(discipline, {fault: STRENGTH}, seed, seed + 100, view)
            except (InputError, Lacking):
                break  # not a fault that can be put in, or one whose view cannot be judged
            set_then = judge(before)
            if set_then["main"] is None or set_then["main"]["fault"] != fault:
                continue
            aims, true = (aims_with(x, book, set_then) for x in (before, was))
            for left in LEFT:
                faults = {fault: STRENGTH * left} if left else {}
                try:
                    after, is_now = filmed(discipline, faults, seed + 5000, seed + 700, view)
                except (InputError, Lacking):
                    continue
                told = judge(after.model_copy(update={"previous": aims}))["followup"]
                truth = judge(is_now.model_copy(update={"previous": true}))["followup"]
                for row, fact in zip(told, truth, strict=True):
                    way = _way(fact, row)
                    out[f"{way} {row['verdict']}"] += 1
                    out[way] += 1
    return out


def _way(fact: Followed, told: Followed) -> str:
    """Which way a target's measure truly moved; "within" where that is less than the combined U of what was read."""
    if fact["before"] is None or fact["now"] is None:
        return "unknown"
    off = [_off(fact[k]["value"], fact["target"]) for k in ("before", "now")]
    moved = off[0] - off[1]
    if abs(moved) <= SOME * max(off):
        return "same"
    if (
        told["before"]
        and told["now"]
        and abs(moved) <= 2 * hypot(told["before"]["u"], told["now"]["u"])
    ):
        return "within"
    return "toward" if moved > 0 else "away"


def _off(value: float, band: list[float | None]) -> float:
    lo, hi = band
    return max(lo - value if lo is not None else 0.0, value - hi if hi is not None else 0.0, 0.0)


def main() -> int:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--seeds", type=int, nargs="+", default=[71, 72])
    parser.add_argument("--discipline", nargs="+", default=playbook_ids())
    args = parser.parse_args()
    whole: Counter[str] = Counter()
    print("| discipline | truly | n | in band | better | no change | worse | cannot tell |")
    print("| --- | --- | --- | --- | --- | --- | --- | --- |")
    began = time.monotonic()
    for discipline in args.discipline:
        c = of_discipline(discipline, args.seeds)
        whole += c
        _rows(discipline, c)
    _rows("all", whole)
    print(f"{time.monotonic() - began:.0f} s", file=sys.stderr)
    return 0


def _rows(name: str, c: Counter[str]) -> None:
    for way in ("toward", "within", "same", "away", "unknown"):
        if c[way]:
            told = " | ".join(str(c[f"{way} {v}"]) for v in ("in_band", "better", "no_change", "worse", "cannot_tell"))  # fmt: skip
            print(f"| {name} | {way} | {c[way]} | {told} |", flush=True)


if __name__ == "__main__":
    sys.exit(main())
