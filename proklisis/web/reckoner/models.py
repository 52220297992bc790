"""An answer of a calculator that was kept with a run or a rider."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from proklisis.web.clubs.models import Club
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run


class KeptReckoning(models.Model):
    """A question and its answer as it was then. It goes with its run or rider."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="reckonings")
    run = models.ForeignKey(Run, on_delete=models.CASCADE, null=True, related_name="reckonings")
    rider = models.ForeignKey(Rider, on_delete=models.CASCADE, null=True, related_name="reckonings")
    name = models.CharField(max_length=20, help_text="the calculator")
    said = models.JSONField(help_text="key → text as typed")
    unknown = models.CharField(max_length=40, blank=True)
    reckoning = models.JSONField(help_text="reckoning/1")
    kept = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(run__isnull=False) ^ models.Q(rider__isnull=False),
                name="kept_with_a_run_or_a_rider",
            )
        ]
