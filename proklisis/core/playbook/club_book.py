"""A playbook as a club changes it."""

from __future__ import annotations

import itertools
from typing import Any

from pydantic import ValidationError

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import first_problem, nearest, problems
from proklisis.core.playbook.schema import LEVELS, Condition, Drill, Fault, Playbook
from proklisis.core.shapes.club_book import ClubBook, OwnBand

WAYS = ("below", "above")


def parse_club_book(data: Any) -> ClubBook:
    """Read a club's changes; InputError names the first key that is wrong."""
    try:
        return ClubBook.model_validate(data)
    except ValidationError as e:
        path, words = first_problem(e)
        raise InputError(words, path) from e


def with_club_book(book: Playbook, own: ClubBook) -> Playbook:
    """Return the playbook with a club's bands, cues, drills and words; the ids stay as they are.

    Raises
    ------
    InputError : a fault, wording, measure or level that there is none of, or a band that cannot be
    """
    faults = dict(book.faults)
    drills = dict(book.drills)
    for wording, title in own.titles.items():
        _reword(faults, wording, "titles", title=title)
    for wording, cues in own.cues.items():
        _reword(faults, wording, "cues", cues=cues)
    for fault, ladders in own.drills.items():
        _known(fault, faults, "drills")
        ids = []
        for n, ladder in enumerate(ladders, 1):
            ids.append(f"club_{fault}_{n}")
            drills[ids[-1]] = Drill.model_validate(ladder.model_dump())
        faults[fault] = _before(faults[fault], tuple(ids))
    for n, band in enumerate(own.bands):
        _known(band.fault, faults, f"bands.{n}.fault")
        faults[band.fault] = _judged_by(faults[band.fault], band, f"bands.{n}")
    changed = book.model_copy(update={"faults": faults, "drills": drills})
    for problem in problems(changed):
        raise InputError(problem)
    return changed


def wordings(book: Playbook) -> list[tuple[str, str, str, tuple[str, ...]]]:
    """Every wording of a fault: its key, the fault, its title and its cues, in the order of the playbook."""
    out = []
    for i, f in book.faults.items():
        own = [(f"{i}:{w}", m) for w in WAYS if (m := getattr(f, w))]
        # What is worded by its side is never said as a whole, unless a side has no words of its own.
        if len(own) < len(WAYS):
            out.append((i, i, f.title, f.cues))
        out += [(key, i, m.title, m.cues) for key, m in own]
    return out


def bands_of(fault: Fault) -> list[Condition]:
    """The conditions of a fault that have a band, in order; a band inside which something else is asked is not one of them."""
    return [c for c in fault.when.leaves() if _banded(c)]


def _banded(c: Condition) -> bool:
    return c.band is not None and not c.inside


def _known(fault: str, faults: dict[str, Fault], where: str) -> None:
    if fault not in faults:
        raise InputError(f"the fault {fault!r} is not known", where, nearest(fault, faults))


def _reword(faults: dict[str, Fault], wording: str, where: str, **what: Any) -> None:
    fault, _, way = wording.partition(":")
    _known(fault, faults, where)
    if not way:
        faults[fault] = faults[fault].model_copy(update=what)
        return
    missed = getattr(faults[fault], way, None) if way in WAYS else None
    if missed is None:
        raise InputError(f"{fault} has no words for {way!r}", where, f"leave out “:{way}”")
    faults[fault] = faults[fault].model_copy(update={way: missed.model_copy(update=what)})


def _before(fault: Fault, ids: tuple[str, ...]) -> Fault:
    """The fault with drills before those it has, also where a side of the band has its own."""
    update: dict[str, Any] = {"drills": ids + fault.drills}
    for way in WAYS:
        missed = getattr(fault, way)
        if missed is not None and missed.drills:
            update[way] = missed.model_copy(update={"drills": ids + missed.drills})
    return fault.model_copy(update=update)


def _judged_by(fault: Fault, own: OwnBand, where: str) -> Fault:
    places = bands_of(fault)
    if own.place >= len(places) or places[own.place].measure != own.measure:
        has = ", ".join(f"{n} {c.measure}" for n, c in enumerate(places))
        raise InputError(
            f"{own.fault} has no band of {own.measure} in place {own.place}", where, f"it has: {has or 'none'}"
        )  # fmt: skip
    count = itertools.count()

    def change(leaf: Condition) -> Condition:
        if not _banded(leaf) or next(count) != own.place:
            return leaf
        if own.level is None:
            # Levels at which it is not judged stay so.
            band: Any = (
                dict.fromkeys(leaf.band, own.band) if isinstance(leaf.band, dict) else own.band
            )
        else:
            each = leaf.band if isinstance(leaf.band, dict) else dict.fromkeys(LEVELS, leaf.band)
            band = {**each, own.level: own.band}
        try:
            return Condition.model_validate({**leaf.model_dump(exclude_unset=True), "band": band})
        except ValidationError as e:
            raise InputError(
                first_problem(e)[1], where, "give a lower and an upper end, or one of them"
            ) from e

    when = fault.when.rebuilt(change)
    assert when is not None  # nothing was left out
    return fault.model_copy(update={"when": when})
