"""Who did what in a club, the newest first, for its owners."""

from __future__ import annotations

from typing import Any

from auditlog.models import LogEntry
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.web.clubs.access import coach_of
from proklisis.web.plain import whole

PAGE = 100
VERBS = {
    LogEntry.Action.CREATE: "made",
    LogEntry.Action.UPDATE: "changed",
    LogEntry.Action.DELETE: "deleted",
    LogEntry.Action.ACCESS: "opened",
}
#: What a row is called before its name; the others say it themselves.
KINDS = {
    "rider": "rider",
    "run": "run",
    "coach": "member",
    "clubtext": "text",
    "reference": "reference",
    "place": "place",
}
#: So much of a changed text is shown.
LONGEST = 60


class DoneRowSerializer(serializers.Serializer[Any]):
    at = serializers.DateTimeField()
    who = serializers.CharField(allow_blank=True, help_text="empty where nobody was logged in")
    what = serializers.CharField()
    about = serializers.CharField(allow_blank=True)
    changes = serializers.ListField(child=serializers.CharField())
    address = serializers.CharField(allow_blank=True)


class DoneSerializer(serializers.Serializer[Any]):
    count = serializers.IntegerField()
    rows = DoneRowSerializer(many=True)


class DoneView(APIView):
    owners_only = True

    @extend_schema(
        parameters=[
            OpenApiParameter("offset", OpenApiTypes.INT),
            OpenApiParameter("find", OpenApiTypes.STR, description="part of who, or of whom it is about"),
        ],
        responses={200: DoneSerializer},
    )  # fmt: skip
    def get(self, request: Request) -> Response:
        """A page of what was done."""
        club = coach_of(request).club_id
        entries = LogEntry.objects.filter(additional_data__club=club).select_related(
            "actor__coach", "content_type"
        )
        if find := request.query_params.get("find", "").strip():
            entries = entries.filter(object_repr__icontains=find) | entries.filter(
                actor__coach__name__icontains=find
            )
        offset = whole(request.query_params.get("offset")) or 0
        entries = entries.order_by("-timestamp", "-id")
        return Response(
            {"count": entries.count(), "rows": [row(e) for e in entries[offset : offset + PAGE]]}
        )


def row(entry: LogEntry) -> dict[str, Any]:
    """An entry in words."""
    more = entry.additional_data or {}
    actor = entry.actor
    what = more.get("what", "")
    return {
        "at": entry.timestamp,
        "who": (
            actor.coach.name
            if hasattr(actor, "coach")
            else actor.first_name or actor.get_username()
        )
        if actor
        else "",
        "what": what or f"{VERBS[entry.action]} {KINDS.get(entry.content_type.model, '')}".strip(),
        "about": more.get("about", "") if what else entry.object_repr,
        "changes": [] if what or entry.action != LogEntry.Action.UPDATE else _changes(entry),
        "address": entry.remote_addr or "",
    }


def _changes(entry: LogEntry) -> list[str]:
    out = []
    for name, (was, now) in entry.changes_display_dict.items():
        out.append(f"{name}: {_short(was)} → {_short(now)}")
    return out


def _short(value: Any) -> str:
    text = "nothing" if value in (None, "", "None") else str(value)
    return text if len(text) <= LONGEST else f"{text[: LONGEST - 1]}…"
