"""Approving a Script, and opening it again."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.core.files.base import ContentFile
from django.db import transaction
from django.utils import timezone

from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Run
from proklisis.web.scripts.composing import composed
from proklisis.web.scripts.models import Script
from proklisis.web.scripts.pictures import jpeg, moments
from proklisis.web.targets.models import prescribe, withdraw

APPROVED = ["approved", "approved_at", "approved_by", "judged_at"]


def approve(run: Run, script: Script, by: User) -> Script:
    """Approve a Script as it stands, make its pictures, and set its targets for the runs to come."""
    if script.approved_at:
        raise Conflict("This Script is approved already.")
    if run.result.trouble:
        raise Conflict(
            f"The numbers of this run are from before its last change: {run.result.trouble} Mend that on the Bench first."
        )
    body = composed(run, script)
    pictures = moments(run, body["prescription"]["main"], body["prescription"]["findings"])
    with transaction.atomic():
        script = Script.objects.select_for_update().get(pk=script.pk)
        if script.approved_at:
            raise Conflict("This Script is approved already.")
        # What was written while the pictures were made is approved too.
        body = composed(run, script)
        script.pictures.all().delete()
        for order, (picture, caption) in enumerate(pictures):
            script.pictures.create(
                order=order, caption=caption, image=ContentFile(jpeg(picture), "moment.jpg")
            )
        script.approved, script.approved_at, script.approved_by = body, timezone.now(), by
        script.judged_at = run.result.made
        script.save(update_fields=APPROVED)
        prescribe(run, body["prescription"], body["retest_on"], by)
    return script


def reopen(run: Run, script: Script) -> None:
    """Take an approval back; links to it stop working and its targets hold no more."""
    with transaction.atomic():
        script.shares.update(withdrawn=True)
        script.approved = script.approved_at = script.approved_by = script.judged_at = None
        script.save(update_fields=APPROVED)
        withdraw(run)
