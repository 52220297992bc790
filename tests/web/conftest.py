"""A club with a coach, a rider, and a measured run made from simulated tracks."""

from __future__ import annotations

from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from asgiref.sync import async_to_sync
from django.contrib.auth.models import User
from django.core.cache import cache
from django.core.files import File
from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob
from rest_framework.test import APIClient

from proklisis.footage.probe import probe
from proklisis.web.analysis import reviewing, work
from proklisis.web.analysis.reviewing import refresh
from proklisis.web.clubs.models import Club, Coach, Role
from proklisis.web.intake import looking
from proklisis.web.riders.models import Rider
from proklisis.web.runs.blobs import pack, pack_index
from proklisis.web.runs.models import Clip, Run, TrackSet, packed


def pytest_collection_modifyitems(items):
    for item in items:
        if "/tests/web/" in str(item.path):
            item.add_marker("server")


@pytest.fixture(autouse=True)
def own_media(request, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path / "media"
    if request.node.get_closest_marker("django_db") or "db" in request.fixturenames:
        if "transactional_db" not in request.fixturenames:
            request.getfixturevalue("db")
        cache.clear()  # attempts to log in are counted there
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.fixture(autouse=True)
def no_worker_needed(monkeypatch):
    """On a loaded machine, too, corrections are measured in the request; what a job does is tested by itself."""
    monkeypatch.setattr(reviewing, "MOMENT_S", 600.0)


def new_coach(club: str, username: str, role: Role = Role.COACH) -> Coach:
    user = User.objects.create_user(username, password="a-long-password-1")
    return Coach.objects.create(
        user=user,
        club=Club.objects.get_or_create(name=club)[0],
        name=username.title(),
        role=role,
    )


def client_of(coach: Coach) -> APIClient:
    client = APIClient()
    client.force_login(coach.user)
    return client


@pytest.fixture
def coach(db) -> Coach:
    return new_coach("Lanternfell", "ada")


@pytest.fixture
def client(coach) -> APIClient:
    return client_of(coach)


@pytest.fixture
def rider(coach) -> Rider:
    return Rider.objects.create(club=coach.club, name="Wren", number=7, born=1990, height_cm=175)


def measured_run(
    rider: Rider, tracks, clip_path: Path | None = None, discipline: str = "alpine_carve"
) -> Run:
    """A run as it stands after its analysis, with or without its pictures."""
    conditions = {"slope_deg": 17} if discipline == "alpine_carve" else {}
    run = Run.objects.create(
        club=rider.club,
        rider=rider,
        level="intermediate",
        view=tracks.facts.view,
        conditions=conditions,
        discipline=discipline,
    )
    clip = Clip(
        run=run,
        name="run.mp4",
        size=1,
        sha256=f"{run.pk:064d}",
        fps=tracks.facts.fps,
        frames=len(tracks),
    )
    clip.index = pack_index(tracks.t, np.arange(0, len(tracks), 12))
    clip.width, clip.height = tracks.facts.width, tracks.facts.height
    clip.play_width, clip.play_height = clip.width, clip.height
    if clip_path is not None:
        work.note(clip, probe(clip_path))
        with clip_path.open("rb") as f:
            clip.working.save("run.mp4", File(f), save=False)
    clip.save()
    TrackSet.objects.create(run=run, file=packed(pack(tracks)))
    refresh(run)
    Run.objects.filter(pk=run.pk).update(state=Run.State.READY, progress=1)
    run.refresh_from_db()
    return run


@pytest.fixture
def run(rider, simulated, short_clip) -> Run:
    sim = simulated({"not_level": 1.6}, seed=103, units=2, view="front")
    return measured_run(rider, sim.tracks, short_clip)


@pytest.fixture
def ridden(rider, simulated):
    """Runs of one rider, as they were ridden one after the other."""

    def ride(faults: dict[str, float], seed: int, who: Rider | None = None) -> Run:
        sim = simulated(faults, seed=seed, units=6, view="front")
        return measured_run(who or rider, sim.tracks)

    return ride


#: Two people in the picture, as a clip keeps them.
TWO = [
    {
        "numbers": [0, 30],
        "centres": [[300, 300], [310, 300]],
        "heights": [200, 200],
        "boxes": [[200, 200, 400, 400]] * 2,
    },
    {
        "numbers": [0, 30],
        "centres": [[900, 300], [910, 300]],
        "heights": [150, 150],
        "boxes": [[800, 200, 1000, 400]] * 2,
    },
]

JOBS = {
    "look_at_sent": looking.look,
    "analyse": work.analyse_run,
    "copy": work.copy_clip,
    "follow": work.follow_part,
    "join": work.join_parts,
}


def awaited(what: Callable[..., Awaitable[Any]], *args: object) -> Any:
    """What an async function returns, from a thread of its own: a browser's test leaves its loop running in this one."""

    def run() -> Any:
        try:
            return async_to_sync(what)(*args)
        finally:
            connection.close()

    with ThreadPoolExecutor(1) as thread:
        return thread.submit(run).result()


def work_off() -> None:
    """Do the jobs that are in the queue, and those they put there, as a worker would."""
    while (
        job := ProcrastinateJob.objects.filter(status="todo", task_name__in=JOBS)
        .order_by("-priority", "id")
        .first()
    ):
        with connection.cursor() as cursor:
            cursor.execute(
                "UPDATE procrastinate_jobs SET status = 'succeeded' WHERE id = %s", [job.pk]
            )
        JOBS[job.task_name](**job.args)


__all__ = ["awaited", "client_of", "measured_run", "new_coach", "work_off"]
