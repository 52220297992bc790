"""A run sheet made ready for judging: one run, in one set of units, without what cannot be believed.

What is taken out, or made less sure, leaves a reason behind; nothing vanishes without a word.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from proklisis.core.camera.views import in_views
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook import front_foot
from proklisis.core.playbook.derive import derived
from proklisis.core.playbook.notes import Notes
from proklisis.core.playbook.passes import Places, one_run
from proklisis.core.playbook.schema import Limit, Playbook
from proklisis.core.playbook.under import Under
from proklisis.core.shapes.run_sheet import Refused, RunSheet, SheetMeasure
from proklisis.core.tracks.landmarks import in_words

#: From this share of impossible values on, none of a measure is believed (house choice).
SPOILT = 0.2


@dataclass(frozen=True)
class Prepared:
    """A sheet ready for judging.

    Attributes
    ----------
    sheet : values that may be judged
    under : the schools and conditions that they are judged under
    places : where its units came from
    refused : measure → why it is not there, where the clip or the sheet says so
    limits : what makes its values less sure
    """

    sheet: RunSheet
    under: Under
    places: Places
    refused: dict[str, Refused]
    limits: tuple[Limit, ...]


def prepare(sheet: RunSheet, book: Playbook, schools: Mapping[str, str]) -> Prepared:
    """Make a checked sheet ready; ``book`` as its ``schools`` change it."""
    refused = {r.measure: r for r in sheet.refused}
    sheet, places = one_run(sheet, book)
    sheet = front_foot.with_sides(sheet, book)
    sheet, more = _without_front_foot(sheet, book)
    refused |= more
    sheet, more = _shown_of_a_board(sheet, book)
    refused |= more
    sheet, more = _believable(sheet)
    refused |= more
    limits = _limits(sheet, book)
    under = Under(book, sheet, schools)
    sheet = derived(_less_sure(sheet, book, limits), book, under)
    given = {m.id for m in sheet.measures}
    return Prepared(
        sheet, under, places, {i: r for i, r in refused.items() if i not in given}, limits
    )


def _without_front_foot(sheet: RunSheet, book: Playbook) -> tuple[RunSheet, dict[str, Refused]]:
    if book.front_foot is None or not front_foot.unknown(sheet, book):
        return sheet, {}
    foot = book.front_foot

    def hangs(m: SheetMeasure) -> bool:
        return m.id in foot.measures or m.limb in foot.limbs

    kept = [m for m in sheet.measures if not hangs(m)]
    gone = {m.id for m in sheet.measures if hangs(m)} - {m.id for m in kept}
    rows = {
        i: Refused(measure=i, reason="not_measured", words=front_foot.ASK)
        for i in (*gone, *foot.measures)
    }
    return sheet.model_copy(update={"measures": kept}), rows


def _shown_of_a_board(sheet: RunSheet, book: Playbook) -> tuple[RunSheet, dict[str, Refused]]:
    """Leave out what a rider across a board shows from elsewhere than others: knees from ahead are one behind the other."""
    view = sheet.clip.view

    def hides(m: SheetMeasure) -> bool:
        views = REGISTRY[m.id].board_views
        return bool(views) and view is not None and view not in views

    if not book.sideways or not any(hides(m) for m in sheet.measures):
        return sheet, {}
    words = {
        m.id: f"{REGISTRY[m.id].title} shows {in_views(REGISTRY[m.id].board_views)}."
        for m in sheet.measures
        if hides(m)
    }
    rows = {i: Refused(measure=i, reason="view", words=w) for i, w in words.items()}
    return sheet.model_copy(update={"measures": [m for m in sheet.measures if not hides(m)]}), rows


def _believable(sheet: RunSheet) -> tuple[RunSheet, dict[str, Refused]]:
    """Leave out values that nobody can have: something was said or read wrongly, and no verdict rests on them."""
    limited = {i for i in {m.id for m in sheet.measures} if REGISTRY[i].possible is not None}
    out = [m for m in sheet.measures if m.id in limited and not _possible(m)]
    if not out:
        return sheet, {}
    # Where some values are impossible the rest share their error.
    bad_ids = {
        i
        for i in {m.id for m in out}
        if sum(m.id == i for m in out) >= SPOILT * sum(m.id == i for m in sheet.measures)
    }
    out += [m for m in sheet.measures if m.id in bad_ids and _possible(m)]
    rows = {}
    for m in sorted(out, key=_possible, reverse=True):
        measure = REGISTRY[m.id]
        lo, hi = measure.possible or (None, None)
        rows[m.id] = Refused(
            measure=m.id, reason="not_measured",
            words=f"{measure.title} of {m.value:.0f} lies outside {lo:g} to {hi:g}, which nobody reaches: check the view, the frame rate and the marks.",
        )  # fmt: skip
    bad = {id(m) for m in out}
    return sheet.model_copy(
        update={"measures": [m for m in sheet.measures if id(m) not in bad]}
    ), rows


def _possible(m: SheetMeasure) -> bool:
    limits = REGISTRY[m.id].possible
    return limits is None or limits[0] <= m.value <= limits[1]


def _limits(sheet: RunSheet, book: Playbook) -> tuple[Limit, ...]:
    notes = Notes(sheet.observations, {s.n: s for s in sheet.segments}, book.noted)
    return tuple(x for x in book.limits if notes.seen(x.observation))


def _less_sure(sheet: RunSheet, book: Playbook, limits: Iterable[Limit]) -> RunSheet:
    limits = list(limits)
    if not limits:
        return sheet
    notes = Notes(sheet.observations, {s.n: s for s in sheet.segments}, book.noted)

    def grown(m: SheetMeasure) -> SheetMeasure:
        factor = 1.0
        for x in limits:
            if m.id in x.measures and (
                notes.seen(x.observation)
                if m.segment is None
                else notes.p(x.observation, m.segment)
            ):
                factor *= x.factor
        return replace(m, u=m.u * factor) if factor > 1 else m

    return sheet.model_copy(update={"measures": [grown(m) for m in sheet.measures]})


def points_in_words(points: Iterable[str]) -> str:
    """Points as a coach names them, both sides as one: ``l_ski_tip``, ``r_ski_tip`` are "the ski tips"."""
    names = list(dict.fromkeys(points))
    words: list[str] = []
    for n in names:
        other = {"l_": "r_", "r_": "l_"}.get(n[:2])
        both = other is not None and other + n[2:] in names
        words.append(f"the {_plural(in_words(n[2:]))}" if both else f"the {in_words(n)}")
    words = list(dict.fromkeys(words))
    return (
        words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}" if words else ""
    )


def _plural(word: str) -> str:
    return (
        word.replace("base in", "base's inner ends").replace("base out", "base's outer ends")
        if word.startswith("base ")
        else f"{word}s"
    )
