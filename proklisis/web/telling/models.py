"""A Telling as a coach left it."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from proklisis.web.runs.models import Run


class Telling(models.Model):
    """``telling/1`` of a run. Without a row, what the software proposes stands ready."""

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="telling")
    body = models.JSONField()
    version = models.PositiveIntegerField(default=1)
    made_on = models.DateTimeField(help_text="the result that it was told on")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    changed_at = models.DateTimeField(auto_now=True)
