"""What became of each prescription in the runs that were filmed after it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date
from typing import Any, NamedTuple

from django.db.models import QuerySet
from django.db.models.fields.json import KeyTransform

from proklisis.core.playbook.cues import Outcome, outcome
from proklisis.core.shapes.prescription import Followed
from proklisis.web.runs.models import Run
from proklisis.web.targets.models import Prescribed


class Later(NamedTuple):
    """A run that was held against a prescription."""

    run: int
    on: date
    rows: list[Followed]
    outcome: Outcome


@dataclass
class Given:
    """A prescription and the runs after it, up to the next one."""

    prescribed: Prescribed
    later: list[Later] = field(default_factory=list)

    @property
    def outcome(self) -> Outcome | None:
        """What the first run after it shows; None before there is one."""
        return self.later[0].outcome if self.later else None


def day_of(run: Any) -> date:
    """When a run was ridden, as far as that is known."""
    day: date = run.filmed_on or run.added.date()
    return day


def outcomes(prescribed: QuerySet[Prescribed]) -> list[Given]:
    """Each prescription with what became of it, in the order of their runs."""
    rows = prescribed.select_related("run").order_by("run__added", "run_id")
    given = [Given(p) for p in rows]
    places = {(g.prescribed.run.rider_id, g.prescribed.run.discipline) for g in given}
    for rider, discipline in places:
        own = [
            g
            for g in given
            if (g.prescribed.run.rider_id, g.prescribed.run.discipline) == (rider, discipline)
        ]
        for run in _runs(rider, discipline):
            last = next((g for g in reversed(own) if g.prescribed.run.added < run.added), None)
            if last is not None and run.followed:
                last.later.append(Later(run.pk, day_of(run), run.followed, outcome(run.followed)))
    return given


def _runs(rider: int, discipline: str) -> Iterable[Any]:
    """A rider's judged runs, the oldest first, with what their prescription says of the one before."""
    return (
        Run.objects.filter(
            rider=rider, discipline=discipline, part_of=None, removed_at=None, result__isnull=False
        )
        .annotate(followed=KeyTransform("followup", "result__prescription"))
        .only("pk", "rider_id", "discipline", "added", "filmed_on")
        .order_by("added", "pk")
    )
