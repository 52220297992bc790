"""The rider's page: what whoever holds a link may read, tick, write and take away."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import F
from django.http import FileResponse, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.text import slugify
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.core.imperial import NOT_SENTENCES, in_feet, prescription_in_feet
from proklisis.core.playbook.words import followed_words
from proklisis.core.review import nothing_found
from proklisis.core.shapes.prescription import Prescription
from proklisis.web.bench.figures import FigureSerializer, figure_of
from proklisis.web.bench.followed import TargetSeenSerializer
from proklisis.web.clips.ranged import send
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.runs.models import Run, ToldFilm
from proklisis.web.scripts.calendar import calendar
from proklisis.web.scripts.lesson import lesson_sheet
from proklisis.web.scripts.models import Line, Script, Share, Tick
from proklisis.web.scripts.paper import SIZES, asked_size, others_on, page, printed
from proklisis.web.shape import Shape
from proklisis.web.telling.others import may_be_shown

#: A link is good for so long.
LINK_DAYS = 60
#: A rider writes no more lines than this on one page.
MOST_LINES = 20
#: Sent by a page that asks again by itself.
AGAIN = "X-Again"
PAPER = OpenApiParameter("paper", str, enum=list(SIZES), description="a4 unless letter is said")


class PictureSerializer(serializers.Serializer[Any]):
    order = serializers.IntegerField()
    caption = serializers.CharField()
    url = serializers.CharField()


class TickSerializer(serializers.ModelSerializer[Tick]):
    class Meta:
        model = Tick
        fields = ["drill", "step", "at"]


class TickGivenSerializer(serializers.Serializer[Any]):
    drill = serializers.CharField(max_length=60)
    step = serializers.IntegerField(min_value=0, max_value=100)
    done = serializers.BooleanField()


class LineSerializer(serializers.ModelSerializer[Line]):
    class Meta:
        model = Line
        fields = ["text", "at"]


class SentFilmSerializer(serializers.Serializer[Any]):
    """The Telling as a film; without an address while it is being made."""

    state = serializers.CharField()
    url = serializers.CharField(allow_null=True)
    captions = serializers.CharField(help_text="address of the captions, WebVTT")


class LessonRefSerializer(serializers.Serializer[Any]):
    """A lesson sheet that goes with a Script."""

    fault = serializers.CharField()
    title = serializers.CharField()


class LessonSheetSerializer(LessonRefSerializer):
    url = serializers.CharField(help_text="of the sheet, PDF")


class ClipBackSerializer(serializers.Serializer[Any]):
    """A clip that the rider sent back, and how far it is."""

    run = serializers.IntegerField()
    name = serializers.CharField()
    at = serializers.DateTimeField()
    state = serializers.ChoiceField(["arriving", "waits", "ready", "unreadable"])
    problem = serializers.CharField(allow_blank=True)


class OtherCueSerializer(serializers.Serializer[Any]):
    """A cue that is given after the main thing."""

    fault = serializers.CharField()
    title = serializers.CharField()
    cue = serializers.CharField()


class SharedSerializer(serializers.Serializer[Any]):
    """The rider's page."""

    rider = serializers.CharField()
    coach = serializers.CharField()
    club = serializers.CharField()
    approved_at = serializers.DateTimeField()
    prescription = Shape(Prescription)
    nothing_words = serializers.CharField(help_text="what to say where nothing is the main thing")
    titles = serializers.DictField(child=serializers.CharField())
    targets = serializers.ListField(child=serializers.CharField())
    message = serializers.CharField()
    retest_on = serializers.DateField()
    pictures = PictureSerializer(many=True)
    discipline = serializers.CharField()
    since = TargetSeenSerializer(
        many=True, help_text="what became of what the last Script before it set"
    )
    figure = FigureSerializer(allow_null=True, help_text="of the main thing")
    version = serializers.IntegerField(help_text="above 1 where it was changed since it was sent")
    film = SentFilmSerializer(allow_null=True)
    others = OtherCueSerializer(many=True, help_text="what comes after the main thing, in order")
    lessons = LessonSheetSerializer(many=True)
    begins = serializers.DictField(
        child=serializers.IntegerField(), help_text="drill → first step, from 0"
    )
    closing = serializers.ListField(child=serializers.CharField())
    clips_back = ClipBackSerializer(many=True)
    ticks = TickSerializer(many=True)
    lines = LineSerializer(many=True)


def script_in_feet(body: dict[str, Any]) -> dict[str, Any]:
    """A Script with what the software says in feet and miles; what the coach wrote stays."""
    said = ("nothing_words", "targets", "evidence_words")
    words = {k: in_feet(v, NOT_SENTENCES) if k in said else v for k, v in body.items()}
    return {**words, "prescription": prescription_in_feet(body["prescription"])}


def _for_the_rider(prescription: dict[str, Any]) -> dict[str, Any]:
    """What was prescribed, without what the coach weighed against it."""
    main = prescription["main"]
    if main is None:
        return prescription
    own = {k: v for k, v in main.items() if k not in ("would_be", "rivals")}
    return {**prescription, "main": own}


def pictures_of(script: Script, base: str) -> list[dict[str, Any]]:
    """The kept pictures with where they are."""
    return [
        {"order": p.order, "caption": p.caption, "url": f"{base}/{p.order}"}
        for p in script.pictures.all()
    ]


def picture_of(script: Script, order: int) -> FileResponse:
    """One of the kept pictures."""
    picture = get_object_or_404(script.pictures, order=order)
    answer = FileResponse(picture.image.open("rb"), content_type="image/jpeg")
    answer["Cache-Control"] = "no-store"
    return answer


def film_of(script: Script, base: str = "") -> dict[str, Any] | None:
    """The film that goes with an approved Script; None where none does, or where it could not be made."""
    film = script.told_film
    if film is None or film.state in (ToldFilm.State.FAILED, ToldFilm.State.CANCELLED):
        return None
    if not may_be_shown(film):
        return None
    base = base or f"/api/runs/{script.run_id}/script"
    url = f"{base}/film" if film.file else None
    return {"state": film.state, "url": url, "captions": f"{base}/captions"}


def ticks_of(script: Script) -> Any:
    """What the rider has done."""
    return TickSerializer(script.ticks.all(), many=True).data


def lines_of(script: Script) -> Any:
    """What the rider wrote back."""
    return LineSerializer(script.lines.all(), many=True).data


def clips_back_of(script: Script) -> list[dict[str, Any]]:
    """The clips that a rider sent back, with what they may know of each."""
    out = []
    for back in script.clips_back.select_related("run__clip"):
        run, on_its_way = back.run, not hasattr(back.run, "clip")
        unreadable = run.state == Run.State.FAILED
        state = "arriving" if on_its_way else "unreadable" if unreadable else "waits"
        if state == "waits" and hasattr(run, "result"):
            state = "ready"
        out.append({
            "run": run.pk, "name": back.name, "at": back.at, "state": state, "problem": run.problem if unreadable else "",
        })  # fmt: skip
    return out


def riders_page(script: Script, body: dict[str, Any], base: str, feet: bool) -> dict[str, Any]:
    """The rider's page of a Script; addresses begin with ``base``."""
    body = script_in_feet(body) if feet else body
    kept = ("titles", "targets", "message", "retest_on")
    by = script.approved_by
    pictures = pictures_of(script, f"{base}/pictures") if script.approved_at else []
    main, discipline = body["prescription"]["main"], script.run.discipline
    return {
        **{k: body[k] for k in kept},
        "discipline": discipline,
        "figure": figure_of(discipline, main["fault"]) if main else None,
        "prescription": _for_the_rider(body["prescription"]),
        "nothing_words": nothing_found(body["prescription"]),
        "rider": script.run.rider.name,
        "coach": by.coach.name if by and hasattr(by, "coach") else "",
        "club": script.run.club.name,
        "approved_at": script.approved_at or timezone.now(),
        "pictures": in_feet(pictures, frozenset({"url"})) if feet else pictures,
        "since": [followed_words(r) for r in body["prescription"]["followup"]],
        "version": script.version,
        "film": film_of(script, base),
        "others": others_on(body),
        "lessons": [{**x, "url": f"{base}/lessons/{x['fault']}"} for x in body.get("lessons", [])],
        "begins": body.get("begins", {}),
        "closing": body.get("closing", []),
        "clips_back": clips_back_of(script),
        "ticks": ticks_of(script),
        "lines": lines_of(script),
    }


def on_paper(script: Script, request: Request, feet: bool) -> HttpResponse:
    """A PDF of the paper that is asked for."""
    assert script.approved is not None
    body = script_in_feet(script.approved) if feet else script.approved
    html = page(script, body, asked_size(request))
    return printed(html, f"script-{slugify(script.run.rider.name) or 'rider'}")


def lesson_of(script: Script, fault: str, request: Request, feet: bool) -> HttpResponse:
    """A lesson sheet that goes with a Script; NotFound for another."""
    if fault not in {x["fault"] for x in (script.approved or {}).get("lessons", [])}:
        raise NotFound("No such lesson goes with this page.")
    return lesson_sheet(script.run.club, script.run.discipline, fault, request, feet)


def as_calendar(script: Script, request: Request) -> HttpResponse:
    """A calendar file to take away."""
    made = calendar([script], request.get_host().split(":")[0])
    answer = HttpResponse(made, content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="practice.ics"'
    return answer


def shared_by(token: str) -> Share:
    """The live link of a token, with its approved Script; NotFound for one that does not work (any more)."""
    shares = Share.objects.select_related(
        "script__run__rider", "script__run__club", "script__approved_by__coach"
    )
    share = shares.filter(
        token=token, withdrawn=False, expires__gt=timezone.now(), script__approved_at__isnull=False,
        script__run__removed_at=None, script__run__rider__removed_at=None,
    ).first()  # fmt: skip
    if share is None or not share.script.run.rider.may_be_shared(timezone.now().year):
        raise NotFound("This link does not work any more. Ask your coach for a new one.")
    return share


def live(script: Script) -> Share | None:
    """The link that works, if there is one."""
    return script.shares.filter(withdrawn=False, expires__gt=timezone.now()).last()


def link(script: Script) -> Share:
    """The live link of a Script, made where there is none."""
    return live(script) or script.shares.create(expires=timezone.now() + timedelta(days=LINK_DAYS))


def link_to_answer(run: Run, again: bool = False) -> str | None:
    """Address of the answer to a run, for its rider's own page; None before it is approved, and once its links are withdrawn.

    One that has ended in its time is made anew only with ``again``.
    """
    script: Script | None = getattr(run, "script", None)
    if script is None or script.approved_at is None or run.removed_at is not None:
        return None
    if not run.rider.may_be_shared(timezone.now().year):
        return None
    with transaction.atomic():
        Script.objects.select_for_update().get(pk=script.pk)
        last = script.shares.last()
        new = last is None or (again and not last.withdrawn)
        share = link(script) if new else live(script)
    return None if share is None else f"/s/{share.token}"


def reads_feet(script: Script) -> bool:
    """Whether the coach who approved it writes in feet."""
    by = script.approved_by
    return by is not None and hasattr(by, "coach") and by.coach.units == "imperial"


class SharedPage(APIView):
    """Everything under ``/shared/{token}`` is for whoever holds the link, and nothing else."""

    authentication_classes = []
    permission_classes = [AllowAny]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "shared"


class SharedView(SharedPage):
    @extend_schema(responses={200: SharedSerializer, 404: ProblemSerializer})
    def get(self, request: Request, token: str) -> Response:
        """What a rider may read: the approved Script and nothing else."""
        share = shared_by(token)
        script = share.script
        assert script.approved is not None
        # A page that waits for its film asks again by itself; nobody has opened it anew.
        if AGAIN not in request.headers:
            Share.objects.filter(pk=share.pk).update(seen=F("seen") + 1, seen_at=timezone.now())
        return Response(riders_page(script, script.approved, f"/api/shared/{token}", reads_feet(script)))  # fmt: skip


class SharedTicksView(SharedPage):
    @extend_schema(
        request=TickGivenSerializer,
        responses={200: TickSerializer(many=True), 400: ProblemSerializer, 404: ProblemSerializer},
    )
    def post(self, request: Request, token: str) -> Response:
        """Tick a step of the ladder, or take the tick back."""
        given = TickGivenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        script, asked = shared_by(token).script, given.validated_data
        assert script.approved is not None
        drills = script.approved["prescription"]["drills"]
        steps: list[Any] = next((d["steps"] for d in drills if d["id"] == asked["drill"]), [])
        if asked["step"] >= len(steps):
            raise InputError("there is no such step on this page", "step", "load the page again")
        place = {"drill": asked["drill"], "step": asked["step"]}
        if asked["done"]:
            script.ticks.get_or_create(**place)
        else:
            script.ticks.filter(**place).delete()
        return Response(ticks_of(script))


class LineGivenSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(max_length=500)


class SharedLinesView(SharedPage):
    @extend_schema(
        request=LineGivenSerializer,
        responses={200: LineSerializer(many=True), 400: ProblemSerializer, 404: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request, token: str) -> Response:
        """A line back to the coach."""
        given = LineGivenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        script = shared_by(token).script
        if script.lines.count() >= MOST_LINES:
            raise Conflict("You have written a lot here already. Talk to your coach.")
        script.lines.create(text=given.validated_data["text"])
        return Response(lines_of(script))


class SharedFilmView(SharedPage):
    throttle_classes = []

    @extend_schema(
        operation_id="shared_film",
        responses={(200, "video/mp4"): OpenApiTypes.BINARY, 404: ProblemSerializer},
    )
    def get(self, request: Request, token: str) -> HttpResponseBase:
        """The Telling as a film."""
        return sent_film(shared_by(token).script, request)


class SharedCaptionsView(SharedPage):
    @extend_schema(
        operation_id="shared_captions", responses={(200, "text/vtt"): OpenApiTypes.BINARY}
    )
    def get(self, request: Request, token: str) -> HttpResponse:
        """The film's captions."""
        script = shared_by(token).script
        if film_of(script) is None:
            raise NotFound("There is no film to this page.")
        return HttpResponse(script.captions, content_type="text/vtt; charset=utf-8")


class SharedPaperView(SharedPage):
    @extend_schema(
        operation_id="shared_paper", parameters=[PAPER],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY},
    )  # fmt: skip
    def get(self, request: Request, token: str) -> HttpResponse:
        """The page as a PDF."""
        script = shared_by(token).script
        return on_paper(script, request, reads_feet(script))


class SharedLessonView(SharedPage):
    @extend_schema(
        operation_id="shared_lesson", parameters=[PAPER],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY, 404: ProblemSerializer},
    )  # fmt: skip
    def get(self, request: Request, token: str, fault: str) -> HttpResponse:
        """A lesson sheet that goes with the Script, as a PDF."""
        script = shared_by(token).script
        return lesson_of(script, fault, request, reads_feet(script))


class SharedCalendarView(SharedPage):
    @extend_schema(
        operation_id="shared_calendar", responses={(200, "text/calendar"): OpenApiTypes.BINARY}
    )
    def get(self, request: Request, token: str) -> HttpResponse:
        """The ladder's sessions and the day of the next clip."""
        return as_calendar(shared_by(token).script, request)


def sent_film(script: Script, request: Any) -> HttpResponseBase:
    """The film that goes with a Script, in ranges."""
    film = script.told_film
    if film is None or not film.file:
        raise NotFound("The film is not made yet.")
    if not may_be_shown(film):
        raise NotFound("This film may not be shown any more. Ask your coach for another.")
    return send(request, film.file, "video/mp4")


class SharedPictureView(SharedPage):
    throttle_classes = []

    @extend_schema(
        operation_id="shared_picture", responses={(200, "image/jpeg"): OpenApiTypes.BINARY}
    )
    def get(self, request: Request, token: str, order: int) -> FileResponse:
        return picture_of(shared_by(token).script, order)
