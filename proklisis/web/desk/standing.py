"""Where each run stands, from its clip's arrival to the next one after the answer, as one column that lists are ordered and narrowed by."""

from __future__ import annotations

from typing import Any

from django.db.models import Case, Exists, F, OuterRef, Q, QuerySet, TextChoices, Value, When
from django.utils import timezone

from proklisis.web.runs.models import Run


class Standing(TextChoices):
    """In the order in which a run goes through them."""

    ARRIVING = "arriving", "Waits for its clip"
    FOLLOWED = "followed", "Being followed"
    UNREADABLE = "unreadable", "Cannot be read"
    LOOK = "look", "Needs a look"
    JUDGE = "judge", "Ready to judge"
    WRITING = "writing", "Script open"
    RIDER = "rider", "With the rider"
    AGAIN = "again", "Film again"
    DONE = "done", "Done"


#: What waits for a coach.
WAITS = (Standing.UNREADABLE, Standing.LOOK, Standing.JUDGE, Standing.WRITING)


def standing(runs: QuerySet[Run]) -> QuerySet[Any]:
    """Runs with where each stands, as ``stands``."""
    approved = Q(script__approved_at__isnull=False)
    later = Run.objects.filter(
        rider=OuterRef("rider"), discipline=OuterRef("discipline"), removed_at=None, part_of=None,
        added__gt=OuterRef("script__approved_at"),
    )  # fmt: skip
    said = Q(script__isnull=False) & (~Q(script__message="") | ~Q(script__chosen=[]) | Q(script__version__gt=0))  # fmt: skip
    return runs.annotate(
        stands=Case(
            When(approved & Exists(later), then=Value(Standing.DONE)),
            When(approved & Q(script__retest_on__lte=timezone.localdate()), then=Value(Standing.AGAIN)),
            When(approved, then=Value(Standing.RIDER)),
            When(state__in=(Run.State.WAITING, Run.State.CANCELLED), then=Value(Standing.ARRIVING)),
            When(state__in=(Run.State.QUEUED, Run.State.WORKING), then=Value(Standing.FOLLOWED)),
            When(state=Run.State.FAILED, then=Value(Standing.UNREADABLE)),
            When(result__main_title=None, then=Value(Standing.LOOK)),
            When(said, then=Value(Standing.WRITING)),
            # No verdict yet: a question comes first, or points have to be marked.
            When(result__presses__isnull=False, then=Value(Standing.LOOK)),
            default=Value(Standing.JUDGE),
        )
    )  # fmt: skip


def in_order(runs: QuerySet[Any]) -> QuerySet[Any]:
    """What waits first: what is due soonest, then the oldest; after it what is answered, the newest first."""
    answered = Case(When(script__approved_at=None, then=0), default=1)
    newest = F("script__approved_at").desc(nulls_last=True)
    return runs.order_by(answered, F("due").asc(nulls_last=True), newest, "added", "id")
