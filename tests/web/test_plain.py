"""Whatever is sent, the answer is JSON with a sentence, and nothing breaks for good."""

from __future__ import annotations

import json

import pytest
from rest_framework.test import APIClient

from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db


def deep(n: int) -> str:
    return '{"conditions": ' + '{"a": ' * n + "1" + "}" * n + "}"


@pytest.mark.parametrize(
    "body",
    ['{"title": "a\\u0000b"}', '{"title": "\\ud800"}', '{"view_offset_deg": 1e999}', '{"conditions": {"slope_deg": 1e999}}', deep(40), deep(5000), '{"title": 12',
     '{"gear": {"a": "\\u0000"}}', '{"conditions": {"slope_deg": 123456789012345678901234567890}}', "[]", '"text"', "\x00"],
)  # fmt: skip
def test_what_cannot_be_stored_is_refused_with_a_sentence(client, run, body):
    answer = client.generic("PATCH", f"/api/runs/{run.pk}", body, content_type="application/json")
    assert answer.status_code == 400
    assert len(answer.json()["problem"]) > 10
    assert client.get(f"/api/runs/{run.pk}/bench").status_code == 200


@pytest.mark.parametrize(
    "path",
    ["/api/runs?rider=²", "/api/runs?rider=" + "9" * 40, "/api/runs?offset=" + "9" * 30, "/api/runs?find=%00", "/api/runs?state=%00",
     "/api/riders?find=%00", "/api/riders?find=" + "9" * 30, "/api/runs/" + "9" * 30, "/api/runs/²", "/api/nowhere", "/api/runs/1/nowhere", "/api/shared/%00"],
)  # fmt: skip
def test_odd_addresses_are_answered_in_json(client, run, path):
    answer = client.get(path)
    assert answer.status_code in (200, 400, 404)
    assert json.loads(answer.content)


def test_a_page_of_a_list_has_an_end(client, run):
    assert client.get("/api/runs?limit=100000").json()["count"] == 1
    from proklisis.web.riders.models import Rider

    Rider.objects.bulk_create(Rider(club=run.club, name=f"Rider {k}") for k in range(230))
    assert len(client.get("/api/riders?limit=100000").json()["results"]) == 200
    assert client.get("/api/riders?find=rider 229").json()["count"] == 1


@pytest.mark.parametrize(
    "header", ["bytes=" + "9" * 5000 + "-", "bytes=0-" + "9" * 5000, "bytes=²-", "bytes=-"]
)
def test_a_range_that_is_none_gets_the_whole_clip(client, run, header):
    answer = client.get(f"/api/runs/{run.pk}/video", headers={"Range": header})
    assert answer.status_code in (200, 416)


@pytest.mark.parametrize("method", ["TRACE", "CONNECT", "PROPFIND"])
def test_methods_that_nobody_needs_are_refused(client, run, method):
    answer = client.generic(method, f"/api/runs/{run.pk}")
    assert answer.status_code in (403, 404, 405) and answer.json()["problem"]
    assert client.generic(method, "/").status_code == 405


@pytest.mark.parametrize(
    "marks",
    [{"level": {"by": "horizon"}}, {"level": {"by": "plumb", "frame": 0, "points": [[1, 2]]}}, {"level": {"by": "hand"}}, {"lens": {"by": "lines", "lines": []}},
     {"lens": {"by": "lines", "lines": [[[0, 0], [0, 0], [0, 0]]]}}, {"lens": {"by": "view"}}, {"lens": {"by": "view", "across_deg": 0}}, {"scale": {"frame": 0, "points": [[0, 0]], "metres": 1}},
     {"scale": {"frame": 0, "points": [[0, 0], [0, 0]], "metres": 1}}, {"scale": {"frame": 0, "points": [[0, 0], [9, 0]], "metres": 0}}, {"scale": {"by": "fall"}},
     {"surface": {"frame": 10**9, "points": [[0, 0], [5, 5]]}}, {"plane": {"frame": 0, "points": [[0, 0], [0, 0], [0, 0], [0, 0]], "sides_m": [1, 1]}}],
)  # fmt: skip
def test_half_a_mark_of_the_camera_is_refused_with_a_sentence(client, run, marks):
    answer = client.patch(f"/api/runs/{run.pk}/footage", marks, format="json")
    assert answer.status_code == 400
    assert answer.json()["problem"]
    assert client.get(f"/api/runs/{run.pk}/footage").status_code == 200


def log_in(client: APIClient, password: str, **headers: str):
    token = client.get("/api/session").json()["csrf"]
    return client.post(
        "/api/session",
        {"username": "ada", "password": password},
        format="json",
        headers={"X-CSRFToken": token, **headers},
    )


def test_wrong_passwords_are_counted_whatever_address_the_request_names(coach):
    client = APIClient(enforce_csrf_checks=True)
    answers = [
        log_in(client, "no", **{"X-Forwarded-For": f"10.0.0.{k}"}).status_code for k in range(10)
    ]
    assert answers[0] == 400 and answers[-1] == 429
    right = log_in(client, "a-long-password-1", **{"X-Forwarded-For": "10.9.9.9"})
    assert right.status_code == 429
    assert "Wait" in right.json()["problem"] or "throttled" in right.json()["problem"]


def test_another_site_cannot_log_a_browser_in(coach):
    client = APIClient(enforce_csrf_checks=True)
    client.get("/api/session")
    answer = client.post(
        "/api/session", {"username": "ada", "password": "a-long-password-1"}, format="json"
    )
    assert answer.status_code == 403
    form = client.post(
        "/api/session",
        "username=ada&password=a-long-password-1",
        content_type="application/x-www-form-urlencoded",
    )
    assert form.status_code in (403, 415)
    assert client.get("/api/session").json()["logged_in"] is False


def test_another_coach_logs_in_while_one_name_is_locked(coach):
    new_coach("Rivermere", "ben")
    client = APIClient()
    for _ in range(9):
        client.post("/api/session", {"username": "ada", "password": "no"}, format="json")
    assert client_of(coach).get("/api/runs").status_code == 200
