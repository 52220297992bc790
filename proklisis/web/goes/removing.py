"""Letting go of session films. Runs that were made of their goes stay, with their part of the film."""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.utils import timezone

from proklisis.web.clips import uploading
from proklisis.web.clubs.models import Club
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


def let_films_go() -> None:
    """Erase session films that came longer ago than their club keeps films; their runs stay."""
    for club in Club.objects.exclude(keeps_films_days=None):
        before = timezone.now() - timedelta(days=club.keeps_films_days or 0)
        for session in SessionFilm.objects.filter(club=club, added__lt=before):
            if not session.busy:
                erase(session)


def purge() -> int:
    """Erase what was removed longer ago than it is kept; how many that were."""
    old = SessionFilm.objects.filter(removed_at__lt=timezone.now() - settings.KEPT_REMOVED)
    for session in old:
        erase(session)
    return len(old)
