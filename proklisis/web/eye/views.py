"""Sessions of the Eye, their pictures, the profile, and hints for the Bench."""

from __future__ import annotations

import math
from collections.abc import Collection
from typing import Any

from django.http import FileResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.core.review import playbook, playbook_ids
from proklisis.simulate.items import EXERCISES
from proklisis.web.clubs.access import coach_of
from proklisis.web.errors import ProblemSerializer
from proklisis.web.eye.models import EyeItem
from proklisis.web.eye.pool import ask_for_more
from proklisis.web.eye.profile import hints, profile
from proklisis.web.eye.sessions import answer, next_items, open_items

#: Items that are given ahead at the most.
MOST = 5


class EyeStripSerializer(serializers.Serializer[Any]):
    """A picture of cells, row by row."""

    url = serializers.CharField()
    count = serializers.IntegerField()
    columns = serializers.IntegerField()
    cell_px = serializers.IntegerField()
    step_s = serializers.FloatField()


class EyeOptionSerializer(serializers.Serializer[Any]):
    id = serializers.CharField(allow_blank=True)
    title = serializers.CharField()


class EyeItemSerializer(serializers.Serializer[Any]):
    """A question; what is true is told with the answer."""

    id = serializers.IntegerField()
    exercise = serializers.ChoiceField(list(EXERCISES))
    discipline = serializers.CharField()
    title = serializers.CharField(help_text="the discipline's")
    level = serializers.CharField()
    view = serializers.CharField()
    ask = serializers.CharField()
    points = serializers.IntegerField(help_text="of a line to be drawn; 0 where none is")
    options = EyeOptionSerializer(many=True)
    titles = serializers.ListField(child=serializers.CharField(), help_text="of the pictures")
    strips = EyeStripSerializer(many=True)


class NextSerializer(serializers.Serializer[Any]):
    items = EyeItemSerializer(many=True)
    ready = serializers.IntegerField(help_text="items in the pool that fit")
    making = serializers.BooleanField(help_text="whether more are being made")


class GivenSerializer(serializers.Serializer[Any]):
    """An answer: one of the keys by the exercise."""

    frame = serializers.FloatField(required=False)
    line = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField(), min_length=2, max_length=2), required=False, max_length=3,
    )  # fmt: skip
    order = serializers.ListField(child=serializers.CharField(max_length=60), required=False, max_length=6)  # fmt: skip
    answer = serializers.CharField(required=False, allow_blank=True, max_length=60)


class EyeAnswerSerializer(serializers.Serializer[Any]):
    given = GivenSerializer()
    took_s = serializers.FloatField(min_value=0)

    def validate_took_s(self, given: float) -> float:
        if not math.isfinite(given):
            raise serializers.ValidationError("Give seconds.")
        return given


class ScoredSerializer(serializers.Serializer[Any]):
    """The truth, and how the answer compares with it."""

    right = serializers.BooleanField()
    error = serializers.FloatField(allow_null=True)
    unit = serializers.CharField(allow_blank=True)
    says = serializers.CharField(allow_blank=True, help_text="how far the answer is off")
    truth = serializers.CharField()
    answer = serializers.CharField(allow_null=True)
    order = serializers.ListField(child=serializers.CharField(), allow_null=True)
    frames = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    line = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()), allow_null=True
    )
    fault = serializers.CharField(allow_blank=True, help_text="the fault that it is about")
    due = serializers.DateTimeField(help_text="when its topic comes again")


class EyeIntervalSerializer(serializers.Serializer[Any]):
    """A figure with its 95 % interval."""

    value = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()


class EyeReadSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    title = serializers.CharField()
    unit = serializers.CharField()
    n = serializers.IntegerField()
    bias = EyeIntervalSerializer()
    spread = EyeIntervalSerializer()


class EyeSmallestSerializer(serializers.Serializer[Any]):
    """The smallest fault seen three times out of four, scales beyond its band."""

    exercise = serializers.CharField()
    discipline = serializers.CharField()
    title = serializers.CharField()
    view = serializers.CharField()
    size = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    n = serializers.IntegerField()


class EyeAlarmsSerializer(serializers.Serializer[Any]):
    d_prime = EyeIntervalSerializer()
    criterion = EyeIntervalSerializer()
    alarms = EyeIntervalSerializer(help_text="share of riders without a fault who were given one")
    n = serializers.IntegerField()
    clean = serializers.IntegerField()


class EyeShareSerializer(serializers.Serializer[Any]):
    exercise = serializers.CharField()
    right = serializers.IntegerField()
    n = serializers.IntegerField()
    low = serializers.FloatField()
    high = serializers.FloatField()


class EyeWeekSerializer(serializers.Serializer[Any]):
    start = serializers.IntegerField(help_text="days from the first answer")
    right = serializers.IntegerField()
    n = serializers.IntegerField()


class EyeAgreementSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(["kappa", "icc"])
    value = serializers.FloatField()
    low = serializers.FloatField(allow_null=True)
    high = serializers.FloatField(allow_null=True)
    items = serializers.IntegerField()
    coaches = serializers.IntegerField()
    says = serializers.CharField()

    def get_fields(self) -> dict[str, Any]:
        # A word of the language, which no attribute can be named after.
        return {"with": serializers.CharField(), **super().get_fields()}


class EyeProfileSerializer(serializers.Serializer[Any]):
    answers = serializers.IntegerField()
    read = EyeReadSerializer(many=True)
    smallest = EyeSmallestSerializer(many=True)
    alarms = EyeAlarmsSerializer(allow_null=True)
    shares = EyeShareSerializer(many=True)
    weeks = EyeWeekSerializer(many=True)
    agreement = EyeAgreementSerializer(many=True)


class HintsSerializer(serializers.Serializer[Any]):
    hints = serializers.DictField(child=serializers.CharField(), help_text="fault → hint; empty key: of all")  # fmt: skip


def _shown(item: EyeItem) -> dict[str, Any]:
    q = item.question
    files = [f for f in (item.first, item.second) if f]
    return {
        "id": item.pk, "exercise": item.exercise, "discipline": item.discipline, "title": playbook(item.discipline).title, "level": item.level,
        "view": item.view.replace("_", " "), "ask": q["ask"], "points": q.get("points", 0), "options": q.get("options", []), "titles": q.get("titles", []),
        "strips": [{**s, "url": f"/api/eye/items/{item.pk}/pictures/{k}"} for k, (s, _) in enumerate(zip(item.strips, files, strict=True))],
    }  # fmt: skip


def _known(what: str, said: str, known: Collection[str]) -> None:
    if said not in known:
        raise InputError(f"{said!r} is no {what}", what, f"there are {', '.join(known)}")


class NextView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("exercise", str), OpenApiParameter("discipline", str), OpenApiParameter("count", int),
            OpenApiParameter("leave", int, many=True, description="items that are before the coach already"),
        ],
        responses={200: NextSerializer, 400: ProblemSerializer},
    )  # fmt: skip
    def get(self, request: Request) -> Response:
        """What comes next for this coach; more is made where little is ahead."""
        exercise = request.query_params.get("exercise", "")
        discipline = request.query_params.get("discipline", "")
        if exercise:
            _known("exercise", exercise, EXERCISES)
        if discipline:
            _known("discipline", discipline, playbook_ids())
        count = request.query_params.get("count", "1")
        leave = [int(x[:15]) for x in request.query_params.getlist("leave") if x.isdecimal()][:50]
        coach = coach_of(request)
        wanted = min(int(count[:4]), MOST) if count.isdecimal() else 1
        items = next_items(coach, timezone.now(), wanted, leave, exercise, discipline)
        rows = open_items(coach, timezone.now())
        rows = rows.filter(exercise=exercise) if exercise else rows
        rows = rows.filter(discipline=discipline) if discipline else rows
        making = ask_for_more(discipline)
        return Response({"items": [_shown(i) for i in items], "ready": rows.count(), "making": making})  # fmt: skip


class PictureView(APIView):
    @extend_schema(responses={(200, "image/webp"): OpenApiTypes.BINARY})
    def get(self, request: Request, item: int, number: int) -> FileResponse:
        """One of an item's pictures; it never changes."""
        row = get_object_or_404(open_items(coach_of(request), timezone.now()), pk=item)
        file = row.first if number == 0 else row.second if number == 1 else None
        if not file:
            raise NotFound("This item has no such picture.")
        answer_ = FileResponse(file.open("rb"), content_type="image/webp")
        answer_["Cache-Control"] = "private, max-age=31536000, immutable"
        return answer_


class AnswerView(APIView):
    helpers_may = ("post",)

    @extend_schema(request=EyeAnswerSerializer, responses={200: ScoredSerializer, 400: ProblemSerializer})  # fmt: skip
    def post(self, request: Request, item: int) -> Response:
        """Answer an item and be told the truth."""
        row = get_object_or_404(open_items(coach_of(request), timezone.now()), pk=item)
        said = EyeAnswerSerializer(data=request.data)
        said.is_valid(raise_exception=True)
        given = dict(said.validated_data["given"])
        found, due = answer(coach_of(request), row, given, said.validated_data["took_s"], timezone.now())  # fmt: skip
        t = row.truth
        return Response({
            "right": found.right, "error": found.error, "unit": found.unit, "says": found.says, "truth": t["says"], "answer": t.get("answer"),
            "order": t.get("order"), "frames": t.get("frames"), "line": t.get("line"), "due": due,
            "fault": row.topic if row.topic in playbook(row.discipline).faults and row.size else "",
        })  # fmt: skip


class ProfileView(APIView):
    @extend_schema(responses={200: EyeProfileSerializer})
    def get(self, request: Request) -> Response:
        """What the coach's own answers say of their eye; nobody else sees it, but for how far two agree."""
        return Response(EyeProfileSerializer(profile(coach_of(request))).data)


class HintsView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("discipline", str, required=True)],
        responses={200: HintsSerializer, 400: ProblemSerializer},
    )
    def get(self, request: Request) -> Response:
        """What the coach's own sessions say of how they see the faults of a discipline."""
        discipline = request.query_params.get("discipline", "")
        _known("discipline", discipline, playbook_ids())
        return Response({"hints": hints(coach_of(request), discipline)})
