"""The figures of faults, drawn beside the rider without; they show nobody and are open to all."""

from __future__ import annotations

from typing import Any

from django.http import FileResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.views import APIView

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.words import phase_words
from proklisis.core.review import playbook_ids
from proklisis.figures import STILL_SHOWS, figure_file, figures
from proklisis.web.errors import ProblemSerializer


class FigureSerializer(serializers.Serializer[Any]):
    """What a fault's figure shows."""

    shows = serializers.CharField()
    in_motion = serializers.BooleanField(help_text="whether only the loop shows it")


def figure_of(discipline: str, fault: str) -> dict[str, Any] | None:
    """What a fault's figure shows, or None where there is none."""
    shows = figures(discipline).get(fault)
    if shows is None:
        return None
    where = f" in the {phase_words(shows['phase'])}" if shows["phase"] else ""
    return {
        "shows": f"{REGISTRY[shows['measure']].title}{where}",
        "in_motion": shows["still_apart"] < STILL_SHOWS,
    }


class FigureView(APIView):
    permission_classes = (AllowAny,)

    @extend_schema(
        parameters=[OpenApiParameter("moving", bool, description="the loop, not the still")],
        responses={(200, "image/webp"): OpenApiTypes.BINARY, 404: ProblemSerializer},
    )
    def get(self, request: Request, discipline: str, fault: str) -> FileResponse:
        """The rider with a fault, left, beside the rider without."""
        moving = request.query_params.get("moving", "").lower() in ("1", "true", "yes")
        path = figure_file(discipline, fault, moving) if discipline in playbook_ids() else None
        if path is None:
            raise NotFound("There is no figure of this fault.")
        answer = FileResponse(path.open("rb"), content_type="image/webp")
        answer["Cache-Control"] = "public, max-age=86400"
        return answer
