"""A clip that a rider sends back on their page: it comes in pieces like any other, and becomes a run of its own."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.web.clips import uploading
from proklisis.web.clips.tus import (
    ByLinkView,
    NoUser,
    Refused,
    metadata,
    offset_of,
    whole_number,
)
from proklisis.web.errors import DiskFull
from proklisis.web.runs.models import Run, Upload
from proklisis.web.scripts.models import ClipBack, Script
from proklisis.web.scripts.shared import shared_by

#: A rider sends no more clips than this on one page.
MOST_CLIPS = 3
NO_ROOM = "There is no room for your clip just now. Tell your coach, and keep the clip."


class ClipsBackView(NoUser):
    @extend_schema(exclude=True)
    def post(self, request: Request, token: str) -> Response:
        """Begin to send a clip back: ``Upload-Length``, and ``Upload-Metadata`` with ``filename``."""
        script = shared_by(token).script
        given = metadata(request.headers.get("Upload-Metadata", ""))
        name = given.get("filename", "")
        size = whole_number(request.headers.get("Upload-Length", ""), "Upload-Length")
        uploading.check(name, size)
        try:
            with transaction.atomic():
                run = run_for(script, name)
                upload = uploading.begin(run, name, size)
        except DiskFull as e:
            raise DiskFull(NO_ROOM) from e
        where = f"/api/shared/{token}/clips/{upload.pk}"
        return Response(status=201, headers={"Location": where, **offset_of(upload)})


class ClipBackView(ByLinkView):
    def on_its_way(self, token: str) -> QuerySet[Upload]:
        script = shared_by(token).script
        rows = Upload.objects.select_related("run__rider", "run__clip", "run__club")
        return rows.filter(run__sent_back__script=script)

    def not_taken(self, upload: Upload, problem: str) -> None:
        uploading.let_go_of_empty(upload.run)

    def stopped(self, upload: Upload) -> None:
        uploading.let_go_of_empty(upload.run)


def run_for(script: Script, name: str) -> Run:
    """A new run for a clip that is sent back: of the same rider, as the one that the Script is of; Conflict where enough were sent."""
    Script.objects.select_for_update().get(pk=script.pk)
    if script.clips_back.count() >= MOST_CLIPS:
        raise Refused(
            f"{MOST_CLIPS} clips were sent on this page already. Ask your coach for a new link."
        )
    was = script.run
    # Slope, rope, wind and set-up may be others this time; nobody has said them, so nothing is judged by them.
    like: dict[str, Any] = {
        k: getattr(was, k) for k in ("discipline", "level", "intention_text", "intention_faults")
    }
    run = Run.objects.create(club=was.club, rider=was.rider, title="Sent back by the rider", **like)
    ClipBack.objects.create(script=script, run=run, name=name[:255])
    return run
