"""A run that a club keeps as a reference, with its rider's consent and an end."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from proklisis.web.clubs.models import Club
from proklisis.web.runs.models import Run


class Reference(models.Model):
    """One run as a reference: for all of its discipline, or for one fault. It goes with the run."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="references")
    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="references")
    fault = models.CharField(max_length=60, blank=True, help_text="empty: for all")
    consent = models.CharField(max_length=200, help_text="who agreed to it, and how")
    until = models.DateField(help_text="the last day on which it may be shown")
    eye_done = models.BooleanField(
        default=False, help_text="no further frame of it makes an item of the Eye"
    )
    added = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.UniqueConstraint(fields=["run", "fault"], name="one_reference_a_fault")
        ]

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.club_id, "run": self.run_id, "rider": self.run.rider_id}


def in_force(club_id: int, discipline: str) -> models.QuerySet[Reference]:
    """The references of a club that may be shown today, the newest first."""
    return Reference.objects.filter(
        club=club_id, run__discipline=discipline, run__removed_at=None, run__rider__removed_at=None,
        run__result__isnull=False, until__gte=timezone.localdate(),
    ).select_related("run__rider")  # fmt: skip
