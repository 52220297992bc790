"""Playbooks as the screens need them: titles for ids, cues and drills to choose from, schools."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.review import playbook, playbook_ids


class FaultWordsSerializer(serializers.Serializer[Any]):
    title = serializers.CharField()
    seen = serializers.CharField()
    cues = serializers.ListField(child=serializers.CharField())
    leads_to = serializers.ListField(child=serializers.CharField())


class ObservationWordsSerializer(serializers.Serializer[Any]):
    title = serializers.CharField()
    good = serializers.BooleanField()


class SchoolOptionSerializer(serializers.Serializer[Any]):
    title = serializers.CharField()
    reason = serializers.CharField()


class SchoolSerializer(serializers.Serializer[Any]):
    question = serializers.CharField()
    default_reason = serializers.CharField()
    options = serializers.DictField(child=SchoolOptionSerializer())


class DisciplineSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    title = serializers.CharField()
    unit = serializers.CharField()
    phases = serializers.ListField(child=serializers.CharField())
    conditions = serializers.ListField(child=serializers.CharField())
    from_tracks = serializers.BooleanField(help_text="whether clips of it can be analysed")
    faults = serializers.DictField(child=FaultWordsSerializer())
    observations = serializers.DictField(child=ObservationWordsSerializer())
    schools = serializers.DictField(child=SchoolSerializer())


class DisciplinesView(APIView):
    @extend_schema(responses=DisciplineSerializer(many=True))
    def get(self, request: Request) -> Response:
        books = [playbook(i) for i in playbook_ids()]
        return Response(
            DisciplineSerializer(
                [{"id": b.discipline, "from_tracks": b.from_tracks, **b.model_dump()} for b in books], many=True
            ).data
        )
