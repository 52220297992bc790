"""A rider's calendar to subscribe to: sessions of the newest answers, and the days of the next clips."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from proklisis.web.desk.calendar import CalendarLinkSerializer
from proklisis.web.errors import ProblemSerializer
from proklisis.web.mine.access import IsOfARider, account_of
from proklisis.web.mine.views import of_today
from proklisis.web.riders.models import Rider, RiderAccount, RiderCalendarLink
from proklisis.web.runs.models import Run
from proklisis.web.scripts.calendar import calendar
from proklisis.web.scripts.models import Script


class MyCalendarView(APIView):
    """The private address of a rider's calendar, of one's own account."""

    permission_classes = [IsOfARider]

    def account(self, request: Request, rider: int) -> RiderAccount:
        account = account_of(request, rider)
        of_today(account)
        return account

    @extend_schema(
        operation_id="my_calendar", responses={200: CalendarLinkSerializer, 404: ProblemSerializer}
    )
    def get(self, request: Request, rider: int) -> Response:
        """The address, where one was made."""
        return Response(_path(self.account(request, rider)))

    @extend_schema(operation_id="make_my_calendar", request=None, responses={200: CalendarLinkSerializer, 404: ProblemSerializer})  # fmt: skip
    def post(self, request: Request, rider: int) -> Response:
        """Make an address; one that was made before works no more."""
        account = self.account(request, rider)
        RiderCalendarLink.objects.filter(account=account).delete()
        RiderCalendarLink.objects.create(account=account)
        return Response(_path(account))

    @extend_schema(operation_id="withdraw_my_calendar", responses={200: CalendarLinkSerializer, 404: ProblemSerializer})  # fmt: skip
    def delete(self, request: Request, rider: int) -> Response:
        """Withdraw the address at once."""
        account = self.account(request, rider)
        RiderCalendarLink.objects.filter(account=account).delete()
        return Response(_path(account))


class RiderCalendarView(APIView):
    """Open to whatever program holds the address."""

    authentication_classes = []
    permission_classes = [AllowAny]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "shared"

    @extend_schema(
        operation_id="rider_calendar",
        responses={(200, "text/calendar"): OpenApiTypes.BINARY, 404: ProblemSerializer},
    )
    def get(self, request: Request, token: str) -> HttpResponse:
        """Sessions and the days of the next clips."""
        links = RiderCalendarLink.objects.select_related(
            "account__rider__practises_at", "account__rider__club"
        )
        found = links.filter(
            token=token, account__ended_at=None, account__rider__removed_at=None
        ).first()
        year = timezone.now().year
        account = found.account if found else None
        own = account is not None and (account.kind == "rider" or account.speaks(year))
        if account is None or not own or not account.rider.may_be_shared(year):
            raise NotFound("This calendar is not to be had any more.")
        rider = account.rider
        made = calendar(
            _newest(rider),
            request.get_host().split(":")[0],
            f"{rider.name}: sessions and new clips",
        )
        return HttpResponse(made, content_type="text/calendar; charset=utf-8")


def _newest(rider: Rider) -> list[Script]:
    """The newest answer of each discipline, whose steps are being practised."""
    runs = Run.objects.filter(
        rider=rider, removed_at=None, part_of=None, script__approved__isnull=False
    ).select_related("script", "rider__practises_at").order_by("-script__approved_at", "-id")  # fmt: skip
    newest: dict[str, Script] = {}
    for run in runs[:200]:
        script = run.script
        script.run = run
        newest.setdefault(run.discipline, script)
    return list(newest.values())


def _path(account: RiderAccount) -> dict[str, Any]:
    found = RiderCalendarLink.objects.filter(account=account).first()
    return {"path": f"/api/calendar/riders/{found.token}.ics" if found else None}
