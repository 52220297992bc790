"""How far the body tracker is off on rendered riders, point by point and in what is measured from it.

Used by ``benchmarks.accuracy --pixels``. Every discipline is filmed from its own view; turns on piste are
filmed from the front and from behind as well, with a panning camera that is rolled and has a bent lens,
whose roll and lens the coach has marked.
"""

from __future__ import annotations

import tempfile
from collections.abc import Collection
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.accuracy import LEVELS
from proklisis.core.errors import InputError
from proklisis.core.review import playbook_ids, review
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.outlier_rejection import figure_height
from proklisis.core.tracks.tracks import ClipFacts
from proklisis.footage.follow import follow
from proklisis.footage.probe import probe
from proklisis.simulate.clip import write_clip
from proklisis.simulate.render.outfit import outfit
from proklisis.simulate.run import simulate

PISTE = "alpine_carve"
#: View, roll in degrees and first radial term of the piste's cases.
CASES = (("front", 0.0, 0.0), ("rear", 0.0, 0.0), ("front", 4.0, -0.06), ("rear", -3.0, -0.06))
#: From above, where loops are read off the ice, no body can be followed.
FROM = {"figure_loop": "side_left"}
PARTS = ("nose", "ear", "shoulder", "elbow", "wrist", "hip", "knee", "ankle", "heel", "toe")


@dataclass(frozen=True)
class Case:
    number: int
    discipline: str
    view: str | None = None
    roll: float = 0.0
    k1: float = 0.0
    units: int = 2


@dataclass(frozen=True)
class Outcome:
    """Errors of every point in pixels per coordinate and as stated, and of leg lean in degrees."""

    case: Case
    view: str
    height: float
    xy: np.ndarray
    u: np.ndarray
    exact: np.ndarray
    lean: list[tuple[float, float]]


@dataclass(frozen=True)
class Refused:
    """A clip on which hardly anybody could be followed, in the software's own words."""

    case: Case
    words: str


def run(case: Case) -> Outcome | Refused:
    level: Any = LEVELS.get(case.discipline, "intermediate")
    given: dict[str, Any] = {"view": case.view} if case.view else {}
    sim = simulate(
        case.discipline,
        {},
        seed=300 + case.number,
        units=case.units,
        level=level,
        roll_deg=case.roll,
        k1=case.k1,
        **given,
    )
    known = sim.exact.facts
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "clip.mp4"
        write_clip(sim, path, outfit(case.number % 5), case.number)
        clip = probe(path)
        facts = ClipFacts(
            fps=clip.fps, view=known.view, roll_deg=known.roll_deg, roll_u_deg=0.5, k1=known.k1, focal_px=known.focal_px,
            slope_deg=known.slope_deg, slope_u_deg=2.0,
        )  # fmt: skip
        try:
            tracks = follow(clip, facts, sim.motion.stature_m)
        except InputError as e:
            return Refused(case, e.what)
    lean = []
    if case.discipline == PISTE:
        true = {(r.segment, r.phase): r.value for r in sim.truth().readings if r.id == "leg_lean"}
        done = review(tracks, PISTE)
        if len(done.units) == len(sim.truth().units):
            lean = [
                (r.value - true[r.segment, r.phase], r.u)
                for r in done.readings
                if r.id == "leg_lean"
            ]
    exact = np.stack([sim.exact.point(b) for b in BODY], axis=1)
    k = len(BODY)
    return Outcome(
        case,
        str(known.view),
        figure_height(exact, BODY),
        tracks.xy[:, :k],
        tracks.u[:, :k],
        exact,
        lean,
    )


def report(disciplines: Collection[str] = ()) -> list[str]:
    """Tables in Markdown; of all disciplines, or of the named ones and the turns on piste."""
    cases = [
        Case(n, d, FROM.get(d))
        for n, d in enumerate(playbook_ids())
        if d in disciplines or not disciplines
    ]
    cases = [
        Case(100 + n, PISTE, view, roll, k1, 5) for n, (view, roll, k1) in enumerate(CASES)
    ] + cases
    # A renderer and a tracker each: two at a time, each in a process of its own.
    with ProcessPoolExecutor(2, mp_context=get_context("spawn"), max_tasks_per_child=1) as pool:
        done = list(pool.map(run, cases))
    outcomes = [o for o in done if isinstance(o, Outcome)]
    refused = [
        f"- `{o.case.discipline}` was refused: {o.words}." for o in done if isinstance(o, Refused)
    ]
    lacking = [f"`{d}`" for d in playbook_ids() if d not in {c.discipline for c in cases}]
    note = [f"Not run this time: {', '.join(lacking)}.", ""] if lacking else []
    return [
        *note,
        *_clips(outcomes),
        *([""] if refused else []),
        *refused,
        "",
        *_points(outcomes),
        "",
        *_lean(outcomes),
    ]


def _clips(outcomes: list[Outcome]) -> list[str]:
    out = [
        "| discipline | view | rider | frames followed | median error | truth inside ± U |",
        "|---|---|---|---|---|---|",
    ]
    for o in outcomes:
        seen = np.isfinite(o.xy[..., 0])
        off = np.abs(o.xy - o.exact)
        camera = f", rolled {o.case.roll:g}°, bent lens" if o.case.roll else ""
        out.append(
            f"| `{o.case.discipline}` | {o.view}{camera} | {o.height:.0f} px | {seen.mean():.0%} "
            f"| {np.nanmedian(np.linalg.norm(off, axis=-1)) / o.height:.1%} of height | {np.mean((off / o.u[..., None])[seen] <= 2):.0%} |"
        )
    return out


def _points(outcomes: list[Outcome]) -> list[str]:
    out = [
        "Over all clips, for each kind of point:",
        "",
        "| point | median error | truth inside ± U |",
        "|---|---|---|",
    ]
    for part in PARTS:
        columns = [k for k, n in enumerate(BODY) if n.split("_")[-1] == part]
        error, inside = [], []
        for o in outcomes:
            off = np.abs(o.xy[:, columns] - o.exact[:, columns])
            seen = np.isfinite(off[..., 0])
            error += (np.linalg.norm(off, axis=-1)[seen] / o.height).tolist()
            inside += ((off / o.u[:, columns, None])[seen] <= 2).ravel().tolist()
        out.append(f"| {part} | {np.median(error):.1%} of height | {np.mean(inside):.0%} |")
    return out


def _lean(outcomes: list[Outcome]) -> list[str]:
    lines = []
    for name, those in (
        ("level camera", [o for o in outcomes if o.case.units > 2 and not o.case.roll]),
        (
            "rolled camera with a bent lens",
            [o for o in outcomes if o.case.units > 2 and o.case.roll],
        ),
    ):
        lean = np.array([x for o in those for x in o.lean])
        if not len(lean):
            lines.append(f"- `leg_lean`, front and rear, {name}: the turns were not all found.")
            continue
        lines.append(
            f"- `leg_lean`, front and rear, {name}: median error {np.median(np.abs(lean[:, 0])):.2f}°, truth inside ± U "
            f"{np.mean(np.abs(lean[:, 0]) <= 2 * lean[:, 1]):.1%} of {len(lean)} readings"
        )
    return lines
