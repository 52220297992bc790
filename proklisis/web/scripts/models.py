"""A coach's Script for a run, and the links by which it is shared."""

from __future__ import annotations

import secrets
import uuid

from django.conf import settings
from django.db import models

from proklisis.web.clubs.models import Club
from proklisis.web.runs.models import Run, ToldFilm


class Script(models.Model):
    """What the coach writes around the verdict, and the approved text that may leave.

    What they choose in the verdict itself stands with the run's corrections.
    """

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="script")
    message = models.TextField(max_length=2000, blank=True)
    retest_on = models.DateField(null=True, blank=True)
    approved = models.JSONField(null=True, blank=True, help_text="exactly what was approved")
    sheet = models.JSONField(
        null=True, blank=True, help_text="the run sheet that it was approved on"
    )
    approved_at = models.DateTimeField(null=True, blank=True)
    approved_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    judged_at = models.DateTimeField(
        null=True, blank=True, help_text="the result it was approved on"
    )
    version = models.PositiveIntegerField(default=0, help_text="how often it was approved")
    with_telling = models.BooleanField(default=True, help_text="the Telling goes with it as a film")
    chosen = models.JSONField(
        default=list,
        blank=True,
        help_text="pictures that the coach chose: frame, marks, caption, close",
    )
    with_offered = models.BooleanField(
        default=True, help_text="the pictures that the software offers go with it too"
    )
    others = models.JSONField(
        null=True,
        blank=True,
        help_text="faults whose cues go with it beside the main thing, in order; null: those that the coach brought up",
    )
    lessons = models.JSONField(
        default=list, blank=True, help_text="faults whose lesson sheets go with it"
    )
    begins = models.JSONField(
        default=dict,
        blank=True,
        help_text="drill → the step that it begins with, where the coach chose",
    )
    told_film = models.ForeignKey(ToldFilm, on_delete=models.SET_NULL, null=True, related_name="+")
    captions = models.TextField(blank=True, help_text="of the approved Telling, WebVTT")

    def __str__(self) -> str:
        return f"Script of {self.run}"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return self.run.get_additional_data()


def picture_path(picture: Picture, name: str) -> str:
    return f"pictures/{picture.script.run_id}/{uuid.uuid4().hex}.jpg"


class Picture(models.Model):
    """A moment that matters, with the line drawn on it."""

    script = models.ForeignKey(Script, on_delete=models.CASCADE, related_name="pictures")
    order = models.PositiveSmallIntegerField()
    image = models.ImageField(upload_to=picture_path, max_length=200)
    caption = models.CharField(max_length=200)
    run = models.ForeignKey(
        Run,
        on_delete=models.SET_NULL,
        null=True,
        related_name="+",
        help_text="whose clip it is from",
    )
    t = models.FloatField(
        null=True, help_text="when it is in that run, seconds as its Bench counts them"
    )

    class Meta:
        ordering = ["order"]


def new_token() -> str:
    return secrets.token_urlsafe(24)


class Share(models.Model):
    """A link that shows one approved Script to whoever holds it, until it ends."""

    script = models.ForeignKey(Script, on_delete=models.CASCADE, related_name="shares")
    token = models.CharField(max_length=40, unique=True, default=new_token)
    made = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField()
    withdrawn = models.BooleanField(default=False)
    seen = models.PositiveIntegerField(default=0, help_text="how often the page was opened")
    seen_at = models.DateTimeField(null=True, help_text="when it was opened last")

    def __str__(self) -> str:
        return f"link to the {self.script}"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return self.script.run.get_additional_data()


class Tick(models.Model):
    """A step of a ladder that the rider has done."""

    script = models.ForeignKey(Script, on_delete=models.CASCADE, related_name="ticks")
    drill = models.CharField(max_length=60)
    step = models.PositiveSmallIntegerField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["script", "drill", "step"], name="one_tick_a_step")
        ]


class Line(models.Model):
    """A line from the rider back to the coach."""

    script = models.ForeignKey(Script, on_delete=models.CASCADE, related_name="lines")
    text = models.CharField(max_length=500)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class ClipBack(models.Model):
    """A clip that the rider sends back on their page; it becomes a run of its own."""

    script = models.ForeignKey(Script, on_delete=models.CASCADE, related_name="clips_back")
    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="sent_back")
    name = models.CharField(max_length=255)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class ClubText(models.Model):
    """A text that a club's coaches use again and again; ``closing`` ones stand at the end of every Script."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="texts")
    title = models.CharField(max_length=80)
    text = models.TextField(max_length=1000)
    closing = models.BooleanField(default=False)

    class Meta:
        ordering = ["title", "id"]

    def __str__(self) -> str:
        return f"“{self.title}”"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.club_id}


class Mail(models.Model):
    """A mail with the link to a Script, as it was sent; where no mail server is set, as it would have been."""

    script = models.ForeignKey(Script, on_delete=models.CASCADE, related_name="mails")
    to = models.EmailField()
    subject = models.CharField(max_length=200)
    text = models.TextField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now_add=True)
    left = models.BooleanField(help_text="false where there is no mail server to send it")

    class Meta:
        ordering = ["id"]
