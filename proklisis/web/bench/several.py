"""Clips of a run on its Bench: adding one, and laying it over the first one in time."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.web.analysis import several
from proklisis.web.analysis.reviewing import brought_up_to_date
from proklisis.web.bench.shown import BenchSerializer
from proklisis.web.errors import ProblemSerializer
from proklisis.web.runs.models import Run
from proklisis.web.runs.serializers import RunSerializer
from proklisis.web.runs.writing import one_writer


class MoreClipSerializer(serializers.Serializer[Any]):
    same_pass = serializers.BooleanField(
        help_text="filmed at the same time as the first clip; else of another pass"
    )


class MatchSerializer(serializers.Serializer[Any]):
    by = serializers.ChoiceField(["sound", "units", "clock", "hand"])
    at_s = serializers.FloatField(required=False, help_text="by hand: this clip's time")
    first_s = serializers.FloatField(
        required=False, help_text="by hand: the first clip's time of the same moment"
    )


class SeveralActions(viewsets.GenericViewSet[Run]):
    @extend_schema(
        request=MoreClipSerializer, responses={201: RunSerializer, 409: ProblemSerializer}
    )
    @action(detail=True, methods=["post"])
    def clips(self, request: Request, pk: str) -> Response:
        """Make room for another clip of this run. It is sent to the run that this answers with."""
        given = MoreClipSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        made = several.add(self.get_object(), **given.validated_data)
        return Response(self.get_serializer(made).data, status=201)

    @extend_schema(
        request=MatchSerializer,
        responses={200: BenchSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    @action(detail=True, methods=["post"])
    def match(self, request: Request, pk: str) -> Response:
        """Lay another clip of the same pass over the first one in time."""
        run = self.get_object()
        given = MatchSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        with one_writer(run):
            several.match(run, **given.validated_data)
        first = several.first_of(run)
        if hasattr(first, "result"):
            brought_up_to_date(first)
        return Response(self._bench(run))

    def _bench(self, run: Run) -> dict[str, Any]:
        raise NotImplementedError


def clips_shown(run: Run) -> dict[str, Any]:
    """All clips of a run, as its Bench and those of its other clips show them."""
    first = several.first_of(run)
    runs = [first, *several.others_of(first)]
    return {
        "clips": [
            {
                "run": r.pk, "view": r.view or (r.result.sheet["clip"].get("view", "") if hasattr(r, "result") else ""),
                "pass_no": r.pass_no, "offset_s": 0.0 if r.pk == first.pk else r.offset_s,
                "offset_pm_s": 0.0 if r.pk == first.pk else None if r.offset_u_s is None else round(2 * r.offset_u_s, 3),
                "offset_by": r.offset_by, "state": r.state, "problem": r.problem, "measured": hasattr(r, "result"),
                "here": r.pk == run.pk,
            }
            for r in runs
        ],
        "unused_clips": first.result.unused_clips if hasattr(first, "result") else [],
    }  # fmt: skip
