"""A club and the people who coach in it."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta

from django.conf import settings
from django.db import models
from django.utils import timezone

UNITS = [("metric", "Metres and kilometres"), ("imperial", "Feet and miles")]


#: An invitation is good for so long.
INVITED_FOR = timedelta(days=14)


class Role(models.TextChoices):
    OWNER = "owner", "Owner"
    COACH = "coach", "Coach"
    HELPER = "helper", "Helper"


class Club(models.Model):
    name = models.CharField(max_length=120, unique=True)
    schools = models.JSONField(
        default=dict, blank=True, help_text="discipline → question → what this club judges by"
    )
    keeps_films_days = models.PositiveSmallIntegerField(
        null=True,
        blank=True,
        help_text="days after which films are let go of; null: as long as their runs are there",
    )
    drawn = models.BooleanField(
        default=False, help_text="nobody's: in it stand the runs that the simulator draws, which every club may look at"
    )  # fmt: skip
    asks_second_factor = models.BooleanField(
        default=False, help_text="its people log in with a second factor, or see nothing"
    )

    def __str__(self) -> str:
        return self.name


class OwnBook(models.Model):
    """What a club changes in a discipline's playbook: what is on, and what is being prepared."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="own_books")
    discipline = models.CharField(max_length=40)
    draft = models.JSONField(default=dict, help_text="a core ClubBook, with schools beside it")
    on = models.JSONField(
        default=dict, help_text="what runs are judged by; empty: the playbook's own"
    )
    before = models.JSONField(default=dict, help_text="what was on before the last switch")
    version = models.PositiveIntegerField(default=0, help_text="how often it was changed")
    switched_at = models.DateTimeField(null=True)
    switched_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+"
    )

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["club", "discipline"], name="one_own_book_each")
        ]

    def __str__(self) -> str:
        return f"{self.club}: {self.discipline}"


class Coach(models.Model):
    """A person who may log in, and the one club whose rows they may see."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="coach"
    )
    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="coaches")
    name = models.CharField(max_length=120)
    role = models.CharField(
        max_length=6, choices=Role, default=Role.COACH,
        help_text="an owner looks after the club; a coach judges and answers; a helper looks and marks",
    )  # fmt: skip
    left_at = models.DateTimeField(
        null=True, blank=True, help_text="taken out of the club: cannot log in any more"
    )
    units = models.CharField(
        max_length=8,
        choices=UNITS,
        default="metric",
        help_text="what lengths and speeds are shown in",
    )

    def __str__(self) -> str:
        return self.name

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.club_id}


def new_token() -> str:
    return secrets.token_urlsafe(24)


def until() -> datetime:
    """The end of an invitation that is made now."""
    return timezone.now() + INVITED_FOR


class OneUse(models.Model):
    """A link that one person uses, once."""

    token = models.CharField(max_length=40, unique=True, default=new_token)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    made = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField(default=until)
    used_at = models.DateTimeField(null=True)
    withdrawn = models.BooleanField(default=False)

    class Meta:
        abstract = True
        ordering = ["-id"]

    @property
    def open(self) -> bool:
        """Whether somebody may still use it."""
        return not self.withdrawn and self.used_at is None and self.expires > timezone.now()

    @property
    def by_name(self) -> str:
        """Who made it; empty where they have left."""
        return self.by.coach.name if self.by is not None and hasattr(self.by, "coach") else ""


class Invitation(OneUse):
    """A link by which one person joins a club."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=6, choices=Role)
    used_by = models.OneToOneField(
        Coach, on_delete=models.SET_NULL, null=True, related_name="invited"
    )

    def __str__(self) -> str:
        return f"invitation {self.pk} as {self.role}"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.club_id}


class Place(models.Model):
    """Where a club practises, and when it is open."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="places")
    name = models.CharField(max_length=80)
    week = models.JSONField(help_text="seven days of stretches, from and to in minutes of the day")

    class Meta:
        ordering = ["name", "id"]

    def __str__(self) -> str:
        return self.name

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.club_id}
