"""Letting go of session films. Runs that were made of their goes stay, with their part of the film."""

from __future__ import annotations

from django.conf import settings
from django.utils import timezone

from proklisis.web.clips import uploading
from proklisis.web.goes import finding
from proklisis.web.goes.models import SessionFilm


def remove(session: SessionFilm) -> None:
    """Take a session film off the lists; its work stops, and it can be brought back for a month."""
    if session.busy:
        finding.cancel(session)
    SessionFilm.objects.filter(pk=session.pk).update(removed_at=timezone.now())


def erase(session: SessionFilm) -> None:
    """Let a session film go for good; the film itself stays while a run needs it."""
    film = session.film
    for upload in film.uploads.all():
        uploading.discard(upload)
    session.delete()
    uploading.let_go(film)


def purge() -> int:
    """Erase what was removed longer ago than it is kept; how many that were."""
    old = SessionFilm.objects.filter(removed_at__lt=timezone.now() - settings.KEPT_REMOVED)
    for session in old:
        erase(session)
    return len(old)
