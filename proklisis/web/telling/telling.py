"""A run's Telling as it stands: the coach's own, or what is proposed; laid out; made a film."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter, ValidationError

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import first_problem
from proklisis.core.review import Review, playbook
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.shapes.telling import Played
from proklisis.core.shapes.telling import Telling as Told
from proklisis.core.telling.played import played
from proklisis.core.telling.proposed import propose
from proklisis.core.telling.seen import Seen
from proklisis.figures import figures
from proklisis.web.analysis.payload import drawn_points
from proklisis.web.analysis.reviewing import reviewed
from proklisis.web.clips import told_films
from proklisis.web.runs.models import Run, ToldFilm
from proklisis.web.telling.models import Telling

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


def stands(run: Run, film_again: str = "") -> Stands:
    """A run's Telling with what it shows when; ``film_again`` is the day of the next clip, to be read out."""
    done = reviewed(run)
    seen = seen_of(done)
    row = Telling.objects.filter(run=run).first()
    told = row.body if row is not None else proposed(run, done, seen, film_again)
    try:
        lay = played(told, seen)
    except InputError:
        if row is None:
            raise
        # The clip was cut since, and its frames are others.
        row, told = None, proposed(run, done, seen, film_again)
        lay = played(told, seen)
    return Stands(told, lay, seen, [int(n) for n in done.tracks.frames], row)


def proposed(run: Run, done: Review, seen: Seen, film_again: str) -> Told:
    """What stands ready for a judged run."""
    has = figures(run.discipline)
    sheet = RunSheet.model_validate(run.result.sheet)
    return propose(
        sheet, playbook(run.discipline), run.result.prescription, done.units, done.readings, seen, has.__contains__, film_again
    )  # fmt: skip


def film(run: Run, now: Stands, burnt: bool) -> ToldFilm:
    """Ask for the Telling as a film."""
    return told_films.ask(run, now.played, now.seen, now.numbers, burnt)
