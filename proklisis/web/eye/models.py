"""Items of the pool, what coaches answered, and when a topic comes again for each of them."""

from __future__ import annotations

import uuid

from django.db import models

from proklisis.web.clubs.models import Coach
from proklisis.web.references.models import Reference


def picture_path(item: EyeItem, name: str) -> str:
    return f"eye/{item.exercise}/{uuid.uuid4().hex}.webp"


class EyeItem(models.Model):
    """A question with its pictures: simulated, so that it shows nobody; or a frame of a club's reference, which it goes with."""

    exercise = models.CharField(max_length=12)
    discipline = models.CharField(max_length=40)
    level = models.CharField(max_length=12)
    view = models.CharField(max_length=12)
    topic = models.CharField(max_length=60, help_text="a fault, a measure, or the beginning of a unit")  # fmt: skip
    size = models.FloatField(help_text="scales of the fault or the difference; 0: nothing is wrong")
    seed = models.BigIntegerField()
    question = models.JSONField()
    truth = models.JSONField(help_text="told after the answer only")
    strips = models.JSONField(help_text="how the cells of each picture lie")
    first = models.FileField(upload_to=picture_path, max_length=200, blank=True)
    second = models.FileField(upload_to=picture_path, max_length=200, blank=True)
    reference = models.ForeignKey(
        Reference, on_delete=models.CASCADE, null=True, related_name="eye_items"
    )
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(
                fields=["exercise", "discipline", "seed"],
                condition=models.Q(reference__isnull=True),
                name="one_item_a_seed",
            )
        ]
        indexes = [models.Index(fields=["exercise", "discipline"], name="eye_kind")]


class EyeAnswer(models.Model):
    coach = models.ForeignKey(Coach, on_delete=models.CASCADE, related_name="eye_answers")
    item = models.ForeignKey(EyeItem, on_delete=models.CASCADE, related_name="answers")
    given = models.JSONField()
    right = models.BooleanField()
    error = models.FloatField(null=True, help_text="of a moment s, of an angle degrees; + = late, too large")  # fmt: skip
    took_s = models.FloatField()
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "id"]
        indexes = [models.Index(fields=["coach", "at"], name="eye_answers_of_coach")]


class EyeTopic(models.Model):
    """When a coach sees a topic again."""

    coach = models.ForeignKey(Coach, on_delete=models.CASCADE, related_name="eye_topics")
    exercise = models.CharField(max_length=12)
    discipline = models.CharField(max_length=40)
    topic = models.CharField(max_length=60)
    card = models.JSONField()
    due = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["coach", "exercise", "discipline", "topic"], name="one_card_a_topic"
            )
        ]
