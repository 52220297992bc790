"""What an approved Script prescribed: the one thing, its cue and the targets with what was measured then."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth.models import User
from django.db import models

from proklisis.core.playbook.followed import aims_with
from proklisis.core.review import book_of
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.run_sheet import Aim, RunSheet
from proklisis.web.runs.models import Run
from proklisis.web.runs.writing import judged_anew


class Prescribed(models.Model):
    """The main thing of one approved Script. It goes when the Script is opened again, and with the run."""

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="prescribed")
    fault = models.CharField(max_length=60)
    title = models.CharField(max_length=200)
    cue = models.CharField(max_length=400)
    drill = models.CharField(max_length=60, blank=True)
    step = models.PositiveSmallIntegerField(
        default=0, help_text="of the drill, with which it began"
    )
    level = models.CharField(max_length=12)
    aims = models.JSONField(help_text="targets, each with what was measured when it was set")
    film_again = models.DateField()
    set_at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)

    class Meta:
        ordering = ["run__added", "run_id"]


def before(run: Run) -> models.QuerySet[Prescribed]:
    """What was prescribed on earlier runs of the same rider and discipline, the newest first."""
    return (
        Prescribed.objects.filter(
            run__rider=run.rider_id,
            run__discipline=run.discipline,
            run__removed_at=None,
            run__added__lt=run.added,
        )
        .select_related("run")
        .order_by("-run__added", "-run_id")
    )


def open_for(run: Run) -> Prescribed | None:
    """What this run is held against: what was prescribed last before it."""
    return before(run).first() if run.part_of_id is None else None


def aims_for(run: Run) -> list[Aim]:
    """The targets that this run is held against; none where none was set."""
    last = open_for(run)
    return [] if last is None else [Aim.model_validate(a) for a in last.aims]


def prescribe(
    run: Run,
    prescription: Prescription,
    film_again: str,
    by: User | None,
    begins: dict[str, int] | None = None,
) -> None:
    """Put down what an approved Script prescribes; runs filmed later are held against it.

    ``begins`` says of drills with which step they begin.
    """
    withdraw(run)
    main = prescription["main"]
    if main is None:
        return
    kept = run.result.together or run.result.sheet
    sheet = RunSheet.model_validate(kept)
    aims = aims_with(sheet, book_of(sheet), prescription)
    drill = next((d["id"] for d in prescription["drills"] if d["fault"] == main["fault"]), "")
    Prescribed.objects.create(
        run=run, fault=main["fault"], title=main["title"], cue=main["cue"], drill=drill, level=prescription["level"],
        aims=[a.model_dump(mode="json") for a in aims], film_again=film_again, by=by,
        step=(begins or {}).get(drill, 0),
    )  # fmt: skip
    _later(run)


def withdraw(run: Run) -> None:
    """What an opened Script prescribed does not hold any more."""
    if Prescribed.objects.filter(run=run).delete()[0]:
        _later(run)


def _later(run: Run) -> None:
    judged_anew(run__rider=run.rider_id, run__discipline=run.discipline, run__added__gt=run.added)
