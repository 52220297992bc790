"""A clip on its way from a sender, in pieces like any other."""

from __future__ import annotations

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
from proklisis.web.intake.looking import let_go
from proklisis.web.intake.models import Sender, Sent
from proklisis.web.intake.sending import ENDED, conditions_in, sender_of
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import Film, Upload

NO_ROOM = "There is no room for your clip just now. Tell your coach, and keep the clip."
#: Clips that could not be taken do not count, up to so many times those that may be sent.
TRIES = 4
#: An intention is cut here, characters.
LONGEST = 300


class SentClipsView(NoUser):
    @extend_schema(exclude=True)
    def post(self, request: Request, token: str) -> Response:
        """Begin to send a clip: ``Upload-Length``, and ``Upload-Metadata`` with ``filename``, ``intention``, ``conditions``."""
        sender = sender_of(token)
        given = metadata(request.headers.get("Upload-Metadata", ""))
        name = given.get("filename", "")
        size = whole_number(request.headers.get("Upload-Length", ""), "Upload-Length")
        uploading.check(name, size)
        conditions = conditions_in(given.get("conditions", ""), sender.intake)
        try:
            with transaction.atomic():
                _may_send(sender)
                film = Film.objects.create(club=sender.intake.club, name=name[:255])
                upload = uploading.begin(film, name, size)
                sender.sent.create(
                    film=film, name=name[:255], intention_text=given.get("intention", "").strip()[:LONGEST], conditions=conditions,
                )  # fmt: skip
        except DiskFull as e:
            raise DiskFull(NO_ROOM) from e
        where = f"/api/sent/{token}/clips/{upload.pk}"
        return Response(status=201, headers={"Location": where, **offset_of(upload)})


class SentClipView(ByLinkView):
    def on_its_way(self, token: str) -> QuerySet[Upload]:
        rows = Upload.objects.select_related("film__club", "film__sent_in")
        return rows.filter(film__sent_in__sender=sender_of(token))

    def not_taken(self, upload: Upload, problem: str) -> None:
        sent = _sent(upload)
        rows = Sent.objects.filter(pk=sent.pk, state=Sent.State.ARRIVING)
        if rows.update(state=Sent.State.REFUSED, problem=problem[:500]):
            let_go(sent)

    def stopped(self, upload: Upload) -> None:
        sent = _sent(upload)
        let_go(sent)
        sent.delete()

    def finish(self, upload: Upload) -> None:
        super().finish(upload)
        arrived = Sent.objects.filter(pk=_sent(upload).pk, state=Sent.State.ARRIVING)
        if arrived.update(state=Sent.State.LOOKING):
            put("look_at_sent", sent_id=_sent(upload).pk)


def _sent(upload: Upload) -> Sent:
    assert upload.film is not None
    sent: Sent = upload.film.sent_in
    return sent


def _may_send(sender: Sender) -> None:
    """Refuse a clip after the link's end, or one more than it takes."""
    Sender.objects.select_for_update().get(pk=sender.pk)
    if not sender.intake.open:
        raise Refused(ENDED)
    if sender.sent.count() >= TRIES * sender.intake.most_clips:
        raise Refused("Too many of your clips could not be taken. Ask your coach how to send them.")
    counted = sender.sent.exclude(state__in=(Sent.State.UNREADABLE, Sent.State.REFUSED)).count()
    most = sender.intake.most_clips
    if counted >= most:
        raise Refused(f"You have sent {most} clips by this link, which is all that it takes. Take one back to send another.")  # fmt: skip
