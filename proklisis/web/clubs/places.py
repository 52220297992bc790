"""Where a club practises, and when it is open."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from rest_framework import serializers, viewsets

from proklisis.core.errors import InputError
from proklisis.core.planning.sessions import everywhere
from proklisis.web.clubs.access import coach_of
from proklisis.web.clubs.models import Place
from proklisis.web.errors import Conflict

MOST_PLACES = 40


class WeekField(serializers.ListField):
    """Seven days of stretches, each from and to in minutes since midnight; kept in order."""

    child = serializers.ListField(
        child=serializers.ListField(
            child=serializers.IntegerField(min_value=0, max_value=24 * 60),
            min_length=2,
            max_length=2,
        ),
        max_length=6,
    )

    def to_internal_value(self, data: Any) -> list[list[list[int]]]:
        week = super().to_internal_value(data)
        try:
            return [[list(span) for span in day] for day in everywhere(week, "the week")]
        except InputError as e:
            raise serializers.ValidationError(str(e)) from e


class PlaceSerializer(serializers.ModelSerializer[Place]):
    week = WeekField(min_length=7, max_length=7)

    class Meta:
        model = Place
        fields = ["id", "name", "week"]


class PlaceViewSet(viewsets.ModelViewSet[Place]):
    queryset = Place.objects.none()
    serializer_class = PlaceSerializer
    http_method_names = ["get", "post", "patch", "delete"]
    pagination_class = None

    def get_queryset(self) -> QuerySet[Place]:
        return Place.objects.filter(club=coach_of(self.request).club_id)

    def perform_create(self, serializer: Any) -> None:
        club = coach_of(self.request).club
        if club.places.count() >= MOST_PLACES:
            raise Conflict(f"There are {MOST_PLACES} places already. Take one out first.")
        serializer.save(club=club)
