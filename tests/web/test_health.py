"""The health address knows of the workers, the queue and the disk."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.db import connection
from django.utils import timezone

from proklisis.web.analysis.tasks import analyse
from proklisis.web.watching import health

pytestmark = pytest.mark.django_db


@pytest.fixture(autouse=True)
def nothing_left(db):
    """Tests that commit leave jobs and workers behind; none of them is of these."""
    with connection.cursor() as cursor:
        for table in ("procrastinate_events", "procrastinate_jobs", "procrastinate_workers"):
            cursor.execute(f"DELETE FROM {table}")


def heard_of(seconds: float) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO procrastinate_workers (last_heartbeat) VALUES (%s)",
            [timezone.now() - timedelta(seconds=seconds)],
        )


def test_all_is_well_with_a_worker_a_short_queue_and_room(client):
    heard_of(3)
    analyse.defer(run_id=1, attempt=1)
    told = client.get("/healthz")
    assert told.status_code == 200
    assert told.json() | {"disk_free_gb": 0} == {
        "status": "ok",
        "workers": 1,
        "waiting": 1,
        "oldest_waiting_s": 0,
        "disk_free_gb": 0,
    }


def test_a_worker_that_fell_silent_a_queue_that_stands_and_a_full_disk_are_told(
    client, monkeypatch
):
    heard_of(600)
    analyse.defer(run_id=1, attempt=1)
    monkeypatch.setattr(health, "OLDEST_WAITING", timedelta(seconds=-1))
    monkeypatch.setattr(health, "LEAST_FREE", 2**60)
    told = client.get("/healthz")
    assert told.status_code == 503
    for words in ("disk is nearly full", "no worker", "waiting for long"):
        assert words in told.json()["status"]
    assert client.get("/livez").status_code == 200
