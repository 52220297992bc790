"""One simulated run: motion, shot, exact tracks, the tracker's tracks and the truth about it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from proklisis.core.errors import InputError
from proklisis.core.readings.readings import Reading
from proklisis.core.review import Review, playbook, review, run_sheet
from proklisis.core.shapes.run_sheet import Level
from proklisis.core.splitting.library import splitter
from proklisis.core.splitting.units import Boundary
from proklisis.core.tracks.tracks import Tracks, View
from proklisis.simulate import inject
from proklisis.simulate.course import with_gates
from proklisis.simulate.filming import Shot, exact_tracks, film, guessed_depths, tracked
from proklisis.simulate.motion import Motion
from proklisis.simulate.people import bodies
from proklisis.simulate.people.posing import embodied
from proklisis.simulate.riders import RIDERS
from proklisis.simulate.score import Rider, Score
from proklisis.simulate.skier import ski
from proklisis.simulate.style import styled

#: Rounds of moving the wishes until the exact run measures what was wanted.
TUNING_ROUNDS = 4
#: How much a value differs from unit to unit, in scales of its band.
SPREAD = 0.10
#: A wish may go so many spreads beyond what is wanted, for its value to get there.
FARTHEST = 25.0


@dataclass(frozen=True)
class Simulated:
    """A run with everything known about it. ``tracks`` is what a tracker would give."""

    discipline: str
    level: Level
    faults: dict[str, float]
    motion: Motion
    shot: Shot
    exact: Tracks
    tracks: Tracks
    known: dict[str, Any] = field(default_factory=dict)

    def about(self) -> dict[str, Any]:
        return {
            "level": self.level,
            "rider": {
                "name": "Simulated rider",
                "height_cm": round(100 * self.motion.stature_m, 1),
                **self.known.get("rider", {}),
            },
            "conditions": self.known.get("conditions", {"slope_deg": self.motion.slope_deg}),
            "schools": self.known.get("schools", {}),
        }

    def with_depths(self) -> Tracks:
        """The tracks as a tracker gives them whose network guesses depths too."""
        fps = self.exact.facts.fps
        return replace(self.tracks, depth=guessed_depths(self.motion, self.shot, fps, 1))

    def truth(self) -> Review:
        """The run measured on its exact 3-D positions, split at its exact boundaries."""
        cuts = [Boundary(float(t), 0.0) for t in self.motion.boundaries]
        return review(_world(self.exact), self.discipline, lambda _: cuts)

    def truth_sheet(self) -> dict[str, Any]:
        sheet = run_sheet(self.truth(), self.discipline, self.about())
        sheet.clip.view = self.shot.view
        return sheet.model_dump(mode="json", exclude_none=True)


def _world(exact: Tracks) -> Tracks:
    return replace(exact, facts=exact.facts.model_copy(update={"view": None}))


def simulate(
    discipline: str, faults: dict[str, float] | None = None, *, level: Level = "intermediate", units: int = 8,
    view: View | None = None, fps: float = 60.0, noise_px: float = 2.0, seed: int = 0, figure_px: float = 300.0,
    offset_deg: float = 0.0, roll_deg: float = 0.0, k1: float = 0.0, stature_m: float | None = None,
    width: int = 1280, height: int = 720, given: dict[str, Any] | None = None, body: int | None = None,
) -> Simulated:  # fmt: skip
    """Simulate one run. Without a view, one is filmed that shows every fault put in.

    ``given`` changes conditions of the run. With ``body`` one of the people rides it, of their own height if none is given. Raises InputError for a discipline, fault or number
    that cannot be simulated.
    """
    book = playbook(discipline)
    if stature_m is None:
        stature_m = 1.75 if body is None else bodies.body(body).stature_m
    for value, name, lo, hi in (
        (units, "--units", 2, 500), (fps, "--fps", 15, 1000), (noise_px, "--noise", 0, 50), (figure_px, "--figure", 60, 4000),
        (stature_m, "--height", 0.9, 2.3), (abs(offset_deg), "--offset", 0, 60), (abs(roll_deg), "--roll", 0, 45),
    ):  # fmt: skip
        if not lo <= value <= hi:
            raise InputError(f"{value:g} is out of range", name, f"give a number from {lo} to {hi}")
    faults = faults or {}
    camera = {
        "figure_px": figure_px,
        "offset_deg": offset_deg,
        "roll_deg": roll_deg,
        "k1": k1,
        "width": width,
        "height": height,
    }
    if book.split and splitter(book.split).outside_foot and discipline not in RIDERS:
        style = styled(book, level, faults)
        motion = ski(style, units, fps, seed, stature_m)
        known: dict[str, Any] = {}
        if "set" in book.conditions:
            motion = with_gates(motion, style, seed)
            known = {
                "conditions": {"set": "giant_slalom", "slope_deg": motion.slope_deg},
                "schools": {},
                "rider": {},
            }
        seen_from: Any = view or style.view
    else:
        if discipline not in RIDERS:
            raise InputError(
                f"{discipline!r} cannot be simulated yet",
                "--discipline",
                f"choose {', '.join(sorted(RIDERS))}",
            )
        rider = RIDERS[discipline]
        wanted = inject.wanted(book, rider, level, faults)
        conditions = {**rider.given, **wanted.given, **(given or {})}
        known = {
            "conditions": conditions, "schools": wanted.schools, "rider": {"stance": rider.stance} if rider.stance else {},
        }  # fmt: skip
        clean = rider.clean(level)
        spread = {k: SPREAD * s for k, s in inject.scales(book, level).items() if k in clean}
        score = Score(
            {**clean, **wanted.wishes},
            spread,
            units,
            fps,
            seed,
            stature_m,
            level,
            conditions,
            rider.stance,
        )
        motion = tuned(discipline, rider, score, lambda m: _exact(m, discipline, fps, known))
        seen_from = view or inject.view_for(wanted.measures, rider)
    if body is not None:
        motion = embodied(motion, body)
    shot = film(motion, seen_from, **camera)  # type: ignore[arg-type]
    exact = _known(exact_tracks(motion, shot, fps), known, motion)
    return Simulated(
        discipline, level, dict(faults), motion, shot, exact, tracked(exact, noise_px, seed), known
    )


def _known(tracks: Tracks, known: dict[str, Any], motion: Motion) -> Tracks:
    """Tracks that carry what is known of rider and run."""
    if not known:
        return tracks
    update = {
        "conditions": known["conditions"], "stance": known["rider"].get("stance"), "height_cm": round(100 * motion.stature_m, 1),
    }  # fmt: skip
    return replace(tracks, facts=tracks.facts.model_copy(update=update))


def _exact(motion: Motion, discipline: str, fps: float, known: dict[str, Any]) -> Review:
    shot = film(motion, "front")
    return review(
        _world(_known(exact_tracks(motion, shot, fps), known, motion)), discipline, draws=0
    )


def tuned(
    discipline: str, rider: Rider, score: Score, measured: Callable[[Motion], Review]
) -> Motion:
    """Move the wishes until the run, measured exactly, is what was wished for; settle its boundaries."""
    asked = {k: v for k, v in score.wishes.items() if k not in rider.rough}
    wishes = dict(score.wishes)
    gain = dict.fromkeys(asked, 1.0)
    before: dict[str, float] = {}
    motion = rider.move(score)
    done = measured(motion)
    worst = inject.worst_limb(playbook(discipline), score.level)
    for _ in range(TUNING_ROUNDS):
        got = means(done, worst)
        for key, target in asked.items():
            if key not in got or not np.isfinite(got[key]):
                continue
            off = target - got[key]
            if abs(off) > 0.9 * abs(before.get(key, np.inf)):
                gain[key] *= 0.5  # it does not come closer: another wish pulls at it
            before[key] = off
            room = FARTHEST * score.spread[key] if key in score.spread else np.inf
            wishes[key] = float(
                np.clip(wishes[key] + gain[key] * off, target - room, target + room)
            )
        motion = rider.move(replace(score, wishes=wishes))
        done = measured(motion)
    return replace(motion, boundaries=np.array([b.t for b in done.boundaries]))


def means(
    done: Review, worst: Mapping[str, Callable[[Any], float]] | None = None
) -> dict[str, float]:
    """Key → mean over the run's units, with every way of naming a value: by phase, side and limb.

    Where limbs are measured and none is named, ``worst`` says which of them speaks for the unit.
    """
    worst = worst or {}
    side = {u.n: u.finest_side for u in done.units}
    values: dict[tuple[str, str | None, str | None, str | None], list[float]] = {}

    def note(r: Reading, where: str | None) -> None:
        values.setdefault((r.id, r.phase, where, r.limb), []).append(r.value)

    for r in done.readings:
        note(r, None)
        where = side.get(r.segment) if r.segment is not None else None
        if where:
            note(r, where)
    limbs: dict[tuple[str, str | None, str | None], list[list[float]]] = {}
    for (m, phase, where, limb), v in values.items():
        if limb is not None:
            limbs.setdefault((m, phase, where), []).append(v)
    for (m, phase, where), each in limbs.items():
        pick = worst.get(m, np.mean)
        shortest = min(map(len, each))
        values[m, phase, where, None] = [
            float(pick(v)) for v in zip(*(x[:shortest] for x in each), strict=True)
        ]
    mean = {k: float(np.mean(v)) for k, v in values.items()}
    out: dict[str, float] = {}
    for (m, phase, where, limb), one in mean.items():
        tail = (
            (f"@{phase}" if phase else "")
            + (f"#{where}" if where else "")
            + (f".{limb}" if limb else "")
        )
        out[m + tail] = one
        for (other, phase2, where2, limb2), w in mean.items():
            if other != m and (phase2, where2, limb2) == (phase, where, limb):
                out[f"{m}-{other}{tail}"] = one - w
                if w:
                    out[f"{m}/{other}{tail}"] = one / w
    return out
