"""Who can practise together: riders with the same main thing on the same step, on a day that suits them, with the day's sheet."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.planning.sessions import USUAL_MIN, together
from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.desk.standing import Standing, standing
from proklisis.web.plain import whole
from proklisis.web.runs.models import Run
from proklisis.web.scripts.practice import STAGES, Step, next_step

#: So many riders with an answer of theirs are looked at.
MOST = 500
LONGEST_MIN = 240


class OfGroupSerializer(serializers.Serializer[Any]):
    rider = serializers.IntegerField()
    name = serializers.CharField()
    number = serializers.IntegerField(allow_null=True)
    run = serializers.IntegerField()
    cue = serializers.CharField()
    gear = serializers.ListField(child=serializers.CharField())


class GroupSerializer(serializers.Serializer[Any]):
    """One group: when, who, and what they do."""

    day = serializers.DateField(allow_null=True, help_text="null: no time suits two of them")
    at = serializers.IntegerField(allow_null=True, help_text="minutes since midnight")
    minutes = serializers.IntegerField()
    discipline = serializers.CharField()
    title = serializers.CharField(help_text="the main thing")
    stage = serializers.CharField()
    drill = serializers.CharField()
    text = serializers.CharField()
    dose = serializers.CharField()
    sign = serializers.CharField()
    riders = OfGroupSerializer(many=True)


class GroupsView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("place", OpenApiTypes.INT, description="only when it is open"),
            OpenApiParameter("minutes", OpenApiTypes.INT),
        ],
        responses={200: GroupSerializer(many=True)},
    )
    def get(self, request: Request) -> Response:
        """Groups of the next two weeks, and those of one step whom no time suits."""
        coach = coach_of(request)
        number = whole(request.query_params.get("place"))
        place = coach.club.places.filter(pk=number).first() if number is not None else None
        minutes = min(max(whole(request.query_params.get("minutes")) or USUAL_MIN, 5), LONGEST_MIN)
        runs = of_club(Run.objects.filter(script__approved__isnull=False), request)
        with_rider = (
            standing(runs)
            .filter(stands__in=(Standing.RIDER, Standing.AGAIN))
            .select_related("rider", "script")
            .prefetch_related("script__ticks")
            .order_by("-script__approved_at", "-id")[:MOST]
        )
        alike: dict[tuple[str, str, str, int], dict[int, tuple[Run, Step]]] = defaultdict(dict)
        seen: set[tuple[int, str]] = set()
        for run in with_rider:
            main = _body(run)["prescription"]["main"]
            step = next_step(run.script)
            # One main thing at a time: the newest answer is the one that counts.
            if (run.rider_id, run.discipline) in seen or main is None or step is None:
                continue
            seen.add((run.rider_id, run.discipline))
            key = run.discipline, main["fault"], step.drill["id"], step.number
            alike[key][run.rider_id] = run, step
        out: list[dict[str, Any]] = []
        for rows in alike.values():
            if len(rows) < 2:
                continue
            left = set(rows)
            # Of whom nobody has said when they can, no hour is promised.
            free = {r: run.rider.free for r, (run, _) in rows.items() if run.rider.free is not None}
            for g in together(free, timezone.localdate(), place.week if place else None, None, minutes):  # fmt: skip
                out.append(_told([rows[r] for r in g.riders], minutes, g.day, g.at))
                left -= set(g.riders)
            if left:
                out.append(_told([rows[r] for r in sorted(left)], minutes))
        out.sort(key=lambda g: (g["day"] is None, str(g["day"]), g["at"] or 0, g["title"]))
        return Response(GroupSerializer(out, many=True).data)


def _told(rows: list[tuple[Run, Step]], minutes: int, day: Any = None, at: int | None = None) -> dict[str, Any]:  # fmt: skip
    run, (drill, _, step) = rows[0]
    main = _body(run)["prescription"]["main"]
    return {
        "day": day, "at": at, "minutes": minutes, "discipline": run.discipline,
        "title": _body(run)["titles"].get(main["fault"], main["fault"]),
        "stage": STAGES.get(step["stage"], step["stage"]), "drill": drill["title"], "text": step["text"], "dose": step["dose"],
        "sign": drill["sign"],
        "riders": [
            {
                "rider": r.rider_id, "name": r.rider.name, "number": r.rider.number, "run": r.pk,
                "cue": _body(r)["prescription"]["main"]["cue"],
                "gear": [g["text"] for g in _body(r)["prescription"].get("gear", [])],
            }
            for r, _ in sorted(rows, key=lambda x: x[0].rider.name)
        ],
    }  # fmt: skip


def _body(run: Run) -> dict[str, Any]:
    """What a run's Script said when it was approved."""
    body: dict[str, Any] = run.script.approved or {}
    return body
