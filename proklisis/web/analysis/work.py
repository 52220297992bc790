"""The long work on a run, in parts that any worker can do and do again.

First the clip is looked at; then its copy is made while it is found out who is in the picture and the
pieces are followed; whoever is done last puts the joining into the queue, after which the run is
measured and judged. A part that finds its result there already does nothing, so a lost part is simply
done again.
"""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from django.core.files import File
from django.db import transaction
from django.utils import timezone

from proklisis.core.errors import InputError
from proklisis.core.tracks.tracks import ClipFacts
from proklisis.footage.limited import limited
from proklisis.footage.probe import Clip as Footage
from proklisis.footage.probe import part, probe
from proklisis.footage.working_copy import make_working_copy
from proklisis.web.analysis import several
from proklisis.web.analysis.reviewing import queue_measuring, refresh
from proklisis.web.clips import people
from proklisis.web.clips.footage import footage_of
from proklisis.web.runs import blobs
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import Clip, Piece, Run, SeenEdges, TrackSet, packed
from proklisis.web.runs.reporting import BUSY, FOLLOW, Reporter, ending_readably
from proklisis.web.stored import on_disk

#: Processor time for the copy, and for each of its frames.
COPY_CPU_S = (60.0, 0.5)
#: Processor time for looking at a clip, seconds, at the very most.
LOOK_CPU_S = 300.0
#: For each frame that is followed, seconds, at the very most.
FRAME_CPU_S = 4.0
#: A part that was lost so often is not tried again: it may be what kills the worker.
MOST_LOST = 3


def analyse_run(run_id: int, attempt: int) -> None:
    """Look at the clip, and put what there is to do with it into the queue."""
    run = _wanted(run_id, attempt)
    if run is None:
        return
    with ending_readably(run_id, attempt):
        reporter, clip = Reporter(run_id, attempt), run.clip
        reporter.step("Looking at the clip", 0.0)
        if not clip.index:
            _look(clip, reporter)
        if not clip.working:
            # Another worker makes it while this one looks who is in the picture.
            put("copy", run_id=run_id, attempt=attempt)
        follow = run.follow_again or not run.track_sets.filter(person=clip.chosen).exists()
        if follow and not run.pieces.exists():
            _cut(run, reporter)
        with transaction.atomic():
            reporter.step(
                "Following the rider" if follow else "Measuring and judging",
                FOLLOW[0] if follow else FOLLOW[1],
            )
            Run.objects.filter(pk=run_id).update(following_since=timezone.now())
            for piece in run.pieces.filter(data=None) if follow else ():
                put("follow", run_id=run_id, attempt=attempt, number=piece.number)
        _maybe_join(run_id, attempt)


def copy_clip(run_id: int, attempt: int) -> None:
    """Make the copy that browsers step through."""
    run = _wanted(run_id, attempt)
    if run is None:
        return
    with ending_readably(run_id, attempt):
        if not run.clip.working:
            _copy(run.clip, Reporter(run_id, attempt))
        _maybe_join(run_id, attempt)


def follow_part(run_id: int, attempt: int, number: int) -> None:
    """Follow the rider through one piece."""
    run = _wanted(run_id, attempt)
    piece = Piece.objects.filter(run=run_id, number=number).first()
    if run is None or piece is None:
        return
    with ending_readably(run_id, attempt):
        if piece.data is None:
            piece.data = blobs.pack_piece(_follow(run.clip, piece, Reporter(run_id, attempt)))
            piece.done = piece.stop - piece.first
            # Another worker may have done it meanwhile, when this one was taken for lost.
            Piece.objects.filter(pk=piece.pk, data=None).update(data=piece.data, done=piece.done)
        _maybe_join(run_id, attempt)


def join_parts(run_id: int, attempt: int) -> None:
    """Join the pieces to tracks, and measure and judge the run."""
    run = _wanted(run_id, attempt)
    if run is None:
        return
    with ending_readably(run_id, attempt):
        Reporter(run_id, attempt).step("Measuring and judging", FOLLOW[1])
        if run.pieces.exists():
            _join(run)
        refresh(run)
        for one in (run, *several.others_of(run)):
            several.match_by_itself(one)
        if run.part_of is not None and hasattr(run.part_of, "result"):
            queue_measuring(run.part_of)
        Run.objects.filter(pk=run_id, attempt=attempt, state__in=BUSY).update(
            state=Run.State.READY, step="", progress=1.0, problem=""
        )


def give_up(run_id: int, attempt: int) -> None:
    """A part of this run was lost again and again."""
    Run.objects.filter(pk=run_id, attempt=attempt, state__in=BUSY).update(
        state=Run.State.FAILED, step="",
        problem=f"The worker was lost {MOST_LOST} times over this clip; the clip is kept. Try again on a quieter machine.",
    )  # fmt: skip


def _wanted(run_id: int, attempt: int) -> Run | None:
    return (
        Run.objects.select_related("rider", "clip__film", "part_of__result")
        .filter(pk=run_id, attempt=attempt, state__in=BUSY)
        .first()
    )


def _maybe_join(run_id: int, attempt: int) -> None:
    """Put the joining into the queue, once, when the copy and every piece are there."""
    with transaction.atomic():
        # Until the clip is cut, that no piece is missing means nothing: the copy can be done before.
        cut = Run.objects.filter(pk=run_id, attempt=attempt, following_since__isnull=False)
        run = cut.select_for_update().filter(joining=False, state__in=BUSY).first()
        if run is None or not run.clip.working or run.pieces.filter(data=None).exists():
            return
        Run.objects.filter(pk=run_id).update(joining=True)
        put("join", run_id=run_id, attempt=attempt)


def _limited(work: Any, clip: Clip, *args: Any, **options: Any) -> Any:
    return limited(work, *args, name=clip.name, **options)


def _look(clip: Clip, reporter: Reporter) -> None:
    with on_disk(clip.source, clip.name) as path:
        footage: Footage = _limited(probe, clip, path, seconds=LOOK_CPU_S, alive=reporter.alive)
    if clip.to_s is not None:
        footage = part(footage, clip.from_s or 0.0, clip.to_s)
    reporter.alive()
    note(clip, footage)
    clip.save()


def note(clip: Clip, footage: Footage) -> None:
    """Write what was found in a file to its row."""
    clip.container, clip.codec, clip.rotation, clip.start_s = (
        footage.container,
        footage.codec,
        footage.rotation,
        footage.start,
    )
    clip.into_s = footage.into
    clip.width, clip.height = footage.width, footage.height
    clip.stored_width, clip.stored_height = footage.stored
    clip.fps, clip.frames, clip.filmed_hint = footage.fps, len(footage.t), footage.filmed_fps
    clip.missing_after = [int(i) for i in footage.gaps]
    clip.index = blobs.pack_index(footage.t, footage.keys)


def _cut(run: Run, reporter: Reporter) -> None:
    """Find who is in the picture, and cut the clip into pieces to follow the chosen one through."""
    # The tracker loads for seconds, and only a worker needs it.
    from proklisis.footage.follow import plan_pieces
    from proklisis.footage.people import find_people

    clip = run.clip
    if not clip.people:
        reporter.step("Looking who is in the picture", 0.02)
        with on_disk(clip.source, clip.name) as path:
            found = _limited(
                find_people,
                clip,
                footage_of(clip, path),
                seconds=LOOK_CPU_S + 0.2 * clip.frames,
                progress=reporter.share(0.02, FOLLOW[0]),
                alive=reporter.alive,
            )
        clip.people = people.stored(found)
        clip.chosen = people.aimed_at(clip, blobs.unpack_index(clip.index)[0])
        clip.save(update_fields=["people", "chosen"])
    Piece.objects.bulk_create(
        Piece(run=run, number=k, first=a, stop=b)
        for k, (a, b) in enumerate(plan_pieces(clip.frames))
    )


def _follow(clip: Clip, piece: Piece, reporter: Reporter) -> Any:
    from proklisis.footage.follow import follow_piece

    reporter.alive()
    with on_disk(clip.source, clip.name) as path:
        return _limited(
            follow_piece, clip, footage_of(clip, path), piece.first, piece.stop, people.seeds(clip),
            seconds=LOOK_CPU_S + FRAME_CPU_S * (piece.stop - piece.first), progress=reporter.followed(piece), alive=reporter.alive,
        )  # fmt: skip


def _join(run: Run) -> None:
    from proklisis.footage.follow import as_tracks, joined
    from proklisis.footage.looks import doubled, summed_up

    # Nothing is read of the file any more; its name is for messages.
    clip, footage = run.clip, footage_of(run.clip, Path(run.clip.name))
    pieces = [blobs.unpack_piece(p.data) for p in run.pieces.all() if p.data is not None]
    whole = joined(pieces, clip.frames)
    height = run.rider.height_cm / 100 if run.rider.height_cm else None
    facts = ClipFacts(fps=footage.fps, view=run.view or None)  # type: ignore[arg-type]
    try:
        tracks = as_tracks(footage, facts, whole, height)
    except InputError as e:
        raise InputError(e.what, clip.name, e.mend) from e
    clip.doubled = [int(i) for i in doubled(whole.change)]
    clip.looks = summed_up(whole.xy, whole.blur, whole.light, clip.height)
    with transaction.atomic():
        clip.save(update_fields=["doubled", "looks"])
        kept = TrackSet.objects.create(run=run, person=clip.chosen, file=packed(blobs.pack(tracks)))
        SeenEdges.objects.create(tracks=kept, file=packed(blobs.pack_edges(whole.edges)))
        run.pieces.all().delete()
        Run.objects.filter(pk=run.pk).update(follow_again=False)


def _copy(clip: Clip, reporter: Reporter) -> None:
    with tempfile.TemporaryDirectory(prefix="proklisis-") as folder:
        out = Path(folder) / "working.mp4"
        try:
            with on_disk(clip.source, clip.name) as path:
                size = _limited(
                    make_working_copy, clip, footage_of(clip, path), out, seconds=COPY_CPU_S[0] + COPY_CPU_S[1] * clip.frames,
                    progress=lambda share: reporter.alive(), alive=reporter.alive,
                )  # fmt: skip
        except InputError as e:
            raise InputError(e.what, clip.name, e.mend) from e
        with out.open("rb") as f:
            clip.working.save("working.mp4", File(f), save=False)
        # Other parts write other fields of the same row meanwhile.
        mine = {"working": clip.working.name, "play_width": size[0], "play_height": size[1]}
        if not Clip.objects.filter(pk=clip.pk, working="").update(**mine):
            # A worker that was taken for lost has made it after all, or the clip is gone.
            clip.working.delete(save=False)
