"""Tracks of a run, handed in and saved as files."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.http import FileResponse
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.core.errors import InputError
from proklisis.core.tracks.tracks import Tracks, imported
from proklisis.footage.limited import limited
from proklisis.formats.files import read_tracks, write_tracks
from proklisis.web.analysis.reviewing import (
    corrected,
)
from proklisis.web.clips.letting_go import check_film
from proklisis.web.clips.views import UploadSerializer
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.runs import queueing
from proklisis.web.runs.blobs import pack
from proklisis.web.runs.models import Edit, Run, packed
from proklisis.web.runs.serializers import RunSerializer

#: Formats in which tracks are saved, and their files' endings.
FORMS = {"json": ".json", "csv": ".csv", "parquet": ".parquet", "coco": ".coco.json", "c3d": ".c3d"}


class TracksActions(viewsets.GenericViewSet[Run]):
    @extend_schema(
        request={"multipart/form-data": UploadSerializer},
        responses={202: RunSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    @action(detail=True, methods=["post"])
    def tracks(self, request: Request, pk: str) -> Response:
        """Hand in tracks of the clip (``tracks/1`` as JSON, CSV or Parquet, COCO keypoints or C3D), with gear and scene where they are marked.

        They are kept beside what the tracker gave and judged in its place.
        """
        run = self.get_object()
        if run.busy:
            raise Conflict("The analysis is running. Wait until it is done, or cancel it.")
        if not hasattr(run, "clip") or not run.clip.frames:
            raise Conflict(
                "The clip comes first. Send it, and hand in its tracks when it has been looked at."
            )
        check_film(run)
        given = UploadSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file = given.validated_data["file"]
        if file.size > settings.LARGEST_TRACKS:
            raise InputError(
                f"the file is larger than {settings.LARGEST_TRACKS // 1024**2} MB",
                file.name,
                "cut it to the run",
            )
        tracks = _read_tracks(file)
        if len(tracks) == 0 or int(tracks.frames[-1]) >= run.clip.frames:
            raise InputError(
                f"the tracks reach frame {int(tracks.frames[-1]) if len(tracks) else 0}, the clip has {run.clip.frames}", file.name,
                "hand in the tracks of this very clip",
            )  # fmt: skip
        with transaction.atomic():
            # Marks made on the old tracks mean nothing on these; those on somebody else stay theirs.
            run.edits.filter(person=run.clip.chosen, kind__in=Edit.MEASURING).delete()
            # Pieces of a following that was cancelled are not waited for.
            run.pieces.all().delete()
            run.follow_again = False
            run.save(update_fields=["follow_again"])
            run.track_sets.create(file=packed(pack(imported(tracks))), person=run.clip.chosen)
            queueing.enqueue(run)
        return Response(self.get_serializer(run).data, status=status.HTTP_202_ACCEPTED)

    @extend_schema(
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY, 409: ProblemSerializer},
        parameters=[
            OpenApiParameter(
                "form", OpenApiTypes.STR, enum=list(FORMS), description="the file's format"
            )
        ],
    )
    @tracks.mapping.get
    def save_tracks(self, request: Request, pk: str) -> HttpResponseBase:
        """The run's tracks as they stand with all corrections, as a file."""
        form = request.query_params.get("form", "json")
        if form not in FORMS:
            raise InputError(f"the format {form!r} is not known", "form", f"use {', '.join(FORMS)}")
        run = self.get_object()
        tracks, _ = corrected(run)
        with tempfile.TemporaryDirectory(prefix="proklisis-") as folder:
            path = Path(folder) / f"run-{run.pk}{FORMS[form]}"
            write_tracks(tracks, path)
            # The open file outlives its folder.
            return FileResponse(path.open("rb"), as_attachment=True, filename=path.name)


def _read_tracks(file: Any) -> Tracks:
    """Tracks of a stranger's file, read in a process of its own."""
    with tempfile.NamedTemporaryFile(prefix="proklisis-") as copy:
        for chunk in file.chunks():
            copy.write(chunk)
        copy.flush()
        tracks: Tracks = limited(
            read_tracks, Path(copy.name), file.name, name=file.name, seconds=120
        )
    return tracks
