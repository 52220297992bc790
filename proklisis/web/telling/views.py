"""The Telling of a run over the API: as it stands, its recordings, its captions, its film."""

from __future__ import annotations

import io
from typing import Any, cast

from django.db import transaction
from django.http import HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from PIL import Image
from rest_framework import serializers, status
from rest_framework.exceptions import NotFound, ParseError
from rest_framework.parsers import BaseParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.core.shapes.telling import Played
from proklisis.core.shapes.telling import Telling as Told
from proklisis.core.telling.angles import drawn_angle
from proklisis.core.telling.captions import webvtt
from proklisis.core.telling.played import played
from proklisis.core.uncertainty import digits
from proklisis.web.analysis.compared import run_of
from proklisis.web.analysis.reviewing import reviewed, up_to_date
from proklisis.web.clips.ranged import ranged, send
from proklisis.web.clubs.access import coach_of, in_feet_for, of_club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.plain import whole
from proklisis.web.runs.models import Recording, Run, ToldFilm
from proklisis.web.runs.writing import Changed, one_writer
from proklisis.web.shape import Shape
from proklisis.web.telling import recordings
from proklisis.web.telling.models import Telling
from proklisis.web.telling.others import changed_beside
from proklisis.web.telling.spreading import put_on
from proklisis.web.telling.telling import film, parsed, seen_of, stands, still_at


class ToldFilmSerializer(serializers.ModelSerializer[ToldFilm]):
    url = serializers.SerializerMethodField()

    class Meta:
        model = ToldFilm
        fields = ["id", "state", "progress", "problem", "burnt", "url"]

    def get_url(self, made: ToldFilm) -> str | None:
        return f"/api/runs/{made.run_id}/telling/films/{made.pk}/file" if made.file else None


class TellingStandsSerializer(serializers.Serializer[Any]):
    telling = Shape(Told)
    played = Shape(Played)
    own = serializers.BooleanField(help_text="a coach's, not what is proposed")
    version = serializers.IntegerField(help_text="0 while it is proposed")
    stale = serializers.BooleanField(help_text="the numbers changed after it was told")


class TellingGivenSerializer(serializers.Serializer[Any]):
    telling = serializers.JSONField()
    version = serializers.IntegerField(min_value=0, help_text="what this change started from")


class FromGivenSerializer(serializers.Serializer[Any]):
    run = serializers.IntegerField(min_value=1, help_text="on which it was told")


class RecordingSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    size = serializers.IntegerField(help_text="bytes that are kept; the next piece begins there")


class SpeechSerializer(serializers.Serializer[Any]):
    """From when to when somebody speaks, seconds."""

    from_s = serializers.FloatField()
    to_s = serializers.FloatField()
    length_s = serializers.FloatField()


class AngleAskedSerializer(serializers.Serializer[Any]):
    points = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField(), min_length=2, max_length=2),
        min_length=2, max_length=3, help_text="three for the angle at the middle one, two for how far a line leans",
    )  # fmt: skip


class AngleSerializer(serializers.Serializer[Any]):
    says = serializers.CharField()
    value = serializers.FloatField()
    pm = serializers.FloatField(help_text="U = 2u, degrees")


class FilmAskedSerializer(serializers.Serializer[Any]):
    burnt = serializers.BooleanField(default=True, help_text="captions stand on the picture")


class OfTelling(APIView):
    """Everything under ``/runs/{run}/telling`` works on this run's Telling."""

    def run(self, request: Request, pk: int) -> Run:
        found = run_of(request, pk)
        if not hasattr(found, "result"):
            raise Conflict("This run is not measured yet. Wait until its analysis is done.")
        up_to_date(found)
        return found


class TellingView(OfTelling):
    def _answer(self, run: Run) -> Response:
        now = stands(run, in_feet_for(self.request))
        return Response({
            "telling": now.told, "played": now.played, "own": now.row is not None, "version": now.row.version if now.row else 0,
            "stale": now.row is not None and (now.row.made_on != run.result.made or bool(changed_beside(now.played))),
        })  # fmt: skip

    @extend_schema(responses={200: TellingStandsSerializer, 409: ProblemSerializer})
    def get(self, request: Request, run: int) -> Response:
        """The coach's own Telling, or what stands ready."""
        return self._answer(self.run(request, run))

    @extend_schema(
        request=TellingGivenSerializer,
        responses={200: TellingStandsSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def put(self, request: Request, run: int) -> Response:
        """Keep a Telling; refused where another was kept since the one that it started from."""
        given = TellingGivenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found = self.run(request, run)
        told = parsed(given.validated_data["telling"])
        played(told, seen_of(reviewed(found)))  # refuses what cannot be shown
        with one_writer(found):
            row = Telling.objects.select_for_update().filter(run=found).first()
            if (row.version if row else 0) != given.validated_data["version"]:
                raise Changed({"telling": row.body if row else None})
            row = row or Telling(run=found, version=0)
            row.body, row.version, row.by = told, row.version + 1, coach_of(request).user
            row.made_on = found.result.made
            row.save()
            recordings.put_to_use(found, told)
        return self._answer(found)

    @extend_schema(responses={200: TellingStandsSerializer})
    def delete(self, request: Request, run: int) -> Response:
        """Back to what is proposed. Recordings are kept for a while."""
        found = self.run(request, run)
        Telling.objects.filter(run=found).delete()
        recordings.put_to_use(found, None)
        return self._answer(found)


class FromView(OfTelling):
    @extend_schema(
        request=FromGivenSerializer,
        responses={
            200: None,
            400: ProblemSerializer,
            404: ProblemSerializer,
            409: ProblemSerializer,
        },
    )
    def post(self, request: Request, run: int) -> Response:
        """Take over what was told to all on another run; frames and numbers are this run's own."""
        given = FromGivenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found = self.run(request, run)
        source = self.run(request, given.validated_data["run"])
        put_on(source, found, coach_of(request).user, in_feet_for(request))
        return Response(status=200)


class CaptionsView(OfTelling):
    @extend_schema(responses={(200, "text/vtt"): OpenApiTypes.BINARY})
    def get(self, request: Request, run: int) -> HttpResponse:
        """The captions as WebVTT."""
        text = webvtt(stands(self.run(request, run), in_feet_for(request)).played["captions"])
        answer = HttpResponse(text, content_type="text/vtt; charset=utf-8")
        answer["Content-Disposition"] = 'attachment; filename="captions.vtt"'
        return answer


class StillView(OfTelling):
    @extend_schema(
        parameters=[OpenApiParameter("t", float, required=True, description="moment, seconds")],
        responses={(200, "image/png"): OpenApiTypes.BINARY, 400: ProblemSerializer},
    )
    def get(self, request: Request, run: int) -> HttpResponse:
        """The picture of a moment with its lines, as PNG."""
        found = self.run(request, run)
        picture = still_at(
            found, stands(found, in_feet_for(request)), _moment(request.query_params.get("t"))
        )
        out = io.BytesIO()
        Image.fromarray(picture).save(out, "PNG")
        answer = HttpResponse(out.getvalue(), content_type="image/png")
        answer["Content-Disposition"] = 'attachment; filename="still.png"'
        return answer


class AngleView(OfTelling):
    helpers_may = ("post",)

    @extend_schema(
        request=AngleAskedSerializer, responses={200: AngleSerializer, 400: ProblemSerializer}
    )
    def post(self, request: Request, run: int) -> Response:
        """What is drawn, read like any other angle."""
        given = AngleAskedSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        facts = reviewed(self.run(request, run)).tracks.facts
        read = drawn_angle(given.validated_data["points"], facts)
        says = f"{digits(read.value, read.u)} ± {digits(2 * read.u, read.u)}°"
        return Response({"says": says, "value": read.value, "pm": 2 * read.u})


class SoundParser(BaseParser):
    """Leaves the sound as it comes, and refuses too large a piece."""

    media_type = "audio/*"

    def parse(self, stream, media_type=None, parser_context=None):  # type: ignore[no-untyped-def]
        length = int(parser_context["request"].META.get("CONTENT_LENGTH") or 0)
        if length > recordings.PIECE:
            raise ParseError("This piece of a recording is too large.")
        return stream.read(length)


def _piece(request: Request) -> bytes:
    return cast(bytes, request.data) or b""


class RecordingsView(OfTelling):
    parser_classes = [SoundParser]

    @extend_schema(
        operation_id="recording_begin",
        request={"audio/webm": OpenApiTypes.BINARY},
        responses={201: RecordingSerializer, 400: ProblemSerializer},
    )
    def post(self, request: Request, run: int) -> Response:
        """Begin a recording with its first piece."""
        found = self.run(request, run)
        with transaction.atomic():
            made = recordings.begin(found, request.content_type or "", coach_of(request).user)
            size = recordings.add(made, 0, _piece(request))
        return Response({"id": made.pk, "size": size}, status=status.HTTP_201_CREATED)


class RecordingView(OfTelling):
    parser_classes = [SoundParser]

    @extend_schema(
        operation_id="recording_add",
        parameters=[OpenApiParameter("begin", int, required=True)],
        request={"audio/webm": OpenApiTypes.BINARY},
        responses={200: RecordingSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def patch(self, request: Request, run: int, recording: int) -> Response:
        """Keep the next piece; ``begin`` is the byte at which it begins."""
        kept = _recording(request, run, recording)
        begin = whole(request.query_params.get("begin"))
        if begin is None:
            raise ParseError("Say at which byte this piece begins.")
        return Response({"id": kept.pk, "size": recordings.add(kept, begin, _piece(request))})

    @extend_schema(
        operation_id="recording_sound", responses={(200, "audio/webm"): OpenApiTypes.BINARY}
    )
    def get(self, request: Request, run: int, recording: int) -> HttpResponseBase:
        """The sound, as far as it was recorded."""
        kept = _recording(request, run, recording)
        data = kept.content()
        return ranged(request, io.BytesIO(data), len(data), kept.kind)


class SpeechView(OfTelling):
    @extend_schema(responses={200: SpeechSerializer, 400: ProblemSerializer})
    def get(self, request: Request, run: int, recording: int) -> Response:
        """From when to when somebody speaks in a recording, so that silence can be cut."""
        first, last, length = recordings.speech(_recording(request, run, recording))
        return Response({"from_s": first, "to_s": last, "length_s": length})


class ToldFilmsView(OfTelling):
    @extend_schema(
        request=FilmAskedSerializer,
        responses={202: ToldFilmSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def post(self, request: Request, run: int) -> Response:
        """Ask for the Telling as a film; a job makes it."""
        given = FilmAskedSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found = self.run(request, run)
        made = film(found, stands(found, in_feet_for(request)), given.validated_data["burnt"])
        return Response(ToldFilmSerializer(made).data, status=status.HTTP_202_ACCEPTED)


class ToldFilmView(APIView):
    @extend_schema(operation_id="told_film", responses={200: ToldFilmSerializer})
    def get(self, request: Request, run: int, film: int) -> Response:
        """How far a film is."""
        return Response(ToldFilmSerializer(_film(request, run, film)).data)

    @extend_schema(operation_id="told_film_stop", responses={204: None})
    def delete(self, request: Request, run: int, film: int) -> Response:
        """Stop making it, or let it go."""
        found = _film(request, run, film)
        if found.busy:
            ToldFilm.objects.filter(pk=found.pk).update(cancel_asked=True)
        elif not found.sent:
            found.delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class ToldFilmFileView(APIView):
    @extend_schema(responses={(200, "video/mp4"): OpenApiTypes.BINARY, 404: ProblemSerializer})
    def get(self, request: Request, run: int, film: int) -> HttpResponseBase:
        """The film."""
        found = _film(request, run, film)
        if not found.file:
            raise NotFound("This film is not made yet.")
        answer = send(request, found.file, "video/mp4")
        answer["Content-Disposition"] = 'inline; filename="telling.mp4"'
        return answer


def _moment(given: str | None) -> float:
    try:
        t = float(given or "")
    except ValueError:
        t = -1.0
    if not 0 <= t < 36_000:
        raise InputError("this is no moment of a Telling", "t", "give seconds from its beginning")
    return t


def _recording(request: Request, run: int, pk: int) -> Recording:
    found: Recording = get_object_or_404(Recording.objects.filter(run=_its_run(request, run)), pk=pk)  # fmt: skip
    return found


def _film(request: Request, run: int, pk: int) -> ToldFilm:
    found: ToldFilm = get_object_or_404(ToldFilm.objects.filter(run=_its_run(request, run)), pk=pk)
    return found


def _its_run(request: Request, pk: int) -> Run:
    found: Run = get_object_or_404(of_club(Run.objects.all(), request), pk=pk)
    return found
