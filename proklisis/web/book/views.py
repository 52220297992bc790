"""The Book of a rider, what a run shows of the last prescription, and the ledger of cues."""

from __future__ import annotations

import csv
from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.core.imperial import NOT_SENTENCES, in_feet
from proklisis.core.playbook.check import nearest
from proklisis.core.review import playbook_ids
from proklisis.web.analysis.compared import run_of
from proklisis.web.analysis.reviewing import up_to_date
from proklisis.web.bench.followed import TargetSeenSerializer
from proklisis.web.book.following import following
from proklisis.web.book.history import book, disciplines
from proklisis.web.book.ledger import given_by, ledger
from proklisis.web.clubs.access import coach_of, in_feet_for, of_club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.riders.models import Rider

OUTCOMES = ["moved", "no_change", "worse", "cannot_tell"]


class InsteadSerializer(serializers.Serializer[Any]):
    """What to try in place of a cue that changed nothing."""

    cue = serializers.CharField(allow_blank=True)
    says = serializers.CharField()


class FollowingSerializer(serializers.Serializer[Any]):
    """What a run shows of the last prescription before it."""

    run = serializers.IntegerField(help_text="the run that it was given on")
    title = serializers.CharField(allow_blank=True)
    on = serializers.DateField()
    fault = serializers.CharField()
    cue = serializers.CharField()
    outcome = serializers.ChoiceField(OUTCOMES)
    rows = TargetSeenSerializer(many=True)
    changed = serializers.ListField(
        child=serializers.CharField(), help_text="what else is different beyond doubt"
    )
    stepped = serializers.CharField(
        allow_blank=True, help_text="how the ladder that was given then goes on; may be empty"
    )
    instead = InsteadSerializer(
        allow_null=True, help_text="where the cue changed nothing in two runs one after the other"
    )


class FollowingOrNoneSerializer(serializers.Serializer[Any]):
    following = FollowingSerializer(allow_null=True)


class BookRunSerializer(serializers.Serializer[Any]):
    run = serializers.IntegerField()
    on = serializers.DateField()
    title = serializers.CharField(allow_blank=True)
    level = serializers.CharField()
    gear = serializers.ListField(child=serializers.CharField())
    set_up = serializers.DictField(help_text="the run's gear as it is kept")
    felt = serializers.CharField(allow_blank=True, help_text="how the rider felt it")


class BookTickSerializer(serializers.Serializer[Any]):
    step = serializers.CharField()
    at = serializers.DateTimeField()


class BookPictureSerializer(serializers.Serializer[Any]):
    url = serializers.CharField()
    caption = serializers.CharField(allow_blank=True)
    run = serializers.IntegerField(allow_null=True, help_text="whose clip it is from")
    t = serializers.FloatField(allow_null=True, help_text="when it is in that run, seconds")


class BookPrescribedSerializer(serializers.Serializer[Any]):
    run = serializers.IntegerField()
    on = serializers.DateField()
    fault = serializers.CharField()
    cue = serializers.CharField()
    outcome = serializers.ChoiceField(OUTCOMES, allow_null=True)
    targets = TargetSeenSerializer(many=True)
    seen_in = serializers.IntegerField(
        allow_null=True, help_text="the run that was held against it"
    )
    film_again = serializers.DateField()
    drill = serializers.CharField(allow_blank=True, help_text="title of the main ladder")
    steps = serializers.IntegerField(help_text="how many steps it has")
    begin = serializers.IntegerField(help_text="the step that it began with, from 0")
    ticked = BookTickSerializer(many=True, help_text="steps that the rider has done")
    pictures = BookPictureSerializer(many=True)


class BookPointSerializer(serializers.Serializer[Any]):
    run = serializers.IntegerField()
    on = serializers.DateField()
    value = serializers.FloatField()
    pm = serializers.FloatField(help_text="U = 2u")
    units = serializers.IntegerField()
    says = serializers.CharField()


class BookLineSerializer(serializers.Serializer[Any]):
    side = serializers.CharField()
    points = BookPointSerializer(many=True)


class BookSeriesSerializer(serializers.Serializer[Any]):
    title = serializers.CharField()
    unit = serializers.CharField(allow_blank=True)
    target = serializers.ListField(
        child=serializers.FloatField(allow_null=True), allow_null=True, help_text="the newest target's edges"
    )  # fmt: skip
    sides = BookLineSerializer(many=True)


class BookDisciplineSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    title = serializers.CharField()
    runs = serializers.IntegerField()


class BookSerializer(serializers.Serializer[Any]):
    """A rider's runs of one discipline over time; newest prescription first, runs in their order."""

    rider = serializers.CharField()
    discipline = serializers.CharField(allow_blank=True)
    disciplines = BookDisciplineSerializer(many=True)
    runs = BookRunSerializer(many=True)
    prescribed = BookPrescribedSerializer(many=True)
    series = BookSeriesSerializer(many=True)


class LedgerRowSerializer(serializers.Serializer[Any]):
    """What came of one cue for one fault at one level."""

    fault = serializers.CharField()
    title = serializers.CharField()
    level = serializers.CharField()
    cue = serializers.CharField()
    given = serializers.IntegerField()
    moved = serializers.IntegerField()
    no_change = serializers.IntegerField()
    worse = serializers.IntegerField()
    cannot_tell = serializers.IntegerField()
    not_yet = serializers.IntegerField(help_text="no later run yet")
    says = serializers.CharField()


class FollowingView(APIView):
    @extend_schema(responses={200: FollowingOrNoneSerializer, 409: ProblemSerializer})
    def get(self, request: Request, run: int) -> Response:
        """What became of the targets that the rider's last Script set."""
        row = run_of(request, run)
        if not hasattr(row, "result"):
            raise Conflict("This run is not measured yet. Wait until its analysis is done.")
        up_to_date(row)
        said = {"following": following(row)}
        return Response(in_feet(said, NOT_SENTENCES) if in_feet_for(request) else said)


class BookView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("discipline", str)],
        responses={200: BookSerializer, 400: ProblemSerializer},
    )
    def get(self, request: Request, rider: int) -> Response:
        """A rider's Book: of the discipline they rode last, unless another is asked for."""
        found = _rider(request, rider)
        said = _book(request, found)
        # A plot is in one unit: its numbers are those of the run sheet.
        plain = NOT_SENTENCES | {"series"}
        return Response(in_feet(said, plain) if in_feet_for(request) else said)


class BookTableView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("discipline", str)],
        responses={(200, "text/csv"): OpenApiTypes.BINARY, 400: ProblemSerializer},
    )
    def get(self, request: Request, rider: int) -> HttpResponse:
        """Every measure of the Book as CSV: one row a run, measure and side, in the units of the run sheet."""
        found = _rider(request, rider)
        said = _book(request, found)
        answer = HttpResponse(content_type="text/csv; charset=utf-8")
        name = f"{slugify(found.name)}-{said['discipline'] or 'book'}.csv"
        answer["Content-Disposition"] = f'attachment; filename="{name}"'
        table = csv.writer(answer)
        table.writerow(["run", "date", "measure", "side", "value", "U", "unit", "units"])
        for s in said["series"]:
            for line in s["sides"]:
                for p in line["points"]:
                    row = [p["run"], p["on"], s["title"], line["side"], f"{p['value']:.5g}", f"{p['pm']:.2g}", s["unit"], p["units"]]  # fmt: skip
                    table.writerow(row)
        return answer


class LedgerView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("discipline", str, required=True)],
        responses={200: LedgerRowSerializer(many=True), 400: ProblemSerializer},
    )
    def get(self, request: Request) -> Response:
        """What came of each cue over the club, in one discipline."""
        given = _known(request.query_params.get("discipline", ""))
        return Response(ledger(given_by(coach_of(request).club_id, given)))


def _rider(request: Request, pk: int) -> Rider:
    found: Rider = get_object_or_404(of_club(Rider.objects.filter(removed_at=None), request), pk=pk)
    return found


def _book(request: Request, rider: Rider) -> dict[str, Any]:
    asked = request.query_params.get("discipline")
    if asked:
        return book(rider, _known(asked))
    own = disciplines(rider)
    if own:
        return book(rider, own[0]["id"])
    return {
        "rider": rider.name,
        "discipline": "",
        "disciplines": [],
        "runs": [],
        "prescribed": [],
        "series": [],
    }


def _known(discipline: str) -> str:
    if discipline not in playbook_ids():
        raise InputError(
            f"{discipline!r} is no discipline", "discipline", nearest(discipline, playbook_ids())
        )
    return discipline
