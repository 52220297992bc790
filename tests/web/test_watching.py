"""Whoever runs the server sees what fails, by a number, and hears of it without a name."""

from __future__ import annotations

import io
import json
import logging
from datetime import timedelta
from http.server import BaseHTTPRequestHandler, HTTPServer
from threading import Thread
from types import SimpleNamespace

import pytest
import structlog
from asgiref.sync import sync_to_async
from django.contrib.sessions.models import Session
from django.core.cache import cache
from django.db import connection
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from prometheus_client.parser import text_string_to_metric_families

from proklisis.web.analysis.tasks import purge
from proklisis.web.clubs.models import Coach, Role
from proklisis.web.runs.models import PairFilm, Run
from proklisis.web.runs.reporting import ending_readably
from proklisis.web.watching import failing
from proklisis.web.watching.failing import around_job
from proklisis.web.watching.logs import logging_of
from proklisis.web.watching.models import Failure
from tests.web.conftest import awaited, client_of, new_coach

pytestmark = pytest.mark.django_db


@pytest.fixture
def owner(coach):
    """What an owner's browser sends."""
    Coach.objects.filter(pk=coach.pk).update(role=Role.OWNER)
    return client_of(coach)


@pytest.fixture
def reports(settings):
    """A server that errors are reported to; what it was sent."""
    got: list[dict[str, object]] = []

    class Listener(BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            got.append(json.loads(self.rfile.read(int(self.headers["Content-Length"]))))
            self.send_response(204)
            self.end_headers()

        def log_message(self, *args: object) -> None:
            pass

    server = HTTPServer(("127.0.0.1", 0), Listener)
    Thread(target=server.serve_forever, daemon=True).start()
    settings.REPORT_TO = f"http://127.0.0.1:{server.server_port}/"
    yield got
    server.shutdown()
    server.server_close()


def fail(run: Run, task: str = "follow", words: str = "the net of Wren broke") -> None:
    """A job on a run that fails in its own way."""
    with structlog.contextvars.bound_contextvars(
        task=task, job=7, given={"run_id": run.pk, "attempt": run.attempt}
    ):
        Run.objects.filter(pk=run.pk).update(state=Run.State.WORKING)
        with ending_readably(run.pk, run.attempt):
            raise ZeroDivisionError(words)


def test_what_failed_is_kept_with_the_reason_and_is_tried_again(owner, run):
    fail(run)
    fail(run)
    [told] = owner.get("/api/club/failures").json()
    assert told["what"] == f"Following the rider of run {run.pk} of {run.rider.name}"
    assert (told["run"], told["times"]) == (run.pk, 2)
    assert told["reason"] == "ZeroDivisionError: the net of Wren broke"
    run.refresh_from_db()
    assert run.state == Run.State.FAILED

    assert owner.post(f"/api/club/failures/{told['id']}").status_code == 204
    run.refresh_from_db()
    assert run.state == Run.State.QUEUED
    assert ProcrastinateJob.objects.filter(task_name="analyse", args__run_id=run.pk).exists()
    assert owner.get("/api/club/failures").json() == []
    fail(run)
    [again] = owner.get("/api/club/failures").json()
    assert owner.delete(f"/api/club/failures/{again['id']}").status_code == 204
    assert owner.get("/api/club/failures").json() == []
    assert owner.post(f"/api/club/failures/{again['id']}").status_code == 404


def test_a_film_that_failed_is_made_again(owner, run):
    film = PairFilm.objects.create(
        club=run.club, a=run, b=run, fps=30, halves={}, state=PairFilm.State.FAILED, problem="x"
    )
    row = Failure.objects.create(club=run.club, task="pair_film", given={"film_id": film.pk})
    assert owner.post(f"/api/club/failures/{row.pk}").status_code == 204
    film.refresh_from_db()
    assert film.state == PairFilm.State.QUEUED
    assert ProcrastinateJob.objects.filter(
        task_name="pair_film", args__film_id=film.pk, status="todo"
    ).exists()


def test_no_other_club_sees_it(run):
    fail(run)
    other = client_of(new_coach("Other", "otto", Role.OWNER))
    assert other.get("/api/club/failures").json() == []
    row = Failure.objects.get()
    assert other.post(f"/api/club/failures/{row.pk}").status_code == 404
    run.rider.club.delete()
    assert not Failure.objects.exists()


@pytest.mark.django_db(transaction=True)
def test_whatever_a_worker_does_is_watched(run, rider):
    assert app.worker_defaults["worker_middleware"] == [around_job]
    job = SimpleNamespace(task_name="crop", id=3, task_kwargs={"run_id": run.pk})

    async def breaks() -> None:
        raise KeyError("left_hip")

    with pytest.raises(KeyError):
        awaited(around_job, breaks, SimpleNamespace(job=job), None)
    row = Failure.objects.get(task="crop")
    assert (row.club_id, row.given) == (run.club_id, {"run_id": run.pk})
    assert row.place.startswith("failing.py:")


@pytest.mark.django_db(transaction=True)
def test_what_is_done_at_the_second_try_stands_there_no_more(run):
    given = {"run_id": run.pk}
    job = SimpleNamespace(task_name="crop", id=3, task_kwargs=given)

    async def breaks() -> None:
        raise KeyError("left_hip")

    async def works() -> None:
        pass

    async def fails_readably() -> None:
        await sync_to_async(failing.keep)(KeyError("left_hip"))

    with pytest.raises(KeyError):
        awaited(around_job, breaks, SimpleNamespace(job=job), None)
    other = SimpleNamespace(task_name="crop", id=4, task_kwargs={"run_id": run.pk + 1})
    awaited(around_job, works, SimpleNamespace(job=other), None)
    assert Failure.objects.filter(task="crop", given=given).exists()
    again = SimpleNamespace(task_name="crop", id=5, task_kwargs={**given, "attempt": 2})
    awaited(around_job, works, SimpleNamespace(job=again), None)
    assert not Failure.objects.exists()
    # A failure that the job itself told is not taken for success.
    awaited(around_job, fails_readably, SimpleNamespace(job=again), None)
    assert Failure.objects.exists()


def test_a_report_says_where_and_never_who(run, reports, monkeypatch):
    sent: list[Thread] = []
    monkeypatch.setattr(
        failing.threading, "Thread", lambda **k: sent.append(Thread(**k)) or sent[-1]
    )
    fail(run, words=f"clip of {run.rider.name} at /tmp/wren.mp4")
    for thread in sent:
        thread.join(10)
    [told] = reports
    assert told["what"] == "ZeroDivisionError" and told["place"]
    assert told["task"] == "follow" and told["given"]["run_id"] == run.pk
    text = json.dumps(told)
    assert run.rider.name not in text and "wren" not in text


def test_a_report_that_cannot_be_sent_is_in_nobodys_way(run, settings):
    settings.REPORT_TO = "http://127.0.0.1:9/"
    fail(run)
    assert Failure.objects.count() == 1


def test_an_answer_has_a_number_that_stands_in_the_log_too(owner, run, monkeypatch):
    said = io.StringIO()
    told = dict(logging_of(True, "INFO")["formatters"]["event"])
    handler = logging.StreamHandler(said)
    handler.setFormatter(told.pop("()")(**told))
    log = logging.getLogger("django.request")
    log.addHandler(handler)
    owner.raise_request_exception = False
    monkeypatch.setattr("proklisis.web.analysis.failed.FailuresView.get", lambda *a: 1 / 0)
    try:
        answer = owner.get("/api/club/failures")
    finally:
        log.removeHandler(handler)
    number = answer.headers["X-Request-ID"]
    assert len(number) > 20
    assert answer.status_code == 500 and number in answer.json()["problem"]
    events = [json.loads(line) for line in said.getvalue().splitlines()]
    assert [e["request_id"] for e in events if e["level"] == "error"] == [number]
    # A number that somebody else made up is not believed.
    other = owner.get("/livez", headers={"X-Request-ID": "evil\nline"}).headers["X-Request-ID"]
    assert "evil" not in other and other != number


def test_figures_are_for_whoever_knows_the_token(client, run, settings):
    assert client.get("/metrics").status_code == 404
    settings.METRICS_TOKEN = "not-a-secret"
    assert client.get("/metrics").status_code == 404
    assert client.get("/metrics", headers={"Authorization": "Bearer nö"}).status_code == 404
    fail(run)
    got = client.get("/metrics", headers={"Authorization": "Bearer not-a-secret"})
    assert got.status_code == 200
    figures = {f.name: f for f in text_string_to_metric_families(got.content.decode())}
    assert figures["proklisis_failures"].samples[0].value == 1
    assert figures["proklisis_disk_free_bytes"].samples[0].value > 0
    assert "proklisis_oldest_waiting_seconds" in figures and "proklisis_workers" in figures
    views = figures["django_http_responses_total_by_status_view_method"].samples
    assert any(s.labels["status"] == "404" for s in views)
    # Which pages were asked for is told by their kind: no token of a link is a label.
    client.get("/api/shared/a-secret-token-of-twenty-four")
    again = client.get("/metrics", headers={"Authorization": "Bearer not-a-secret"})
    assert b"a-secret-token" not in again.content


def test_what_is_counted_is_counted_for_all_servers(settings):
    # Another process would look into the same table.
    cache.set("a", 1)
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM shared_cache")
        assert cursor.fetchone()[0] >= 1


def test_old_failures_and_ended_sessions_are_let_go_of(run):
    for days in (89, 91):
        row = Failure.objects.create(club=run.club, task="crop", given={"run_id": days})
        Failure.objects.filter(pk=row.pk).update(last=timezone.now() - timedelta(days=days))
        Session.objects.create(
            session_key=f"s{days}",
            session_data="",
            expire_date=timezone.now() + timedelta(days=90 - days),
        )
    purge(0)
    assert [f.given["run_id"] for f in Failure.objects.all()] == [89]
    assert list(Session.objects.values_list("session_key", flat=True)) == ["s89"]
