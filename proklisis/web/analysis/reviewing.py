"""Work a run's stored tracks and corrections out into a result. One pipeline: ``core.review``."""

from __future__ import annotations

from time import monotonic
from typing import Any, cast

import numpy as np
from django.db import transaction
from django.utils import timezone

from proklisis.core.clock_doubts import rate_doubt
from proklisis.core.corrections.asking import Question, ask_first
from proklisis.core.corrections.leading import Leading, leading
from proklisis.core.corrections.marks import Cut, Mark, apply_cuts, apply_marks, check_cut
from proklisis.core.doubts import Doubtful
from proklisis.core.errors import InputError, Lacking
from proklisis.core.playbook.changes import verdict_change
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.conditions import replaced
from proklisis.core.review import (
    Review,
    judged_of,
    playbook,
    review,
    run_sheet,
    shortest_unit,
    unsplit,
    with_counted,
)
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.splitting.by_hand import FIELDS, SideSaid
from proklisis.core.splitting.units import Boundary
from proklisis.core.tracks.outlier_rejection import without_outliers
from proklisis.core.tracks.tracks import ClipFacts, Tracks
from proklisis.web.analysis.kept import pack_review, unpack_review
from proklisis.web.analysis.payload import bench, outline
from proklisis.web.analysis.said import (
    check_said,
    in_force,
    judged,
    notes_of,
    observations,
    word_of,
)
from proklisis.web.analysis.several import with_others
from proklisis.web.analysis.version import version
from proklisis.web.clips import uploading
from proklisis.web.clips.camera import camera_facts, with_scene
from proklisis.web.clips.found import check_gear
from proklisis.web.clips.gear import MARKABLE, check_mark, wanted_gear, with_gear
from proklisis.web.clubs.books import changes_of
from proklisis.web.errors import Conflict
from proklisis.web.runs.blobs import unpack, unpack_index
from proklisis.web.runs.jobs import put_once
from proklisis.web.runs.models import Edit, KeptReview, Result, Run, packed
from proklisis.web.runs.writing import changed, judged_anew, one_measuring
from proklisis.web.targets.models import aims_for

#: What takes longer than this is done by a job, seconds.
MOMENT_S = 1.5
CUTS = (Edit.Kind.ADD, Edit.Kind.MOVE, Edit.Kind.DELETE)
#: Why nothing is measured on a clip whose rider is not followed.
NOBODY = Lacking(
    "nobody is followed on this clip yet", "",
    "note what you see with E, and cut the run into its units with C; the numbers come when the rider is followed",
)  # fmt: skip


def about(run: Run) -> dict[str, Any]:
    """What the run sheet says of a run besides its numbers."""
    rider: dict[str, Any] = {"name": run.rider.name}
    if run.rider.height_cm:
        rider["height_cm"] = run.rider.height_cm
    if run.rider.stance:
        rider["stance"] = run.rider.stance
    return {
        "level": run.level, "rider": rider, "gear": run.gear, "conditions": run.conditions, "schools": schools_of(run)[0],
        "intention": {"text": run.intention_text, "faults": run.intention_faults},
        "club_book": changes_of(run.club, run.discipline),
    }  # fmt: skip


def schools_of(run: Run) -> tuple[dict[str, str], dict[str, str]]:
    """Which school a run is judged by, question → option, and question → who chose it: the run, its rider or the club."""
    options: dict[str, str] = {}
    whose: dict[str, str] = {}
    for who, chosen in (
        ("club", run.club.schools.get(run.discipline, {})),
        ("rider", run.rider.schools.get(run.discipline, {})),
        ("run", run.schools),
    ):
        options |= chosen
        whose |= dict.fromkeys(chosen, who)
    known = playbook(run.discipline).schools
    return (
        {q: o for q, o in options.items() if q in known and o in known[q].options},
        {q: w for q, w in whose.items() if q in known},
    )


def tracker_tracks(run: Run) -> Tracks:
    """The newest tracks of a run, as they were given, or those of nobody where only its clip is there; Conflict without one."""
    stored = run.tracks
    tracks = _of_nobody(run) if stored is None else unpack(stored.data)
    slope = run.conditions.get("slope_deg")
    facts: dict[str, Any] = {
        "view": run.view or None,
        "view_offset_deg": run.view_offset_deg,
        "roll_deg": run.roll_deg,
    }
    facts["conditions"] = replaced(tracks.facts.conditions, run.conditions)
    levelled = bool(run.camera.get("level")) or run.roll_deg != 0
    facts["sure"] = [*run.sure, *(["level"] if levelled else [])]
    if run.rider.stance:
        facts["stance"] = run.rider.stance
    if run.rider.height_cm:
        facts["height_cm"] = float(run.rider.height_cm)
    if isinstance(slope, int | float):
        facts |= {"slope_deg": float(slope), "slope_u_deg": 2.0}
    clip = getattr(run, "clip", None)
    if run.camera and clip is not None:
        facts |= camera_facts(run.camera, clip.width, clip.height)[0]
    tracks = with_scene(without_outliers(tracks.with_facts(**facts)), run.camera)
    if not run.filmed_fps:
        return tracks
    # Where frames are doubled, the tracks' own rate is that of the frames which show something new.
    share = tracks.facts.fps / clip.fps if clip is not None and clip.fps else 1.0
    return tracks.filmed_at(run.filmed_fps * share)


def _of_nobody(run: Run) -> Tracks:
    """The frames of a clip in which nobody is followed yet."""
    clip = getattr(run, "clip", None)
    if clip is None or not clip.index or not (clip.working or clip.film_gone_at):
        raise Conflict("This run has not been tracked yet. Wait until its analysis is done.")
    t, _ = unpack_index(clip.index)
    n = len(t)
    facts = ClipFacts(fps=clip.fps, width=clip.width, height=clip.height)
    none = np.zeros((n, 0))
    return Tracks(
        np.arange(n), t - t[0], (), none.reshape(n, 0, 2), none, none.astype(np.uint8), facts
    )


def corrected(run: Run) -> tuple[Tracks, list[Cut]]:
    """Tracks with the coach's marks applied, and the cuts that are in force."""
    edits = list(run.corrections.filter(undone=False, kind__in=Edit.MEASURING))
    given = tracker_tracks(run)
    tracks = with_gear(run, given)
    marks = [
        Mark(**e.values)
        for e in edits
        if e.kind == Edit.Kind.MARK and _of_body(e.values["landmark"], given)
    ]
    cuts = [Cut(kind=e.kind, **e.values) for e in edits if e.kind in CUTS]
    return apply_marks(tracks, marks), cuts


def _sides_said(run: Run) -> list[SideSaid]:
    said = run.corrections.filter(undone=False, kind=Edit.Kind.SIDE)
    return [SideSaid(e.values["t"], e.values["side"]) for e in said]


def _counted(run: Run) -> int:
    """How many units a coach counted; 0 where nobody did."""
    said = run.corrections.filter(undone=False, kind=Edit.Kind.COUNT).last()
    return said.values["count"] if said else 0


def _of_body(landmark: str, given: Tracks) -> bool:
    """Whether a mark corrects what was tracked; one of another point adds that point."""
    return landmark in given.index or landmark not in MARKABLE


def reviewed(run: Run) -> Review:
    """The review that the run's result was written from, which is brought up to date first where that takes no longer than a moment.

    Conflict before the run was measured for the first time, or where it cannot be and no review was kept.
    """
    if not hasattr(run, "result"):
        raise Conflict("This run is not measured yet. Wait until its analysis is done.")
    brought_up_to_date(run)
    kept = _kept(run.result)
    if kept is None:  # of before reviews were kept, or of a backup that was older than its file
        now = refresh(run)
        kept = _kept(now)
        if kept is None:
            raise Conflict(f"This run cannot be worked out as it stands: {now.trouble}")
    return kept


def _reviewed(run: Run) -> Review:
    tracks, cuts = corrected(run)

    def as_cut(found: list[Boundary]) -> list[Boundary]:
        return apply_cuts(found, cuts, tracks.facts.fps, shortest_unit(run.discipline))

    try:
        _clock_of_the_file(run)
        if run.tracks is None:
            raise NOBODY
        done = review(tracks, run.discipline, as_cut)
    except (Lacking, Doubtful) as e:
        # The Bench opens all the same: that is where it can be marked, or answered.
        done = unsplit(tracks, run.discipline, e, as_cut, _sides_said(run))
    return with_counted(done, run.discipline, _counted(run), _sides_said(run))


def _clock_of_the_file(run: Run) -> None:
    """Ask before judging where the file itself says that it plays slower than it was filmed."""
    clip = getattr(run, "clip", None)
    if clip is None or not clip.filmed_hint or run.filmed_fps or "rate" in run.sure:
        return
    why = f"the file says that it was filmed at {clip.filmed_hint:g} frames a second, and plays at {clip.fps:.4g}"
    raise Doubtful(rate_doubt(clip.filmed_hint / clip.fps, why, clip.fps))


def answer(run: Run, kind: str, value: str | None) -> None:
    """Put down a coach's answer to a doubt: what it is set to, or that it is as said. InputError for an answer to no such question."""
    doubt = run.result.bench.get("doubt")
    if (
        doubt is None
        or doubt["kind"] != kind
        or value not in [c["value"] for c in doubt["choices"]]
    ):
        raise Conflict("This question is not asked any more. Load the page again.")
    what, _, rest = (value or "").partition(":")
    if value is None:
        run.sure = sorted({*run.sure, kind})
    elif kind == "rate":
        run.filmed_fps, run.sure = float(value), sorted({*run.sure, kind})
        uploading.unmatch(run)
    elif what == "offset":
        run.view_offset_deg, run.sure = float(rest), sorted({*run.sure, "view"})
    elif kind == "view" or what == "view":
        run.view, run.view_offset_deg = rest or value, 0.0
    else:
        run.rider.stance = value
        run.rider.save(update_fields=["stance"])
        changed(run__rider=run.rider)
    run.save(update_fields=["sure", "filmed_fps", "view", "view_offset_deg"])
    changed(run=run)


def check_edit(run: Run, kind: str, values: dict[str, Any]) -> None:
    """Raise InputError for a correction that cannot be made as the run stands."""
    if kind not in Edit.MEASURING:
        check_said(run, kind, values)
        return
    if kind == Edit.Kind.SIDE:
        if values["side"] not in FIELDS:
            raise InputError(
                f"{values['side']!r} is no side", "side", nearest(values["side"], FIELDS)
            )
        return
    if kind == Edit.Kind.COUNT:
        if hasattr(run, "result") and any(not u.get("counted") for u in run.result.bench["units"]):
            raise InputError("this run has units already", "count", "cut them by hand where they are wrong")  # fmt: skip
        return
    if kind == Edit.Kind.GEAR:
        check_gear(run, values["landmark"])
        return
    if kind == Edit.Kind.MARK:
        check_mark(run, values)
        given = tracker_tracks(run)
        if _of_body(values["landmark"], given):
            apply_marks(given, [Mark(**values)])
        return
    shown: Any = run.result.bench if hasattr(run, "result") else {"t": [0.0], "boundaries": []}
    check_cut(
        [b["t"] for b in shown["boundaries"]],
        Cut(kind=kind, **values),
        shown["t"][0],
        shown["t"][-1],
        shortest_unit(run.discipline),
    )


def sheet_of(run: Run, done: Review) -> RunSheet:
    """The run sheet of a review, with what the coach saw and what was prescribed before."""
    sheet = run_sheet(done, run.discipline, about(run))
    seen = observations(notes_of(in_force(run)), done.units, playbook(run.discipline))
    more = {"observations": seen, "previous": aims_for(run)}
    return sheet.model_validate({**sheet.model_dump(by_alias=True), **more})


def questions(run: Run) -> list[Question]:
    """Where one look of the coach's would settle most."""
    done = reviewed(run)
    return ask_first(done, sheet_of(run, done), Result.objects.get(run=run).prescription)


def way_on(run: Run, done: Review, prescription: Prescription) -> Leading | None:
    """The fewest marks that tell more of a run; None where none would."""
    marks = run.corrections.filter(undone=False, kind=Edit.Kind.MARK)
    given = tracker_tracks(run)
    may = [n for n in wanted_gear(run.discipline) if given.names and n not in given.index]
    return leading(
        done, run.discipline, prescription,
        [(e.values["frame"], e.values["landmark"]) for e in marks], may,
    )  # fmt: skip


def main_title(prescription: Prescription, doubt: bool) -> str:
    """The main thing that was found, in words; empty where all is well."""
    main = prescription["main"]
    if main:
        return main["title"] + ("" if main["verdict"] == "clear" else " (likely)")
    if doubt:
        return "A question first"
    seen, of = judged_of(prescription)
    if seen == 0:
        return "Nothing could be judged"
    # All is well only where all was looked at.
    return "" if seen == of else f"Nothing found, {seen} of {of} judged"


def to_measure(result: Result) -> bool:
    """Whether the numbers themselves have to be worked out again, and not only what is made of them."""
    return result.remeasure or result.made_by != version()


def outdated(result: Result) -> bool:
    """Whether something that a result rests on has changed, or another version worked it out."""
    return result.stale or result.made_by != version()


def up_to_date(run: Run) -> Result:
    """The run's result as things stand: worked out here where it is outdated, by one at a time and once for all who ask.

    Where it cannot be worked out, the old one with its ``trouble``.
    """
    while not hasattr(run, "result") or outdated(run.result):
        with one_measuring(run):
            # Another may have done it while this one waited.
            if not hasattr(run, "result") or outdated(run.result):
                run.result = _measured(run)
    return run.result


def refresh(run: Run) -> Result:
    """Measure, judge and save the result, outdated or not."""
    changed(run=run)
    run.refresh_from_db()  # with the result as it was loaded, it would not look outdated
    return up_to_date(run)


def queue_measuring(run: Run) -> None:
    """Have a worker bring the result up to date."""
    put_once("measure", f"measure {run.pk}", run_id=run.pk)


def brought_up_to_date(run: Run) -> bool:
    """Bring the result up to date: at once, or by a job where the last time took longer than a moment. Whether it is there."""
    was = run.result.made, run.result.changes
    run.result.refresh_from_db(
        fields=["stale", "remeasure", "made_by", "took_s", "made", "changes"]
    )
    if (run.result.made, run.result.changes) != was:
        # Another measured it since this one was loaded: its numbers are the others'.
        run.result.refresh_from_db()
    if not outdated(run.result):
        return True
    if run.result.took_s > MOMENT_S and to_measure(run.result):
        queue_measuring(run)
        return False
    up_to_date(run)
    return True


def _measured(run: Run) -> Result:
    """Work out a run as it stands, and save what came of it with the review; it stays outdated where somebody wrote meanwhile."""
    old = Result.objects.filter(run=run).first()
    changes, began = (old.changes if old else 0), monotonic()
    kept = None
    try:
        # Read here: what ``run`` was loaded with may be older than the count of changes.
        run = Run.objects.select_related("rider", "clip", "club", "part_of").get(pk=run.pk)
        done = None if old is None or to_measure(old) else _kept(old)
        if done is None:
            done = _reviewed(run)
            kept = pack_review(done)
        values, trouble = _worked_out(run, done), ""
    except InputError as e:
        if old is None:
            raise
        values, trouble = {}, str(e)[:300]
    if old is None or any(getattr(old, k) != v for k, v in values.items()):
        values["made"] = timezone.now()
        if old is not None and values:
            values["verdict_change"] = verdict_change(
                cast(Prescription, old.prescription), values["prescription"]
            )
    with transaction.atomic():
        now = Result.objects.select_for_update().filter(run=run).first()
        stale = now is not None and now.changes != changes
        fields = {
            **values,
            "stale": stale,
            # What could not be measured as things stand is tried again with the next change, whatever that is.
            "remeasure": bool(trouble) or (stale and now is not None and now.remeasure),
            "made_by": version(),
            "trouble": trouble,
        }
        if kept is not None:
            fields["took_s"] = monotonic() - began
        result = Result.objects.update_or_create(run=run, defaults=fields)[0]
        if kept is not None:
            KeptReview.objects.update_or_create(result=result, defaults={"file": packed(kept)})
        if run.part_of_id is not None and values:
            judged_anew(run=run.part_of_id)
        return result


def _kept(result: Result) -> Review | None:
    kept = KeptReview.objects.filter(result=result).first()
    try:
        return None if kept is None else unpack_review(kept.data)
    except FileNotFoundError:
        return None


def _worked_out(run: Run, done: Review) -> dict[str, Any]:
    own = sheet_of(run, done)
    # Nothing is judged until what the picture asks is answered.
    several = with_others(run, own) if done.doubt is None else None
    sheet, prescription = judged(several.sheet if several else own, word_of(in_force(run)))
    shown = bench(done, own)
    return {
        "sheet": own.model_dump(mode="json", exclude_none=True),
        "together": sheet.model_dump(mode="json", by_alias=True, exclude_none=True)
        if several
        else None,
        "unused_clips": several.unused if several else [],
        "bench": shown,
        "outline": outline(shown["ribbon"]),
        "prescription": prescription,
        "main_title": main_title(prescription, done.doubt is not None),
        "presses": _presses(run, done, prescription),
        "by_eye": not done.tracks.names,
    }


def _presses(run: Run, done: Review, prescription: Prescription) -> int | None:
    """How many presses a run needs until something is judged: one for a question; None where something is."""
    if done.doubt is not None:
        return 1
    if judged_of(prescription)[0]:
        return None
    found = way_on(run, done, prescription)
    return len(found.steps) if found else 0
