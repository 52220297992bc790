"""A call for clips that is open in the demo, with one clip that waits for somebody to say who it is."""

from __future__ import annotations

import hashlib
from datetime import datetime, timedelta

from django.contrib.auth.models import User
from django.core.files.base import ContentFile

from proklisis.web.clubs.models import Club
from proklisis.web.demo.cast import CLIPS
from proklisis.web.intake.models import Intake, Sent
from proklisis.web.intake.words import VERSION
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import Film

#: A box of no meaning behind the film: the same pictures, and yet another file.
FREE = b"\0\0\0\x08free"


def send_in(club: Club, by: User, now: datetime) -> None:
    """Open a link, and have somebody unknown send a clip by it."""
    link = Intake.objects.create(
        club=club, by=by, title="Send me your Friday run in the hall", discipline="alpine_carve",
        expires=now + timedelta(days=6), answer_by=(now + timedelta(days=9)).date(),
    )  # fmt: skip
    sender = link.senders.create(
        name="Hallowell Wren", born=2013, level="intermediate", agreed="Maud Hallowell", guardian=True, text=VERSION,
    )  # fmt: skip
    data = (CLIPS / "hazel-3.mp4").read_bytes() + FREE
    film = Film(
        club=club, name="IMG_2041.mp4", size=len(data), sha256=hashlib.sha256(data).hexdigest()
    )
    film.file.save(film.name, ContentFile(data), save=True)
    sent = sender.sent.create(
        film=film, name=film.name, intention_text="keep the outside ski loaded to the end", state=Sent.State.LOOKING
    )  # fmt: skip
    put("look_at_sent", sent_id=sent.pk)
