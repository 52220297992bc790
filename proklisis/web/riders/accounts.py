"""Who logs in to a rider's own page: invited, shown and ended by coaches of the club."""

from __future__ import annotations

from typing import Any

from allauth.usersessions.models import UserSession
from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.web.clubs.access import coach_of, live_coach, of_club, only_of, riders_of
from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.members import ELSEWHERE, PathSerializer, new_password_path
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.riders.models import Rider, RiderAccount, RiderInvitation, Whose

#: People of one rider, with invitations that are open.
MOST = 12


class WhoseSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(Whose.choices)


class RiderAccountSerializer(serializers.ModelSerializer[RiderAccount]):
    name = serializers.CharField(source="user.first_name")
    username = serializers.CharField(source="user.username")
    kind = serializers.ChoiceField(Whose.choices)
    last_login = serializers.DateTimeField(source="user.last_login", allow_null=True)
    speaks = serializers.SerializerMethodField()

    class Meta:
        model = RiderAccount
        fields = ["id", "name", "username", "kind", "since", "last_login", "speaks"]

    def get_speaks(self, row: RiderAccount) -> bool:
        return row.speaks(timezone.now().year)


class RiderInvitationSerializer(serializers.ModelSerializer[RiderInvitation]):
    kind = serializers.ChoiceField(Whose.choices)
    path = serializers.SerializerMethodField()

    class Meta:
        model = RiderInvitation
        fields = ["id", "kind", "path", "expires"]

    def get_path(self, row: RiderInvitation) -> str:
        return f"/mine/join/{row.token}"


class RidersPeopleSerializer(serializers.Serializer[Any]):
    """Who logs in to a rider's own page, and who is invited to."""

    accounts = RiderAccountSerializer(many=True)
    invitations = RiderInvitationSerializer(many=True)


class RidersPeople(APIView):
    """Base of what is asked of one rider's people; nothing of it is for helpers."""

    not_for_helpers = ("get", "head")

    def rider(self, request: Request, rider: int) -> Rider:
        found: Rider = get_object_or_404(of_club(Rider.objects.all(), request), pk=rider)
        return found

    def answer(self, rider: Rider, status: int = 200) -> Response:
        accounts = rider.accounts.filter(ended_at=None).select_related("user", "rider")
        opened = [i for i in rider.invitations.all() if i.open]
        said = {
            "accounts": RiderAccountSerializer(accounts, many=True).data,
            "invitations": RiderInvitationSerializer(opened, many=True).data,
        }
        return Response(said, status=status)


class RidersPeopleView(RidersPeople):
    @extend_schema(operation_id="riders_people", responses=RidersPeopleSerializer)
    def get(self, request: Request, rider: int) -> Response:
        """Who logs in to the rider's own page."""
        return self.answer(self.rider(request, rider))

    @extend_schema(
        operation_id="invite_for_rider", request=WhoseSerializer,
        responses={201: RidersPeopleSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request, rider: int) -> Response:
        """Make a link by which the rider, or a guardian, comes to the rider's own page."""
        found = self.rider(request, rider)
        given = WhoseSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        people = found.accounts.filter(ended_at=None).count()
        if people + sum(i.open for i in found.invitations.all()) >= MOST:
            raise Conflict(
                f"{MOST} people come to this page or are invited to. Take one out first."
            )
        RiderInvitation.objects.create(
            rider=found, by=coach_of(request).user, **given.validated_data
        )
        return self.answer(found, 201)


class RidersPersonView(RidersPeople):
    @extend_schema(operation_id="end_riders_account", responses={200: RidersPeopleSerializer})
    def delete(self, request: Request, rider: int, account: int) -> Response:
        """End an account's way to the rider's page, at once."""
        found = self.rider(request, rider)
        end_account(get_object_or_404(found.accounts, pk=account, ended_at=None))
        return self.answer(found)

    @extend_schema(
        operation_id="new_password_for_riders_account", request=None, responses={200: PathSerializer, 409: ProblemSerializer}
    )  # fmt: skip
    def post(self, request: Request, rider: int, account: int) -> Response:
        """A link by which this person sets a new password, to be handed to them; it works once, for a few days."""
        found = self.rider(request, rider)
        row = get_object_or_404(found.accounts.select_related("user"), pk=account, ended_at=None)
        # Who coaches here has their password from an owner.
        if live_coach(row.user) is not None or not only_of(row.user, found.club_id):
            raise Conflict(ELSEWHERE)
        put_down(found.club, request.user, "made a link for a new password", found)
        return Response({"path": new_password_path(row.user)})


class RidersInvitationView(RidersPeople):
    @extend_schema(
        operation_id="withdraw_riders_invitation", responses={200: RidersPeopleSerializer}
    )
    def delete(self, request: Request, rider: int, invitation: int) -> Response:
        """Withdraw an invitation; its link does not work any more."""
        found = self.rider(request, rider)
        row = get_object_or_404(found.invitations, pk=invitation)
        row.withdrawn = True
        row.save(update_fields=["withdrawn"])
        return self.answer(found)


def end_account(account: RiderAccount) -> None:
    """End somebody's way to a rider's page; with the last one they are logged out everywhere."""
    with transaction.atomic():
        account.ended_at = timezone.now()
        account.save(update_fields=["ended_at"])
        user = account.user
        if live_coach(user) is None and not riders_of(user).exists():
            for session in UserSession.objects.filter(user=user):
                session.end()
