"""A club and the people who coach in it."""

from __future__ import annotations

from django.conf import settings
from django.db import models

UNITS = [("metric", "Metres and kilometres"), ("imperial", "Feet and miles")]


class Club(models.Model):
    name = models.CharField(max_length=120, unique=True)
    schools = models.JSONField(
        default=dict, blank=True, help_text="discipline → question → what this club judges by"
    )

    def __str__(self) -> str:
        return self.name


class Coach(models.Model):
    """A person who may log in, and the one club whose rows they may see."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="coach"
    )
    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="coaches")
    name = models.CharField(max_length=120)
    units = models.CharField(
        max_length=8,
        choices=UNITS,
        default="metric",
        help_text="what lengths and speeds are shown in",
    )

    def __str__(self) -> str:
        return self.name
