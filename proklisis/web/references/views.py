"""Keeping a run as a reference, and letting it go."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import (
    OpenApiParameter,
    extend_schema,
    extend_schema_field,
    extend_schema_view,
)
from rest_framework import mixins, serializers, viewsets

from proklisis.core.review import playbook
from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.errors import Conflict
from proklisis.web.references.models import Reference
from proklisis.web.riders.agreeing import note
from proklisis.web.riders.models import Agreed
from proklisis.web.runs.models import Run

#: A consent is asked for again after this at the latest.
LONGEST = timedelta(days=3 * 366)


class ReferenceSerializer(serializers.ModelSerializer[Reference]):
    run = serializers.PrimaryKeyRelatedField(queryset=Run.objects.none())
    rider = serializers.CharField(source="run.rider.name", read_only=True)
    discipline = serializers.CharField(source="run.discipline", read_only=True)
    filmed_on = serializers.DateField(source="run.filmed_on", read_only=True, allow_null=True)
    title = serializers.CharField(source="run.title", read_only=True)
    ended = serializers.SerializerMethodField()
    others_too = serializers.BooleanField(
        write_only=True,
        default=False,
        help_text="whoever agreed also agrees that other riders see it",
    )

    class Meta:
        model = Reference
        fields = ["id", "run", "fault", "consent", "until", "added", "rider", "discipline", "filmed_on", "title", "ended", "others_too"]  # fmt: skip
        read_only_fields = ["added"]
        # One reference a run and fault is held by ``create``, which says so in words.
        validators: list[Any] = []

    def get_fields(self) -> dict[str, Any]:
        fields = super().get_fields()
        runs = Run.objects.filter(result__isnull=False, part_of=None)
        fields["run"] = serializers.PrimaryKeyRelatedField(
            queryset=of_club(runs, self.context["request"])
        )
        return fields

    @extend_schema_field(serializers.BooleanField())
    def get_ended(self, kept: Reference) -> bool:
        return kept.until < timezone.localdate()

    def validate_consent(self, given: str) -> str:
        if not given.strip():
            raise serializers.ValidationError(
                "Say who agreed: the rider, or for a minor a guardian."
            )
        return given.strip()

    def validate_until(self, given: date) -> date:
        today = timezone.localdate()
        if given < today:
            raise serializers.ValidationError("This day is past.")
        if given > today + LONGEST:
            raise serializers.ValidationError("Keep it for three years at the most, then ask again.")  # fmt: skip
        return given

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        run, fault = attrs.get("run"), attrs.get("fault", "")
        if run is not None and fault and fault not in playbook(run.discipline).faults:
            raise serializers.ValidationError({"fault": "This discipline has no such fault."})
        return attrs


@extend_schema_view(list=extend_schema(parameters=[OpenApiParameter("discipline", str)]))
class ReferenceViewSet(
    mixins.ListModelMixin, mixins.CreateModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Reference]
):  # fmt: skip
    """References of the coach's club, those that have ended too."""

    serializer_class = ReferenceSerializer
    queryset = Reference.objects.select_related("run__rider").filter(
        run__removed_at=None, run__rider__removed_at=None
    )

    def get_queryset(self) -> Any:
        mine = of_club(super().get_queryset(), self.request)
        discipline = self.request.query_params.get("discipline")
        return mine.filter(run__discipline=discipline) if discipline else mine

    def perform_create(self, serializer: Any) -> None:
        given = serializer.validated_data
        coach = coach_of(self.request)
        if Reference.objects.filter(run=given["run"], fault=given.get("fault", "")).exists():
            raise Conflict("This run is kept as a reference already. Let that one go first.")
        if not given["run"].rider.may_be_judged:
            raise Conflict(
                "That this rider is judged was withdrawn; no run of theirs is kept as a reference."
            )
        others = given.pop("others_too")
        with transaction.atomic():
            serializer.save(club=coach.club, by=coach.user)
            kinds = [Agreed.REFERENCE, Agreed.GROUP] if others else [Agreed.REFERENCE]
            for kind in kinds:
                note(given["run"].rider, kind, True, coach.user, given["consent"][:120])

    def get_object(self) -> Reference:
        return get_object_or_404(self.get_queryset(), pk=self.kwargs["pk"])  # type: ignore[no-any-return]
