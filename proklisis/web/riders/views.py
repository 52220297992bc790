"""Riders of the coach's club."""

from __future__ import annotations

from typing import Any

from django.db.models import Count, QuerySet
from rest_framework import serializers, viewsets

from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Result


class RiderSerializer(serializers.ModelSerializer[Rider]):
    runs = serializers.IntegerField(read_only=True, source="run_count", default=0)

    class Meta:
        model = Rider
        fields = ["id", "name", "number", "colours", "level", "born", "height_cm", "stance", "guardian_consent", "runs"]

    def validate_number(self, value: int | None) -> int | None:
        same = of_club(Rider.objects.filter(number=value), self.context["request"])
        if self.instance:
            same = same.exclude(pk=self.instance.pk)
        if value is not None and (other := same.first()):
            raise serializers.ValidationError(f"Number {value} is {other.name}'s; give another.")
        return value


class RiderViewSet(viewsets.ModelViewSet[Rider]):
    queryset = Rider.objects.none()
    serializer_class = RiderSerializer

    def get_queryset(self) -> QuerySet[Rider]:
        return of_club(Rider.objects.annotate(run_count=Count("runs")), self.request)

    def perform_update(self, serializer: Any) -> None:
        before = serializer.instance.stance, serializer.instance.height_cm
        rider = serializer.save()
        if (rider.stance, rider.height_cm) != before:
            # The numbers of their runs rest on it; each is worked out again when it is next looked at.
            Result.objects.filter(run__rider=rider).update(stale=True)

    def perform_create(self, serializer: Any) -> None:
        serializer.save(club=coach_of(self.request).club)
