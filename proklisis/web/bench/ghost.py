"""The rider's own figure with the main thing mended, drawn over the picture."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.core.imperial import in_feet
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.mended.ghost import ghost
from proklisis.core.review import playbook
from proklisis.core.splitting.library import splitter
from proklisis.web.analysis.compared import compared, run_of
from proklisis.web.clubs.access import in_feet_for
from proklisis.web.errors import ProblemSerializer
from proklisis.web.plain import whole


class GhostSerializer(serializers.Serializer[Any]):
    row = serializers.IntegerField(
        allow_null=True, help_text="the frame that it is drawn in, counted as the Bench's times are"
    )
    joints = serializers.DictField(
        child=serializers.ListField(child=serializers.FloatField()), help_text="landmark → pixels of the clip"
    )  # fmt: skip
    says = serializers.CharField(help_text="what is drawn otherwise, and by how much")
    lacking = serializers.CharField(help_text="why it is not drawn; empty where it is")


class GhostView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("unit", int, required=True)],
        responses={200: GhostSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def get(self, request: Request, run: int) -> Response:
        """The figure in the frame of a unit in which the main thing shows, with its measure at the edge of its band."""
        row = run_of(request, run)
        got = compared(row)
        unit = whole(request.query_params.get("unit"))
        if unit is None:
            raise InputError("the unit is not said", "unit", "give its number")
        drawn = _drawn(row.result.prescription, got.review, row.discipline, unit)
        if in_feet_for(request):
            drawn["says"] = in_feet(drawn["says"], frozenset())
        return Response(drawn)


def _drawn(prescription: dict[str, Any], done: Any, discipline: str, unit: int) -> dict[str, Any]:
    none: dict[str, Any] = {"row": None, "joints": {}, "says": ""}
    main = prescription["main"]
    if main is None:
        return {**none, "lacking": "Nothing is the main thing on this run, so there is nothing to mend."}  # fmt: skip
    found = next((f for f in prescription["findings"] if f["fault"] == main["fault"]), None)
    here = [e for e in (found or {}).get("evidence", []) if e["segment"] == unit and e["band"]]
    # What can be drawn comes first, then what is surest.
    here.sort(key=lambda e: (not _each_frame(e["measure"]), -e["p"]))
    for e in here:
        place = (e["measure"], e["segment"], e["phase"], e["limb"])
        read = next((r for r in done.readings if (r.id, r.segment, r.phase, r.limb) == place), None)
        if read is None:
            continue
        got = ghost(done, splitter(playbook(discipline).split or ""), read, tuple(e["band"]))
        joints = {n: [round(x, 1), round(y, 1)] for n, (x, y) in got.joints.items()}
        return {"row": got.row, "joints": joints, "says": got.says, "lacking": got.lacking}
    return {**none, "lacking": "The main thing was not measured in this unit. Go to one that stands beside it."}  # fmt: skip


def _each_frame(measure: str) -> bool:
    return measure in REGISTRY and REGISTRY[measure].each_frame
