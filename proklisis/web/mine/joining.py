"""Coming to a rider's own page by an invitation: with an account of one's own, or one that is there already."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.permissions import AllowAny, IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from proklisis.web.clubs.joining import JoinSerializer, new_user, still_open
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.riders.models import RiderAccount, RiderInvitation, Whose


class InvitedToSerializer(serializers.Serializer[Any]):
    """What an invitation opens."""

    club = serializers.CharField()
    rider = serializers.CharField()
    kind = serializers.ChoiceField(Whose.choices)
    by = serializers.CharField(allow_blank=True)


class MineJoinView(APIView):
    authentication_classes = []
    permission_classes = [AllowAny]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "login"

    @extend_schema(
        operation_id="riders_invitation",
        responses={200: InvitedToSerializer, 404: ProblemSerializer},
    )
    def get(self, request: Request, token: str) -> Response:
        """What an invitation is for."""
        found = _open(token)
        return Response({
            "club": found.rider.club.name, "rider": found.rider.name, "kind": found.kind, "by": found.by_name,
        })  # fmt: skip

    @extend_schema(
        operation_id="join_as_rider", request=JoinSerializer,
        responses={201: None, 400: ProblemSerializer, 404: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request, token: str) -> Response:
        """Make an account that sees the rider's page; the link does not work again."""
        given = JoinSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        with transaction.atomic():
            found = _open(token, locked=True)
            _take(found, new_user(given.validated_data))
        return Response(status=201)


class MineTakeView(APIView):
    permission_classes = [IsAuthenticated]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "login"

    @extend_schema(
        operation_id="join_with_account", request=None,
        responses={201: None, 404: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request, token: str) -> Response:
        """Add the rider's page to the account that is logged in; the link does not work again."""
        with transaction.atomic():
            _take(_open(token, locked=True), request.user)
        return Response(status=201)


def _open(token: str, locked: bool = False) -> RiderInvitation:
    rows = RiderInvitation.objects.filter(rider__removed_at=None)
    rows = rows.select_for_update() if locked else rows.select_related("rider__club")
    return still_open(rows.filter(token=token).first())


def _take(invitation: RiderInvitation, user: Any) -> None:
    if RiderAccount.objects.filter(user=user, rider=invitation.rider, ended_at=None).exists():
        raise Conflict("You see this page already. Keep the invitation for somebody else.")
    RiderAccount.objects.create(user=user, rider=invitation.rider, kind=invitation.kind)
    invitation.used_at = timezone.now()
    invitation.save(update_fields=["used_at"])
