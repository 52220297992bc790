"""What is asked of a run's clip: sending it, its analysis, its picture."""

from __future__ import annotations

from typing import Any

from django.http import FileResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status, viewsets
from rest_framework.decorators import action
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.web.clips import sharing, uploading
from proklisis.web.clips.letting_go import gone_words
from proklisis.web.clips.portrait import portrait
from proklisis.web.clips.ranged import send
from proklisis.web.clubs.access import of_club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.runs import queueing
from proklisis.web.runs.models import Run
from proklisis.web.runs.serializers import RunSerializer


class UploadSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(allow_empty_file=True)


class SameClipSerializer(serializers.Serializer[Any]):
    run = serializers.IntegerField(min_value=1, help_text="the run whose clip it is")


class ClipActions(viewsets.GenericViewSet[Run]):
    @extend_schema(
        request={"multipart/form-data": UploadSerializer},
        responses={202: RunSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    @action(detail=True, methods=["post"])
    def upload(self, request: Request, pk: str) -> Response:
        """Store a clip that comes in one request, untouched, and queue its analysis. Large ones better go by ``/api/uploads``."""
        run = self.get_object()
        uploading.may_have(run)
        given = UploadSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file = given.validated_data["file"]
        uploading.check_whole(file.name, file)
        run = uploading.accept(run, file.name, file, file.size)
        return Response(self.get_serializer(run).data, status=status.HTTP_202_ACCEPTED)

    @extend_schema(
        request=SameClipSerializer,
        responses={202: RunSerializer, 404: ProblemSerializer, 409: ProblemSerializer},
    )
    @action(detail=True, methods=["post"])
    def same_clip(self, request: Request, pk: str) -> Response:
        """Use the clip of another run for this one too. The file is kept once."""
        run = self.get_object()
        given = SameClipSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        source = get_object_or_404(
            of_club(Run.objects.select_related("clip__film"), request),
            pk=given.validated_data["run"],
        )
        run = sharing.share(source, run)
        return Response(self.get_serializer(run).data, status=status.HTTP_202_ACCEPTED)

    @extend_schema(request=None, responses={200: RunSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def cancel(self, request: Request, pk: str) -> Response:
        """Stop the analysis; the clip is kept."""
        run = self.get_object()
        if not run.busy:
            raise Conflict("There is nothing to cancel; no analysis is running.")
        queueing.cancel(run)
        return Response(self.get_serializer(run).data)

    @extend_schema(request=None, responses={202: RunSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def retry(self, request: Request, pk: str) -> Response:
        """Queue the analysis again, from where it got to."""
        run = self.get_object()
        if run.busy:
            raise Conflict("The analysis is running already.")
        if not hasattr(run, "clip"):
            raise Conflict("There is no clip to analyse yet. Upload one first.")
        uploading.may_be_judged(run)
        queueing.enqueue(run)
        return Response(self.get_serializer(run).data, status=status.HTTP_202_ACCEPTED)

    @extend_schema(responses={(200, "video/mp4"): OpenApiTypes.BINARY})
    @action(detail=True)
    def video(self, request: Request, pk: str) -> HttpResponseBase:
        """The copy that browsers step through, with HTTP ranges."""
        run = self.get_object()
        if not hasattr(run, "clip") or not run.clip.working:
            gone = hasattr(run, "clip") and run.clip.film_gone_at is not None
            raise NotFound(gone_words(run.clip) if gone else "There is no clip to show yet.")
        f = run.clip.working
        answer = send(request._request, f, "video/mp4")
        answer["Cache-Control"] = "private, max-age=86400, immutable"
        return answer

    @extend_schema(responses={(200, "image/jpeg"): OpenApiTypes.BINARY, 404: ProblemSerializer})
    @action(detail=True)
    def portrait(self, request: Request, pk: str) -> HttpResponseBase:
        """A small picture of the rider on this run."""
        clip = portrait(self.get_object())
        if clip is None:
            raise NotFound("There is no picture of this run yet.")
        answer = FileResponse(clip.portrait.open("rb"), content_type="image/jpeg")
        answer["Cache-Control"] = "private, max-age=86400"
        return answer
