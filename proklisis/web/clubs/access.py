"""Who may see what: a coach sees the rows of their own club, and nobody else's."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db.models import Q, QuerySet
from rest_framework.exceptions import PermissionDenied
from rest_framework.permissions import SAFE_METHODS, BasePermission
from rest_framework.request import Request

from proklisis.web.clubs import second_factor
from proklisis.web.clubs.models import Coach, Role

if TYPE_CHECKING:  # the framework loads this module while it loads its views
    from rest_framework.views import APIView


LOG_IN = "Log in to go on."
FOR_COACHES = "This is for coaches. You are here as a helper: look, mark and note, and ask a coach to do this."
FACTOR_FIRST = "This club asks for a second factor. Set one up on your account's page, then go on."
FOR_OWNERS = "This is for an owner of the club. Ask one of them."


class IsCoach(BasePermission):
    """Logged in, with a club, and in a role that may do what is asked.

    A helper reads everything of the club but what only owners see, and changes what a view names in ``helpers_may``: its
    methods, or a view set's actions. ``owners_only`` closes a view to all but owners.
    """

    message = LOG_IN

    def has_permission(self, request: Request, view: APIView) -> bool:
        coach = live_coach(request.user)
        if coach is None:
            return False
        if lacks_second_factor(coach):
            self.message = FACTOR_FIRST
            return False
        if getattr(view, "owners_only", False) and coach.role != Role.OWNER:
            self.message = FOR_OWNERS
            return False
        if coach.role == Role.HELPER and not self._helper_may(request, view):
            self.message = FOR_COACHES
            return False
        return True

    @staticmethod
    def _helper_may(request: Request, view: APIView) -> bool:
        what = getattr(view, "action", None) or (request.method or "").lower()
        if what in getattr(view, "not_for_helpers", ()):
            return False
        return request.method in SAFE_METHODS or what in getattr(view, "helpers_may", ())


class IsLoggedIn(BasePermission):
    """Logged in, in whatever role."""

    message = LOG_IN

    def has_permission(self, request: Request, view: APIView) -> bool:
        user = request.user
        if not user or not user.is_authenticated:
            return False
        return live_coach(user) is not None or riders_of(user).exists()


def lacks_second_factor(coach: Coach) -> bool:
    """Whether the coach's club asks for a second factor that they have not set up."""
    return coach.club.asks_second_factor and not second_factor.asked_of(coach.user)


def live_coach(user: Any) -> Coach | None:
    """The coach that a user logs in as; None for riders, guardians, whoever has left, and nobody."""
    coach: Coach | None = getattr(user, "coach", None) if user and user.is_authenticated else None
    return None if coach is None or coach.left_at is not None else coach


def riders_of(user: Any) -> QuerySet[Any]:
    """The accounts by which a user sees riders' own pages."""
    accounts: QuerySet[Any] = user.rider_accounts.filter(ended_at=None, rider__removed_at=None)
    return accounts


def only_of(user: Any, club: int) -> bool:
    """Whether all that an account opens is of one club, so that the club may hand out a new password for it."""
    coach = live_coach(user)
    clubs = {a.rider.club_id for a in riders_of(user).select_related("rider")}
    return clubs | ({coach.club_id} if coach else set()) <= {club}


def coach_of(request: Request) -> Coach:
    return request.user.coach  # type: ignore[union-attr, no-any-return]


def for_coaches(request: Request) -> None:
    """Raise PermissionDenied where a helper asks for what only a coach may say."""
    if coach_of(request).role == Role.HELPER:
        raise PermissionDenied(FOR_COACHES)


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


def of_club_or_drawn(queryset: QuerySet[Any], request: Request) -> QuerySet[Any]:
    """Runs that the asking coach may look at: their own club's, and those that the simulator drew for all."""
    coach = getattr(request.user, "coach", None)
    if coach is None:
        return queryset.none()
    return queryset.filter(Q(club=coach.club_id) | Q(club__drawn=True), removed_at=None)


def in_feet_for(request: Request) -> bool:
    """Whether the asking coach thinks in feet and miles."""
    coach = getattr(request.user, "coach", None)
    return coach is not None and coach.units == "imperial"
