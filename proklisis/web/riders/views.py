"""Riders of the coach's club."""

from __future__ import annotations

import tempfile
from typing import Any

from django.db import transaction
from django.db.models import Count, Q, QuerySet
from django.http import FileResponse
from django.utils import timezone
from django.utils.text import slugify
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.web.clips.removing import erase_rider, remove
from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.clubs.entries import put_down
from proklisis.web.plain import FOR_GOOD, REMOVED, asked_for, check_text, whole
from proklisis.web.riders.keeping import export
from proklisis.web.riders.models import Consent, Rider
from proklisis.web.runs.models import Run
from proklisis.web.runs.usual import usual
from proklisis.web.runs.writing import changed
from proklisis.web.scripts.models import Share


class ConsentSerializer(serializers.ModelSerializer[Consent]):
    by = serializers.SerializerMethodField()

    class Meta:
        model = Consent
        fields = ["given", "person", "by", "at"]

    def get_by(self, row: Consent) -> str:
        if row.by is not None:
            return row.by.get_username()
        # What somebody agreed to by a link of their own was noted by no coach.
        return "the link they sent by" if row.text else "somebody who has left"


class RiderSerializer(serializers.ModelSerializer[Rider]):
    runs = serializers.IntegerField(read_only=True, source="run_count", default=0)
    consents = ConsentSerializer(many=True, read_only=True)

    class Meta:
        model = Rider
        fields = [
            "id", "name", "number", "colours", "level", "born", "height_cm", "stance", "guardian_consent", "consents", "removed_at", "runs", "schools",
        ]  # fmt: skip
        read_only_fields = ["removed_at", "schools"]

    def validate_number(self, value: int | None) -> int | None:
        same = of_club(Rider.objects.filter(number=value), self.context["request"])
        if self.instance:
            same = same.exclude(pk=self.instance.pk)
        if value is not None and (other := same.first()):
            raise serializers.ValidationError(f"Number {value} is {other.name}'s; give another.")
        return value


class UsualSerializer(serializers.Serializer[Any]):
    """Guesses for a new run; ``as_on`` is null where the rider has had none."""

    discipline = serializers.CharField()
    level = serializers.CharField()
    conditions = serializers.DictField()
    gear = serializers.DictField()
    title = serializers.CharField(allow_blank=True)
    intention_text = serializers.CharField(allow_blank=True)
    intention_faults = serializers.ListField(child=serializers.CharField())
    as_on = serializers.DateTimeField(allow_null=True)


@extend_schema_view(
    list=extend_schema(
        parameters=[
            REMOVED,
            OpenApiParameter("find", OpenApiTypes.STR, description="part of a name, or a number"),
        ]
    ),
    destroy=extend_schema(parameters=[FOR_GOOD]),
)
class RiderViewSet(viewsets.ModelViewSet[Rider]):
    helpers_may = ("create",)
    not_for_helpers = ("export",)
    queryset = Rider.objects.none()
    serializer_class = RiderSerializer

    def get_queryset(self) -> QuerySet[Rider]:
        there = Count("runs", filter=Q(runs__removed_at=None, runs__part_of=None))
        riders = (
            Rider.objects.annotate(run_count=there)
            .prefetch_related("consents__by")
            .order_by("name", "id")
        )
        if asked_for(self.request, "for_good") and self.action == "destroy":
            return of_club(riders, self.request) | of_club(riders, self.request, removed=True)
        riders = of_club(
            riders,
            self.request,
            removed=self.action == "restore" or asked_for(self.request, "removed"),
        )
        if find := self.request.query_params.get("find", "").strip():
            check_text(find)
            number = whole(find)
            named = Q(name__icontains=find)
            riders = riders.filter(
                named | Q(number=number) if number is not None and number < 10**4 else named
            )
        return riders

    def perform_create(self, serializer: Any) -> None:
        rider = serializer.save(club=coach_of(self.request).club)
        if rider.guardian_consent:
            rider.consents.create(given=True, by=self.request.user)

    def perform_update(self, serializer: Any) -> None:
        before = serializer.instance
        rests_on, consented = (before.stance, before.height_cm), before.guardian_consent
        with transaction.atomic():
            rider = serializer.save()
            if (rider.stance, rider.height_cm) != rests_on:
                # The numbers of their runs rest on it; each is worked out again when it is next looked at.
                changed(run__rider=rider)
            if rider.guardian_consent != consented:
                rider.consents.create(given=rider.guardian_consent, by=self.request.user)
            # What is out is taken back, and stays so when consent comes again.
            if not rider.may_be_shared(timezone.now().year):
                live = Share.objects.filter(script__run__rider=rider, withdrawn=False)
                if live.update(withdrawn=True):
                    put_down(rider.club, self.request.user, "withdrew every link of", rider)

    def perform_destroy(self, rider: Rider) -> None:
        if asked_for(self.request, "for_good"):
            club, number = rider.club, rider.pk
            erase_rider(rider)
            put_down(club, self.request.user, "erased for good", f"rider {number}")
            return
        with transaction.atomic():
            # What goes with the rider comes back with them: it has the same moment.
            rider.removed_at = timezone.now()
            rider.save(update_fields=["removed_at"])
            for run in Run.objects.filter(rider=rider, removed_at=None):
                remove(run, rider.removed_at)

    @extend_schema(request=None, responses=RiderSerializer)
    @action(detail=True, methods=["post"])
    def restore(self, request: Request, pk: str) -> Response:
        """Bring a removed rider back, with the runs that went with them. A number that is another's by now is left out."""
        rider = self.get_object()
        with transaction.atomic():
            Run.objects.filter(rider=rider, removed_at=rider.removed_at).update(removed_at=None)
            rider.removed_at = None
            if of_club(Rider.objects.filter(number=rider.number), request).exists():
                rider.number = None
            rider.save(update_fields=["removed_at", "number"])
        return Response(self.get_serializer(rider).data)

    @extend_schema(responses=UsualSerializer)
    @action(detail=True)
    def usual(self, request: Request, pk: str) -> Response:
        """What a new run of this rider is guessed to be: as their last one was, else as the club's."""
        return Response(usual(self.get_object()))

    @extend_schema(responses={(200, "application/zip"): OpenApiTypes.BINARY})
    @action(detail=True)
    def export(self, request: Request, pk: str) -> FileResponse:
        """Everything that is kept of a rider, as a ZIP of JSON, clips and pictures."""
        rider = self.get_object()
        put_down(rider.club, request.user, "exported everything of", rider)
        bag = tempfile.TemporaryFile(prefix="proklisis-")  # noqa: SIM115  (the answer closes it)
        export(rider, bag)
        bag.seek(0)
        return FileResponse(
            bag,
            as_attachment=True,
            filename=f"{slugify(rider.name) or 'rider'}.zip",
            content_type="application/zip",
        )
