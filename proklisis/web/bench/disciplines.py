"""Playbooks as the screens need them: titles for ids, cues and drills to choose from, schools."""

from __future__ import annotations

from typing import Any

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.maps.maps import has_map
from proklisis.core.playbook.conditions import KINDS, Kind, in_one_unit, read_rope, rope_words
from proklisis.core.playbook.phases import phase_words
from proklisis.core.playbook.schema import Playbook
from proklisis.core.review import playbook_ids
from proklisis.web.bench.figures import FigureSerializer, figure_of
from proklisis.web.clubs.access import coach_of
from proklisis.web.clubs.books import club_playbook
from proklisis.web.errors import ProblemSerializer


class FaultWordsSerializer(serializers.Serializer[Any]):
    title = serializers.CharField()
    seen = serializers.CharField()
    cues = serializers.ListField(child=serializers.CharField())
    leads_to = serializers.ListField(child=serializers.CharField())
    figure = FigureSerializer(allow_null=True, help_text="null where there is none")


class ObservationWordsSerializer(serializers.Serializer[Any]):
    title = serializers.CharField()
    good = serializers.BooleanField()


class SchoolOptionSerializer(serializers.Serializer[Any]):
    title = serializers.CharField()
    reason = serializers.CharField()


class SchoolSerializer(serializers.Serializer[Any]):
    question = serializers.CharField()
    default = serializers.CharField(
        help_text="what is taken where nothing is chosen, at the middle levels"
    )
    default_reason = serializers.CharField()
    options = serializers.DictField(child=SchoolOptionSerializer())


class ConditionSerializer(serializers.Serializer[Any]):
    """What a condition takes: one of ``choices``, a number in ``unit``, yes or no, or words."""

    title = serializers.CharField()
    takes = serializers.ChoiceField(["number", "choice", "yes_no", "words", "rope"])
    unit = serializers.CharField(allow_blank=True)
    choices = serializers.ListField(child=serializers.CharField())


class DisciplineSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    title = serializers.CharField()
    unit = serializers.CharField()
    unit_plural = serializers.CharField(help_text="the word for several units")
    asks_front_foot = serializers.BooleanField(
        help_text="whether a rider's front foot must be known"
    )
    sides = serializers.ListField(
        child=serializers.CharField(), help_text="the sides that its units have; none where none"
    )
    phases = serializers.ListField(child=serializers.CharField())
    conditions = serializers.DictField(child=ConditionSerializer())
    from_tracks = serializers.BooleanField(help_text="whether clips of it can be analysed")
    faults = serializers.DictField(child=FaultWordsSerializer())
    observations = serializers.DictField(child=ObservationWordsSerializer())
    schools = serializers.DictField(child=SchoolSerializer())
    by_eye = serializers.ListField(
        child=serializers.CharField(), help_text="faults that are mostly seen rather than measured"
    )
    has_map = serializers.BooleanField(help_text="whether its runs have a map")
    views = serializers.CharField(help_text="what shows from where")
    phase_words = serializers.DictField(
        child=serializers.CharField(), help_text="phase → what it is, in a sentence"
    )


def _words(b: Playbook) -> dict[str, Any]:
    return {
        **b.model_dump(), "id": b.discipline, "unit_plural": b.units, "from_tracks": b.from_tracks, "asks_front_foot": b.front_foot is not None,
        "phase_words": phase_words(b.discipline, b.phases), "sides": list(b.sides), "has_map": has_map(b.discipline),
        "conditions": conditions_of(b),
        "faults": {i: {**f.model_dump(), "leads_to": [x.to for x in f.links], "figure": figure_of(b.discipline, i)} for i, f in b.faults.items()},
        "schools": {i: {**s.model_dump(), "default": s.default_for("intermediate")} for i, s in b.schools.items()},
    }  # fmt: skip


#: Conditions that belong to single units and not to the run.
PER_UNIT = frozenset({"ball"})


def conditions_of(book: Playbook) -> dict[str, dict[str, Any]]:
    """What a discipline asks of the day, and how it is said."""
    return {key: _condition(key) for key in book.conditions if key not in PER_UNIT}


def _condition(key: str) -> dict[str, Any]:
    kind = KINDS.get(key, Kind(key.replace("_", " ")))
    # One field takes a rope in metres or in feet off, and says what it understood.
    return {
        "title": kind.title,
        "takes": "rope" if key == "rope_m" else kind.takes,
        "unit": kind.unit,
        "choices": list(kind.choices),
    }


class RopeSerializer(serializers.Serializer[Any]):
    words = serializers.CharField(help_text="the loop in both ways of counting")


class RopeView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("said", OpenApiTypes.STR, required=True)],
        responses={200: RopeSerializer, 400: ProblemSerializer},
    )
    def get(self, request: Request) -> Response:
        """Read a rope as a coach types it (15 off, 28, 14.25 m) and say it back."""
        return Response(
            {
                "words": rope_words(
                    float(in_one_unit(read_rope(request.query_params.get("said", "")))["rope_m"])
                )
            }
        )


class DisciplinesView(APIView):
    @extend_schema(responses=DisciplineSerializer(many=True))
    def get(self, request: Request) -> Response:
        club = coach_of(request).club
        books = [club_playbook(club, i) for i in playbook_ids()]
        return Response(DisciplineSerializer([_words(b) for b in books], many=True).data)
