"""Asking for a drawn rider to hold a run against."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.web.analysis import drawn
from proklisis.web.analysis.compared import run_of
from proklisis.web.errors import ProblemSerializer
from proklisis.web.runs.models import Run


class DrawnRiderSerializer(serializers.ModelSerializer[Run]):
    class Meta:
        model = Run
        fields = ["id", "state", "progress", "problem"]
        read_only_fields = fields


class DrawnView(APIView):
    @extend_schema(
        request=None, responses={202: DrawnRiderSerializer, 400: ProblemSerializer, 404: ProblemSerializer}
    )  # fmt: skip
    def post(self, request: Request, run: int) -> Response:
        """Have a rider drawn in this run's discipline and view, once for all; a job does it."""
        asked = drawn.ask(run_of(request, run))
        return Response(DrawnRiderSerializer(asked).data, status=status.HTTP_202_ACCEPTED)

    @extend_schema(responses={200: DrawnRiderSerializer, 404: ProblemSerializer})
    def get(self, request: Request, run: int) -> Response:
        """How far the drawing is."""
        return Response(DrawnRiderSerializer(self._found(request, run)).data)

    @extend_schema(responses={204: None, 404: ProblemSerializer})
    def delete(self, request: Request, run: int) -> Response:
        """Stop drawing; what is drawn already stays."""
        found = self._found(request, run)
        if found.busy:
            Run.objects.filter(pk=found.pk).update(cancel_asked=True)
        return Response(status=status.HTTP_204_NO_CONTENT)

    def _found(self, request: Request, run: int) -> Run:
        found = drawn.drawn_for(run_of(request, run))
        if found is None:
            raise NotFound("No rider was asked for yet.")
        return found
