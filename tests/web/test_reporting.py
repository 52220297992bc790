"""How the long work tells how far it is, and how it ends whatever happens."""

from __future__ import annotations

import errno
from datetime import timedelta
from types import SimpleNamespace

import pytest
from django.db import connection
from django.utils import timezone

from proklisis.core.errors import InputError
from proklisis.web.analysis import tasks, work
from proklisis.web.runs import reporting
from proklisis.web.runs.models import Clip, Piece, Run
from proklisis.web.runs.reporting import (
    FOLLOW,
    Reporter,
    Stopped,
    ending_readably,
    followed_share,
    seconds_left,
)
from tests.web.conftest import awaited


@pytest.fixture
def working(rider) -> Run:
    run = Run.objects.create(
        club=rider.club,
        rider=rider,
        level="intermediate",
        view="front",
        state=Run.State.WORKING,
        attempt=1,
    )
    Clip.objects.create(run=run, name="run.mp4", size=1, sha256="1" * 64)
    return run


def row(run: Run) -> Run:
    return Run.objects.get(pk=run.pk)


def test_the_pieces_together_tell_the_share_that_is_followed(working):
    assert followed_share(working.pk) == FOLLOW[0]
    for k, done in enumerate((100, 50)):
        Piece.objects.create(run=working, number=k, first=100 * k, stop=100 * k + 100, done=done)
    assert followed_share(working.pk) == pytest.approx(FOLLOW[0] + 0.75 * (FOLLOW[1] - FOLLOW[0]))


def test_the_time_left_goes_by_what_it_took_so_far(working):
    working.following_since = timezone.now() - timedelta(seconds=60)
    working.progress = FOLLOW[0] + 0.25 * (FOLLOW[1] - FOLLOW[0])
    assert seconds_left(working) == pytest.approx(180, rel=0.02)
    working.progress = FOLLOW[1]
    assert seconds_left(working) == 1.0


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"progress": FOLLOW[0] + 0.01}, "too early to tell"),
        ({"following_since": None}, "not begun"),
        ({"state": Run.State.READY}, "over"),
    ],
)
def test_where_it_cannot_be_told_no_time_is_made_up(working, change, why):
    working.following_since, working.progress = timezone.now() - timedelta(seconds=60), 0.5
    for name, value in change.items():
        setattr(working, name, value)
    assert seconds_left(working) is None, why


def test_a_report_is_written_and_a_cancelled_run_stops(working):
    reporter = Reporter(working.pk, 1)
    reporter.step("Following the rider", 0.3)
    assert (row(working).step, row(working).progress) == ("Following the rider", 0.3)
    Run.objects.filter(pk=working.pk).update(cancel_asked=True)
    with pytest.raises(Stopped):
        reporter.step("Following the rider", 0.4)
    assert row(working).progress == 0.3


def test_a_newer_attempt_stops_the_older_ones_work(working):
    reporter = Reporter(working.pk, 1)
    Run.objects.filter(pk=working.pk).update(attempt=2)
    with pytest.raises(Stopped):
        reporter.alive()


def test_reports_are_not_written_for_every_frame(working, django_assert_max_num_queries):
    reporter = Reporter(working.pk, 1)
    report = reporter.share(0.0, 0.5)
    with django_assert_max_num_queries(3):
        for k in range(200):
            report(k, 200)


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (
            InputError("the video is empty", "run.mp4", "send it again"),
            "run.mp4: the video is empty; send it again",
        ),
        (OSError(errno.ENOSPC, "No space left on device"), "disk is full; the clip is kept"),
        (OSError(errno.EIO, "Input/output error"), reporting.OUR_FAULT),
        (ZeroDivisionError("a bug of ours"), reporting.OUR_FAULT),
    ],
)
def test_whatever_goes_wrong_ends_in_a_sentence(working, error, words):
    with ending_readably(working.pk, 1):
        raise error
    run = row(working)
    assert run.state == Run.State.FAILED
    assert words in run.problem
    assert run.step == ""
    assert run.clip.name == "run.mp4"  # the clip is kept


def test_a_failure_of_an_older_attempt_leaves_the_newer_alone(working):
    Run.objects.filter(pk=working.pk).update(attempt=2)
    with ending_readably(working.pk, 1):
        raise ZeroDivisionError
    assert row(working).state == Run.State.WORKING


def test_a_cancelled_run_ends_cancelled_and_not_failed(working):
    Run.objects.filter(pk=working.pk).update(cancel_asked=True)
    with ending_readably(working.pk, 1):
        Reporter(working.pk, 1).alive()
    assert (row(working).state, row(working).problem) == (Run.State.CANCELLED, "")


def lost_job(run: Run, attempts: int, job: int | None = None) -> int:
    """A job that a worker took and was never heard of again."""
    if job is None:
        job = tasks.follow.defer(run_id=run.pk, attempt=1, number=0)
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - interval '1 hour') RETURNING id"
        )
        (worker,) = cursor.fetchone()
        cursor.execute(
            "UPDATE procrastinate_jobs SET status = 'doing', worker_id = %s, attempts = %s WHERE id = %s",
            [worker, attempts, job],
        )
    return job


def status_of(job: int) -> str:
    with connection.cursor() as cursor:
        cursor.execute("SELECT status FROM procrastinate_jobs WHERE id = %s", [job])
        return str(cursor.fetchone()[0])


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(
    ("attempts", "status", "state"),
    [(1, "todo", Run.State.WORKING), (work.MOST_LOST, "failed", Run.State.FAILED)],
    ids=["lost once", "lost again and again"],
)
def test_a_lost_part_is_taken_up_again_until_it_was_lost_too_often(
    working, attempts, status, state
):
    job = lost_job(working, attempts)

    async def look():
        async with tasks.app.with_connector(
            tasks.app.connector.get_worker_connector()
        ).open_async() as worker:
            await tasks.take_up_lost(SimpleNamespace(app=worker), 0)

    awaited(look)
    assert status_of(job) == status
    run = row(working)
    assert run.state == state
    if state == Run.State.FAILED:
        assert "lost 3 times" in run.problem
        assert "the clip is kept" in run.problem


@pytest.mark.django_db(transaction=True)
def test_a_lost_job_of_which_another_waits_goes_and_holds_up_no_other(working):
    waits_too = tasks.crop.configure(queueing_lock="crop-1")
    twice = lost_job(working, 1, waits_too.defer(track_set_id=1))
    waits_too.defer(track_set_id=1)
    other = lost_job(working, 1)

    async def look():
        async with tasks.app.with_connector(
            tasks.app.connector.get_worker_connector()
        ).open_async() as worker:
            await tasks.take_up_lost(SimpleNamespace(app=worker), 0)

    awaited(look)
    assert status_of(other) == "todo"
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM procrastinate_jobs WHERE id = %s", [twice])
        assert cursor.fetchone() == (0,)
