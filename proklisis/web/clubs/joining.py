"""Joining a club by its invitation."""

from __future__ import annotations

from typing import Any, TypeVar

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from proklisis.web.clubs.models import Coach, Invitation, OneUse, Role
from proklisis.web.errors import Conflict, ProblemSerializer

Link = TypeVar("Link", bound=OneUse)
USERNAME = serializers.RegexField(
    r"^[\w.@+-]+$", max_length=150, help_text="letters, digits and . @ + - _",
    error_messages={"invalid": "Use letters, digits and . @ + - _ only."},
)  # fmt: skip


class InvitedSerializer(serializers.Serializer[Any]):
    club = serializers.CharField()
    role = serializers.ChoiceField(Role.choices)
    by = serializers.CharField(allow_blank=True)


class JoinSerializer(serializers.Serializer[Any]):
    username = USERNAME
    name = serializers.CharField(max_length=120)
    email = serializers.EmailField(
        required=False, allow_blank=True, help_text="for a forgotten password"
    )
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class JoinView(APIView):
    authentication_classes = []
    permission_classes = [AllowAny]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "login"

    @extend_schema(
        operation_id="invitation", responses={200: InvitedSerializer, 404: ProblemSerializer}
    )
    def get(self, request: Request, token: str) -> Response:
        """What an invitation is for."""
        found = _open(token)
        return Response({"club": found.club.name, "role": found.role, "by": found.by_name})

    @extend_schema(
        operation_id="join", request=JoinSerializer,
        responses={201: None, 400: ProblemSerializer, 404: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request, token: str) -> Response:
        """Make an account in the club; the link does not work again."""
        given = JoinSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        with transaction.atomic():
            found = _open(token, locked=True)
            user = new_user(said)
            found.used_by = Coach.objects.create(
                user=user, club=found.club, name=said["name"], role=found.role
            )
            found.used_at = timezone.now()
            found.save(update_fields=["used_by", "used_at"])
        return Response(status=201)


def new_user(said: dict[str, Any]) -> User:
    """Save who joins by what they said of themselves; ValidationError for a password that will not do, Conflict for a name
    that is taken."""
    user = User(
        username=said["username"], email=said.get("email", ""), first_name=said["name"][:150]
    )
    try:
        validate_password(said["password"], user)
    except ValidationError as e:
        raise serializers.ValidationError({"password": " ".join(e.messages)}) from e
    user.set_password(said["password"])
    try:
        with transaction.atomic():
            user.save()
    except IntegrityError as e:
        raise Conflict("Somebody has this name for logging in already. Choose another.") from e
    return user


def still_open(found: Link | None) -> Link:
    """The link where it still works; NotFound where it does not."""
    if found is None or not found.open:
        raise NotFound("This invitation does not work any more. Ask the club for a new one.")
    return found


def _open(token: str, locked: bool = False) -> Invitation:
    rows = (
        Invitation.objects.select_for_update()
        if locked
        else Invitation.objects.select_related("club")
    )
    return still_open(rows.filter(token=token).first())
