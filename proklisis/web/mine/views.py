"""What riders and guardians see and say on their own page."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.http import FileResponse
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.exceptions import PermissionDenied
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.review import playbook
from proklisis.web.clubs.access import riders_of
from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.places import WeekField
from proklisis.web.errors import ProblemSerializer
from proklisis.web.mine.access import IsOfARider, account_of
from proklisis.web.plain import whole
from proklisis.web.riders.accounts import end_account
from proklisis.web.riders.agreeing import note
from proklisis.web.riders.ending import end
from proklisis.web.riders.keeping import as_file
from proklisis.web.riders.models import Agreed, Consent, RiderAccount, Whose
from proklisis.web.runs.models import Run
from proklisis.web.scripts.shared import link_to_answer

#: Answers on one page.
PAGE = 20
#: Written beside what somebody says on their own page.
TEXT = "own-page-1"


class OwnWordSerializer(serializers.ModelSerializer[Consent]):
    class Meta:
        model = Consent
        fields = ["kind", "given", "person", "at"]


class OwnAnswerSerializer(serializers.Serializer[Any]):
    """An answer of the coach."""

    run = serializers.IntegerField()
    discipline = serializers.CharField()
    title = serializers.CharField(allow_blank=True)
    filmed_on = serializers.DateField(allow_null=True)
    approved_at = serializers.DateTimeField()
    retest_on = serializers.DateField(allow_null=True)
    path = serializers.CharField(
        allow_null=True,
        help_text="its page; null where the coach took it back, or may not share it",
    )


class OwnAnswersSerializer(serializers.Serializer[Any]):
    count = serializers.IntegerField()
    rows = OwnAnswerSerializer(many=True)


class OwnPlaceSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    week = WeekField(min_length=7, max_length=7)


class OwnRiderSerializer(serializers.Serializer[Any]):
    """A rider as they, or a guardian, see them."""

    id = serializers.IntegerField()
    name = serializers.CharField()
    club = serializers.CharField()
    kind = serializers.ChoiceField(Whose.choices, help_text="as whom who asks is here")
    speaks = serializers.BooleanField(help_text="whether their word on consent counts")
    why_not = serializers.CharField(allow_blank=True)
    agreed = serializers.DictField(child=serializers.BooleanField())
    said = OwnWordSerializer(many=True, help_text="every word that was noted, in order")
    free = WeekField(min_length=7, max_length=7, allow_null=True)
    place = OwnPlaceSerializer(allow_null=True)
    asked_to_erase = serializers.DateTimeField(allow_null=True)


class MineSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    riders = OwnRiderSerializer(many=True)


class OwnAgreedSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(Agreed.choices)
    given = serializers.BooleanField()


class OwnChangeSerializer(serializers.Serializer[Any]):
    free = WeekField(min_length=7, max_length=7, allow_null=True)


class Mine(APIView):
    """Base of what is for riders and guardians."""

    permission_classes = [IsOfARider]


class MineView(Mine):
    @extend_schema(operation_id="mine", responses=MineSerializer)
    def get(self, request: Request) -> Response:
        """The riders whose pages are open to who asks."""
        rows = riders_of(request.user).select_related("rider__club", "rider__practises_at")
        return Response(
            {
                "name": request.user.first_name,  # type: ignore[union-attr]
                "riders": [_shown(a) for a in rows.order_by("rider__name", "id")],
            }
        )


class MyRiderView(Mine):
    @extend_schema(
        operation_id="change_mine", request=OwnChangeSerializer,
        responses={200: OwnRiderSerializer, 400: ProblemSerializer, 404: ProblemSerializer},
    )  # fmt: skip
    def patch(self, request: Request, rider: int) -> Response:
        """Say when the rider can practise."""
        account = account_of(request, rider)
        of_today(account)
        given = OwnChangeSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        account.rider.free = given.validated_data["free"]
        account.rider.save(update_fields=["free"])
        return Response(_shown(account))

    @extend_schema(operation_id="leave_mine", responses={204: None, 404: ProblemSerializer})
    def delete(self, request: Request, rider: int) -> Response:
        """See this rider's page no more."""
        end_account(account_of(request, rider))
        return Response(status=204)


class MyAnswersView(Mine):
    @extend_schema(
        operation_id="my_answers",
        parameters=[OpenApiParameter("offset", OpenApiTypes.INT)],
        responses={200: OwnAnswersSerializer, 404: ProblemSerializer},
    )
    def get(self, request: Request, rider: int) -> Response:
        """What the coach has answered, the newest first."""
        account = account_of(request, rider)
        of_today(account)
        runs = Run.objects.filter(
            rider=account.rider, removed_at=None, part_of=None, script__approved_at__isnull=False
        ).select_related("rider", "script")
        offset = whole(request.query_params.get("offset")) or 0
        page = runs.order_by("-script__approved_at", "-id")[offset : offset + PAGE]
        return Response({"count": runs.count(), "rows": [_answer(r) for r in page]})


class MyAgreedView(Mine):
    @extend_schema(
        operation_id="my_agreed", request=OwnAgreedSerializer,
        responses={200: OwnRiderSerializer, 400: ProblemSerializer, 403: ProblemSerializer, 404: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request, rider: int) -> Response:
        """Agree to something, or take it back; what rests on it ends at once."""
        account = account_of(request, rider)
        given = OwnAgreedSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        kind, yes = Agreed(given.validated_data["kind"]), given.validated_data["given"]
        # A minor may always say no.
        if not account.speaks(timezone.now().year) and (yes or account.kind == Whose.GUARDIAN):
            raise PermissionDenied(_why_not(account))
        with transaction.atomic():
            words = f"{request.user.first_name} ({Whose(account.kind).label.lower()}, own page)"  # type: ignore[union-attr]
            note(account.rider, kind, yes, request.user, words[-120:], TEXT)
            if not yes:
                end(account.rider, request.user, kind)
        return Response(_shown(account))


class MyFileView(Mine):
    @extend_schema(
        operation_id="my_file", responses={(200, "application/zip"): OpenApiTypes.BINARY, 404: ProblemSerializer}
    )  # fmt: skip
    def get(self, request: Request, rider: int) -> FileResponse:
        """Everything that is kept of the rider, as a ZIP."""
        account = account_of(request, rider)
        of_today(account)
        put_down(account.rider.club, request.user, "exported everything of", account.rider)
        return as_file(account.rider)


class MyErasingView(Mine):
    @extend_schema(operation_id="ask_to_erase", request=None, responses={200: OwnRiderSerializer, 404: ProblemSerializer})  # fmt: skip
    def post(self, request: Request, rider: int) -> Response:
        """Ask the club to erase everything of the rider."""
        return self._asked(request, rider, True)

    @extend_schema(operation_id="ask_not_to_erase", responses={200: OwnRiderSerializer, 404: ProblemSerializer})  # fmt: skip
    def delete(self, request: Request, rider: int) -> Response:
        """Take the question back."""
        return self._asked(request, rider, False)

    def _asked(self, request: Request, rider: int, asked: bool) -> Response:
        account = account_of(request, rider)
        if not account.speaks(timezone.now().year):
            raise PermissionDenied(_why_not(account))
        account.rider.asked_to_erase = timezone.now() if asked else None
        account.rider.save(update_fields=["asked_to_erase"])
        return Response(_shown(account))


def of_today(account: RiderAccount) -> None:
    """Raise PermissionDenied for a guardian of somebody who is grown up by now."""
    if account.kind == Whose.GUARDIAN and not account.speaks(timezone.now().year):
        raise PermissionDenied(_why_not(account))


def _why_not(account: RiderAccount) -> str:
    name = account.rider.name
    if account.kind == Whose.GUARDIAN:
        return f"{name} is grown up: what is kept of them is theirs to see and to say."
    if account.rider.born is None:
        return "The club does not know in which year you were born. Tell them; until then a guardian says yes for you. You may say no yourself."
    return "A guardian says yes for you until you are grown up. You may say no yourself."


def _shown(account: RiderAccount) -> dict[str, Any]:
    rider = account.rider
    speaks = account.speaks(timezone.now().year)
    mine = speaks or account.kind == Whose.RIDER
    place = rider.practises_at
    return {
        "id": rider.pk, "name": rider.name, "club": rider.club.name, "kind": account.kind, "speaks": speaks,
        "why_not": "" if speaks else _why_not(account), "agreed": rider.agreed if mine else {},
        "said": OwnWordSerializer(rider.consents.all() if mine else [], many=True).data,
        "free": rider.free if mine else None,
        "place": {"name": place.name, "week": place.week} if place else None,
        "asked_to_erase": rider.asked_to_erase,
    }  # fmt: skip


def _answer(run: Run) -> dict[str, Any]:
    script = run.script
    return {
        "run": run.pk, "discipline": playbook(run.discipline).title, "title": run.title, "filmed_on": run.filmed_on,
        "approved_at": script.approved_at, "retest_on": (script.approved or {}).get("retest_on"),
        "path": link_to_answer(run, again=True),
    }  # fmt: skip
