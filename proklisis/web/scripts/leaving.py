"""What leaves an approved Script: its link, by mail, on paper, in a calendar, as a film; and the page as the rider will see it."""

from __future__ import annotations

from typing import Any

from django.http import FileResponse, HttpResponse
from django.http.response import HttpResponseBase
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle

from proklisis.web.clubs.access import coach_of, in_feet_for
from proklisis.web.clubs.entries import put_down
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.runs.models import Run
from proklisis.web.scripts.composing import composed
from proklisis.web.scripts.lesson import lesson_sheet
from proklisis.web.scripts.mailing import send
from proklisis.web.scripts.models import Script
from proklisis.web.scripts.serializers import ScriptSerializer
from proklisis.web.scripts.shared import (
    PAPER,
    SharedSerializer,
    as_calendar,
    link,
    on_paper,
    picture_of,
    riders_page,
    sent_film,
)
from proklisis.web.scripts.views import UNAPPROVED, ScriptView


class MailGivenSerializer(serializers.Serializer[Any]):
    to = serializers.EmailField()


class PreviewView(ScriptView):
    http_method_names = ["get"]

    @extend_schema(operation_id="script_preview", responses={200: SharedSerializer})
    def get(self, request: Request, run: int) -> Response:
        """The rider's page as it would be if the Script were approved as it stands."""
        found, script = self.measured(request, run)
        body = script.approved if script.approved_at else composed(found, script)
        assert body is not None
        base = f"/api/runs/{found.pk}/script"
        page = riders_page(script, body, base, in_feet_for(request))
        return Response({**page, "coach": page["coach"] or coach_of(request).name})


class PaperView(ScriptView):
    http_method_names = ["get"]

    @extend_schema(
        operation_id="script_paper", parameters=[PAPER],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY, 409: ProblemSerializer},
    )  # fmt: skip
    def get(self, request: Request, run: int) -> HttpResponse:  # type: ignore[override]
        """The approved Script as a PDF."""
        script = self.approved(request, run)
        return on_paper(script, request, in_feet_for(request))


class CalendarView(ScriptView):
    http_method_names = ["get"]

    @extend_schema(
        operation_id="script_calendar",
        responses={(200, "text/calendar"): OpenApiTypes.BINARY, 409: ProblemSerializer},
    )
    def get(self, request: Request, run: int) -> HttpResponse:  # type: ignore[override]
        """The ladder's sessions and the day of the next clip as a calendar file."""
        script = self.approved(request, run)
        return as_calendar(script, request)


class ShareView(ScriptView):
    http_method_names = ["post", "delete"]

    @extend_schema(
        operation_id="script_share",
        request=None,
        responses={200: ScriptSerializer, 409: ProblemSerializer},
    )
    def post(self, request: Request, run: int) -> Response:
        """Make a link for the rider, good for sixty days."""
        found, script = self.measured(request, run)
        self.may_leave(found, script)
        link(script)
        return self.answer(found, script)

    @staticmethod
    def may_leave(run: Run, script: Script) -> None:
        """Conflict for what is not approved, or whose rider may be a minor without a guardian's consent."""
        if not script.approved_at:
            raise Conflict(UNAPPROVED)
        if not run.rider.may_be_shared(timezone.now().year):
            raise Conflict(
                f"{run.rider.name} may be a minor. Note the year of birth or a guardian's consent on the Riders page before you share."
            )

    @extend_schema(operation_id="script_unshare", responses={200: ScriptSerializer})
    def delete(self, request: Request, run: int) -> Response:
        """Withdraw every link to this Script."""
        found, script = self.measured(request, run)
        script.shares.update(withdrawn=True)
        put_down(found.club, request.user, "withdrew the links of", script)
        return self.answer(found, script)


class MailView(ShareView):
    http_method_names = ["post"]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "mail"

    @extend_schema(
        operation_id="script_mail",
        request=MailGivenSerializer,
        responses={200: ScriptSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def post(self, request: Request, run: int) -> Response:
        """Send the link by mail; without a mail server, show what would have been sent."""
        given = MailGivenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found, script = self.measured(request, run)
        self.may_leave(found, script)
        base = request.build_absolute_uri("/").rstrip("/")
        send(link(script), given.validated_data["to"], base, coach_of(request).user)
        put_down(found.club, request.user, "mailed the link of", script)
        return self.answer(found, script)


class ScriptLessonView(ScriptView):
    http_method_names = ["get"]

    @extend_schema(
        operation_id="script_lesson", parameters=[PAPER],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY, 404: ProblemSerializer},
    )  # fmt: skip
    def get(self, request: Request, run: int, fault: str) -> HttpResponse:  # type: ignore[override]
        """A lesson sheet as it goes with the Script."""
        found, _ = self.measured(request, run)
        return lesson_sheet(found.club, found.discipline, fault, request, in_feet_for(request))


class ScriptPictureView(ScriptView):
    http_method_names = ["get"]

    @extend_schema(
        operation_id="script_picture", responses={(200, "image/jpeg"): OpenApiTypes.BINARY}
    )
    def get(self, request: Request, run: int, order: int) -> FileResponse:  # type: ignore[override]
        return picture_of(self.measured(request, run)[1], order)


class ScriptFilmView(ScriptView):
    http_method_names = ["get"]

    @extend_schema(operation_id="script_film", responses={(200, "video/mp4"): OpenApiTypes.BINARY})
    def get(self, request: Request, run: int) -> HttpResponseBase:  # type: ignore[override]
        """The film that goes with the Script."""
        return sent_film(self.measured(request, run)[1], request)


class ScriptCaptionsView(ScriptView):
    http_method_names = ["get"]

    @extend_schema(
        operation_id="script_captions", responses={(200, "text/vtt"): OpenApiTypes.BINARY}
    )
    def get(self, request: Request, run: int) -> HttpResponse:  # type: ignore[override]
        """The captions of that film."""
        text = self.measured(request, run)[1].captions
        return HttpResponse(text, content_type="text/vtt; charset=utf-8")
