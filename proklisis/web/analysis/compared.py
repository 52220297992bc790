"""A run as it is held against others, or looked at as a whole."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from rest_framework.request import Request

from proklisis.core.comparing.pair import Run as Compared
from proklisis.core.review import playbook
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.web.analysis.reviewing import reviewed
from proklisis.web.clubs.access import of_club_or_drawn
from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Run


def run_of(request: Request, pk: int | None) -> Run:
    """A run that the coach may look at with what it is compared by; 404 where there is none."""
    rows = of_club_or_drawn(Run.objects.select_related("rider", "clip", "result"), request)
    return get_object_or_404(rows, pk=pk)  # type: ignore[no-any-return]


def compared(row: Run) -> Compared:
    """The run with its sheet and review; Conflict before it was measured, or where its Bench asks a question first."""
    done = reviewed(row)
    if done.doubt is not None:
        raise Conflict(
            f"The Bench of {row.rider.name}'s run asks a question first; answer it there, then come back."
        )
    if any(u.counted for u in done.units):
        raise Conflict(
            f"The {playbook(row.discipline).units} of {row.rider.name}'s run are only counted: nobody knows when they were. Cut them on its Bench, then come back."
        )
    return Compared(f"run {row.pk}", RunSheet.model_validate(row.result.sheet), done)
