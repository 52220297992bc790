"""A club and the people who coach in it."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Club(models.Model):
    name = models.CharField(max_length=120, unique=True)

    def __str__(self) -> str:
        return self.name


class Coach(models.Model):
    """A person who may log in, and the one club whose rows they may see."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="coach")
    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="coaches")
    name = models.CharField(max_length=120)

    def __str__(self) -> str:
        return self.name
