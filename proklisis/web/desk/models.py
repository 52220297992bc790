"""Draws of who is answered, kept so that each can be shown and worked out again; a coach's week, and the address of their calendar."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.db import models

from proklisis.web.clubs.models import Club, Coach


def new_seed() -> str:
    return secrets.token_hex(8)


class Draw(models.Model):
    """One draw: its seed, who was in it, who was drawn."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="draws")
    seed = models.CharField(max_length=40, default=new_seed)
    places = models.PositiveSmallIntegerField()
    entries = models.JSONField(help_text="rider, run, missed and last of each")
    drawn = models.JSONField(help_text="numbers of the riders, in the order of the draw")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"draw {self.pk}"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.club_id}


class Week(models.Model):
    """Minutes that a coach has for answering, Monday to Sunday."""

    coach = models.OneToOneField(Coach, on_delete=models.CASCADE, related_name="week")
    minutes = models.JSONField(help_text="seven numbers")


def new_token() -> str:
    return secrets.token_urlsafe(24)


class CalendarLink(models.Model):
    """The private address of a coach's calendar. It works until it is withdrawn, or its coach has left."""

    coach = models.OneToOneField(Coach, on_delete=models.CASCADE, related_name="calendar_link")
    token = models.CharField(max_length=40, unique=True, default=new_token)
    made = models.DateTimeField(auto_now_add=True)
