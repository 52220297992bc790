"""Jobs that follow a correction: a marked point is carried through the frames between its marks, the run is worked out again."""

from __future__ import annotations

from proklisis.core.errors import InputError
from proklisis.core.tracks.landmarks import in_words
from proklisis.footage.carry import Carried as CarriedPath
from proklisis.footage.carry import carry
from proklisis.footage.limited import limited
from proklisis.web.analysis.reviewing import refresh, tracker_tracks, up_to_date
from proklisis.web.analysis.work import FRAME_CPU_S, LOOK_CPU_S
from proklisis.web.clips.footage import footage_of
from proklisis.web.clips.gear import as_text, gear_marks
from proklisis.web.runs import blobs
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import Carried, Run
from proklisis.web.stored import on_disk


def queue_carrying(run: Run, landmark: str) -> None:
    Carried.objects.filter(run=run, landmark=landmark).update(problem="")
    put("carry", run_id=run.pk, landmark=landmark)


def carry_now(run_id: int, landmark: str) -> None:
    """Carry a point's marks as they stand, and work the run out again."""
    run = Run.objects.select_related("rider", "clip__film").filter(pk=run_id).first()
    if run is None or not hasattr(run, "clip") or not run.track_sets.exists():
        return
    tracks = tracker_tracks(run)
    marks = gear_marks(run, tracks).get(landmark)
    done = run.carried.filter(landmark=landmark).first()
    if not marks:
        run.carried.filter(landmark=landmark).delete()
    elif done is None or done.marks != as_text(marks) or done.problem:
        row = {"marks": as_text(marks), "data": b"", "problem": ""}
        try:
            if run.clip.film_gone_at is not None:
                raise InputError(
                    "it cannot be followed", mend="the film of this clip is not kept any more"
                )
            seconds = LOOK_CPU_S + FRAME_CPU_S * len(tracks)
            # Word of every stretch: many marks on a long clip take minutes, which is no silence.
            with on_disk(run.clip.source) as file:
                path: CarriedPath = limited(
                    carry,
                    footage_of(run.clip, file),
                    marks,
                    name=run.clip.name,
                    seconds=seconds,
                    progress=lambda *_: None,
                )
            row["data"] = blobs.pack_carried(path)
        except InputError as e:
            row["problem"] = str(InputError(e.what, in_words(landmark), e.mend))[:300]
        Carried.objects.update_or_create(run=run, landmark=landmark, defaults=row)
    if hasattr(run, "result"):
        refresh(run)


def measure_now(run_id: int) -> None:
    """Work a run out where it is outdated."""
    run = (
        Run.objects.select_related("rider", "clip", "result")
        .filter(pk=run_id, result__isnull=False)
        .first()
    )
    if run is not None:
        up_to_date(run)
