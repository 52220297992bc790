"""The people of a club: who they are, in which role, who is invited; changed by its owners."""

from __future__ import annotations

from typing import Any

from allauth.account.forms import default_token_generator
from allauth.account.utils import user_pk_to_url_str
from allauth.usersessions.models import UserSession
from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.web.clubs import second_factor
from proklisis.web.clubs.access import coach_of, only_of, riders_of
from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.models import Club, Coach, Invitation, Role
from proklisis.web.errors import Conflict, ProblemSerializer

MOST_OPEN = 50
#: A link for a password opens all that the account opens.
ELSEWHERE = "This person logs in for more than this club. They set a new password by mail."


class MemberSerializer(serializers.ModelSerializer[Coach]):
    username = serializers.CharField(source="user.username")
    role = serializers.ChoiceField(Role.choices, read_only=True)
    left_at = serializers.DateTimeField(allow_null=True, read_only=True)
    me = serializers.SerializerMethodField()
    second_factor = serializers.SerializerMethodField()
    last_login = serializers.DateTimeField(source="user.last_login", allow_null=True)

    class Meta:
        model = Coach
        fields = ["id", "name", "username", "role", "left_at", "me", "second_factor", "last_login"]

    def get_me(self, row: Coach) -> bool:
        return bool(row.pk == self.context["me"].pk)

    def get_second_factor(self, row: Coach) -> bool:
        return second_factor.asked_of(row.user)


class InvitationSerializer(serializers.ModelSerializer[Invitation]):
    role = serializers.ChoiceField(Role.choices, read_only=True)
    expires = serializers.DateTimeField(read_only=True)
    path = serializers.SerializerMethodField()

    class Meta:
        model = Invitation
        fields = ["id", "role", "path", "made", "expires"]

    def get_path(self, row: Invitation) -> str:
        return f"/join/{row.token}"


class ClubSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    role = serializers.ChoiceField(Role.choices, help_text="of who asks")
    asks_second_factor = serializers.BooleanField(help_text="of all its people")
    keeps_films_days = serializers.IntegerField(allow_null=True)
    members = MemberSerializer(many=True)
    invitations = InvitationSerializer(
        many=True, help_text="open ones; none are shown to others than owners"
    )


class RoleSerializer(serializers.Serializer[Any]):
    role = serializers.ChoiceField(Role.choices)


class MemberChangeSerializer(serializers.Serializer[Any]):
    role = serializers.ChoiceField(Role.choices, required=False)
    left = serializers.BooleanField(
        required=False, help_text="taken out of the club, or let in again"
    )


class PathSerializer(serializers.Serializer[Any]):
    path = serializers.CharField()


def new_password_path(user: Any) -> str:
    """Where somebody sets a new password, once, within a few days."""
    return f"/new-password/{user_pk_to_url_str(user)}-{default_token_generator.make_token(user)}"


class Answering(APIView):
    def answer(self, request: Request, status: int = 200) -> Response:
        me = coach_of(request)
        owner = me.role == Role.OWNER
        members = me.club.coaches.select_related("user").order_by("left_at", "name")
        opened = [i for i in me.club.invitations.all() if i.open] if owner else []
        said = {
            "name": me.club.name, "role": me.role, "asks_second_factor": me.club.asks_second_factor, "keeps_films_days": me.club.keeps_films_days,
            "members": MemberSerializer(members if owner else members.filter(left_at=None), many=True, context={"me": me}).data,
            "invitations": InvitationSerializer(opened, many=True).data,
        }  # fmt: skip
        return Response(said, status=status)


class ClubView(Answering):
    @extend_schema(responses=ClubSerializer)
    def get(self, request: Request) -> Response:
        """The club and its people."""
        return self.answer(request)


class ClubSettingsSerializer(serializers.Serializer[Any]):
    asks_second_factor = serializers.BooleanField(required=False)
    keeps_films_days = serializers.IntegerField(
        required=False,
        allow_null=True,
        min_value=7,
        max_value=3650,
        help_text="null: as long as their runs are there",
    )


class ClubSettingsView(Answering):
    owners_only = True

    @extend_schema(
        operation_id="club_settings", request=ClubSettingsSerializer,
        responses={200: ClubSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def patch(self, request: Request) -> Response:
        """Ask all people of the club for a second factor, or say how long films are kept."""
        given = ClubSettingsSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        me, said = coach_of(request), given.validated_data
        if said.get("asks_second_factor") and not second_factor.asked_of(me.user):
            raise Conflict(
                "Set up your own second factor first, on your account's page: you would be shut out yourself."
            )
        Club.objects.filter(pk=me.club_id).update(**said)
        me.club.refresh_from_db()
        if "asks_second_factor" in said:
            asks = said["asks_second_factor"]
            put_down(me.club, me.user, "asked everybody for a second factor" if asks else "asked nobody for a second factor any more")  # fmt: skip
        if "keeps_films_days" in said:
            days = said["keeps_films_days"]
            put_down(me.club, me.user, f"said that films are kept for {days} days" if days else "said that films are kept as long as their runs")  # fmt: skip
        return self.answer(request)


class InvitationsView(Answering):
    owners_only = True

    @extend_schema(request=RoleSerializer, responses={201: ClubSerializer, 409: ProblemSerializer})
    def post(self, request: Request) -> Response:
        """Make a link by which one person joins in a role."""
        given = RoleSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        me = coach_of(request)
        if sum(i.open for i in me.club.invitations.all()) >= MOST_OPEN:
            raise Conflict(f"{MOST_OPEN} invitations are open already. Withdraw one first.")
        Invitation.objects.create(club=me.club, by=me.user, **given.validated_data)
        return self.answer(request, 201)


class InvitationView(Answering):
    owners_only = True

    @extend_schema(responses={200: ClubSerializer})
    def delete(self, request: Request, invitation: int) -> Response:
        """Withdraw an invitation; its link does not work any more."""
        found = get_object_or_404(Invitation, pk=invitation, club=coach_of(request).club)
        found.withdrawn = True
        found.save(update_fields=["withdrawn"])
        return self.answer(request)


class MemberView(Answering):
    owners_only = True

    @extend_schema(
        request=MemberChangeSerializer, responses={200: ClubSerializer, 409: ProblemSerializer}
    )
    def patch(self, request: Request, member: int) -> Response:
        """Give somebody another role, take them out of the club, or let them in again."""
        given = MemberChangeSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        with transaction.atomic():
            club = Club.objects.select_for_update().get(pk=coach_of(request).club_id)
            found = get_object_or_404(club.coaches.select_related("user"), pk=member)
            found.role = given.validated_data.get("role", found.role)
            if "left" in given.validated_data:
                found.left_at = timezone.now() if given.validated_data["left"] else None
            found.save(update_fields=["role", "left_at"])
            if not club.coaches.filter(role=Role.OWNER, left_at=None).exists():
                raise Conflict("A club needs an owner. Make somebody else one first.")
            # They may still be somebody's guardian, or ride elsewhere.
            found.user.is_active = found.left_at is None or riders_of(found.user).exists()
            found.user.save(update_fields=["is_active"])
            if found.left_at is not None:
                for session in UserSession.objects.filter(user=found.user):
                    session.end()
        coach_of(request).refresh_from_db()
        return self.answer(request)


class NewPasswordView(Answering):
    owners_only = True

    @extend_schema(request=None, responses={200: PathSerializer, 409: ProblemSerializer})
    def post(self, request: Request, member: int) -> Response:
        """A link by which somebody of the club sets a new password, to be handed to them; it works once, for a few days."""
        me = coach_of(request)
        found = get_object_or_404(me.club.coaches.select_related("user"), pk=member, left_at=None)
        if not only_of(found.user, me.club_id):
            raise Conflict(ELSEWHERE)
        put_down(me.club, me.user, "made a link for a new password", found.name)
        return Response({"path": new_password_path(found.user)})
