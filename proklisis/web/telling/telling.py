"""A run's Telling as it stands: the coach's own, or what is proposed; laid out; made a film."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, cast

from pydantic import TypeAdapter, ValidationError

from proklisis.core.errors import InputError
from proklisis.core.imperial import NOT_SENTENCES, in_feet
from proklisis.core.playbook.check import first_problem
from proklisis.core.playbook.words import day_words
from proklisis.core.review import Review, book_of
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.shapes.telling import Played
from proklisis.core.shapes.telling import Telling as Told
from proklisis.core.telling.played import fitted, frame_at, played
from proklisis.core.telling.proposed import propose
from proklisis.core.telling.seen import Seen
from proklisis.figures import figure_file, figures
from proklisis.footage.still import still
from proklisis.footage.told import Picture, laid_over
from proklisis.web.analysis.payload import drawn_points
from proklisis.web.analysis.reviewing import reviewed
from proklisis.web.clips import told_films
from proklisis.web.runs.models import Run, ToldFilm
from proklisis.web.stored import on_disk
from proklisis.web.telling.models import Telling
from proklisis.web.telling.others import check_beside, frames_beside

_READ = TypeAdapter(Told)


@dataclass(frozen=True)
class Stands:
    """A Telling as it stands."""

    told: Told
    played: Played
    seen: Seen
    numbers: list[int]
    row: Telling | None


def parsed(given: Any) -> Told:
    """Read a Telling; InputError with the path of the first bad key."""
    try:
        return _READ.validate_python(given)
    except ValidationError as e:
        path, words = first_problem(e)
        raise InputError(words, path, "see docs/schemas/telling.json") from e


def seen_of(done: Review) -> Seen:
    """What a review's pictures show."""
    names, xy = drawn_points(done.tracks)
    return Seen(done.tracks.t, names, xy, {u.n: u.outside_foot for u in done.units})


def stands(run: Run, feet: bool = False) -> Stands:
    """A run's Telling with what it shows when; what is proposed is said in ``feet`` where the coach reads them."""
    done = reviewed(run)
    seen = seen_of(done)
    row = Telling.objects.filter(run=run).first()
    # A coach's words stay, though the clip was cut since: such a Telling is older than the numbers, and does not leave as it is.
    told = proposed(run, done, seen, feet) if row is None else fitted(row.body, seen)
    return Stands(told, played(told, seen), seen, [int(n) for n in done.tracks.frames], row)


def proposed(run: Run, done: Review, seen: Seen, feet: bool) -> Told:
    """What stands ready for a judged run, with the day of the next clip where the Script has one."""
    has = figures(run.discipline)
    sheet = RunSheet.model_validate(run.result.sheet)
    script = getattr(run, "script", None)
    again = day_words(script.retest_on) if script is not None and script.retest_on else ""
    told = propose(
        sheet, book_of(sheet), run.result.prescription, [u for u in done.units if not u.counted], done.readings, seen, has.__contains__, again
    )  # fmt: skip
    return cast(Told, in_feet(told, NOT_SENTENCES)) if feet else told


def still_at(run: Run, now: Stands, t: float) -> Picture:
    """The (h, w, 3) RGB picture that a Telling shows at ``t`` seconds, with what lies over it. InputError where the clip is not here."""
    if not hasattr(run, "clip") or not run.clip.working:
        raise InputError("this run has no clip here", "", "choose a run with its clip")
    row = frame_at(now.played["stretches"], t, now.seen)
    over = [o for o in now.played["overlays"] if o["from_s"] <= t < o["to_s"]]
    picture, scale = frame_of(run, now.seen, row)
    shown = {o["figure"] for o in over if o["figure"]}
    paths = {f: p for f in shown if (p := figure_file(run.discipline, f, False))}

    def other(number: int, at: int) -> tuple[Picture, float]:
        (beside,) = check_beside(run, [number])
        return frame_of(beside, seen_of(reviewed(beside)), at)

    return laid_over(picture, row, over, scale, paths, {}, t, other)


def frame_of(run: Run, seen: Seen, row: int) -> tuple[Picture, float]:
    """The (h, w, 3) RGB picture of a frame of a run, and its scale to the clip's own pixels."""
    clip = run.clip
    # The file's own clock differs from the run's where it was filmed in slow motion.
    at = float(seen.t[row]) * (run.filmed_fps or clip.fps) / clip.fps
    with on_disk(clip.working) as path:
        picture = still(path, at)
    return picture, picture.shape[1] / clip.width


def film(run: Run, now: Stands, burnt: bool) -> ToldFilm:
    """Ask for the Telling as a film."""
    others = frames_beside(run, now.played)
    return told_films.ask(run, now.played, now.seen, now.numbers, burnt, others)
