"""The turn sheet of a run: its units and phases as pictures with their numbers, and the same as a table."""

from __future__ import annotations

import csv
import io
from typing import Any

import numpy as np
from django.http import FileResponse, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.comparing.pair import Run as Compared
from proklisis.core.comparing.turn_sheet import turn_sheet
from proklisis.core.imperial import NOT_SENTENCES, in_feet
from proklisis.core.measures.lines import line_points
from proklisis.core.shapes.turn_sheet import TurnSheet
from proklisis.web.analysis.compared import compared, run_of
from proklisis.web.analysis.payload import drawn_points
from proklisis.web.clips import crops
from proklisis.web.clubs.access import in_feet_for
from proklisis.web.errors import ProblemSerializer
from proklisis.web.runs.models import Crop, Run
from proklisis.web.shape import Shape


class CellPictureSerializer(serializers.Serializer[Any]):
    """The picture of one cell; the cells are counted along the rows."""

    url = serializers.CharField(
        allow_null=True, help_text="null while it is made, or where it cannot be"
    )
    problem = serializers.CharField(help_text="why there is none; empty while it is made")
    line = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()),
        help_text="points of the line that the number was read along, shares of the picture's sides",
    )


class ShownTurnSheetSerializer(serializers.Serializer[Any]):
    sheet = Shape(TurnSheet)
    pictures = CellPictureSerializer(many=True)
    waiting = serializers.IntegerField(help_text="pictures that are still being made")


ASKED = [
    OpenApiParameter("show", str, description="measure|limb that the cells show"),
    OpenApiParameter("columns", str, many=True, description="measure|phase|limb of more columns"),
]


class TurnSheetView(APIView):
    @extend_schema(
        parameters=ASKED,
        responses={200: ShownTurnSheetSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def get(self, request: Request, run: int) -> Response:
        """Units by phases. Pictures that are not there yet are made by a job; ask again until none is waited for."""
        row = run_of(request, run)
        got = compared(row)
        sheet = _sheet(request, row, got)
        cells = [c for r in sheet["rows"] for c in r["cells"]]
        made = crops.asked(row, (c["frame"] for c in cells))
        pictures = _pictures(row, got, sheet, made)
        waiting = sum(p["url"] is None and not p["problem"] for p in pictures)
        shown = in_feet(sheet, NOT_SENTENCES) if in_feet_for(request) else sheet
        return Response({"sheet": shown, "pictures": pictures, "waiting": waiting})


class TurnSheetTableView(APIView):
    @extend_schema(
        parameters=ASKED, responses={(200, "text/csv"): OpenApiTypes.STR, 400: ProblemSerializer}
    )
    def get(self, request: Request, run: int) -> HttpResponse:
        """The numbers of the sheet as a CSV file: a row for each unit, a value and its ± (U = 2u) in two columns."""
        row = run_of(request, run)
        sheet = _sheet(request, row, compared(row))
        out = io.StringIO()
        writer = csv.writer(out)
        named = [f"{sheet['title']}, {p.replace('_', ' ')}" for p in sheet["phases"]]
        heads = [
            (f"{n} ({sheet['symbol'].strip()})", f"{n} ±") for n in (named if sheet["key"] else [])
        ]
        heads += [
            (f"{c['title']} ({c['unit'].strip()})", f"{c['title']} ±") for c in sheet["columns"]
        ]
        writer.writerow([sheet["unit"], "side", "start (s)", "end (s)", *(h for two in heads for h in two)])  # fmt: skip
        for k, r in enumerate(sheet["rows"]):
            by_phase = {c["phase"]: c["read"] for c in r["cells"]}
            values = [by_phase.get(p) for p in sheet["phases"]] if sheet["key"] else []
            values += [c["values"][k] for c in sheet["columns"]]
            cells = [x for v in values for x in ((v["words"].replace("−", "-"), v["pm"]) if v else ("", ""))]  # fmt: skip
            writer.writerow(
                [r["n"], r["finest_side"] or r["side"] or "", r["start"], r["end"], *cells]
            )
        answer = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
        answer["Content-Disposition"] = f'attachment; filename="run-{row.pk}-{sheet["unit"]}s.csv"'
        return answer


class CropView(APIView):
    @extend_schema(responses={(200, "image/jpeg"): OpenApiTypes.BINARY, 404: ProblemSerializer})
    def get(self, request: Request, run: int, crop: int) -> HttpResponseBase:
        """The rider in one frame."""
        row = run_of(request, run)
        kept = get_object_or_404(Crop, pk=crop, track_set__run=row)
        if not kept.file:
            raise NotFound("This picture is not made yet.")
        answer = FileResponse(kept.file.open("rb"), content_type="image/jpeg")
        answer["Cache-Control"] = "private, max-age=86400, immutable"
        return answer


def _sheet(request: Request, row: Run, got: Compared) -> TurnSheet:
    given = request.query_params
    main = row.result.prescription.get("main") or {}
    found = [f for f in row.result.findings() if f["fault"] == main.get("fault")]
    measures = [e["measure"] for f in found for e in f["evidence"]]
    first = measures[0] if measures else "lean"
    return turn_sheet(got, first, given.get("show", ""), given.getlist("columns"))


def _pictures(
    row: Run, got: Compared, sheet: TurnSheet, made: dict[int, Crop]
) -> list[dict[str, Any]]:
    assert got.review is not None
    tracks = got.review.tracks
    names, xy = drawn_points(tracks)
    outside = {u.n: u.outside_foot or "l" for u in got.review.units}
    measure, _, limb = (sheet["key"] or "").partition("|")
    out: list[dict[str, Any]] = []
    for r in sheet["rows"]:
        for cell in r["cells"]:
            crop = made.get(cell["frame"])
            if crop is None:
                out.append({"url": None, "problem": "This run has no clip here.", "line": []})
                continue
            at = int(np.abs(tracks.frames - cell["frame"]).argmin())
            here = {n: xy[at, k] for k, n in enumerate(names)}
            line = (
                [here.get(n) for n in line_points(measure, outside[r["n"]], limb)]
                if measure
                else []
            )
            out.append({
                "url": f"/api/runs/{row.pk}/crops/{crop.pk}" if crop.file else None, "problem": crop.problem,
                "line": [_share(p, crop.box) for p in line if p is not None and np.isfinite(p).all()],
            })  # fmt: skip
    return out


def _share(point: Any, box: list[float]) -> list[float]:
    return [round(float((point[k] - box[k]) / box[2 + k]), 4) for k in (0, 1)]
