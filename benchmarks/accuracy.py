"""How close the pipeline comes to the simulator's exact truth; writes docs/accuracy.md.

    python -m benchmarks.accuracy [--seeds 4] [--pixels]

Tracks: noise 2 px at a 300 px figure, 8 turns, 60 frames a second, clean runs and every measured
fault at 1.5 band scales. With --pixels, rendered clips are also followed by the body tracker
(minutes each).
"""

from __future__ import annotations

import argparse
from collections import defaultdict
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from proklisis.core.doubts import Doubtful
from proklisis.core.errors import InputError
from proklisis.core.review import Review, judge, playbook, review, run_sheet
from proklisis.core.tracks.tracks import Tracks
from proklisis.simulate.inject import measurable
from proklisis.simulate.riders import RIDERS
from proklisis.simulate.run import Simulated, simulate
from proklisis.simulate.style import INJECT, injectable

DISCIPLINE = "alpine_carve"
PIXELS = "## From pixels alone"
#: Disciplines that are judged at another level than intermediate.
LEVELS: dict[str, str] = {"kite_roll": "advanced"}
OUT = Path(__file__).resolve().parents[1] / "docs" / "accuracy.md"


@dataclass
class Tally:
    """Counts over many runs."""

    frames: float
    discipline: str = DISCIPLINE
    runs: int = 0
    right: dict[str, list[bool]] = field(default_factory=lambda: defaultdict(list))
    asked: int = 0
    hits: int = 0
    found: int = 0
    true: int = 0
    errors: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    inside: dict[str, list[bool]] = field(default_factory=lambda: defaultdict(list))
    stated: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))

    def add(self, sim: Simulated, tracks: Tracks, fault: str | None) -> None:
        self.runs += 1
        try:
            done = review(tracks, self.discipline)
        except Doubtful:
            # Asked before anything is judged, though all is said rightly: answered as a coach would.
            self.asked += 1
            done = review(tracks.with_facts(sure=("view", "rate", "front_foot")), self.discipline)
        truth = sim.truth()
        self._boundaries(done, sim)
        self.right[fault or "clean"].append(
            _right(judge(run_sheet(done, self.discipline, sim.about())), fault)
        )
        if len(done.units) != len(truth.units):
            return
        exact = {(r.id, r.segment, r.phase, r.limb): r.value for r in truth.readings}
        for r in done.readings:
            key = (r.id, r.segment, r.phase, r.limb)
            if key in exact and np.isfinite(r.value):
                self.errors[r.id].append(r.value - exact[key])
                self.inside[r.id].append(abs(r.value - exact[key]) <= 2 * r.u)
                self.stated[r.id].append(2 * r.u)

    def _boundaries(self, done: Review, sim: Simulated) -> None:
        found, true = (
            np.array([b.t for b in done.boundaries]),
            np.array([b.t for b in sim.truth().boundaries]),
        )
        near = [
            len(found) > 0 and np.abs(found - t).min() <= (self.frames + 0.01) / 60 for t in true
        ]
        self.hits, self.found, self.true = (
            self.hits + sum(near),
            self.found + len(found),
            self.true + len(true),
        )

    def width(self) -> float:
        """How wide the stated ± is: the median over measures of median U ÷ the error that 95 % of readings keep within."""
        shares = [
            np.median(self.stated[k]) / max(float(np.percentile(np.abs(e), 95)), 1e-9)
            for k, e in self.errors.items()
            if len(e) >= 10
        ]
        return float(np.median(shares)) if shares else float("nan")

    def f1(self) -> float:
        return 2 * self.hits / (self.found + self.true)

    def rows(self) -> list[str]:
        out = [
            "| measure | readings | RMS error | median error | error of 95 % | median ± U | truth inside ± U |",
            "|---|---|---|---|---|---|---|",
        ]
        for name, errors in self.errors.items():
            e = np.abs(errors)
            out.append(
                f"| `{name}` | {len(e)} | {np.sqrt(np.mean(e**2)):.3g} | {np.median(e):.3g} | {np.percentile(e, 95):.3g} | {np.median(self.stated[name]):.3g} | {np.mean(self.inside[name]):.1%} |"
            )
        return out

    def summary(self) -> list[str]:
        faults = [v for k, values in self.right.items() if k != "clean" for v in values]
        every = [v for values in self.inside.values() for v in values]
        return [
            f"- {self.runs} runs; boundaries within ±{self.frames:g} frames: F1 = {self.f1():.3f}",
            f"- asked about the view, the clock or the front foot though they were said rightly: {self.asked} of {self.runs}",
            f"- truth inside the stated ± U: {np.mean(every):.1%} of {len(every)} readings",
            f"- injected fault is the main thing or explained by it: {np.mean(faults):.1%} of {len(faults)}",
            f"- clean runs with nothing to put right: {np.mean(self.right['clean']):.1%} of {len(self.right['clean'])}",
        ]


def _right(found: dict[str, Any], fault: str | None) -> bool:
    main = found["main"]
    if fault is None or main is None:
        return fault is None and main is None
    explained = next(f["explains"] for f in found["findings"] if f["fault"] == main["fault"])
    return fault == main["fault"] or fault in explained


def from_tracks(seeds: int) -> Tally:
    tally = Tally(frames=2)
    faults = [f for f in INJECT if "intermediate" in playbook(DISCIPLINE).faults[f].levels]
    for seed in range(seeds):
        for view in ("front", "rear", "side_left", "above"):
            sim = simulate(DISCIPLINE, {}, view=view, seed=9000 + seed)  # type: ignore[arg-type]
            tally.add(sim, sim.tracks, None)
        for k, fault in enumerate(faults):
            sim = simulate(DISCIPLINE, {fault: 1.5}, seed=100 * k + seed)
            tally.add(sim, sim.tracks, fault)
    return tally


def of_discipline(discipline: str, seeds: int) -> Tally:
    """Clean runs and every measured fault of one discipline, each from the view that shows it."""
    tally = Tally(frames=2, discipline=discipline)
    level: Any = LEVELS.get(discipline, "intermediate")
    book = playbook(discipline)
    faults = (
        measurable(book, RIDERS[discipline])
        if discipline in RIDERS
        else list(injectable(discipline))
    )
    for seed in range(seeds):
        for k, fault in enumerate((None, *(f for f in faults if level in book.faults[f].levels))):
            try:
                sim = simulate(
                    discipline,
                    {fault: 1.5} if fault else {},
                    seed=5000 + 100 * seed + k,
                    units=6,
                    level=level,
                )
            except InputError:
                continue  # not judged at this level
            tally.add(sim, sim.tracks, fault)
    return tally


def row_of(discipline: str, seeds: int) -> str:
    """The report's line of one discipline."""
    t = of_discipline(discipline, seeds)
    faults = [v for k, values in t.right.items() if k != "clean" for v in values]
    every = [v for values in t.inside.values() for v in values]
    low = (
        ", ".join(f"`{k}` {np.mean(v):.0%}" for k, v in t.inside.items() if np.mean(v) < 0.85)
        or "–"
    )
    line = (
        f"| `{discipline}` | {t.runs} | {t.asked} | {sum(faults)} of {len(faults)} | {sum(t.right['clean'])} of {len(t.right['clean'])} | "
        f"{t.f1():.3f} | {np.mean(every):.1%} | {t.width():.2f} | {low} |"
    )
    print(line, flush=True)
    return line


def across_disciplines(seeds: int) -> list[str]:
    """One line of the report per discipline."""
    head = [
        "| discipline | runs | asked first | faults found or explained | clean runs clean | boundaries F1 | truth inside ± U | median ± U ÷ error of 95 % | measures under 85 % |",
        "|---|---|---|---|---|---|---|---|---|",
    ]
    return head + [row_of(d, seeds) for d in sorted({*RIDERS, "alpine_gates"})]


def again(disciplines: list[str], seeds: int) -> None:
    """Make the lines of some disciplines again, and leave the rest of the report as it is."""
    before, pixels, after = OUT.read_text("utf-8").partition(PIXELS)
    new = {d: row_of(d, seeds) for d in disciplines}
    lines = [
        new.get(line.split("`")[1], line) if line.startswith("| `") else line
        for line in before.split("\n")
    ]
    OUT.write_text("\n".join(lines) + pixels + after, "utf-8")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=4)
    parser.add_argument("--pixels", action="store_true")
    parser.add_argument(
        "--pixels-only", action="store_true", help="leave the figures from tracks as they are"
    )
    parser.add_argument(
        "--of",
        nargs="*",
        default=[],
        help="only these disciplines; with --pixels-only, beside the turns on piste",
    )
    args = parser.parse_args()
    if args.pixels_only:
        from benchmarks.pixels import report

        OUT.write_text(
            "\n".join(
                [
                    OUT.read_text("utf-8").split(PIXELS, 1)[0].rstrip(),
                    "",
                    PIXELS,
                    "",
                    *report(args.of),
                    "",
                ]
            ),
            "utf-8",
        )
        print(OUT.read_text("utf-8"))
        return
    if args.of:
        again(args.of, max(1, args.seeds // 2))
        return
    command = (
        "python -m benchmarks.accuracy"
        + (f" --seeds {args.seeds}" if args.seeds != 4 else "")
        + " --pixels" * args.pixels
    )
    text = [
        "# Accuracy against exact truth",
        "",
        f"Written by `{command}`; do not edit by hand.",
        "",
    ]
    tally = from_tracks(args.seeds)
    text += [
        "## From tracks (noise 2 px at a 300 px figure)",
        "",
        *tally.summary(),
        "",
        *tally.rows(),
        "",
    ]
    missed = {k: f"{sum(v)} of {len(v)}" for k, v in tally.right.items() if not all(v)}
    text += [f"Faults that were not always found: {missed or 'none'}.", ""]
    text += [
        "## Every other discipline, from tracks",
        "",
        *across_disciplines(max(1, args.seeds // 2)),
        "",
    ]
    if args.pixels:
        from benchmarks.pixels import report

        text += [PIXELS, "", *report(), ""]
    elif OUT.exists() and PIXELS in OUT.read_text("utf-8"):
        # Following pictures takes long: without it, the last time's figures stay.
        text += [PIXELS + OUT.read_text("utf-8").split(PIXELS, 1)[1].rstrip(), ""]
    OUT.write_text("\n".join(text), "utf-8")
    print(OUT.read_text("utf-8"))


if __name__ == "__main__":
    main()
