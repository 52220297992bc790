"""A film of a session, and the goes that are in it."""

from __future__ import annotations

import uuid

from django.db import models

from proklisis.web.clubs.models import Club
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import VIEWS, Film, Run, Worked


def working_path(session: SessionFilm, name: str) -> str:
    return f"working/sessions/{uuid.uuid4().hex}.mp4"


class SessionFilm(Worked):
    """One film of many goes by several riders, and what holds for all of its runs."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="session_films")
    film = models.OneToOneField(Film, on_delete=models.RESTRICT, related_name="session")
    title = models.CharField(max_length=120, blank=True)
    discipline = models.CharField(max_length=40)
    view = models.CharField(
        max_length=10, choices=VIEWS, blank=True, help_text="empty: as the picture shows it"
    )
    filmed_on = models.DateField(null=True, blank=True)
    added = models.DateTimeField(auto_now_add=True)
    removed_at = models.DateTimeField(
        null=True, blank=True, help_text="taken off the lists; it can be brought back for a month"
    )
    #: How the film is, once it was looked at.
    length_s = models.FloatField(default=0.0)
    fps = models.FloatField(default=0.0)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    #: The copy that browsers play.
    working = models.FileField(upload_to=working_path, max_length=200, blank=True)
    play_height = models.PositiveIntegerField(default=0)
    #: How often its table was changed; who changes it says from which state they started.
    version = models.PositiveIntegerField(default=0)
    searched = models.BooleanField(default=False, help_text="its goes were looked for")

    class Meta:
        ordering = ["-added", "-id"]


class Go(models.Model):
    """One go: from when to when, who, and the run that was made of it."""

    session = models.ForeignKey(SessionFilm, on_delete=models.CASCADE, related_name="goes")
    from_s = models.FloatField(help_text="seconds from the film's first frame")
    to_s = models.FloatField()
    who = models.PositiveSmallIntegerField(
        default=1, help_text="goes of the same number are one person's, as they look"
    )
    rider = models.ForeignKey(Rider, on_delete=models.SET_NULL, null=True, related_name="goes")
    run = models.OneToOneField(Run, on_delete=models.SET_NULL, null=True, related_name="go")
    left_out = models.BooleanField(default=False)
    at_s = models.FloatField(null=True, help_text="when the rider is well seen")
    box = models.JSONField(null=True, help_text="where then: left, top, right, bottom in pixels")

    class Meta:
        ordering = ["from_s", "id"]
