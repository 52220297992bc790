"""Tracks + clip facts + discipline → run sheet → prescription: the whole pipeline in one place."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib.resources import files
from typing import Any

import numpy as np

from proklisis.core.camera.views import VIEW_WORDS
from proklisis.core.clock import held_to_the_clock
from proklisis.core.doubts import (
    Doubt,
    Doubtful,
    azimuth_doubt,
    front_foot_asked,
    view_asked,
    view_doubt,
    view_guessed,
)
from proklisis.core.errors import InputError, Lacking, NotFollowed
from proklisis.core.gear.underfoot import with_board_underfoot
from proklisis.core.measures import library
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.check import load_playbook, nearest
from proklisis.core.playbook.club_book import with_club_book
from proklisis.core.playbook.conditions import in_other_units
from proklisis.core.playbook.prescription import prescribe
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.playbook.sheet_check import check_sheet
from proklisis.core.playbook.words import listed, lower_first, upper_first
from proklisis.core.plumb import stood_upright
from proklisis.core.readings.closed_form import in_closed_form
from proklisis.core.readings.readings import (
    Reading,
    Refusal,
    Series,
    off_line,
    series_off_line,
    worth_saying,
)
from proklisis.core.readings.sampled import DRAWS, Plan, by_draws, drawn
from proklisis.core.rider.figure import Figure, build, smoothed
from proklisis.core.shapes.club_book import ClubBook
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.space.carried import ground_held
from proklisis.core.space.placed import placed
from proklisis.core.space.sides import with_settled_sides
from proklisis.core.splitting.by_hand import SideSaid, counted_units, units_between
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.flights import ground_marked
from proklisis.core.splitting.library import splitter
from proklisis.core.splitting.splitter import Splitter
from proklisis.core.splitting.turns import SHORTEST_TURN_S
from proklisis.core.splitting.units import Boundary, Correct, Unit
from proklisis.core.tracks.gap_filling import fill_short_gaps, whole_sets
from proklisis.core.tracks.landmarks import BODY, in_words
from proklisis.core.tracks.outlier_rejection import without_outliers
from proklisis.core.tracks.tracks import Tracks
from proklisis.core.uncertainty import Value


@dataclass(frozen=True)
class Review:
    """A measured run: what the sheet says, and what the pictures and the Ribbon need."""

    tracks: Tracks
    signal: EventSignal
    boundaries: list[Boundary]
    units: list[Unit]
    #: (measure, limb or "") → its series, for the measures that are read in every frame.
    traces: dict[tuple[str, str], Series]
    readings: list[Reading]
    refusals: list[Refusal]
    #: What a coach should know of the clip, in sentences.
    notes: tuple[str, ...] = ()
    #: How many times slower than life the clip seems to play, by the fall in the air.
    plays_slower: float | None = None
    #: Pixels per metre by the fall of the body in the air, where one was long enough.
    fallen: Value | None = None
    #: What the picture says against what was said of it: nothing is judged until it is answered.
    doubt: Doubt | None = None
    #: Whether the picture itself, or the coach, bears out the rate at which the clip plays.
    rate_sure: bool = False
    #: Whether the ride itself shows how the picture stands, and its level was taken from it.
    level_by_ride: bool = False
    #: How far off the line of its view the camera stands by the rider's body, degrees toward the rider's right; None where
    #: nothing shows it.
    off_line_deg: Value | None = None
    #: By how much of their length the rider's limbs seem to stretch and shrink; None where no depths were fitted.
    strain: float | None = None


def playbook_ids() -> list[str]:
    """Ids of the disciplines that have a playbook, sorted."""
    return sorted(
        f.name.removesuffix(".yaml")
        for f in files("proklisis.playbooks").iterdir()
        if f.name.endswith(".yaml")
    )


@lru_cache(maxsize=32)
def playbook(discipline: str) -> Playbook:
    """Return a discipline's checked playbook; InputError names the nearest ids if there is none."""
    if discipline not in playbook_ids():
        raise InputError(
            f"the discipline {discipline!r} is not known",
            "discipline",
            nearest(discipline, playbook_ids()),
        )
    return load_playbook(_text(discipline), discipline, _text)


def book_of(sheet: RunSheet) -> Playbook:
    """The playbook that a sheet is judged by: its discipline's, with what its club changes in it."""
    if sheet.club_book is None:
        return playbook(sheet.discipline)
    return _club_books(sheet.discipline, sheet.club_book.model_dump_json())


@lru_cache(maxsize=64)
def _club_books(discipline: str, changes: str) -> Playbook:
    return with_club_book(playbook(discipline), ClubBook.model_validate_json(changes))


def _text(discipline: str) -> str:
    return (files("proklisis.playbooks") / f"{discipline}.yaml").read_text("utf-8")


def shortest_unit(discipline: str) -> float:
    """Seconds below which nothing is a unit of a discipline."""
    split = playbook(discipline).split
    return SHORTEST_TURN_S if split is None else splitter(split).shortest_s


def review(
    tracks: Tracks, discipline: str, correct: Correct | None = None, draws: int = DRAWS
) -> Review:
    """Split and measure a run.

    Parameters
    ----------
    tracks : landmarks of the run, pixels with a known view, or metres
    discipline : a discipline id with a playbook
    correct : the boundaries as a coach has them, from those that were found
    draws : how often the run is drawn again where its uncertainties come from draws

    Raises
    ------
    InputError : when the view is not known or no person can be followed, or what ``correct`` raises
    """
    correct = correct or list
    book = playbook(discipline)
    if book.split is None:
        able = ", ".join(i for i in playbook_ids() if playbook(i).from_tracks)
        raise InputError(
            f"{book.title.lower()} cannot be split from pictures yet", f"discipline {discipline}",
            f"hand in a run sheet to `proklisis prescribe`, or choose one of {able}",
        )  # fmt: skip
    if len(tracks) < 10:
        raise InputError(
            f"the clip has only {len(tracks)} frame(s)", "", "film a run of at least two turns"
        )
    how = splitter(book.split)
    if how.outside_foot:
        tracks = with_settled_sides(tracks)
    tracks = whole_sets(without_outliers(tracks))
    if book.sideways:
        tracks = with_board_underfoot(tracks)
    doubt = front_foot_asked(tracks, book)
    stands = placed(tracks, how.facing)
    tracks, guessed = stands.tracks, ""
    if doubt is None and tracks.xyz is None and tracks.facts.view is None:
        guess = view_guessed(tracks, book)
        if guess is None:
            raise Doubtful(view_asked(tracks, book))
        tracks = tracks.with_facts(view=guess[0])
        guessed = f"Nobody said from where it was filmed: {guess[1]}, as {VIEW_WORDS[guess[0]]}."
    doubt = (
        doubt or view_doubt(tracks, book) or azimuth_doubt(tracks, stands.azimuth, stands.off_deg)
    )
    if doubt is not None:
        raise Doubtful(doubt)
    if "slope_deg" not in book.conditions:
        tracks = tracks.with_facts(slope_deg=0.0, slope_u_deg=0.0)
    if book.family != "trace" and tracks.facts.plane is not None:
        # Only a trace lies on the ice; everything else is read off the picture.
        tracks = tracks.with_facts(plane=None)
    # Figures on the ice come back to where they began.
    tracks, carried = ground_held(tracks, book.speed_ms) if book.family != "trace" else (tracks, ())
    done = _measured(tracks, book, correct, draws)
    done = replace(
        done,
        notes=stands.notes + (guessed,) * bool(guessed) + carried + done.notes,
        off_line_deg=stands.off_line_deg,
        strain=stands.strain,
    )
    known = {r.id for r in done.readings} | {r.id for r in done.refusals}
    by_hand = [
        Refusal(
            m, "not_measured", f"{REGISTRY[m].title} was not read on this clip: measure it by hand."
        )
        for m in book.measures
        if m not in known
    ]
    return replace(done, refusals=done.refusals + by_hand)


def _named(landmarks: list[str]) -> str:
    """Landmarks in words, with their verb."""
    return f"{' and '.join(f'the {in_words(n)}' for n in landmarks)} {'is' if len(landmarks) == 1 else 'are'}"


def _unmarked(book: Playbook, title: str, landmarks: list[str]) -> Lacking:
    # A joint is moved by hand, not added: only gear can be marked where no tracks have it.
    mark = "" if set(landmarks) & set(BODY) else "mark them in a few frames, "
    return Lacking(
        f"{book.unit}s are split by {title.lower()}, and {_named(landmarks)} not followed on this clip",
        "landmarks", f"{mark}hand in tracks that have them, or measure by hand and hand in a run sheet",
    )  # fmt: skip


def figures_of(done: Review, discipline: str, draws: int) -> tuple[Figure, list[Figure]]:
    """The figure that a review was measured on, and ``draws`` more, moved as their ± allows; none of those in space."""
    smooth, cutoff = smooth_of(done, splitter(playbook(discipline).split or ""))
    return build(smooth, cutoff), drawn(smooth, cutoff, draws)


def smooth_of(done: Review, how: Splitter) -> tuple[Tracks, float]:
    """The tracks that a review was measured on, without gaps and noise, and the cut-off of that, hertz."""
    return smoothed(fill_short_gaps(done.tracks), how.lowest_hz, how.highest_hz)


def _measured(tracks: Tracks, book: Playbook, correct: Correct, draws: int) -> Review:
    """Split and measure, and hold what was found against the clip's clock."""
    how = splitter(book.split or "")
    smooth, cutoff = smoothed(fill_short_gaps(tracks), how.lowest_hz, how.highest_hz)
    figure = build(smooth, cutoff)
    _followed(figure, book, how)
    upright = stood_upright(figure, how, tracks)
    if upright.tracks is not tracks:
        tracks, smooth = upright.tracks, replace(smooth, facts=upright.tracks.facts)
        figure = build(smooth, cutoff)
    way = in_closed_form if how.closed_form and not figure.in_space else by_draws
    try:
        got = way(smooth, cutoff, how, book, correct, draws)
    except NotFollowed as e:
        raise _unmarked(book, how.title, list(e.args))
    clock = held_to_the_clock(tracks, how, got)
    notes = upright.notes + clock.notes
    if how.free_flight and not ground_marked(figure):
        notes += (
            "No line on the ground is marked: take-off and landing are known to about a tenth of a second. Mark the snow or water line on the clip's page.",
        )
    if not got.units:
        notes += (
            f"No {book.unit} was found by {lower_first(how.title)}. Cut the run by hand with C, or judge it by eye with E.",
        )
    readings, wide = worth_saying(off_line(got.readings, got.figure))
    return Review(
        tracks, how.signal(figure), got.boundaries, got.units, series_off_line(got.series, got.figure), readings, got.refused + wide,
        notes, clock.plays_slower, clock.fallen, rate_sure=clock.sure, level_by_ride=upright.shown,
    )  # fmt: skip


def _followed(figure: Figure, book: Playbook, how: Splitter) -> None:
    """Raise InputError where what this family is split by is not there."""
    needed = [p for p in ("mid_hip", "mid_ankle", "mid_shoulder") if p not in figure.points]
    if not figure.flat and (
        needed or not np.isfinite(figure.points["mid_hip"][:, list(figure.axes)]).any()
    ):
        raise InputError(
            f"no person can be followed on this clip, so it cannot be split into {book.unit}s", "",
            "film closer, so that the rider is at least a third of the picture's height",
        )  # fmt: skip
    lacking = [p for p in how.needs if p not in figure.points]
    if "surface_a" in lacking:
        raise Lacking(
            f"{book.unit}s are split by {how.title.lower()}, and no line on the water is marked", "landmarks surface_a, surface_b",
            "mark the snow or water line on the clip's page, or hand in tracks that have it",
        )  # fmt: skip
    if lacking:
        raise _unmarked(book, how.title, lacking)


def unsplit(
    tracks: Tracks,
    discipline: str,
    why: InputError,
    correct: Correct | None = None,
    sides: Iterable[SideSaid] = (),
) -> Review:
    """The run as far as it is known before what ``why`` asks for is marked or answered: nothing measured.

    Its units are those that a coach cut by hand with ``correct`` and ``sides``. ``tracks`` may have no landmark at all.
    """
    book = playbook(discipline)
    signal = EventSignal(tracks.t, np.zeros(len(tracks)), 0.0, graded=False)
    cuts = (correct or list)([])
    units = units_between(cuts, book.unit, sides)
    if isinstance(why, Doubtful):
        asked = f"Nothing is read before this is settled: {why.doubt.asks}"
        first = [Refusal(m, "not_measured", asked) for m in book.measures]
        return Review(tracks, signal, cuts, units, {}, [], first, doubt=why.doubt)
    if tracks.names:
        smooth, cutoff = smoothed(fill_short_gaps(tracks))
        refused = Plan(book, library.ALL, build(smooth, cutoff)).refused
    else:
        refused = [Refusal(m, "not_measured", f"{upper_first(why.what)}.") for m in book.measures]
    said = f"{upper_first(why.what)}. {upper_first(why.mend)}."
    return Review(tracks, signal, cuts, units, {}, [], refused, (said,))


def with_counted(
    done: Review, discipline: str, count: int, sides: Iterable[SideSaid] = ()
) -> Review:
    """The run with as many units as a coach counted on it, where none were found or cut and no question is open."""
    if done.units or done.doubt is not None or count < 1 or not len(done.signal.t):
        return done
    kind = playbook(discipline).unit
    t = done.signal.t
    units = counted_units(count, float(t[0]), float(t[-1]), kind, sides)
    return replace(done, units=units)


def run_sheet(done: Review, discipline: str, about: dict[str, Any] | None = None) -> RunSheet:
    """Write a review as a run sheet; ``about`` adds rider, level, intention and the like."""
    facts = done.tracks.facts
    book = playbook(discipline)
    about = about or {}
    rider = {"name": "", "stance": facts.stance, "height_cm": facts.height_cm}
    known = {
        **about,
        "rider": {**{k: v for k, v in rider.items() if v is not None}, **about.get("rider", {})},
        "conditions": {
            **{k: v for k, v in facts.conditions.items() if k in in_other_units(book.conditions)},
            **about.get("conditions", {}),
        },
    }
    read = {r.id for r in done.readings if np.isfinite(r.value) and np.isfinite(r.u)}
    sheet = parse_sheet(
        {
            "format": "run-sheet/1",
            "discipline": discipline,
            **known,
            "clip": {"fps": facts.fps, "view": facts.view, "view_offset_deg": facts.view_offset_deg, "rate_sure": done.rate_sure},
            "segments": [
                {"n": t.n, "kind": book.unit, **t.sides(), **t.strokes()}
                | ({} if t.counted else {"start_s": round(t.start.t, 5), "end_s": round(t.end.t, 5)})
                for t in done.units
            ],
            "refused": [
                {"measure": r.id, "reason": r.reason, "words": r.words, "points": list(r.points)}
                for r in done.refusals if r.id in book.measures and r.id not in read
            ],
            "measures": [
                {
                    "id": r.id, "limb": r.limb, "segment": r.segment, "phase": r.phase,
                    "value": round(r.value, 5), "u": round(r.u, 5),
                }
                for r in done.readings
                if r.id in book.measures and np.isfinite(r.value) and np.isfinite(r.u)
            ],
        }
    )  # fmt: skip
    check_sheet(sheet, book)
    return sheet


def judged_of(prescription: Prescription) -> tuple[int, int]:
    """(how many faults could be judged, how many there are at this level) of a prescription."""
    faults = _open_faults(prescription["discipline"], prescription["level"])
    untold = {c["fault"] for c in prescription["cannot_tell"]}
    return len(faults - untold), len(faults)


@lru_cache(maxsize=128)
def _open_faults(discipline: str, level: str) -> frozenset[str]:
    """Faults that wait for a reading: of a sheet with nothing on it, those that cannot be told."""
    empty = {
        "format": "run-sheet/1",
        "discipline": discipline,
        "level": level,
        "rider": {"name": ""},
    }
    return frozenset(c["fault"] for c in judge(parse_sheet(empty))["cannot_tell"])


def nothing_found(prescription: Prescription) -> str:
    """What to say of a run with no finding: that all is well, or how little could be judged; empty where there is one."""
    if prescription["main"]:
        return ""
    signs = [f["title"] for f in prescription["findings"] if f["status"] in ("root", "symptom")]
    if signs:
        return f"{listed([signs[0], *map(lower_first, signs[1:])])}: what causes it could not be told. Look there first."
    seen, of = judged_of(prescription)
    if seen == 0:
        return "Nothing could be judged on this run."
    if seen < of:
        return f"Nothing to put right was found in the {seen} of {of} things that could be judged."
    return "Nothing to put right was found on this run."


def judge(sheet: RunSheet, dropped: Collection[str] = (), name: str = "sheet") -> Prescription:
    """Turn a run sheet into a prescription, leaving out faults that a coach ``dropped``.

    ``name`` is what errors call the sheet.
    """
    try:
        book = book_of(sheet)
    except InputError as e:
        raise e.at(f"{name}: club_book") from e
    check_sheet(sheet, book, name)
    return prescribe(sheet, book, dropped, name)
