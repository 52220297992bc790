"""Who may see which riders' own pages."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rest_framework.exceptions import NotFound
from rest_framework.permissions import BasePermission
from rest_framework.request import Request

from proklisis.web.clubs.access import LOG_IN, riders_of
from proklisis.web.riders.models import RiderAccount

if TYPE_CHECKING:  # the framework loads this module while it loads its views
    from rest_framework.views import APIView


class IsOfARider(BasePermission):
    """Logged in, and a rider or a guardian of one."""

    message = LOG_IN

    def has_permission(self, request: Request, view: APIView) -> bool:
        user = request.user
        return bool(user and user.is_authenticated and riders_of(user).exists())


def account_of(request: Request, rider: int) -> RiderAccount:
    """The account by which who asks sees a rider's page; NotFound where they do not."""
    rows = riders_of(request.user).select_related("rider__club", "rider__practises_at")
    found: RiderAccount | None = rows.filter(rider=rider).first()
    if found is None:
        raise NotFound("There is no such page of yours. Load the page again.")
    return found
