"""A coach's calendar to subscribe to: answers that are due, sessions of riders who practise, and days on which they are to film
again (RFC 5545, by icalendar)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date, datetime, timedelta
from typing import Any, NamedTuple

from django.http import HttpResponse
from django.utils import timezone
from django.utils.text import slugify
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from icalendar import Calendar, Event
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from proklisis.core.planning.sessions import ANYWHERE
from proklisis.web.clubs.access import coach_of
from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.models import Coach
from proklisis.web.desk.models import CalendarLink
from proklisis.web.desk.standing import WAITS, Standing, standing
from proklisis.web.errors import ProblemSerializer
from proklisis.web.runs.models import Run
from proklisis.web.scripts.calendar import AGAIN
from proklisis.web.scripts.practice import STAGES, Step, begins_at, held_to, planned, steps_of

#: Sessions of so many answers are shown, the newest.
MOST = 500
#: Days so long gone by are left out.
PAST = timedelta(days=60)


class CalendarLinkSerializer(serializers.Serializer[Any]):
    path = serializers.CharField(
        allow_null=True, help_text="private address; null where there is none"
    )


class CalendarLinkView(APIView):
    """The private address of one's own calendar."""

    @extend_schema(operation_id="calendar_link", responses=CalendarLinkSerializer)
    def get(self, request: Request) -> Response:
        """The address, where one was made."""
        return Response(_path(coach_of(request)))

    @extend_schema(
        operation_id="make_calendar_link", request=None, responses=CalendarLinkSerializer
    )
    def post(self, request: Request) -> Response:
        """Make an address; one that was made before works no more."""
        coach = coach_of(request)
        CalendarLink.objects.filter(coach=coach).delete()
        CalendarLink.objects.create(coach=coach)
        put_down(coach.club, request.user, "made a calendar's address")
        return Response(_path(coach))

    @extend_schema(operation_id="withdraw_calendar_link", responses={200: CalendarLinkSerializer})
    def delete(self, request: Request) -> Response:
        """Withdraw the address at once."""
        coach = coach_of(request)
        if CalendarLink.objects.filter(coach=coach).delete()[0]:
            put_down(coach.club, request.user, "withdrew a calendar's address")
        return Response(_path(coach))


class CoachCalendarView(APIView):
    """Open to whatever program holds the address."""

    authentication_classes = []
    permission_classes = [AllowAny]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "shared"

    @extend_schema(
        operation_id="coach_calendar",
        responses={(200, "text/calendar"): OpenApiTypes.BINARY, 404: ProblemSerializer},
    )
    def get(self, request: Request, token: str) -> HttpResponse:
        """Answers that are due, riders' sessions, and days on which they are to film again."""
        found = CalendarLink.objects.select_related("coach__club").filter(token=token, coach__left_at=None).first()  # fmt: skip
        if found is None:
            raise NotFound("This calendar is not to be had any more.")
        made = calendar(found.coach, request.get_host().split(":")[0], timezone.now())
        return HttpResponse(made, content_type="text/calendar; charset=utf-8")


def calendar(coach: Coach, host: str, now: datetime) -> bytes:
    """The calendar of a coach's club as it stands."""
    out = Calendar()
    out.add("prodid", "-//Proklisis//Desk//EN")
    out.add("version", "2.0")
    out.add("x-wr-calname", f"{coach.club.name}: answers, sessions and new clips")
    out.add("refresh-interval", AGAIN, parameters={"VALUE": "DURATION"})
    runs = standing(Run.objects.filter(club=coach.club, removed_at=None, rider__removed_at=None, part_of=None))  # fmt: skip
    runs = runs.select_related("rider").only("rider__name", "title", "due", "discipline")
    since = now.date() - PAST
    for run in runs.filter(stands__in=(*WAITS, Standing.FOLLOWED), due__gte=since).order_by("due", "id"):  # fmt: skip
        out.add_component(_day(f"due-{run.pk}", run.due, f"Answer due: {run.rider.name}", run.title, host, now))  # fmt: skip
    again = runs.filter(stands__in=(Standing.RIDER, Standing.AGAIN), script__retest_on__gte=since)
    for run in again.select_related("script", "rider").only("rider__name", "title", "script__retest_on").order_by("script__retest_on", "id"):  # fmt: skip
        out.add_component(_day(f"again-{run.pk}", run.script.retest_on, f"Film again: {run.rider.name}", run.title, host, now))  # fmt: skip
    practising = runs.filter(stands__in=(Standing.RIDER, Standing.AGAIN)).select_related(
        "script", "rider__practises_at"
    )
    rows = practising.only(
        "discipline", "script__approved", "script__approved_at", "script__retest_on", "rider__name", "rider__free",
        "rider__practises_at__name", "rider__practises_at__week",
    ).order_by("-script__approved_at", "-id")  # fmt: skip
    for session in _sessions(rows[:MOST], now.date()):
        out.add_component(_together(session, host, now))
    made: bytes = out.to_ical()
    return made


class Practice(NamedTuple):
    """A step that riders do at one time in one place."""

    begin: datetime
    minutes: int
    place: str
    step: Step
    riders: list[str]


def _sessions(runs: Iterable[Run], today: date) -> Iterator[Practice]:
    """What is planned from today on; who does the same step in the same place at the same time is in one session."""
    found: dict[tuple[Any, ...], Practice] = {}
    seen: set[tuple[int, str]] = set()
    for run in runs:
        body, approved_at = run.script.approved, run.script.approved_at
        # The newest answer is the one that is practised.
        if body is None or approved_at is None or (run.rider_id, run.discipline) in seen:
            continue
        seen.add((run.rider_id, run.discipline))
        plan = planned(run.rider, body, timezone.localdate(approved_at))
        plan = held_to(plan, date.fromisoformat(body["retest_on"]))
        place = str(run.rider.practises_at or "")
        for step, session in zip(steps_of(body), plan or (), strict=False):
            if session.day < today:
                continue
            key = (session.day, session.at, place, run.discipline, step.drill["id"], step.number)
            at = begins_at(session)
            found.setdefault(key, Practice(at, session.minutes, place, step, [])).riders.append(
                run.rider.name
            )
    yield from sorted(found.values(), key=lambda s: (s.begin, s.riders))


def _together(session: Practice, host: str, now: datetime) -> Any:
    """A session as an event: who, what, and how much of it."""
    drill, number, step = session.step
    event = Event()
    who = ", ".join(sorted(session.riders))
    name = f"session-{session.begin:%Y%m%dT%H%M}-{drill['id']}-{number}-{slugify(session.place)}"
    event.add("uid", f"{name}@{host}")
    event.add("dtstamp", now)
    event.add("dtstart", session.begin)
    event.add("dtend", session.begin + timedelta(minutes=session.minutes))
    event.add(
        "summary", f"{who}: {drill['title']}, {STAGES.get(step['stage'], step['stage']).lower()}"
    )
    event.add("description", f"{step['text']}\n{step['dose']}\n\nIt works when: {drill['sign']}")
    if session.place and step["stage"] != ANYWHERE:
        event.add("location", session.place)
    return event


def _day(name: str, on: date, title: str, words: str, host: str, now: datetime) -> Any:
    event = Event()
    event.add("uid", f"{name}@{host}")
    event.add("dtstamp", now)
    event.add("dtstart", on)
    event.add("dtend", on + timedelta(days=1))
    event.add("summary", title)
    if words:
        event.add("description", words)
    return event


def _path(coach: Coach) -> dict[str, str | None]:
    found = CalendarLink.objects.filter(coach=coach).first()
    return {"path": f"/api/calendar/{found.token}.ics" if found else None}
