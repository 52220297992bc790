"""Log in, log out, and who I am."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.signals import user_login_failed
from django.middleware.csrf import get_token
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.authentication import SessionAuthentication
from rest_framework.exceptions import NotAuthenticated
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from proklisis.web.clubs import second_factor
from proklisis.web.clubs.access import lacks_second_factor, live_coach, riders_of
from proklisis.web.clubs.models import UNITS, Role
from proklisis.web.errors import ProblemSerializer
from proklisis.web.plain import PlainJSONParser


class LoginSerializer(serializers.Serializer[Any]):
    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)
    code = serializers.CharField(
        max_length=40, required=False, allow_blank=True, help_text="of the second factor, where the account has one"
    )  # fmt: skip


#: What somebody is in a club; riders and guardians see their own pages and nothing else.
ROLES = [*Role.choices, ("rider", "Rider"), ("guardian", "Guardian")]


class SessionSerializer(serializers.Serializer[Any]):
    """Who is logged in; the names are empty when nobody is. ``coach`` is empty for riders and guardians."""

    logged_in = serializers.BooleanField()
    name = serializers.CharField()
    coach = serializers.CharField()
    club = serializers.CharField()
    units = serializers.ChoiceField(UNITS, help_text="what lengths and speeds are shown in")
    role = serializers.ChoiceField(ROLES)
    second_factor = serializers.BooleanField(help_text="logging in asks for a code")
    second_factor_first = serializers.BooleanField(
        help_text="the club asks for one, and nothing of it is shown before it is set up"
    )
    csrf = serializers.CharField(help_text="send it back as X-CSRFToken with every change")


def _session(request: Request) -> dict[str, Any]:
    user = request.user
    coach = live_coach(user)
    own = None if coach or not user.is_authenticated else riders_of(user).select_related("rider__club").first()  # fmt: skip
    club = coach.club if coach else own.rider.club if own else None
    return {
        "logged_in": club is not None,
        "name": coach.name if coach else user.first_name if own else "",  # type: ignore[union-attr]
        "coach": coach.name if coach else "",
        "club": club.name if club else "",
        "units": coach.units if coach else "metric",
        "role": coach.role if coach else own.kind if own else Role.HELPER,
        "second_factor": club is not None and second_factor.asked_of(user),
        "second_factor_first": coach is not None and lacks_second_factor(coach),
        "csrf": get_token(request._request),
    }


class UnitsSerializer(serializers.Serializer[Any]):
    units = serializers.ChoiceField(UNITS)


class LoginThrottle(ScopedRateThrottle):
    """Counts attempts to log in, not questions about the session."""

    def allow_request(self, request: Request, view: APIView) -> bool:
        return request.method != "POST" or super().allow_request(request, view)


class SessionView(APIView):
    helpers_may = ("post", "patch", "delete")
    permission_classes = [AllowAny]
    throttle_classes = [LoginThrottle]
    throttle_scope = "login"
    parser_classes = [PlainJSONParser]

    @extend_schema(responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        return Response(_session(request))

    @extend_schema(
        request=LoginSerializer, responses={200: SessionSerializer, 400: ProblemSerializer}
    )
    def post(self, request: Request) -> Response:
        # Nobody is logged in yet, so nothing else asks whether this comes from our own page.
        SessionAuthentication().enforce_csrf(request)
        given = LoginSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        code = given.validated_data.pop("code", "")
        user = authenticate(request._request, **given.validated_data)
        if user is None or (live_coach(user) is None and not riders_of(user).exists()):
            return Response(
                {"problem": "Name and password do not match. Check both and try again."}, status=400
            )
        if second_factor.asked_of(user):
            if not code:
                return Response({"problem": "Type the code that your authenticator shows.", "needs_code": True}, status=400)  # fmt: skip
            if not second_factor.is_right(user, code):
                # A wrong code counts like a wrong password.
                credentials = {"username": given.validated_data["username"]}
                user_login_failed.send(
                    sender=__name__, credentials=credentials, request=request._request
                )
                return Response(
                    {"problem": "This code is not right, or was used already. Wait for the next one.", "needs_code": True},
                    status=400,
                )  # fmt: skip
        login(request._request, user)
        request.user = user
        return Response(_session(request))

    @extend_schema(
        request=UnitsSerializer, responses={200: SessionSerializer, 400: ProblemSerializer}
    )
    def patch(self, request: Request) -> Response:
        """Choose the units that lengths and speeds are shown in."""
        given = UnitsSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        coach = live_coach(request.user)
        if coach is None:
            raise NotAuthenticated("Log in to go on.")
        coach.units = given.validated_data["units"]
        coach.save(update_fields=["units"])
        return Response(_session(request))

    @extend_schema(responses={204: None})
    def delete(self, request: Request) -> Response:
        logout(request._request)
        return Response(status=status.HTTP_204_NO_CONTENT)
