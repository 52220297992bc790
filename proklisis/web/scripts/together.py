"""Runs whose riders can be answered together: not yet approved, of one discipline, with one main cause at one level."""

from __future__ import annotations

from typing import Any

from django.db.models.fields.json import KeyTextTransform, KeyTransform
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.imperial import NOT_SENTENCES, in_feet
from proklisis.core.playbook.words import describe_evidence
from proklisis.web.clubs.access import coach_of, in_feet_for
from proklisis.web.clubs.books import club_playbook
from proklisis.web.clubs.models import Club
from proklisis.web.runs.models import Run

STALE = "Something was changed since it was judged. Open its Script first."
#: So many runs are looked through, the newest first; so many numbers of each are told.
MOST_RUNS, MOST_WORDS = 400, 2


class TogetherRunSerializer(serializers.Serializer[Any]):
    run = serializers.IntegerField()
    rider = serializers.CharField()
    number = serializers.IntegerField(allow_null=True)
    title = serializers.CharField(allow_blank=True)
    says = serializers.ListField(child=serializers.CharField(), help_text="their own numbers of it")
    verdict = serializers.CharField()
    told = serializers.BooleanField(help_text="a coach has told it already")
    message = serializers.BooleanField(help_text="a message is written already")
    may_share = serializers.BooleanField()
    trouble = serializers.CharField(
        allow_blank=True, help_text="why it cannot be approved; may be empty"
    )


class TogetherSerializer(serializers.Serializer[Any]):
    """Runs with one main cause at one level."""

    discipline = serializers.CharField()
    discipline_title = serializers.CharField()
    fault = serializers.CharField()
    title = serializers.CharField()
    level = serializers.CharField()
    cues = serializers.ListField(child=serializers.CharField())
    runs = TogetherRunSerializer(many=True)


class TogetherView(APIView):
    @extend_schema(responses={200: TogetherSerializer(many=True)})
    def get(self, request: Request) -> Response:
        """Groups of two or more, the largest first."""
        said = groups(coach_of(request).club)
        return Response(in_feet(said, NOT_SENTENCES) if in_feet_for(request) else said)


def groups(club: Club) -> list[dict[str, Any]]:
    """A club's unapproved judged runs by discipline, main cause and level; those of one are no group."""
    waiting = (
        Run.objects.filter(
            club=club, removed_at=None, part_of=None, result__isnull=False, rider__removed_at=None
        )
        .exclude(script__approved_at__isnull=False)
        .annotate(
            main=KeyTextTransform("fault", KeyTransform("main", "result__prescription")),
            judged=KeyTransform("main", "result__prescription"),
            found=KeyTransform("findings", "result__prescription"),
        )
        .filter(main__isnull=False)
        .select_related("rider", "script", "telling", "result")
        .defer("camera", "result__sheet", "result__bench", "result__prescription", "script__approved", "telling__body")
        .order_by("-added")[:MOST_RUNS]
    )  # fmt: skip
    sets: dict[tuple[str, str, str], list[Any]] = {}
    for run in waiting:
        sets.setdefault((run.discipline, run.main, run.level), []).append(run)
    out = []
    for (discipline, fault, level), rows in sorted(sets.items(), key=lambda x: -len(x[1])):
        if len(rows) < 2:
            continue
        book = club_playbook(club, discipline)
        out.append({
            "discipline": discipline, "discipline_title": book.title, "fault": fault, "level": level,
            "title": book.faults[fault].title if fault in book.faults else rows[0].judged["title"],
            "cues": list(book.faults[fault].cues) if fault in book.faults else [],
            "runs": [_row(r, book.unit) for r in rows],
        })  # fmt: skip
    return out


def _row(run: Any, unit: str) -> dict[str, Any]:
    found = next((f for f in run.found if f["fault"] == run.main), None)
    evidence = sorted(found["evidence"], key=lambda e: -e["p"])[:MOST_WORDS] if found else []
    return {
        "run": run.pk, "rider": run.rider.name, "number": run.rider.number, "title": run.title,
        "says": [describe_evidence(e, unit) for e in evidence], "verdict": run.judged["verdict"],
        "told": hasattr(run, "telling"), "message": hasattr(run, "script") and bool(run.script.message),
        "may_share": run.rider.may_be_shared(timezone.now().year), "trouble": run.result.trouble or (STALE if run.result.stale else ""),
    }  # fmt: skip
