"""Entries of who did what that no change of a row makes by itself: logging in, sharing, withdrawing, exporting, erasing."""

from __future__ import annotations

from typing import Any

from auditlog.models import LogEntry
from axes.models import AccessAttempt, AccessLog
from django.contrib.auth.models import User
from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.core.cache import cache
from django.db.models import Model
from django.utils import timezone

from proklisis.web.clubs.models import Club

DAY_S = 86_400
FAILED = "could not log in"


def opened(club: Club, actor: Any, about: Model) -> None:
    """Keep that somebody looked at something, once a day."""
    today = timezone.localdate().isoformat()
    if cache.add(f"opened/{actor.pk}/{about._meta.label}/{about.pk}/{today}", 1, DAY_S):
        put_down(club, actor, "opened", about)


def put_down(club: Club, actor: Any, what: str, about: Model | str = "") -> LogEntry:
    """Keep that somebody did something, in words; ``about`` is whom or what it was done to, a row where there is one."""
    more = about.get_additional_data() if hasattr(about, "get_additional_data") else {}
    entry: LogEntry = LogEntry.objects.log_create(
        club if isinstance(about, str) else about, force_log=True, action=LogEntry.Action.ACCESS, changes={},
        additional_data={**more, "club": club.pk, "what": what, "about": str(about)},
    )  # fmt: skip
    if actor is not None and actor.pk is not None:
        entry.actor = actor
        entry.save(update_fields=["actor"])
    return entry


def forget(**which: int) -> None:
    """Let go of every entry about a ``run`` or a ``rider``, by its number: what is erased is named nowhere any more."""
    for name, number in which.items():
        LogEntry.objects.filter(**{f"additional_data__{name}": number}).delete()


def forget_user(user: User) -> None:
    """Delete an account with all that names it: who tried to log in as it, and from where."""
    LogEntry.objects.filter(
        additional_data__what=FAILED, additional_data__about=user.username
    ).delete()
    for model in (AccessAttempt, AccessLog):
        model.objects.filter(username=user.username).delete()
    user.delete()


def listen() -> None:
    """Hear who logs in and out, and who tries to."""
    user_logged_in.connect(_logged_in, dispatch_uid="entries_in")
    user_logged_out.connect(_logged_out, dispatch_uid="entries_out")
    user_login_failed.connect(_failed, dispatch_uid="entries_failed")


def _logged_in(sender: Any, user: Any, **_: Any) -> None:
    for club in _clubs_of(user):
        put_down(club, user, "logged in")


def _logged_out(sender: Any, user: Any, **_: Any) -> None:
    for club in _clubs_of(user):
        put_down(club, user, "logged out")


def _clubs_of(user: Any) -> set[Club]:
    """The clubs that somebody is in, in whatever role."""
    if user is None or user.pk is None:
        return set()
    own = {user.coach.club} if hasattr(user, "coach") else set()
    return own | {
        a.rider.club
        for a in user.rider_accounts.filter(ended_at=None).select_related("rider__club")
    }


def _failed(sender: Any, credentials: dict[str, Any], **_: Any) -> None:
    user = User.objects.filter(username=credentials.get("username", "")).first()
    for club in _clubs_of(user):
        put_down(club, None, FAILED, str(credentials["username"]))
