"""Fair draws of who is answered: made, kept, shown."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.planning.draw import Entry, fair_draw
from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.models import Club
from proklisis.web.desk.models import Draw, new_seed
from proklisis.web.desk.standing import WAITS, standing
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run

#: So many draws are shown; and so far back it is looked who was drawn when.
SHOWN, LOOKED_AT = 20, 200


class EntrySerializer(serializers.Serializer[Any]):
    """Somebody in a draw, with what their chance came from."""

    rider = serializers.IntegerField()
    name = serializers.CharField(help_text="empty where the rider is erased")
    run = serializers.IntegerField()
    missed = serializers.IntegerField(help_text="draws missed since they were drawn last")
    last = serializers.BooleanField(
        help_text="was drawn the last time: comes in only where places are left"
    )
    drawn = serializers.IntegerField(allow_null=True, help_text="place in the draw, from 1")


class DrawSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    made = serializers.DateTimeField()
    by = serializers.CharField(allow_blank=True)
    seed = serializers.CharField()
    places = serializers.IntegerField()
    entries = EntrySerializer(many=True, help_text="who is drawn first, then who is not")


class NewDrawSerializer(serializers.Serializer[Any]):
    places = serializers.IntegerField(min_value=1, max_value=500)
    runs = serializers.ListField(
        child=serializers.IntegerField(), required=False, max_length=500,
        help_text="of which runs; without it, of all that wait",
    )  # fmt: skip


class DrawsView(APIView):
    @extend_schema(operation_id="draws", responses=DrawSerializer(many=True))
    def get(self, request: Request) -> Response:
        """The newest draws."""
        rows = Draw.objects.filter(club=coach_of(request).club_id).select_related("by__coach")
        return Response(_shown(list(rows[:SHOWN]), request))

    @extend_schema(
        operation_id="draw", request=NewDrawSerializer,
        responses={201: DrawSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request) -> Response:
        """Draw who is answered among the riders of runs that wait; each has one place, with their oldest run."""
        given = NewDrawSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said, club = given.validated_data, coach_of(request).club
        waiting = standing(of_club(Run.objects.filter(part_of=None), request)).filter(
            stands__in=WAITS
        )
        if "runs" in said:
            waiting = waiting.filter(pk__in=said["runs"])
        with transaction.atomic():
            Club.objects.select_for_update().get(pk=club.pk)
            first: dict[int, int] = {}
            for run, rider in waiting.order_by("added", "id").values_list("pk", "rider_id"):
                first.setdefault(rider, run)
            if not first:
                raise Conflict("Nobody waits who could be drawn.")
            seed, before = new_seed(), list(Draw.objects.filter(club=club)[:LOOKED_AT])
            entries = [entry(rider, before) for rider in sorted(first)]
            drawn = fair_draw(entries, said["places"], seed)
            made = Draw.objects.create(
                club=club, by=coach_of(request).user, seed=seed, places=said["places"], drawn=drawn,
                entries=[{"rider": e.who, "run": first[e.who], "missed": e.missed, "last": e.last} for e in entries],
            )  # fmt: skip
        put_down(club, request.user, "drew who is answered", made)
        return Response(_shown([made], request)[0], status=201)


def entry(rider: int, before: list[Draw]) -> Entry:
    """A rider as they go into the next draw; ``before``: the club's draws, the newest first."""
    missed = 0
    for draw in before:
        if rider in draw.drawn:
            break
        missed += any(e["rider"] == rider for e in draw.entries)
    return Entry(rider, missed, bool(before) and rider in before[0].drawn)


def again(draw: Draw) -> list[int]:
    """Who is drawn when a kept draw is worked out anew from its seed."""
    return fair_draw([Entry(e["rider"], e["missed"], e["last"]) for e in draw.entries], draw.places, draw.seed)  # fmt: skip


def _shown(draws: list[Draw], request: Request) -> list[dict[str, Any]]:
    of_all = {e["rider"] for d in draws for e in d.entries}
    names = dict(of_club(Rider.objects.filter(pk__in=of_all), request).values_list("pk", "name"))
    out = []
    for d in draws:
        place = {rider: k for k, rider in enumerate(d.drawn, 1)}
        rows = [{**e, "name": names.get(e["rider"], ""), "drawn": place.get(e["rider"])} for e in d.entries]  # fmt: skip
        rows.sort(key=lambda e: (e["drawn"] is None, e["drawn"] or 0, e["name"]))
        by = d.by.coach.name if d.by and hasattr(d.by, "coach") else ""
        out.append({"id": d.pk, "made": d.made, "by": by, "seed": d.seed, "places": d.places, "entries": rows})  # fmt: skip
    return out
