"""What is said of runs that were filmed as runs are filmed: from pixels, with one ordinary error; writes docs/honesty.md.

    python -m benchmarks.honesty [--fitted] [--only carve] [--most 20]

Every run is ridden by a person whose body is not built from our proportions, drawn, written as a clip and followed by the
body tracker; gear is marked as a hand marks it. Then it is judged as the coach described it, rightly or with one thing wrong. What
counts is a main thing that the rider has not in truth: *clear*, it is a wrong one that looks sure. Truth is what the
person's own joints do. Nothing was fitted to the bodies and seeds that are reported; ``--fitted`` runs those that things
were fitted to. Films are kept (see :mod:`benchmarks.filmed`): the first run takes most of an hour.
"""

from __future__ import annotations

import argparse
import itertools
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.filmed import FITTED_ON, REPORTED_FROM, Film, Followed, all_followed, as_described
from proklisis.core.camera.views import azimuth_of, turned
from proklisis.core.doubts import Doubtful
from proklisis.core.errors import InputError
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.review import Review, judge, playbook, review, run_sheet
from proklisis.core.space.placed import placed
from proklisis.core.splitting.library import splitter
from proklisis.core.tracks.tracks import Tracks

OUT = Path(__file__).resolve().parents[1] / "docs" / "honesty.md"
PISTE = "alpine_carve"
FROM_ALL_SIDES = ("front", "rear", "side_left", "side_right")
#: Faults of turns on piste that its views show.
FAULTS = {
    "front": ("hip_out", "not_level", "edge_stays_flat", "banking"),
    "side_right": ("hips_behind", "hands_behind"),
}
ELSEWHERE = (
    "snowboard", "alpine_gates", "double_pole", "inline_start", "speed_skate", "moto_stance", "trail_stance", "slalom_ski",
    "figure_jump", "surf_turn", "windsurf_gybe", "kite_roll",
)  # fmt: skip
RIGHT, FAULT = "nothing", "nothing, a fault is put in"
ORDER = (
    RIGHT, FAULT, "nothing, an elite rider", "camera 20° off, said", "camera 20° off, not said", "camera at 45°", "view not said", "another view",
    "plays 2 × slower, not said", "plays 4 × slower, not said", "rolled 5°, not said", "held by hand", "dark", "blurred", "poles in the foreground",
)  # fmt: skip
#: A boundary is found within this, seconds; and about found within that.
FOUND_S, ABOUT_S = 0.15, 0.3


@dataclass(frozen=True)
class Job:
    row: str
    film: Film
    #: What is said of the clip in place of what is true.
    said: dict[str, Any] = field(default_factory=dict)
    slower: float = 1.0


def jobs(fitted: bool) -> Iterator[Job]:
    people = itertools.cycle(FITTED_ON if fitted else REPORTED_FROM)
    seeds, later = itertools.count(3001 if fitted else 4001), itertools.count(5201)

    def film(discipline: str, **more: Any) -> Film:
        units = 4 if discipline in (PISTE, "snowboard", "alpine_gates") else 2
        return Film(discipline, body=next(people), seed=next(seeds), units=units, **more)

    for view in (*FROM_ALL_SIDES, *FROM_ALL_SIDES):
        clean = film(PISTE, view=view)
        yield Job(RIGHT, clean)
        yield Job("view not said", clean, {"view": None})
        for other in FROM_ALL_SIDES:
            if other != view:
                yield Job("another view", clean, {"view": other})
        for k in (2, 4):
            yield Job(f"plays {k} × slower, not said", clean, slower=k)
    for discipline in ELSEWHERE:
        clean = film(discipline)
        yield Job(RIGHT, clean)
        for k in (2, 4):
            yield Job(f"plays {k} × slower, not said", clean, slower=k)
    for view, faults in FAULTS.items():
        for fault in faults:
            yield Job(FAULT, film(PISTE, fault=fault, view=view))
    for discipline, fault in (
        ("snowboard", "straight_legs"), ("alpine_gates", "late_line"), ("double_pole", "plant_behind"), ("inline_start", "v_too_wide"),
        ("moto_stance", "sits_far_back"), ("trail_stance", "heels_up"), ("surf_turn", "stands_tall"), ("figure_jump", "takeoff_tilt_away"),
    ):  # fmt: skip
        yield Job(FAULT, film(discipline, fault=fault))
    for view in ("front", "side_right"):
        yield Job("nothing, an elite rider", film(PISTE, view=view, level="elite"))
    for view, off in (
        ("front", 20.0),
        ("front", -20.0),
        ("rear", 20.0),
        ("side_left", 20.0),
        ("side_right", -20.0),
    ):
        askew = film(PISTE, view=view, offset_deg=off)
        if not fitted:
            # What is read in space was made wider after a first report, on seeds 4037 to 4043: these are others.
            askew = replace(askew, seed=next(later))
        yield Job("camera 20° off, said", askew)
        yield Job("camera 20° off, not said", askew, {"view_offset_deg": 0.0})
    for off in (0.0, 20.0):
        askew = film(PISTE, view="oblique", offset_deg=off)
        yield Job("camera at 45°", askew if fitted else replace(askew, seed=next(later)))
    for view, roll in (("front", 5.0), ("rear", -5.0), ("side_right", 5.0)):
        yield Job("rolled 5°, not said", film(PISTE, view=view, roll_deg=roll), {"roll_deg": 0.0})
    for row, spoil in (
        ("held by hand", "sway"),
        ("dark", "dark"),
        ("blurred", "blur"),
        ("poles in the foreground", "poles"),
    ):
        for view in ("front", "side_left"):
            yield Job(row, film(PISTE, view=view, spoil=spoil))


@dataclass
class Outcome:
    """What came of one description of one film."""

    job: Job
    answer: str
    main: str = ""
    truth: str = ""
    found: tuple[int, int, int, int] = (0, 0, 0, 0)
    azimuth_off: float = float("nan")
    #: (error, ±u) ÷ what the measure's own band is wide, of every reading that truth has too.
    readings: list[tuple[str, float, float]] = field(default_factory=list)


def outcome(job: Job, done: Followed) -> Outcome:
    if done.tracks is None:
        return Outcome(job, "refused")
    tracks = as_described(done, **job.said)
    if job.slower != 1:
        tracks = tracks.filmed_at(tracks.facts.fps / job.slower)
    truth = done.sim.truth()
    told = judge(parse_sheet(done.sim.truth_sheet()))
    has = {f["fault"] for f in told["findings"] if f["status"] in ("root", "symptom")}
    out = Outcome(
        job,
        "none",
        truth=told["main"]["fault"] if told["main"] else "",
        azimuth_off=_azimuth(done, tracks),
    )
    try:
        read = review(tracks, job.film.discipline)
        out.found = _cuts(read, truth)
        out.readings = _compared(read, truth)
        main = judge(run_sheet(read, job.film.discipline, done.sim.about()))["main"]
    except Doubtful:
        out.answer = "asked"
        return out
    except InputError as e:
        out.answer, out.main = "refused", e.what
        return out
    if main:
        out.main = main["fault"]
        right = main["fault"] in has
        out.answer = f"{'right' if right else 'wrong'}, {main['verdict']}"
    return out


def _azimuth(done: Followed, tracks: Tracks) -> float:
    facing = splitter(playbook(done.film.discipline).split or "").facing
    stands = placed(tracks.with_facts(view=None, view_offset_deg=0.0), facing).azimuth
    shot = done.sim.shot
    return (
        float("nan")
        if stands is None
        else turned(stands.value - azimuth_of(shot.view, shot.offset_deg))
    )


def _cuts(read: Review, truth: Review) -> tuple[int, int, int, int]:
    """How many boundaries were found, how many there are, and how many of both are the same, and about the same."""
    found, true = [b.t for b in read.boundaries], [b.t for b in truth.boundaries]
    same, about = (
        sum(any(abs(a - b) <= s for a in found) for b in true) for s in (FOUND_S, ABOUT_S)
    )
    return len(found), len(true), same, about


def _compared(read: Review, truth: Review) -> list[tuple[str, float, float]]:
    if len(read.units) != len(truth.units):
        return []
    true = {(r.id, r.segment, r.phase, r.limb): r.value for r in truth.readings}
    out = []
    for r in read.readings:
        key = (r.id, r.segment, r.phase, r.limb)
        if key in true and np.isfinite([r.value, r.u, true[key]]).all() and r.u > 0:
            out.append((r.id, r.value - true[key], r.u))
    return out


def written(found: list[Outcome], fitted: bool) -> str:
    lines = [
        "# What is said of runs as they are filmed", "",
        "Written by `python -m benchmarks.honesty`; do not edit by hand." + (" **On the bodies and seeds that things were fitted to.**" if fitted else ""), "",
        "From pixels: people with bodies of their own ride simulated runs, which are drawn, written as clips and followed by the body tracker; gear is",
        "marked as a hand marks it. A *wrong* main thing is one that the person's own joints do not bear out; a wrong one that is *clear* looks sure.", "",
        "Bodies 12 to 23 and these seeds were fitted to nothing, but they have been looked at four times while the last changes were made (wider ± in space, no pole plant from",
        "turns that are cut by depths, level shoulders; those rest on the other twelve bodies). A next report takes seeds that nobody has seen.", "",
        "| what was done to the clip | clips | wrong, clear | wrong, likely | right, clear | right, likely | none | asked first | refused |", "|---|---|---|---|---|---|---|---|---|",
    ]  # fmt: skip
    for row in ORDER:
        those = [o for o in found if o.job.row == row]
        if those:
            n = {a: sum(o.answer == a for o in those) for a in ANSWERS}
            lines.append(
                f"| {row} | {len(those)} | " + " | ".join(str(n[a]) for a in ANSWERS) + " |"
            )
    wrong = sum(o.answer == "wrong, clear" for o in found)
    lines += [
        "",
        f"In all {wrong} of {len(found)} ({100 * wrong / max(len(found), 1):.1f} %) are wrong and look sure.",
        "",
    ]
    lines += _by_row(found) + _sharpness(found)
    named = [o for o in found if o.answer.startswith("wrong")]
    lines += ["", "Wrong: " + ("; ".join(f"`{o.job.film.discipline}` {o.job.film.view} seed {o.job.film.seed}, {o.job.row}: {o.main} ({o.answer.split(', ')[1]}; in truth {o.truth or 'nothing'})" for o in named) or "none") + ".", ""]  # fmt: skip
    return "\n".join(lines)


ANSWERS = (
    "wrong, clear",
    "wrong, likely",
    "right, clear",
    "right, likely",
    "none",
    "asked",
    "refused",
)


def _by_row(found: list[Outcome]) -> list[str]:
    lines = [
        "Where the camera stands (azimuth, from the body alone), and boundaries of units within 0.15 s and 0.3 s:", "",
        "| view | clips | azimuth within 5° | within 10° | opposite side taken | boundaries F1 | F1 within 0.3 s |", "|---|---|---|---|---|---|---|",
    ]  # fmt: skip
    once: dict[str, dict[str, Outcome]] = defaultdict(dict)
    for o in found:
        if o.job.slower == 1 and o.job.row != "another view":
            once[o.job.film.view or "as it shows"].setdefault(o.job.film.name, o)
    for view, films in once.items():
        off = np.abs([o.azimuth_off for o in films.values() if np.isfinite(o.azimuth_off)])
        cuts = np.array([o.found for o in films.values() if o.answer != "asked"])
        found_all, true_all, same, about = cuts.reshape(-1, 4).sum(axis=0)
        f1, loose = (2 * k / max(found_all + true_all, 1) for k in (same, about))
        said = (
            [f"{np.mean(off <= d):.0%}" for d in (5, 10)] + [str(int((off > 90).sum()))]
            if len(off)
            else ["–"] * 3
        )
        lines.append(f"| {view} | {len(films)} | {' | '.join(said)} | {f1:.3f} | {loose:.3f} |")
    return [*lines, ""]


def _sharpness(found: list[Outcome]) -> list[str]:
    lines = [
        "Readings of clips that were described rightly, or whose camera was found: how often truth is inside ± U, and how wide U is beside the error.", "",
        "| what was done to the clip | readings | truth inside ± U | median U ÷ 1.96 σ of the errors (by their median) |", "|---|---|---|---|",
    ]  # fmt: skip
    for row in ORDER:
        those = [r for o in found if o.job.row == row and o.job.slower == 1 for r in o.readings]
        if len(those) < 20:
            continue
        z = np.array([e / u for _, e, u in those])
        # The errors' own spread per measure, by their median, as a Gaussian's.
        ratio = []
        for m in {m for m, _, _ in those}:
            e, u = (np.array([x[k] for x in those if x[0] == m]) for k in (1, 2))
            if len(e) >= 5:
                ratio.append(2 * np.median(u) / max(1.96 * 1.4826 * np.median(np.abs(e)), 1e-9))
        lines.append(
            f"| {row} | {len(those)} | {np.mean(np.abs(z) <= 2):.1%} | {np.median(ratio) if ratio else float('nan'):.2f} |"
        )
    return lines


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--fitted", action="store_true")
    parser.add_argument("--only", default="", help="rows or disciplines that hold this")
    parser.add_argument("--out", type=Path)
    args = parser.parse_args()
    todo = [j for j in jobs(args.fitted) if args.only in j.row or args.only in j.film.discipline]
    films = {f.film.name: f for f in all_followed({j.film: 0 for j in todo})}
    found = [outcome(j, films[j.film.name]) for j in todo]
    text = written(found, args.fitted)
    (args.out or (Path("var/honesty-fitted.md") if args.fitted else OUT)).write_text(text)
    print(text)


if __name__ == "__main__":
    main()
