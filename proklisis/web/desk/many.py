"""What is done to several runs at once."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.web.clips import removing
from proklisis.web.clubs.access import of_club
from proklisis.web.errors import ProblemSerializer
from proklisis.web.runs.models import Run


class ManySerializer(serializers.Serializer[Any]):
    """What is done to several runs at once."""

    runs = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=500)
    due = serializers.DateField(required=False, allow_null=True)
    removed = serializers.BooleanField(required=False)


class ManyDoneSerializer(serializers.Serializer[Any]):
    runs = serializers.ListField(child=serializers.IntegerField(), help_text="those it was done to")


class ManyView(APIView):
    @extend_schema(
        operation_id="change_many", request=ManySerializer,
        responses={200: ManyDoneSerializer, 400: ProblemSerializer, 404: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request) -> Response:
        """Set the day that several runs are due, or remove them or bring them back."""
        given = ManySerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        if ("due" in said) == ("removed" in said):
            raise InputError("one thing at a time", "due", "set a day, or remove them")
        back = said.get("removed") is False
        rows = of_club(Run.objects.filter(pk__in=said["runs"]), request, removed=back)
        done = []
        with transaction.atomic():
            for run in rows.select_related("rider").order_by("id"):
                if "due" in said:
                    run.due = said["due"]
                    run.save(update_fields=["due"])
                elif not back:
                    removing.remove(run)
                elif run.rider.removed_at is None:
                    removing.bring_back(run)
                else:
                    continue
                done.append(run.pk)
        return Response({"runs": done})
