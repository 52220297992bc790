"""A link to send clips by, who sent by it, and what they sent."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.utils import timezone

from proklisis.web.clubs.models import Club
from proklisis.web.riders.models import LEVELS, Rider
from proklisis.web.runs.models import Film, Run

#: A sender sends no more clips than this by one link, where its maker said nothing else.
CLIPS = 3


def new_token() -> str:
    return secrets.token_urlsafe(24)


class Intake(models.Model):
    """A link by which clips are sent to a club, until it ends: for a group, a session or one call, or for one rider."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="intakes")
    token = models.CharField(max_length=40, unique=True, default=new_token)
    title = models.CharField(max_length=120, help_text="what is asked for, as the sender reads it")
    discipline = models.CharField(max_length=40)
    rider = models.ForeignKey(
        Rider, on_delete=models.CASCADE, null=True, blank=True, related_name="intakes",
        help_text="of a link for one rider alone: who it is for",
    )  # fmt: skip
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    made = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField(help_text="no clip is taken after")
    answer_by = models.DateField(null=True, blank=True, help_text="the day that was promised")
    most_clips = models.PositiveSmallIntegerField(
        default=CLIPS, validators=[MinValueValidator(1), MaxValueValidator(20)],
        help_text="of one sender",
    )  # fmt: skip
    withdrawn = models.BooleanField(default=False)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"link “{self.title}”"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.club_id}

    @property
    def open(self) -> bool:
        """Whether clips are taken."""
        return not self.withdrawn and self.expires > timezone.now()


class Sender(models.Model):
    """Somebody who sends by a link, as they said it themselves. ``token`` opens their own page."""

    intake = models.ForeignKey(Intake, on_delete=models.CASCADE, related_name="senders")
    token = models.CharField(max_length=40, unique=True, default=new_token)
    name = models.CharField(max_length=120)
    born = models.PositiveSmallIntegerField(null=True)
    level = models.CharField(max_length=12, choices=LEVELS)
    stance = models.CharField(max_length=8, blank=True)
    #: Who agreed, and to which text: the sender, or a guardian of theirs.
    agreed = models.CharField(max_length=120)
    guardian = models.BooleanField(default=False, help_text="a guardian agreed")
    text = models.CharField(max_length=20, help_text="the version of what was agreed to")
    at = models.DateTimeField(auto_now_add=True)
    rider = models.ForeignKey(
        Rider, on_delete=models.CASCADE, null=True, related_name="senders",
        help_text="who it is, once a coach has said so",
    )  # fmt: skip

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.name


class Sent(models.Model):
    """A clip that somebody sent: looked at as soon as it is here, and made a run once a coach knows of whom it is."""

    class State(models.TextChoices):
        ARRIVING = "arriving", "Arriving"
        LOOKING = "looking", "Being looked at"
        HELD = "held", "Waits for a coach to say who it is"
        IN = "in", "With the coach"
        UNREADABLE = "unreadable", "Cannot be judged"
        REFUSED = "refused", "Not taken"

    sender = models.ForeignKey(Sender, on_delete=models.CASCADE, related_name="sent")
    film = models.OneToOneField(Film, on_delete=models.SET_NULL, null=True, related_name="sent_in")
    run = models.OneToOneField(Run, on_delete=models.CASCADE, null=True, related_name="sent_in")
    name = models.CharField(max_length=255, help_text="of the file")
    intention_text = models.CharField(max_length=300, blank=True)
    conditions = models.JSONField(default=dict, blank=True)
    state = models.CharField(max_length=10, choices=State, default=State.ARRIVING, db_index=True)
    problem = models.CharField(max_length=500, blank=True)
    advice = models.JSONField(default=list, help_text="what to film better, in sentences")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        verbose_name = "sent clip"

    def __str__(self) -> str:
        return f"{self.name} of {self.sender}"
