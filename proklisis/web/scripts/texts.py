"""A club's own texts: written once, put into any Script, or standing at the end of all."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import serializers, viewsets

from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.errors import Conflict
from proklisis.web.plain import whole
from proklisis.web.runs.models import Run
from proklisis.web.scripts.composing import filled
from proklisis.web.scripts.models import ClubText

MOST_TEXTS = 60


class ClubTextSerializer(serializers.ModelSerializer[ClubText]):
    filled = serializers.SerializerMethodField(help_text="for the run that is asked for")

    class Meta:
        model = ClubText
        fields = ["id", "title", "text", "closing", "filled"]

    def get_filled(self, row: ClubText) -> str:
        run = self.context.get("run")
        return filled(row.text, run, self.context["coach"]) if run is not None else row.text


@extend_schema_view(
    list=extend_schema(
        parameters=[OpenApiParameter("run", OpenApiTypes.INT, description="the run to fill them in for")]
    )
)  # fmt: skip
class ClubTextViewSet(viewsets.ModelViewSet[ClubText]):
    queryset = ClubText.objects.none()
    serializer_class = ClubTextSerializer
    http_method_names = ["get", "post", "patch", "delete"]
    pagination_class = None

    def get_queryset(self) -> QuerySet[ClubText]:
        return of_club(ClubText.objects.all(), self.request)

    def get_serializer_context(self) -> dict[str, Any]:
        context = dict(super().get_serializer_context())
        if (run := whole(self.request.query_params.get("run"))) is not None:
            rows = Run.objects.select_related("rider", "club")
            context["run"] = get_object_or_404(of_club(rows, self.request), pk=run)
            context["coach"] = coach_of(self.request).name
        return context

    def perform_create(self, serializer: Any) -> None:
        club = coach_of(self.request).club
        if club.texts.count() >= MOST_TEXTS:
            raise Conflict(f"There are {MOST_TEXTS} texts already. Take one out first.")
        serializer.save(club=club)
