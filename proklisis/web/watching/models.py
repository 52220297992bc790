"""What failed and nobody expected: for the club it happened to, until somebody puts it aside."""

from __future__ import annotations

from django.db import models

from proklisis.web.clubs.models import Club


class Failure(models.Model):
    """One failing of a task on one thing; it fails again in the same row."""

    club = models.ForeignKey(
        Club,
        on_delete=models.CASCADE,
        null=True,
        help_text="none where it is the server's own work",
    )
    task = models.CharField(max_length=60)
    given = models.JSONField(help_text="the numbers that the task was given")
    reason = models.TextField()
    place = models.CharField(max_length=200, help_text="file and line")
    times = models.PositiveIntegerField(default=1)
    first = models.DateTimeField(auto_now_add=True)
    last = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["task", "given"], name="one_row_a_failing"),
        ]
        indexes = [models.Index(fields=["club", "-last"])]
