"""Who may see what: a coach sees the rows of their own club, and nobody else's."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db.models import QuerySet
from rest_framework.permissions import BasePermission
from rest_framework.request import Request

from proklisis.web.clubs.models import Coach

if TYPE_CHECKING:  # the framework loads this module while it loads its views
    from rest_framework.views import APIView


class IsCoach(BasePermission):
    """Logged in, with a club."""

    message = "Log in to go on."

    def has_permission(self, request: Request, view: APIView) -> bool:
        user = request.user
        return bool(user and user.is_authenticated and hasattr(user, "coach"))


def coach_of(request: Request) -> Coach:
    return request.user.coach  # type: ignore[union-attr, no-any-return]


def of_club(queryset: QuerySet[Any], request: Request, removed: bool = False) -> QuerySet[Any]:
    """Narrow a queryset of rows with a ``club`` to the asking coach's own; nothing for anybody else.

    Of rows that can be removed and brought back, those that are there, or with ``removed`` those that are not.
    """
    coach = getattr(request.user, "coach", None)
    if coach is None:
        return queryset.none()
    mine = queryset.filter(club=coach.club_id)
    if any(f.name == "removed_at" for f in queryset.model._meta.fields):
        return mine.filter(removed_at__isnull=not removed)
    return mine


def in_feet_for(request: Request) -> bool:
    """Whether the asking coach thinks in feet and miles."""
    coach = getattr(request.user, "coach", None)
    return coach is not None and coach.units == "imperial"
