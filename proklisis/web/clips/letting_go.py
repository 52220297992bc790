"""Films are kept as long as the club says; what was measured, said and sent of them stays."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.web.clips import uploading
from proklisis.web.clubs.access import coach_of
from proklisis.web.clubs.models import Club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.plain import whole
from proklisis.web.runs.models import Clip, Crop, PairFilm, Run
from proklisis.web.runs.reporting import BUSY
from proklisis.web.runs.writing import one_writer


def older_than(club: Club, days: int) -> QuerySet[Run]:
    """Runs whose films came longer ago than that. What is a reference today, or is worked on, is not among them."""
    with_film = ~Q(clip__original="") | ~Q(clip__working="") | Q(clip__film__isnull=False)
    return (
        Run.objects.filter(with_film, club=club, clip__isnull=False, added__lt=timezone.now() - timedelta(days=days))
        .exclude(state__in=BUSY)
        .exclude(references__until__gte=timezone.localdate())
        .order_by("id")
    )  # fmt: skip


def let_films_go() -> int:
    """Let go of the films of every club that keeps them for so long and no longer; how many runs that were."""
    gone = 0
    for club in Club.objects.exclude(keeps_films_days=None):
        for run in older_than(club, club.keeps_films_days or 0).select_related("clip__film"):
            let_film_go(run)
            gone += 1
    return gone


def let_film_go(run: Run) -> None:
    """Let go of a run's films and of the pictures that were cut from them; a film that went to its rider stays."""
    with one_writer(run):
        clip = Clip.objects.select_related("film").get(run=run)
        film = clip.film
        clip.original = clip.working = clip.portrait = ""  # type: ignore[assignment]
        clip.film, clip.film_gone_at = None, timezone.now()
        clip.save(update_fields=["original", "working", "portrait", "film", "film_gone_at"])
        Crop.objects.filter(track_set__run=run).delete()
        run.told_films.filter(sent=False).delete()
        PairFilm.objects.filter(Q(a=run) | Q(b=run)).delete()
        transaction.on_commit(lambda: uploading.let_go(film))


def check_film(run: Run) -> None:
    """Raise Conflict where what is asked for needs a film that was let go of."""
    if hasattr(run, "clip") and run.clip.film_gone_at is not None:
        raise Conflict(gone_words(run.clip))


def gone_words(clip: Clip) -> str:
    """That a clip's film is not there any more, in a sentence."""
    assert clip.film_gone_at is not None
    on = timezone.localtime(clip.film_gone_at)
    return f"The film of this clip was let go of on {on.day} {on:%B %Y}: the club keeps films for so long. What was measured and said stays."


class FilmsThatGoSerializer(serializers.Serializer[Any]):
    count = serializers.IntegerField(help_text="runs whose films would be let go of tonight")


class FilmsThatGoView(APIView):
    owners_only = True

    @extend_schema(
        operation_id="films_that_go", parameters=[OpenApiParameter("days", OpenApiTypes.INT, required=True)],
        responses={200: FilmsThatGoSerializer, 400: ProblemSerializer},
    )  # fmt: skip
    def get(self, request: Request) -> Response:
        """How many films would go if they were kept for so many days."""
        days = whole(request.query_params.get("days"))
        if days is None:
            raise InputError("the days are missing", "days", "give a whole number")
        return Response({"count": older_than(coach_of(request).club, days).count()})
