"""What waits on the Desk against the minutes there are: learnt from this coach's own reviews, laid over their week."""

from __future__ import annotations

from collections import Counter, defaultdict
from datetime import date, timedelta
from typing import Any

from auditlog.models import LogEntry
from django.db import transaction
from django.db.models import Count, Max, Q
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.planning.days import Minutes, answered_on, minutes_of
from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.clubs.models import Coach
from proklisis.web.desk.models import Week
from proklisis.web.desk.standing import WAITS, Standing, in_order, standing
from proklisis.web.errors import ProblemSerializer
from proklisis.web.intake.models import Sent
from proklisis.web.runs.models import Run
from proklisis.web.scripts.models import Script

#: Reviews of so many days say how long one takes.
LEARNT_FROM = timedelta(days=180)
#: What took longer than this was left lying in between, minutes.
LONGEST_MIN = 90.0
#: Nobody has said how many minutes there are: an hour on weekdays.
USUAL_WEEK = [60.0, 60.0, 60.0, 60.0, 60.0, 0.0, 0.0]
#: What is or will be a coach's to answer.
SOON = frozenset({*WAITS, Standing.FOLLOWED})
#: So many that will be late are named.
NAMED = 50


class MinutesSerializer(serializers.Serializer[Any]):
    """How long a review takes: the median, and between what half of them lie; n is 0 where it is assumed."""

    each = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    n = serializers.IntegerField()


class LateSerializer(serializers.Serializer[Any]):
    run = serializers.IntegerField()
    rider = serializers.CharField()
    due = serializers.DateField()
    on = serializers.DateField(
        allow_null=True, help_text="when it will be answered; null: not within a year"
    )


class DeskSerializer(serializers.Serializer[Any]):
    counts = serializers.DictField(
        child=serializers.IntegerField(), help_text="runs by where they stand"
    )
    minutes = serializers.DictField(child=MinutesSerializer(), help_text="by discipline")
    waiting = serializers.IntegerField(
        help_text="runs that wait for a coach, with those that will in a moment"
    )
    needed_min = serializers.FloatField()
    needed_low_min = serializers.FloatField()
    needed_high_min = serializers.FloatField()
    week = serializers.ListField(
        child=serializers.FloatField(), help_text="minutes, Monday to Sunday"
    )
    week_said = serializers.BooleanField(help_text="the coach has said it; else it is assumed")
    done_on = serializers.DateField(allow_null=True, help_text="when all that waits is answered")
    next_on = serializers.DateField(
        allow_null=True, help_text="when a clip that comes now would be"
    )
    late = LateSerializer(many=True)
    late_count = serializers.IntegerField()


class DeskView(APIView):
    @extend_schema(responses=DeskSerializer)
    def get(self, request: Request) -> Response:
        """How much waits, how long it takes, and what will be late."""
        return Response(planned(coach_of(request), request))


class NewsSerializer(serializers.Serializer[Any]):
    version = serializers.CharField(
        help_text="another one means that the lists are to be asked again"
    )


class NewsView(APIView):
    @extend_schema(responses=NewsSerializer)
    def get(self, request: Request) -> Response:
        """Whether anything has come or changed, in one small answer."""
        runs = of_club(Run.objects.all(), request).aggregate(
            n=Count("id"), last=Max("id"), busy=Count("id", filter=Q(state__in=("queued", "working"))),
            ready=Count("id", filter=Q(state="ready")),
        )  # fmt: skip
        club = coach_of(request).club_id
        approved = Script.objects.filter(run__club=club).aggregate(at=Max("approved_at"))["at"]
        held = Sent.objects.filter(sender__intake__club=club, state=Sent.State.HELD).aggregate(
            n=Count("id"), last=Max("id")
        )
        parts = (*runs.values(), approved and approved.timestamp(), *held.values())
        return Response({"version": "-".join(str(p or 0) for p in parts)})


class WeekSerializer(serializers.Serializer[Any]):
    minutes = serializers.ListField(
        child=serializers.FloatField(min_value=0, max_value=24 * 60), min_length=7, max_length=7
    )


class WeekView(APIView):
    @extend_schema(request=WeekSerializer, responses={200: DeskSerializer, 400: ProblemSerializer})
    def put(self, request: Request) -> Response:
        """Say how many minutes one has on each day of the week."""
        given = WeekSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        coach = coach_of(request)
        with transaction.atomic():
            Week.objects.update_or_create(
                coach=coach, defaults={"minutes": given.validated_data["minutes"]}
            )
        coach.refresh_from_db()
        return Response(planned(coach, request))


def planned(coach: Coach, request: Request) -> dict[str, Any]:
    """What waits for this coach's club, and when this coach alone would have answered it."""
    runs = standing(of_club(Run.objects.filter(part_of=None), request))
    # What is answered is only counted; of what is not, the rows are wanted anyway.
    answered = (
        runs.filter(script__approved_at__isnull=False).values("stands").annotate(n=Count("id"))
    )
    counts = Counter({r["stands"]: r["n"] for r in answered.order_by()})
    unanswered = in_order(runs.filter(script__approved_at=None)).values_list(
        "pk", "discipline", "due", "stands"
    )
    rows = []
    for pk, discipline, due, stands in unanswered:
        counts[stands] += 1
        if stands in SOON:
            rows.append((pk, discipline, due))
    learnt = reviews(coach)
    minutes = {d: minutes_of(learnt.get(d, [])) for d in sorted({r[1] for r in rows})}
    week = coach.week.minutes if hasattr(coach, "week") else USUAL_WEEK
    usual = minutes_of([m for took in learnt.values() for m in took])
    on = answered_on([*(minutes[r[1]].each for r in rows), usual.each], week, timezone.localdate())
    late = [
        {"run": run, "due": due, "on": day}
        for (run, _, due), day in zip(rows, on, strict=False)
        if due is not None and (day is None or day > due)
    ]
    named = late[:NAMED]
    names = dict(
        Run.objects.filter(pk__in=[x["run"] for x in named]).values_list("pk", "rider__name")
    )
    return {
        "counts": {s.value: counts[s.value] for s in Standing},
        "minutes": {d: vars(m) for d, m in minutes.items()},
        "waiting": len(rows), **_needed(minutes, [r[1] for r in rows]),
        "week": week, "week_said": hasattr(coach, "week"),
        "done_on": on[len(rows) - 1] if rows else timezone.localdate(), "next_on": on[-1],
        "late": [{**x, "rider": names[x["run"]]} for x in named], "late_count": len(late),
    }  # fmt: skip


def _needed(minutes: dict[str, Minutes], disciplines: list[str]) -> dict[str, float]:
    def total(which: str) -> float:
        return round(float(sum(getattr(minutes[d], which) for d in disciplines)), 1)

    return {
        "needed_min": total("each"),
        "needed_low_min": total("low"),
        "needed_high_min": total("high"),
    }


def reviews(coach: Coach) -> dict[str, list[float]]:
    """Minutes from when this coach opened a Bench to when they approved its Script on the same day, by discipline."""
    since = timezone.now() - LEARNT_FROM
    approved = Script.objects.filter(approved_by=coach.user, approved_at__gt=since).values_list(
        "run_id", "approved_at", "run__discipline"
    )
    opened: dict[tuple[int, date], Any] = {}
    entries = LogEntry.objects.filter(
        actor=coach.user, timestamp__gt=since, action=LogEntry.Action.ACCESS, additional_data__what="opened"
    ).values_list("timestamp", "additional_data__run")  # fmt: skip
    for at, run in entries:
        if run is not None:
            key = int(run), timezone.localtime(at).date()
            opened[key] = min(at, opened.get(key, at))
    took: dict[str, list[float]] = defaultdict(list)
    for run, at, discipline in approved:
        began = opened.get((run, timezone.localtime(at).date()))
        if began is not None and 0 < (spent := (at - began).total_seconds() / 60) <= LONGEST_MIN:
            took[discipline].append(round(spent, 2))
    return dict(took)
