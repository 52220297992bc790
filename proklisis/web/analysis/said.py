"""What a coach said of a run: what their eye saw, and their word on what comes first.

Both are corrections like a moved boundary: rows of :class:`Edit` in the order they were made, each of which can be
undone. What stands is what those that are in force add up to.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from copy import deepcopy
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from django.db.models import QuerySet

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.schema import Playbook
from proklisis.core.review import book_of, judge
from proklisis.core.shapes.prescription import Drill, Prescription
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.splitting.units import Unit
from proklisis.web.clubs.books import club_playbook
from proklisis.web.runs.models import Edit, Run

OWN_DRILL = "own"


class Span(NamedTuple):
    """A unit's number and its times, seconds."""

    n: int
    start: float
    end: float
    #: Only counted: its times are no times of a unit.
    counted: bool = False


@dataclass
class Word:
    """The coach's word: what they chose in place of the software, by fault."""

    main: str = ""
    also: list[str] = field(default_factory=list)
    cues: dict[str, str] = field(default_factory=dict)
    #: fault → a drill's id, or a drill of the coach's own.
    drills: dict[str, str | dict[str, Any]] = field(default_factory=dict)
    dropped: dict[str, str] = field(default_factory=dict)


def in_force(run: Run) -> list[Edit]:
    """Corrections of a run that are not undone, in order."""
    return list(run.corrections.filter(undone=False).select_related("by"))


def notes_of(edits: Iterable[Edit]) -> list[Edit]:
    """Notes that were not taken back, in order."""
    edits = list(edits)
    back = {e.values["note"] for e in edits if e.kind == Edit.Kind.UNNOTE}
    return [e for e in edits if e.kind == Edit.Kind.NOTE and e.pk not in back]


def unit_of(note: dict[str, Any], spans: Sequence[Span]) -> int | None:
    """The number of the unit that a note is of: by its number, or by where its moment lies now; None of the run."""
    if note["scope"] not in ("unit", "phase") or not spans:
        return None
    t, n = note.get("t"), note.get("unit")
    if t is None or spans[0].counted:
        return n if n in {s.n for s in spans} else None
    return min(spans, key=lambda s: max(s.start - t, t - s.end, 0.0)).n


def observations(
    notes: Iterable[Edit], units: Sequence[Unit], book: Playbook
) -> list[dict[str, Any]]:
    """Notes as a run sheet has them. Of the same thing in the same place the last word stands."""
    spans = [Span(u.n, u.start.t, u.end.t, u.counted) for u in units]
    out: dict[tuple[Any, ...], dict[str, Any]] = {}
    for e in notes:
        v = e.values
        if v.get("fault") not in book.noted:
            continue
        n = unit_of(v, spans)
        if v["scope"] in ("unit", "phase") and units and n is None:
            continue  # of a unit that is not there any more
        side = v.get("side") if v["scope"] == "side" else None
        phase = v.get("phase") if v["scope"] == "phase" and v.get("phase") in book.phases else None
        key = (book.noted[v["fault"]], n, side, phase)
        out.pop(key, None)
        out[key] = {
            "id": v["fault"], "segment": n, "side": side, "phase": phase,
            "sure": v.get("sure", True), "seen": v.get("seen", True),
        }  # fmt: skip
    return list(out.values())


def word_of(edits: Iterable[Edit]) -> Word:
    """What the coach's choices add up to."""
    word = Word()
    for e in edits:
        v = e.values
        if e.kind == Edit.Kind.CHOOSE:
            word.main = v["fault"]
        elif e.kind == Edit.Kind.ALSO:
            word.also = [i for i in word.also if i != v["fault"]] + [v["fault"]] * bool(v["on"])
        elif e.kind == Edit.Kind.CUE:
            _put(word.cues, v["fault"], v["cue"])
        elif e.kind == Edit.Kind.DRILL:
            own = {"title": v["title"], "steps": v["steps"]} if v.get("steps") else ""
            _put(word.drills, v["fault"], v.get("drill") or own)
        elif e.kind == Edit.Kind.DROP:
            for fault in v["faults"]:
                _put(word.dropped, fault, v["reason"])
    return word


def _put(where: dict[str, Any], fault: str, what: Any) -> None:
    where.pop(fault, None)
    if what:
        where[fault] = what


def judged(sheet: RunSheet, word: Word) -> tuple[RunSheet, Prescription]:
    """The sheet and its verdict under a coach's word; what was chosen and is not on the run any more is left out."""
    book = book_of(sheet)
    dropped = {i for i in word.dropped if i in book.faults}
    own = judge(sheet, dropped)
    found = {f["fault"] for f in own["findings"]}
    main = word.main if word.main in found else None
    also = [i for i in word.also if i in found and i != main]
    first = main or (own["main"]["fault"] if own["main"] else None)
    drill = word.drills.get(first or "")
    chosen = {
        "main": main, "also": also, "cue": word.cues.get(first or ""),
        "drill": drill if isinstance(drill, str) and drill in book.drills else None,
    }  # fmt: skip
    if any(chosen.values()):
        sheet = sheet.model_validate({**sheet.model_dump(by_alias=True), "chosen": chosen})
        own = judge(sheet, dropped)
    return sheet, _in_own_words(own, word, book)


def _in_own_words(p: Prescription, word: Word, book: Playbook) -> Prescription:
    """What the coach wrote for others than the main thing, and drills of their own."""
    out = deepcopy(p)
    for row in out["cues"]:
        row["cue"] = word.cues.get(row["fault"], row["cue"])
    for fault, drill in word.drills.items():
        if fault not in {c["fault"] for c in out["cues"]}:
            continue
        if not isinstance(drill, str):
            mine = _own(fault, drill)
        elif out["main"] and out["main"]["fault"] == fault:
            continue  # the sheet said it
        else:
            of_book = _of_book(book, fault, drill)
            if of_book is None:
                continue
            mine = of_book
        out["drills"] = [mine, *(d for d in out["drills"] if d["fault"] != fault)]
        if out["main"] and out["main"]["fault"] == fault:
            out["main"]["by"] = "coach"
    return out


def _own(fault: str, drill: dict[str, Any]) -> Drill:
    return {
        "id": OWN_DRILL, "fault": fault, "title": drill["title"], "sign": "", "worse_first": None,
        "steps": [{"stage": s["stage"], "text": s["text"], "dose": s.get("dose", "")} for s in drill["steps"]],
    }  # fmt: skip


def _of_book(book: Playbook, fault: str, drill: str) -> Drill | None:
    d = book.drills.get(drill)
    if d is None or fault not in book.faults:
        return None
    return {
        "id": drill, "fault": fault, "title": d.title, "sign": d.sign, "worse_first": book.faults[fault].worse_first,
        "steps": [{"stage": x.stage, "text": x.text, "dose": x.dose} for x in d.steps],
    }  # fmt: skip


def check_said(run: Run, kind: str, values: dict[str, Any]) -> None:
    """Raise InputError for a note or a choice that the run's discipline does not know."""
    book = club_playbook(run.club, run.discipline)

    def known(i: str, ids: Iterable[str], where: str) -> None:
        if i not in (ids := list(ids)):
            raise InputError(
                f"{i!r} is not known in {run.discipline.replace('_', ' ')}", where, nearest(i, ids)
            )

    if kind == Edit.Kind.UNNOTE:
        if not notes_of(in_force(run)) or values["note"] not in {
            e.pk for e in notes_of(in_force(run))
        }:
            raise InputError("this note is not there any more", "note", "load the page again")
        return
    if kind == Edit.Kind.NOTE:
        if not values["fault"] and not values["words"].strip():
            raise InputError(
                "the note is empty", "note", "choose what you saw, or write a few words"
            )
        if values["fault"]:
            known(values["fault"], book.noted, "note")
        if (
            values["scope"] in ("unit", "phase")
            and values.get("t") is None
            and values.get("unit") is None
        ):
            raise InputError(
                f"the note does not say which {book.unit}", "note", "give t, a moment in it"
            )
        if values["scope"] == "side" and not values.get("side"):
            raise InputError("the note does not say which side", "note", "give side")
        if values["scope"] == "phase":
            known(values.get("phase") or "", book.phases, "note")
        return
    for fault in values.get("faults") or [values.get("fault", "")]:
        if fault or kind != Edit.Kind.CHOOSE:
            known(fault, book.faults, kind)
    if values.get("drill"):
        known(values["drill"], book.drills, "drill")


def habits(run: Run, user: Any) -> Counter[str]:
    """How often a coach noted each thing on other runs of the discipline."""
    mine = Edit.objects.filter(
        kind=Edit.Kind.NOTE,
        by=user,
        undone=False,
        run__club=run.club,
        run__discipline=run.discipline,
    )
    return Counter(mine.exclude(run=run).values_list("values__fault", flat=True))


def preferred(run: Run, kind: str) -> QuerySet[Edit]:
    """What coaches of the club chose for runs of this discipline and level, the newest first."""
    return Edit.objects.filter(
        kind=kind,
        undone=False,
        run__club=run.club,
        run__discipline=run.discipline,
        run__level=run.level,
    ).order_by("-id")
