"""What is guessed of a clip, and how often wrongly: the view by the body, and the goes of a film of many.

    python -m benchmarks.guessed views [--seeds 831 832 833]
    python -m benchmarks.guessed goes [--seeds 4] [--discipline alpine_carve]

Views: simulated tracks (2 px of noise at a 300 px figure), every discipline from five views at two levels, on the line and
12° off it. Goes: a film of 20 goes by 6 riders of the mesh in clothes of their own, 640 × 360 at 25 frames a second, from ahead
and from both sides, by a hand that shakes; between them an empty place, and walkers who pass. A go is found when both its ends are
within half a second. Seeds that a constant was set on are named in the module that holds it, and are not to be reported.
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from scipy.optimize import linear_sum_assignment

from proklisis.core.doubts import view_guessed
from proklisis.core.errors import InputError
from proklisis.core.review import playbook, playbook_ids
from proklisis.footage.goes import Go, find_goes, rides_from
from proklisis.footage.probe import probe
from proklisis.simulate.run import simulate
from proklisis.simulate.session import Ridden, make_film

VIEWS = ("front", "rear", "side_left", "side_right", "above")
#: Within so many seconds of both ends a go is found.
NEAR_S = 0.5


def views(seeds: list[int]) -> None:
    """Print how often the view is told, rightly and wrongly."""
    whole: Counter[str] = Counter()
    for discipline in playbook_ids():
        row: Counter[str] = Counter()
        for view in VIEWS:
            for seed in seeds:
                for k, level in enumerate(("intermediate", "advanced")):
                    for off in (0.0, 12.0):
                        run = simulate(
                            discipline, {}, level=level, view=view, seed=seed + 7 * k, units=3, offset_deg=off  # type: ignore[arg-type]
                        )  # fmt: skip
                        found = view_guessed(run.tracks.with_facts(view=None), playbook(discipline))
                        row[
                            "asked" if found is None else "right" if found[0] == view else "wrong"
                        ] += 1
        whole += row
        print(
            f"{discipline:16} right {row['right']:3}  wrong {row['wrong']:3}  asked {row['asked']:3}",
            flush=True,
        )
    told = whole["right"] + whole["wrong"]
    print(
        f"of {sum(whole.values())}: told {told}, wrong {whole['wrong']} of them; asked {whole['asked']}"
    )


def held(found: list[Go], put_in: list[Ridden]) -> tuple[int, int, int]:
    """(goes found, wrong goes, of the found ones those put down to their own rider)."""
    pairs: list[tuple[int, int]] = []
    taken: set[int] = set()
    for i, g in enumerate(found):
        off = [
            (max(abs(g.from_s - r.from_s), abs(g.to_s - r.to_s)), k)
            for k, r in enumerate(put_in) if k not in taken
        ]  # fmt: skip
        best = min(off, default=(np.inf, -1))
        if best[0] <= NEAR_S:
            taken.add(best[1])
            pairs.append((i, best[1]))
    names = sorted({found[i].rider for i, _ in pairs})
    people = sorted({put_in[k].who for _, k in pairs})
    table = np.zeros((len(names), len(people)))
    for i, k in pairs:
        table[names.index(found[i].rider), people.index(put_in[k].who)] += 1
    rows, columns = linear_sum_assignment(-table)
    return len(pairs), len(found) - len(pairs), int(table[rows, columns].sum())


def goes(seeds: list[int], discipline: str) -> None:
    """Print how many goes of made films are found, and how many are put down to their own rider."""
    for seed in seeds:
        with TemporaryDirectory(prefix="proklisis-") as folder:
            path = Path(folder) / "film.mp4"
            put_in = make_film(path, seed, discipline)
            found = find_goes(probe(path), rides=rides_from(playbook(discipline).speed_ms))
        right, wrong, own = held(found, put_in)
        f1 = 2 * right / (len(found) + len(put_in))
        print(
            f"{discipline} seed {seed}: {len(put_in)} goes, found {right}, wrong {wrong}, F1 {f1:.2f}; their own rider's {own} of {right}",
            flush=True,
        )


def main() -> int:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("what", choices=["views", "goes"])
    parser.add_argument("--seeds", type=int, nargs="+")
    parser.add_argument("--discipline", default="alpine_carve")
    args = parser.parse_args()
    try:
        if args.what == "views":
            views(args.seeds or [831, 832, 833])
        else:
            goes(args.seeds or [4], args.discipline)
    except InputError as e:
        print(e, file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
