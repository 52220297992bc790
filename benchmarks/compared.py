"""How often the first difference between two runs is found, and named, and how often equal runs are told apart.

    python -m benchmarks.compared [--seeds 61 62] [--discipline ID …]

Every pair is one simulated run, filmed twice in noise of 2 px (a figure of 300 px): as it is, and with one fault at 1.5 scales that
begins at the fourth of eight units (the values of the units before it come from a second filming of the clean run). Right is the
fault, or one that the exact sheet of the faulty run has too, in the chain. Constants were set on seeds 1 and 2 of turns on piste.
"""

from __future__ import annotations

import argparse
import re
import sys
import time
from collections import Counter

from proklisis.core.comparing.pair import Run, of_review, pair
from proklisis.core.errors import InputError, Lacking
from proklisis.core.review import playbook, playbook_ids, review
from proklisis.simulate.filming import tracked
from proklisis.simulate.run import simulate

NOISE_PX, STRENGTH, UNITS, BEGINS = 2.0, 1.5, 8, 4


def filmed(
    discipline: str, faults: dict[str, float], seed: int, noise: int, name: str, view: str | None
) -> Run:
    """A run by its sheet alone, as a tracker gives it."""
    sim = simulate(discipline, faults, seed=seed, view=view, units=UNITS)  # type: ignore[arg-type]
    done = review(tracked(sim.exact, NOISE_PX, noise), discipline)
    return Run(name, of_review(name, done, discipline, sim.about()).sheet)


def spliced(clean: Run, faulty: Run) -> Run:
    """The clean run, from :data:`BEGINS` on the faulty one."""
    rows = [m for m in clean.sheet.measures if m.segment is not None and m.segment < BEGINS]
    rows += [m for m in faulty.sheet.measures if m.segment is not None and m.segment >= BEGINS]
    return Run("b", clean.sheet.model_copy(update={"measures": rows}))


def of_discipline(discipline: str, seeds: list[int]) -> Counter[str]:
    """Counts of what came out."""
    out: Counter[str] = Counter()
    for fault in playbook(discipline).faults:
        for seed in seeds:
            try:
                sim = simulate(discipline, {fault: STRENGTH}, seed=seed, units=UNITS)
                faulty = filmed(discipline, {fault: STRENGTH}, seed, seed + 900, "b", sim.shot.view)
                one = filmed(discipline, {}, seed, seed + 100, "a", sim.shot.view)
                again = filmed(discipline, {}, seed, seed + 500, "b", sim.shot.view)
            except (InputError, Lacking):
                break  # not a fault that can be put in, or one whose view cannot be judged
            out["equal"] += 1
            out["told apart"] += pair(one, again)["first_difference"] is not None
            if len(one.sheet.segments) < BEGINS + 1 or len(one.sheet.segments) != len(
                again.sheet.segments
            ) != len(faulty.sheet.segments):
                continue
            out["pairs"] += 1
            first = pair(one, spliced(again, faulty))["first_difference"]
            if first is None:
                out["missed"] += 1
                continue
            found = re.search(rf"{playbook(discipline).unit} (\d+)", first["says"])
            out["unit"] += found is not None and int(found.group(1)) == BEGINS
            out["early"] += found is not None and int(found.group(1)) < BEGINS
            out["named"] += fault in first["chain"]
            out["unnamed"] += not first["chain"]
    return out


def main() -> int:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--seeds", type=int, nargs="+", default=[61, 62])
    parser.add_argument("--discipline", nargs="+", default=playbook_ids())
    args = parser.parse_args()
    whole: Counter[str] = Counter()
    print(
        "| discipline | pairs | unit right | named | another named | no fault named | too early | missed | equal told apart |"
    )
    print("| --- | --- | --- | --- | --- | --- | --- | --- | --- |")
    began = time.monotonic()
    for discipline in args.discipline:
        c = of_discipline(discipline, args.seeds)
        whole += c
        print(row(discipline, c), flush=True)
    print(row("all", whole))
    print(f"{time.monotonic() - began:.0f} s", file=sys.stderr)
    return 0


def row(name: str, c: Counter[str]) -> str:
    other = c["pairs"] - c["named"] - c["unnamed"] - c["missed"]
    return f"| {name} | {c['pairs']} | {c['unit']} | {c['named']} | {other} | {c['unnamed']} | {c['early']} | {c['missed']} | {c['told apart']} of {c['equal']} |"


if __name__ == "__main__":
    sys.exit(main())
