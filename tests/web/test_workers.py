"""Real worker processes on the real queue: side by side, killed, and without their database."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from django.conf import settings
from django.core.files import File
from django.db import connection

from proklisis.core.tracks.tracks import SOURCES
from proklisis.web.runs.blobs import unpack
from proklisis.web.runs.models import Clip, Piece, Run, ToldFilm
from proklisis.web.runs.queueing import enqueue
from proklisis.web.telling.models import Telling
from proklisis.web.telling.telling import film, stands
from tests.web.conftest import measured_run

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.slow]
ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture
def worker(own_media):
    """``worker()`` starts one more worker process; all are killed at the end."""
    started: list[subprocess.Popen[bytes]] = []

    def start() -> subprocess.Popen[bytes]:
        env = {
            **os.environ, "PROKLISIS_DB_NAME": connection.settings_dict["NAME"], "PROKLISIS_MEDIA": str(settings.MEDIA_ROOT),
            "PROKLISIS_LOST_S": "12",  # a worker is heard of every ten seconds
        }  # fmt: skip
        command = [
            sys.executable,
            "manage.py",
            "procrastinate",
            "worker",
            "--queues",
            "clips",
            "--concurrency",
            "1",
        ]
        started.append(subprocess.Popen(command, cwd=ROOT, env=env, start_new_session=True))
        return started[-1]

    yield start
    for process in started:
        process.kill()
        process.wait()


@pytest.fixture(scope="module")
def brief_clip(short_clip, tmp_path_factory) -> Path:
    """Long enough to be killed in the middle of."""
    path = tmp_path_factory.mktemp("brief") / "run.mp4"
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-y",
            "-i",
            str(short_clip),
            "-frames:v",
            "150",
            "-g",
            "12",
            str(path),
        ],
        check=True,
    )
    return path


def queued(rider, path: Path) -> Run:
    run = Run.objects.create(
        club=rider.club,
        rider=rider,
        level="intermediate",
        view="front",
        conditions={"slope_deg": 17},
    )
    with path.open("rb") as f:
        clip = Clip(run=run, name="run.mp4", size=path.stat().st_size, sha256=f"{run.pk:064d}")
        clip.original.save("run.mp4", File(f), save=True)
    enqueue(run)
    return run


def until(true: Callable[[], bool], seconds: float = 120) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it did not happen in time"
        time.sleep(0.1)


def state(run: Run) -> str:
    run.refresh_from_db()
    return run.state


def test_a_killed_workers_piece_is_taken_up_by_another(worker, rider, brief_clip):
    run = queued(rider, brief_clip)
    first = worker()
    until(lambda: Piece.objects.filter(run=run, done__gt=5).exists())
    os.kill(first.pid, signal.SIGKILL)
    first.wait()
    assert state(run) == Run.State.WORKING
    worker()
    until(lambda: state(run) in (Run.State.READY, Run.State.FAILED))
    assert (run.state, run.problem) == (Run.State.READY, "")
    tracks = unpack(run.track_sets.get().data)
    assert len(tracks) == run.clip.frames
    assert (tracks.source == SOURCES.index("auto")).all()


def test_a_cancelled_run_stops_on_every_worker_and_goes_on_when_asked(worker, rider, brief_clip):
    run = queued(rider, brief_clip)
    worker()
    until(lambda: Piece.objects.filter(run=run, done__gt=5).exists())
    Run.objects.filter(pk=run.pk).update(cancel_asked=True)
    until(lambda: state(run) == Run.State.CANCELLED, 20)
    enqueue(run)
    worker()
    until(lambda: state(run) == Run.State.READY)


def test_connections_cut_by_the_database_do_not_lose_the_run(worker, rider, brief_clip):
    """As when PostgreSQL restarts in the middle of the work."""
    run = queued(rider, brief_clip)
    worker()
    until(lambda: Piece.objects.filter(run=run, done__gt=5).exists())
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()"
        )
    worker()
    until(lambda: state(run) in (Run.State.READY, Run.State.FAILED))
    assert (run.state, run.problem) == (Run.State.READY, "")


def test_a_worker_killed_in_a_told_film_loses_nothing(worker, rider, simulated, short_clip):
    """The film is made by the next worker, and the Telling with what was said stands as it was."""
    run = measured_run(
        rider, simulated({"hip_out": 1.8}, seed=31, units=2, view="front").tracks, short_clip
    )
    run.clip.original.save("run.mp4", run.clip.working.file)
    slow = {"act": "play", "at_s": 0.0, "frame": 0, "to_frame": run.clip.frames - 1, "speed": 0.1}
    passage = {"id": "p", "caption": "All of it.", "length_s": 60.0, "acts": [slow]}
    told = {"format": "telling/1", "discipline": run.discipline, "passages": [passage]}
    Telling.objects.create(run=run, body=told, made_on=run.result.made)
    made = film(run, stands(run), burnt=True)
    first = worker()
    until(lambda: ToldFilm.objects.filter(pk=made.pk, progress__gt=0.03).exists())
    os.killpg(first.pid, signal.SIGKILL)
    first.wait()
    made.refresh_from_db()
    assert (made.state, bool(made.file)) == (ToldFilm.State.WORKING, False)
    worker()
    until(lambda: not ToldFilm.objects.get(pk=made.pk).busy)
    made.refresh_from_db()
    assert (made.state, made.problem) == (ToldFilm.State.READY, "")
    assert made.file.size > 1000
    assert Telling.objects.get(run=run).body == told
