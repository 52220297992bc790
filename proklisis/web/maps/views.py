"""The map of a run."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.imperial import NOT_SENTENCES, in_feet
from proklisis.core.maps.maps import run_map
from proklisis.core.shapes.run_map import RunMap
from proklisis.web.analysis.compared import compared, run_of
from proklisis.web.clubs.access import in_feet_for
from proklisis.web.errors import ProblemSerializer
from proklisis.web.shape import Shape


class MapSerializer(serializers.Serializer[Any]):
    map = Shape(RunMap)


class MapView(APIView):
    @extend_schema(responses={200: MapSerializer, 400: ProblemSerializer, 409: ProblemSerializer})
    def get(self, request: Request, run: int) -> Response:
        """The run from where no camera was; ``lacking`` says why it cannot be drawn."""
        drawn = run_map(compared(run_of(request, run)))
        return Response({"map": in_feet(drawn, NOT_SENTENCES) if in_feet_for(request) else drawn})
