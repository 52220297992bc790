"""Approving a Script, and opening it again."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.contrib.auth.models import User
from django.core.files.base import ContentFile
from django.db import transaction
from django.utils import timezone

from proklisis.core.telling.captions import webvtt
from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Run, ToldFilm
from proklisis.web.runs.writing import nothing_changed
from proklisis.web.scripts.composing import composed, texts_of
from proklisis.web.scripts.models import Script
from proklisis.web.scripts.pictures import Moment, chosen_pictures, jpeg, moments
from proklisis.web.targets.models import prescribe, withdraw
from proklisis.web.telling.telling import Stands, film, stands

APPROVED = ["approved", "sheet", "approved_at", "approved_by", "judged_at", "told_film", "captions", "version"]  # fmt: skip


def approve(run: Run, script: Script, by: User, seen: Mapping[str, Any] | None = None) -> Script:
    """Approve a Script as it stands, make its pictures, and set its targets for the runs to come.

    ``seen`` is what the approving coach has read of it; Changed where somebody else has written another thing meanwhile.
    """
    if script.approved_at:
        raise Conflict("This Script is approved already.")
    if run.result.trouble:
        raise Conflict(
            f"The numbers of this run are from before its last change: {run.result.trouble} Mend that on the Bench first."
        )
    body = composed(run, script)
    nothing_changed(seen, texts_of(body), {})
    pictures = pictures_for(run, script, body)
    telling = _telling(run, script, by)
    with transaction.atomic():
        script = Script.objects.select_for_update().get(pk=script.pk)
        if script.approved_at:
            raise Conflict("This Script is approved already.")
        # What was written while the pictures were made is approved too, unless the coach who approves has not read it.
        body = composed(run, script)
        nothing_changed(seen, texts_of(body), {})
        script.pictures.all().delete()
        for order, moment in enumerate(pictures):
            image = ContentFile(jpeg(moment.picture), "moment.jpg")
            script.pictures.create(
                order=order,
                caption=moment.caption,
                image=image,
                run_id=moment.run,
                t=moment.t,
            )
        script.approved, script.approved_at, script.approved_by = body, timezone.now(), by
        script.sheet = run.result.together or run.result.sheet
        script.judged_at, script.version = run.result.made, script.version + 1
        if telling is not None:
            script.told_film = film(run, telling, burnt=False)
            script.told_film.sent = True
            script.told_film.save(update_fields=["sent"])
            script.captions = webvtt(telling.played["captions"])
        script.save(update_fields=APPROVED)
        prescribe(run, body["prescription"], body["retest_on"], by, body["begins"])
    return script


def pictures_for(run: Run, script: Script, body: dict[str, Any]) -> list[Moment]:
    """What an approval keeps: what the coach chose, then what is offered unless they want none of it."""
    main, findings = body["prescription"]["main"], body["prescription"]["findings"]
    offered = moments(run, main, findings) if script.with_offered else []
    return [*chosen_pictures(run, script.chosen), *offered]


def _telling(run: Run, script: Script, by: User) -> Stands | None:
    """The Telling that goes with it; None where the coach sends none, or there is no clip to tell over."""
    if not script.with_telling or not run.clip.working:
        return None
    feet = hasattr(by, "coach") and by.coach.units == "imperial"
    now = stands(run, feet)
    if now.row is not None and now.row.made_on != run.result.made:
        raise Conflict(
            "The numbers or words changed after the Telling was told. Look through it and change what is not right any more, start it again, or send the Script without it."
        )
    return now if now.played["length_s"] > 0 else None


def reopen(run: Run, script: Script) -> None:
    """Take an approval back; links to it stop working and its targets hold no more."""
    with transaction.atomic():
        script.shares.update(withdrawn=True)
        if script.told_film is not None:
            ToldFilm.objects.filter(pk=script.told_film.pk).update(sent=False, cancel_asked=True)
        script.approved = script.sheet = script.approved_at = script.approved_by = (
            script.judged_at
        ) = None
        script.told_film, script.captions = None, ""
        script.save(update_fields=APPROVED)
        withdraw(run)


def set_older() -> int:
    """Set the targets of Scripts that were approved before targets were kept; how many those were."""
    older = Script.objects.filter(
        approved_at__isnull=False, run__prescribed=None, run__part_of=None, run__removed_at=None,
        run__result__isnull=False,
    ).select_related("run__result", "approved_by")  # fmt: skip
    count = 0
    for script in older:
        body = script.approved
        if body is None or body["prescription"]["main"] is None:
            continue
        with transaction.atomic():
            prescribe(script.run, body["prescription"], body["retest_on"], script.approved_by)
        count += 1
    return count
