"""How often the first difference between two runs is found, and named, and how often equal runs are told apart.

    python -m benchmarks.compared [--seeds 61 62] [--discipline ID …]

Every pair is one simulated run, filmed twice in noise of 2 px (a figure of 300 px): as it is, and with one fault at 1.5 scales that
begins at the fourth of eight units (the values of the units before it come from a second filming of the clean run). Right is the
fault in the chain. Left out are faults that the simulator's rider does not show in the exact tracks, and those that are read of a
whole run alone: nobody can say from where on. Constants were set on seeds 1 to 4.
"""

from __future__ import annotations

import argparse
import re
import sys
import time
from collections import Counter
from typing import Any

from proklisis.core.comparing.pair import Run, of_review, pair
from proklisis.core.errors import InputError, Lacking
from proklisis.core.review import judge, parse_sheet, playbook, playbook_ids, review
from proklisis.simulate.filming import tracked
from proklisis.simulate.run import Simulated, simulate

NOISE_PX, STRENGTH, UNITS, BEGINS = 2.0, 1.5, 8, 4


def filmed(sim: Simulated, noise: int, name: str, about: dict[str, Any]) -> Run:
    """A run by its sheet alone, as a tracker gives it; ``about`` is the day's facts, the same for both of a pair."""
    done = review(tracked(sim.exact, NOISE_PX, noise), sim.discipline)
    return Run(name, of_review(name, done, sim.discipline, about).sheet)


def spliced(clean: Run, faulty: Run) -> Run:
    """The clean run, from :data:`BEGINS` on the faulty one."""
    rows = [m for m in clean.sheet.measures if m.segment is not None and m.segment < BEGINS]
    rows += [m for m in faulty.sheet.measures if m.segment is not None and m.segment >= BEGINS]
    return Run("b", clean.sheet.model_copy(update={"measures": rows}))


def shown(fault: str, sim: Simulated) -> bool:
    """Whether the run has the fault where everything is known, and in a value of single units."""
    sheet = parse_sheet(sim.truth_sheet())
    found = {f["fault"]: f["evidence"] for f in judge(sheet)["findings"]}
    of_units = {m.id for m in sheet.measures if m.segment is not None}
    return any(e["measure"].split("/")[0].split("-")[0] in of_units for e in found.get(fault, ()))


def of_discipline(discipline: str, seeds: list[int]) -> Counter[str]:
    """Counts of what came out."""
    out: Counter[str] = Counter()
    for fault in playbook(discipline).faults:
        for seed in seeds:
            try:
                sim = simulate(discipline, {fault: STRENGTH}, seed=seed, units=UNITS)
                if not shown(fault, sim):
                    out["not shown"] += 1
                    continue
                clean = simulate(discipline, {}, seed=seed, view=sim.shot.view, units=UNITS)
                faulty = filmed(sim, seed + 900, "b", sim.about())
                one = filmed(clean, seed + 100, "a", sim.about())
                again = filmed(clean, seed + 500, "b", sim.about())
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
        "| discipline | pairs | unit right | named | another named | no fault named | too early | missed | equal told apart | not shown |"
    )
    print("| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |")
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
    return f"| {name} | {c['pairs']} | {c['unit']} | {c['named']} | {other} | {c['unnamed']} | {c['early']} | {c['missed']} | {c['told apart']} of {c['equal']} | {c['not shown']} |"


if __name__ == "__main__":
    sys.exit(main())
