"""What is made of clips alone, with nothing marked: gear, units and verdicts of every discipline; writes docs/from-clips.md.

    python -m benchmarks.clips [--fitted] [--only snowboard] [--most 10]

Every discipline is filmed from its two best views, ridden by people whose bodies are not built from our proportions. The body is
followed, gear is looked for, and the run is judged as the coach described it: view, front foot, slope and conditions are said, no point is
marked. Truth is where the drawn gear is, when the simulated rider's own events are, and what their joints do. ``--fitted`` runs the
films that constants were set on. Films are kept (see :mod:`benchmarks.filmed`).
"""

from __future__ import annotations

import argparse
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from benchmarks.filmed import FITTED_ON, REPORTED_FROM, Film, Followed, all_followed
from proklisis.core.doubts import Doubtful
from proklisis.core.errors import InputError
from proklisis.core.gear.bars import GEAR
from proklisis.core.gear.found import with_found_gear
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.review import judge, judged_of, playbook, review, run_sheet
from proklisis.core.tracks.tracks import Tracks

OUT = Path(__file__).resolve().parents[1] / "docs" / "from-clips.md"
VIEWS = {
    "alpine_carve": ("front", "side_right"), "alpine_gates": ("front", "side_right"), "double_pole": ("side_right", "front"),
    "drop_boof": ("side_right", "front"), "figure_jump": ("front", "side_right"), "figure_loop": ("side_left", "front"),
    "inline_start": ("front", "side_right"), "kite_roll": ("side_right", "front"), "moto_stance": ("side_right", "front"),
    "slalom_ski": ("front", "side_right"), "snowboard": ("front", "side_right"), "speed_skate": ("front", "side_right"),
    "surf_turn": ("front", "side_right"), "trail_stance": ("side_right", "front"), "windsurf_gybe": ("side_right", "front"),
}  # fmt: skip
LONG = ("alpine_carve", "alpine_gates", "snowboard", "double_pole", "surf_turn", "slalom_ski")
#: A boundary is found within three frames of 30 a second.
FOUND_S = 0.1


def films(fitted: bool, rounds: int) -> Iterator[Film]:
    people, first = (FITTED_ON, 7000) if fitted else (REPORTED_FROM, 7600)
    k = 0
    for _ in range(rounds):
        for v in (0, 1):
            for discipline, views in VIEWS.items():
                k += 1
                yield Film(
                    discipline, view=views[v], body=people[k % len(people)], seed=first + k, units=4 if discipline in LONG else 3,
                )  # fmt: skip


def as_said(done: Followed, gear: bool = True) -> Tracks:
    """The body as it was followed, with the gear that was found, and what a coach says of the run in words alone."""
    assert done.tracks is not None
    sim, true = done.sim, done.sim.exact.facts
    tracks = done.tracks.with_facts(
        view=true.view, view_offset_deg=true.view_offset_deg, slope_deg=true.slope_deg, slope_u_deg=2.0, conditions=true.conditions,
        stance=true.stance, height_cm=round(100 * sim.motion.stature_m),
    )  # fmt: skip
    if not gear or done.edges is None:
        return tracks
    return with_found_gear(tracks, done.edges, playbook(done.film.discipline).found_gear)


@dataclass
class Outcome:
    """What came of one clip."""

    film: Film
    answer: str = ""
    main: str = ""
    units: tuple[int, int] = (0, 0)
    #: Boundaries that were found, that there are, and that are the same.
    cuts: tuple[int, int, int] = (0, 0, 0)
    judged: tuple[int, int] = (0, 0)
    #: Kind of gear → (errors of its direction, their standard uncertainties, degrees; share of frames in which it is told).
    gear: dict[str, tuple[np.ndarray, np.ndarray, float]] = field(default_factory=dict)


def outcome(done: Followed) -> Outcome:
    out = Outcome(done.film)
    if done.tracks is None:
        out.answer = "not followed"
        return out
    sim, discipline = done.sim, done.film.discipline
    truth, told = sim.truth(), judge(parse_sheet(sim.truth_sheet()))
    has = {f["fault"] for f in told["findings"] if f["status"] in ("root", "symptom")}
    tracks = as_said(done)
    out.gear = _gear(done, tracks)
    out.units = (0, len(truth.units))
    true = [b.t for b in truth.boundaries]
    out.cuts = (0, len(true), 0)
    try:
        read = review(tracks, discipline)
    except Doubtful:
        out.answer = "asked first"
        return out
    except InputError as e:
        out.answer, out.main = "asks for marks", e.what
        return out
    found = [b.t for b in read.boundaries]
    same = sum(any(abs(a - b) <= FOUND_S for a in found) for b in true)
    out.units, out.cuts = (len(read.units), len(truth.units)), (len(found), len(true), same)
    prescription = judge(run_sheet(read, discipline, sim.about()))
    out.judged = judged_of(prescription)
    main = prescription["main"]
    if not read.units:
        out.answer = "no units"
    elif main:
        out.main = main["fault"]
        out.answer = f"{'right' if main['fault'] in has else 'wrong'}, {main['verdict']}"
    else:
        out.answer = "none"
    return out


def _gear(done: Followed, tracks: Tracks) -> dict[str, tuple[np.ndarray, np.ndarray, float]]:
    out = {}
    exact = done.sim.exact
    for name in playbook(done.film.discipline).found_gear:
        for bar in GEAR[name]:
            if bar.front not in tracks.index or bar.front not in exact.index:
                continue
            n = min(len(exact), len(tracks))
            v = (tracks.point(bar.front) - tracks.point(bar.back))[:n]
            w = (exact.point(bar.front) - exact.point(bar.back))[:n]
            off = np.degrees(np.arctan2(v[:, 0] * w[:, 1] - v[:, 1] * w[:, 0], (v * w).sum(axis=1)))
            u = tracks.u[:n, tracks.index[bar.front]]
            ok = np.isfinite(off)
            if ok.any():
                wide = np.degrees(np.sqrt(2) * u[ok] / np.linalg.norm(v[ok], axis=1))
                out[f"{name} {bar.front}"] = np.abs(off[ok]), wide, float(ok.mean())
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument(
        "--fitted", action="store_true", help="the films that constants were set on"
    )
    parser.add_argument("--only", default="", help="one discipline")
    parser.add_argument("--rounds", type=int, default=1, help="films of each view")
    parser.add_argument("--most", type=int, default=0, help="so many films at the most")
    args = parser.parse_args()
    wanted = [f for f in films(args.fitted, args.rounds) if args.only in ("", f.discipline)]
    wanted = wanted[: args.most or None]
    outcomes = []
    for done in all_followed(wanted):
        o = outcome(done)
        outcomes.append(o)
        print(done.film.discipline, done.film.view, o.answer, o.main, o.units, o.cuts, o.judged, flush=True)  # fmt: skip
    text = report(outcomes)
    print(text)
    if not (args.fitted or args.only or args.most):
        OUT.write_text(text)


def report(outcomes: list[Outcome]) -> str:
    clear_wrong = sum(o.answer == "wrong, clear" for o in outcomes)
    wrong = sum(o.answer.startswith("wrong") for o in outcomes)
    lines = [
        "# What is made of a clip alone",
        "",
        "Written by `python -m benchmarks.clips`; do not edit by hand.",
        "",
        "Clean runs from pixels, with no point marked: the body is followed, gear is looked for among the straight edges around it, and the run is split by what",
        "there is. View, front foot, slope and conditions are said. Bodies 12 to 23 and these seeds were fitted to nothing; they were looked at once before, after which poles",
        "need clearer edges, a boat has to lie along the knees, and turns that were not followed are not called missing. A boundary counts as",
        f"found within {FOUND_S:g} s.",
        "",
        f"{len(outcomes)} clips; a main thing that the rider has not in truth: {wrong}, of them clear: {clear_wrong}.",
        "",
        "| discipline | view | units found, true | boundaries found, true, the same | judged | what came |",
        "|---|---|---|---|---|---|",
    ]
    for o in sorted(outcomes, key=lambda o: (o.film.discipline, o.film.view)):
        said = o.answer + (f": {o.main}" if o.main else "")
        lines.append(
            f"| `{o.film.discipline}` | {o.film.view} | {o.units[0]}, {o.units[1]} | {o.cuts[0]}, {o.cuts[1]}, {o.cuts[2]} "
            f"| {o.judged[0]} of {o.judged[1]} | {said} |"
        )
    found, true, same = (sum(o.cuts[k] for o in outcomes) for k in range(3))
    f1 = 2 * same / max(found + true, 1)
    lines += [
        "",
        f"Over all clips: F1 of boundaries {f1:.2f} ({same} of {true} found, {found - same} too many).",
        "",
        "## Gear",
        "",
        "Errors of direction in the picture, in the frames in which it is told, and how often the truth lies inside the stated ± U.",
        "",
        "| gear | view | clips with it, of | frames told | median error | over 5° | inside ± U | median U |",
        "|---|---|---|---|---|---|---|---|",
    ]
    rows: dict[tuple[str, str], list[tuple[np.ndarray, np.ndarray, float]]] = defaultdict(list)
    clips: dict[tuple[str, str], int] = defaultdict(int)
    for o in outcomes:
        side = "side" if o.film.view.startswith("side") else "front"
        for name in playbook(o.film.discipline).found_gear:
            clips[name, side] += 1
            mine = [v for k, v in o.gear.items() if k.startswith(f"{name} ")]
            if mine:
                e, u = (np.concatenate([m[k] for m in mine]) for k in (0, 1))
                rows[name, side].append((e, u, float(np.mean([m[2] for m in mine]))))
    for (name, side), n in sorted(clips.items()):
        got = rows.get((name, side), [])
        if not got:
            lines.append(f"| {name} | {side} | 0, {n} | – | – | – | – | – |")
            continue
        e, u = (np.concatenate([g[k] for g in got]) for k in (0, 1))
        lines.append(
            f"| {name} | {side} | {len(got)}, {n} | {np.mean([g[2] for g in got]):.0%} | {np.median(e):.1f}° | {np.mean(e > 5):.0%} "
            f"| {np.mean(e <= 2 * u):.0%} | {2 * np.median(u):.1f}° |"
        )
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    main()
