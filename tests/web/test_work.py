"""The parts of the long work side by side: done twice, done by another meanwhile, joined once."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from django.core.files import File
from django.db import OperationalError
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob
from psycopg.errors import DiskFull

from proklisis.core.errors import InputError
from proklisis.core.tracks.landmarks import BODY
from proklisis.footage.follow import Piece as Followed
from proklisis.footage.probe import probe
from proklisis.web.analysis import work
from proklisis.web.clips import people
from proklisis.web.runs import blobs, queueing
from proklisis.web.runs.blobs import MOST_EDGES
from proklisis.web.runs.models import Clip, Piece, Result, Run
from proklisis.web.runs.reporting import DISK_FULL, Reporter
from tests.web.conftest import measured_run, work_off

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def looked_at(rider, short_clip) -> Run:
    """A run whose clip has been looked at; nobody has followed anybody yet."""
    run = Run.objects.create(
        club=rider.club,
        rider=rider,
        level="intermediate",
        view="front",
        conditions={"slope_deg": 17},
        state=Run.State.WORKING,
        attempt=1,
    )
    clip = Clip(run=run, name="morning run.mp4", size=short_clip.stat().st_size, sha256="2" * 64)
    with short_clip.open("rb") as f:
        clip.original.save("run.mp4", File(f), save=False)
    work.note(clip, probe(short_clip))
    clip.save()
    return run


def followed(first: int, stop: int) -> Followed:
    n = stop - first
    return Followed(
        first,
        np.full((n, len(BODY), 2), 5.0),
        np.zeros((n, 2)),
        np.zeros(n),
        np.ones(n),
        np.ones(n, bool),
        np.ones(n),
        np.ones(n),
        np.full((n, len(BODY)), 2.0),
        np.full((n, MOST_EDGES, 4), np.nan),
    )


def joins(run: Run) -> int:
    return ProcrastinateJob.objects.filter(
        status="todo", task_name="join", args__run_id=run.pk
    ).count()


def test_a_copy_that_is_made_twice_leaves_one_file(looked_at, settings):
    one, other = (Clip.objects.get(run=looked_at) for _ in range(2))
    work._copy(one, Reporter(looked_at.pk, 1))
    work._copy(other, Reporter(looked_at.pk, 1))
    kept = Clip.objects.get(run=looked_at)
    assert [p.name for p in (Path(settings.MEDIA_ROOT) / "working").rglob("*.mp4")] == [
        Path(kept.working.name).name
    ]
    assert kept.play_width == 1280


def test_a_piece_that_another_worker_has_done_meanwhile_is_kept(looked_at, monkeypatch):
    piece = Piece.objects.create(run=looked_at, number=0, first=0, stop=10)
    theirs = blobs.pack_piece(followed(0, 10))

    def slowly(*_):
        Piece.objects.filter(pk=piece.pk).update(data=theirs, done=10)
        return replace(followed(0, 10), light=np.zeros(10))

    monkeypatch.setattr(work, "_follow", slowly)
    work.follow_part(looked_at.pk, 1, 0)
    assert bytes(Piece.objects.get(pk=piece.pk).data) == theirs


def test_whichever_part_is_done_last_puts_the_joining_into_the_queue_once(looked_at):
    Piece.objects.create(
        run=looked_at, number=0, first=0, stop=10, data=blobs.pack_piece(followed(0, 10))
    )
    late = Piece.objects.create(run=looked_at, number=1, first=5, stop=20)
    work._maybe_join(looked_at.pk, 1)
    assert joins(looked_at) == 0  # a piece and the copy are missing
    Piece.objects.filter(pk=late.pk).update(data=blobs.pack_piece(followed(5, 20)))
    work._maybe_join(looked_at.pk, 1)
    assert joins(looked_at) == 0  # the copy is missing
    Clip.objects.filter(run=looked_at).update(working="working/1/a.mp4")
    Run.objects.filter(pk=looked_at.pk).update(following_since=timezone.now())
    for _ in range(3):
        work._maybe_join(looked_at.pk, 1)
    assert joins(looked_at) == 1


def test_a_copy_that_is_done_before_the_clip_is_cut_does_not_end_the_run(looked_at):
    work.copy_clip(looked_at.pk, 1)
    assert Run.objects.get(pk=looked_at.pk).clip.working
    assert joins(looked_at) == 0


def test_parts_of_an_older_attempt_do_nothing(looked_at, monkeypatch):
    monkeypatch.setattr(work, "_follow", lambda *_: pytest.fail("nobody waits for this"))
    Piece.objects.create(run=looked_at, number=0, first=0, stop=10)
    Run.objects.filter(pk=looked_at.pk).update(attempt=2)
    work.follow_part(looked_at.pk, 1, 0)
    work.copy_clip(looked_at.pk, 1)
    work.join_parts(looked_at.pk, 1)
    work.analyse_run(looked_at.pk, 1)
    row = Run.objects.get(pk=looked_at.pk)
    assert (row.state, row.problem, row.clip.working.name, row.pieces.get().data) == (
        Run.State.WORKING,
        "",
        "",
        None,
    )


def test_a_piece_that_is_gone_is_no_failure(looked_at):
    work.follow_part(looked_at.pk, 1, 7)
    assert Run.objects.get(pk=looked_at.pk).state == Run.State.WORKING


def test_an_error_calls_the_clip_as_the_coach_does(looked_at, monkeypatch):
    stored = Path(looked_at.clip.original.name).name

    def broken(*_, **__):
        raise InputError("the pictures end in the middle", stored, "send it again")

    monkeypatch.setattr(work, "limited", broken)
    Piece.objects.create(run=looked_at, number=0, first=0, stop=10)
    work.follow_part(looked_at.pk, 1, 0)
    row = Run.objects.get(pk=looked_at.pk)
    assert row.state == Run.State.FAILED
    assert row.problem == "morning run.mp4: the pictures end in the middle; send it again."


def test_a_disk_that_fills_under_the_database_is_told_and_the_work_goes_on_from_there(
    looked_at, monkeypatch
):
    Piece.objects.create(
        run=looked_at, number=0, first=0, stop=10, data=blobs.pack_piece(followed(0, 10)), done=10
    )
    Piece.objects.create(run=looked_at, number=1, first=5, stop=20)

    def full(*_):
        raise OperationalError("could not extend file") from DiskFull()

    with monkeypatch.context() as m:
        m.setattr(work, "_follow", full)
        work.follow_part(looked_at.pk, 1, 1)
    row = Run.objects.get(pk=looked_at.pk)
    assert (row.state, row.problem) == (Run.State.FAILED, DISK_FULL)
    monkeypatch.setattr(
        work, "_follow", lambda clip, piece, reporter: followed(piece.first, piece.stop)
    )
    asked = []
    monkeypatch.setattr(work, "_join", lambda run: asked.extend(p.done for p in run.pieces.all()))
    monkeypatch.setattr(work, "refresh", lambda run: None)
    queueing.enqueue(row)
    work_off()
    assert asked == [10, 15]  # what was followed before was not followed again
    assert Run.objects.get(pk=row.pk).state == Run.State.READY


def test_a_person_who_has_been_followed_is_not_followed_again(
    rider, simulated, short_clip, monkeypatch
):
    run = measured_run(
        rider, simulated({"not_level": 1.6}, seed=103, units=2, view="front").tracks, short_clip
    )
    monkeypatch.setattr(work, "_follow", lambda *_: pytest.fail("their tracks are there"))
    Result.objects.filter(run=run).update(main_title="from before")
    queueing.enqueue(run)
    work_off()
    run = Run.objects.get(pk=run.pk)
    assert run.state == Run.State.READY
    assert run.result.main_title != "from before"


def test_one_whom_the_search_missed_is_never_taken_to_be_alone(looked_at):
    clip = looked_at.clip
    assert people.seeds(clip) is None
    people.point_at(clip, 30, (640.0, 200.0), (640.0, 400.0))
    seeds = people.seeds(clip)
    assert (list(seeds.numbers), seeds.crowded) == ([30], True)
    assert seeds.at(30)[1] == pytest.approx(200)


def test_a_second_press_in_the_same_frame_takes_the_place_of_the_first(looked_at):
    clip = looked_at.clip
    people.point_at(clip, 30, (640.0, 200.0), (640.0, 400.0))
    assert people.point_at(clip, 30, (660.0, 220.0), (660.0, 400.0)) == 0
    assert clip.people[0]["numbers"] == [30]
    assert clip.people[0]["heights"] == [180.0]
