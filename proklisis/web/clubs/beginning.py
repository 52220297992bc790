"""A new club and its first owner, made by whoever knows the server's word for it."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import IntegrityError, transaction
from django.utils.crypto import constant_time_compare
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound, PermissionDenied
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.joining import JoinSerializer, new_user
from proklisis.web.clubs.models import Club, Coach, Role
from proklisis.web.errors import Conflict, ProblemSerializer


class NewClubSerializer(JoinSerializer):
    club = serializers.CharField(max_length=120)
    code = serializers.CharField(max_length=200, trim_whitespace=False)


class NewClubView(APIView):
    authentication_classes = []
    permission_classes = [AllowAny]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "login"

    @extend_schema(
        operation_id="new_club", request=NewClubSerializer,
        responses={201: None, 400: ProblemSerializer, 403: ProblemSerializer, 404: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request) -> Response:
        """Make a club with its first owner, who then invites the others."""
        if not settings.NEW_CLUBS:
            raise NotFound("New clubs are not made here. Ask whoever runs this server.")
        given = NewClubSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said: dict[str, Any] = given.validated_data
        if not constant_time_compare(said["code"], settings.NEW_CLUBS):
            raise PermissionDenied(
                "This is not the word for new clubs. Ask whoever runs this server."
            )
        with transaction.atomic():
            try:
                with transaction.atomic():
                    club = Club.objects.create(name=said["club"])
            except IntegrityError as e:
                raise Conflict("There is a club of this name already. Choose another.") from e
            user = new_user(said)
            Coach.objects.create(user=user, club=club, name=said["name"], role=Role.OWNER)
            put_down(club, user, "made the club")
        return Response(status=201)
