"""A coach's calendar to subscribe to: answers that are due, and days on which riders are to film again (RFC 5545, by icalendar)."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from typing import Any

from django.http import HttpResponse
from django.utils import timezone
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

from proklisis.web.clubs.access import coach_of
from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.models import Coach
from proklisis.web.desk.models import CalendarLink
from proklisis.web.desk.standing import WAITS, Standing, standing
from proklisis.web.errors import ProblemSerializer
from proklisis.web.runs.models import Run

#: A program that subscribes is asked to look again so often.
AGAIN = timedelta(hours=1)
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
        """Answers that are due, and days on which riders are to film again."""
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
    out.add("x-wr-calname", f"{coach.club.name}: answers and new clips")
    out.add("refresh-interval", AGAIN, parameters={"VALUE": "DURATION"})
    runs = standing(Run.objects.filter(club=coach.club, removed_at=None, rider__removed_at=None, part_of=None))  # fmt: skip
    runs = runs.select_related("rider").only("rider__name", "title", "due", "discipline")
    since = now.date() - PAST
    for run in runs.filter(stands__in=(*WAITS, Standing.FOLLOWED), due__gte=since).order_by("due", "id"):  # fmt: skip
        out.add_component(_day(f"due-{run.pk}", run.due, f"Answer due: {run.rider.name}", run.title, host, now))  # fmt: skip
    again = runs.filter(stands__in=(Standing.RIDER, Standing.AGAIN), script__retest_on__gte=since)
    for run in again.select_related("script", "rider").only("rider__name", "title", "script__retest_on").order_by("script__retest_on", "id"):  # fmt: skip
        out.add_component(_day(f"again-{run.pk}", run.script.retest_on, f"Film again: {run.rider.name}", run.title, host, now))  # fmt: skip
    made: bytes = out.to_ical()
    return made


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
