"""The numbers of an approved Script to take away: every reading as CSV, or run sheet and prescription as JSON."""

from __future__ import annotations

import csv
from typing import Any

from django.http import HttpResponse, JsonResponse
from django.utils.text import slugify
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request

from proklisis.core.errors import InputError
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.words import unit_words
from proklisis.web.errors import ProblemSerializer
from proklisis.web.scripts.models import Script
from proklisis.web.scripts.views import ScriptView

HEAD = ["unit", "side", "phase", "limb", "measure", "title", "value", "U", "in", "from_s", "to_s"]


class NumbersView(ScriptView):
    http_method_names = ["get"]

    @extend_schema(
        operation_id="script_numbers",
        parameters=[OpenApiParameter("form", str, enum=["csv", "json"], description="csv unless json is said")],
        responses={(200, "text/csv"): OpenApiTypes.BINARY, 400: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def get(self, request: Request, run: int) -> HttpResponse:  # type: ignore[override]
        """The numbers that an approved Script rests on, in the units of the run sheet."""
        form = request.query_params.get("form", "csv")
        if form not in ("csv", "json"):
            raise InputError(f"{form!r} is not known", "form", nearest(form, ("csv", "json")))
        script = self.approved(request, run)
        name = f"{slugify(script.run.rider.name) or 'rider'}-{script.run_id}.{form}"
        answer = as_json(script) if form == "json" else as_table(script)
        answer["Content-Disposition"] = f'attachment; filename="{name}"'
        return answer


def as_json(script: Script) -> HttpResponse:
    """``run-sheet/1`` and ``prescription/1`` as they were approved, with what the coach wrote around them."""
    assert script.approved is not None
    return JsonResponse(
        {
            "run_sheet": script.sheet or script.run.result.sheet,
            "prescription": script.approved["prescription"],
            "targets": script.approved["targets"],
            "message": script.approved["message"],
            "film_again": script.approved["retest_on"],
            "approved_at": script.approved_at,
            "version": script.version,
        },
        json_dumps_params={"indent": 1},
    )


def as_table(script: Script) -> HttpResponse:
    """One row a reading; U = 2u."""
    answer = HttpResponse(content_type="text/csv; charset=utf-8")
    table = csv.writer(answer)
    table.writerow(HEAD)
    sheet: dict[str, Any] = script.sheet or script.run.result.sheet
    segments = {s["n"]: s for s in sheet.get("segments", [])}
    for r in sheet.get("measures", []):
        segment = segments.get(r.get("segment"), {})
        known = r["id"] in REGISTRY
        table.writerow([
            r.get("segment") or "", segment.get("side") or "", r.get("phase") or "", r.get("limb") or "", r["id"],
            REGISTRY[r["id"]].title if known else "", f"{r['value']:.5g}", f"{2 * r['u']:.2g}",
            unit_words(r["id"]).strip() if known else "", segment.get("start_s", ""), segment.get("end_s", ""),
        ])  # fmt: skip
    return answer
