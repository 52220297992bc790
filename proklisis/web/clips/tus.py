"""Uploads in pieces by the open tus protocol 1.0.0 (tus.io): core, creation, expiration, termination.

A browser, or any tus client, makes an upload with its length, then sends pieces; after a broken
connection it asks how much has arrived and goes on from there.
"""

from __future__ import annotations

import base64
import binascii
from email.utils import format_datetime
from typing import Any, cast

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db.models import QuerySet
from django.http import HttpResponse
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.parsers import BaseParser
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.web.clips import uploading
from proklisis.web.clubs.access import of_club
from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Film, Run, Upload

VERSION = "1.0.0"
#: Whose run has a clip is not for whoever sends it again.
HERE = "This very clip is here already. Send another one."
PIECE = "application/offset+octet-stream"


class PieceParser(BaseParser):
    """Leaves the body alone: it is read as it comes."""

    media_type = PIECE

    def parse(self, stream, media_type=None, parser_context=None):  # type: ignore[no-untyped-def]
        return stream


class TusView(APIView):
    parser_classes = [PieceParser]

    def initial(self, request: Request, *args: object, **kwargs: object) -> None:
        super().initial(request, *args, **kwargs)
        if request.method != "OPTIONS" and request.headers.get("Tus-Resumable") != VERSION:
            raise WrongVersion

    def finalize_response(self, request, response, *args, **kwargs):  # type: ignore[no-untyped-def]
        response = super().finalize_response(request, response, *args, **kwargs)
        response["Tus-Resumable"] = VERSION
        response["Cache-Control"] = "no-store"
        return response


class NoUser(TusView):
    """Whoever holds a link, and nobody else."""

    authentication_classes = []
    permission_classes = [AllowAny]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "pieces"


class Refused(Conflict):
    """No client should try this again."""

    status_code = 400


class WrongVersion(Conflict):
    status_code = 412
    default_detail = (
        f"This server takes uploads by version {VERSION} of the protocol; say so in Tus-Resumable."
    )


class NoLength(Conflict):
    status_code = 411
    default_detail = "Say how long this piece is, in Content-Length. Nothing of it was taken."


class Locked(Conflict):
    status_code = 423
    default_detail = "This upload is being written to already. Try again in a moment."


class UploadsView(TusView):
    helpers_may = ("post",)

    @extend_schema(exclude=True)
    def options(self, request: Any, *args: Any, **kwargs: Any) -> Any:
        return HttpResponse(
            status=204,
            headers={
                "Tus-Version": VERSION, "Tus-Extension": "creation,expiration,termination",
                "Tus-Max-Size": str(settings.LARGEST_UPLOAD),
            },
        )  # fmt: skip

    @extend_schema(exclude=True)
    def post(self, request: Request) -> Response:
        """Begin an upload: ``Upload-Length``, and ``Upload-Metadata`` with ``run`` or ``film``, and ``filename``."""
        given = metadata(request.headers.get("Upload-Metadata", ""))
        length = request.headers.get("Upload-Length", "")
        what = "film" if "film" in given else "run"
        rows: Any = Film.objects if what == "film" else Run.objects.select_related("rider", "clip")
        into = (
            of_club(rows.all(), request).filter(pk=whole_number(given.get(what, ""), what)).first()
        )
        if into is None:
            raise NotFound(f"There is no such {what}.")
        upload = uploading.begin(
            into, given.get("filename", ""), whole_number(length, "Upload-Length")
        )
        return Response(
            status=201, headers={"Location": f"/api/uploads/{upload.pk}", **offset_of(upload)}
        )


class UploadView(TusView):
    helpers_may = ("patch", "delete")

    @extend_schema(exclude=True)
    def head(self, request: Request, pk: str) -> Response:
        upload = self.find(request, pk)
        given = {"Upload-Length": str(upload.size), **offset_of(upload)}
        if uploading.received(upload) == upload.size:
            # All bytes came, but the database was gone before they were made the run's clip.
            self.finish(upload)
        return Response(status=200, headers=given)

    @extend_schema(exclude=True)
    def patch(self, request: Request, pk: str) -> Response:
        upload = self.find(request, pk)
        offset = whole_number(request.headers.get("Upload-Offset", ""), "Upload-Offset")
        if not request.headers.get("Content-Length"):
            raise NoLength
        length = whole_number(request.headers["Content-Length"], "Content-Length")
        try:
            have = uploading.append(upload, offset, request._request, length)
        except uploading.Busy as e:
            raise Locked from e
        except InputError:
            uploading.discard(upload)
            raise
        if have == upload.size:
            self.finish(upload)
        return Response(status=204, headers={"Upload-Offset": str(have)})

    def finish(self, upload: Upload) -> None:
        """Make the whole file the run's clip; where it cannot be, no client should try again."""
        try:
            uploading.finish(upload)
        except (InputError, Conflict) as e:
            uploading.discard(upload)
            if isinstance(e, Conflict):
                # A client goes on after 409; this will never do.
                e.status_code = 400
            raise

    @extend_schema(exclude=True)
    def delete(self, request: Request, pk: str) -> Response:
        uploading.discard(self.find(request, pk))
        return Response(status=204)

    def find(self, request: Request, pk: str) -> Upload:
        try:
            upload = (
                of_club(
                    Upload.objects.select_related(
                        "run__rider", "run__clip", "run__club", "film__club"
                    ),
                    request,
                )
                .filter(pk=pk)
                .first()
            )
        except ValidationError:
            upload = None
        if upload is None:
            raise NotFound(
                "There is no such upload; it may have been cleared away. Send the file again."
            )
        return cast(Upload, upload)


class ByLinkView(UploadView, NoUser):
    """Pieces of a clip from whoever holds a link; its ``token`` stands in the address."""

    def on_its_way(self, token: str) -> QuerySet[Upload]:
        """Uploads that the holder of a link may go on with; NotFound for a link that does not work."""
        raise NotImplementedError

    def not_taken(self, upload: Upload, problem: str) -> None:
        """Let go of what the clip was for, as it cannot be had."""
        raise NotImplementedError

    def stopped(self, upload: Upload) -> None:
        """Let go of what the clip was for, as its sender does not send it after all."""
        raise NotImplementedError

    def find(self, request: Request, pk: str) -> Upload:
        try:
            found = self.on_its_way(self.kwargs["token"]).filter(pk=pk).first()
        except ValidationError:
            found = None
        if found is None:
            raise NotFound("This clip is not on its way any more. Send it again.")
        return found

    @extend_schema(exclude=True)
    def head(self, request: Request, pk: str, token: str) -> Response:  # type: ignore[override]
        return super().head(request, pk)

    @extend_schema(exclude=True)
    def patch(self, request: Request, pk: str, token: str) -> Response:  # type: ignore[override]
        upload = self.find(request, pk)
        try:
            return super().patch(request, pk)
        except InputError as e:
            self.not_taken(upload, str(e))
            raise

    @extend_schema(exclude=True)
    def delete(self, request: Request, pk: str, token: str) -> Response:  # type: ignore[override]
        upload = self.find(request, pk)
        answer = super().delete(request, pk)
        self.stopped(upload)
        return answer

    def finish(self, upload: Upload) -> None:
        try:
            super().finish(upload)
        except Conflict as e:
            self.not_taken(upload, HERE)
            raise Refused(HERE) from e
        except InputError as e:
            self.not_taken(upload, str(e))
            raise


def offset_of(upload: Upload) -> dict[str, str]:
    return {
        "Upload-Offset": str(uploading.received(upload)),
        "Upload-Expires": format_datetime(upload.changed + uploading.KEPT, usegmt=True),
    }


def metadata(text: str) -> dict[str, str]:
    """``key base64,key base64`` as the protocol writes it."""
    out = {}
    for pair in filter(None, (p.strip() for p in text.split(","))):
        key, _, value = pair.partition(" ")
        try:
            out[key] = base64.b64decode(value, validate=True).decode("utf-8")
        except (binascii.Error, UnicodeDecodeError) as e:
            raise InputError("the value is not base64 of UTF-8", f"Upload-Metadata {key}") from e
    return out


def whole_number(text: str, what: str) -> int:
    if not (text.isascii() and text.isdigit() and len(text) < 19):
        raise InputError("a whole number is needed", what)
    return int(text)
