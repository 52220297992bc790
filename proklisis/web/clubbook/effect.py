"""What a club's changes to a playbook would do to verdicts that stand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from django.db.models import Prefetch, QuerySet

from proklisis.core.playbook.changes import verdict_change
from proklisis.core.review import playbook
from proklisis.core.shapes.club_book import ClubBook
from proklisis.core.shapes.prescription import VerdictChange
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.web.analysis.reviewing import schools_of
from proklisis.web.analysis.said import judged, word_of
from proklisis.web.clubs.books import changes_of
from proklisis.web.clubs.models import Club
from proklisis.web.runs.models import Edit, Run

#: So many runs are judged anew for one answer.
AT_ONCE = 25


class Part(NamedTuple):
    """What came of some runs, the newest first: those whose verdict would be another, and where to go on."""

    rows: Sequence[tuple[Run, VerdictChange]]
    looked_at: int
    asked_first: int
    next: int | None


def judged_runs(club: Club, discipline: str) -> QuerySet[Run]:
    """The runs that stand judged, newest first."""
    return Run.objects.filter(
        club=club, discipline=discipline, part_of=None, removed_at=None, rider__removed_at=None, result__isnull=False
    ).order_by("-id")  # fmt: skip


def effect(
    club: Club, discipline: str, own: ClubBook, schools: dict[str, str], below: int | None
) -> Part:
    """Judge runs with ``own`` and the club's ``schools`` beside how they are judged now, from the one below ``below`` on."""
    runs = judged_runs(club, discipline)
    if below is not None:
        runs = runs.filter(pk__lt=below)
    edits = Edit.objects.filter(undone=False).order_by("id")
    page = list(
        runs.select_related("rider", "club", "result", "clip")
        .defer(
            "result__bench", "result__prescription", "clip__index", "clip__people", "clip__looks"
        )
        .prefetch_related(Prefetch("edits", queryset=edits, to_attr="in_force"))[: AT_ONCE + 1]
    )
    more, page = len(page) > AT_ONCE, page[:AT_ONCE]
    rows, asked, on = [], 0, changes_of(club, discipline)
    for run in page:
        if run.result.main_title == "A question first":
            asked += 1
            continue
        change = _change(run, on, own, schools)
        if change is not None:
            rows.append((run, change))
    return Part(rows, len(page), asked, page[-1].pk if more else None)


def _change(
    run: Run, on: ClubBook | None, own: ClubBook, schools: dict[str, str]
) -> VerdictChange | None:
    sheet = RunSheet.model_validate(run.result.together or run.result.sheet)
    person = run.person
    word = word_of(e for e in run.in_force if e.person == person)  # type: ignore[attr-defined]
    known = playbook(run.discipline).schools
    chosen = {**schools, **run.rider.schools.get(run.discipline, {}), **run.schools}
    would = {q: o for q, o in chosen.items() if q in known and o in known[q].options}
    # As things stand, whatever stood when the run was last looked at.
    before = sheet.model_copy(update={"club_book": on, "schools": schools_of(run)[0]})
    after = sheet.model_copy(update={"club_book": own if own else None, "schools": would})
    return verdict_change(judged(before, word)[1], judged(after, word)[1])


def plain(run: Run, change: VerdictChange) -> dict[str, Any]:
    """A row as it is shown."""
    return {
        "run": run.pk,
        "rider": run.rider.name,
        "title": run.title,
        "level": run.level,
        "added": run.added,
        **change,
    }
