"""Who gets in, and what they see: nobody reads across clubs."""

from __future__ import annotations

import pytest
from rest_framework.test import APIClient

from proklisis.web.riders.models import Rider
from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db


def test_login_and_logout(coach):
    client = APIClient(enforce_csrf_checks=True)
    who = client.get("/api/session").json()
    assert who["logged_in"] is False
    bad = client.post(
        "/api/session",
        {"username": "ada", "password": "no"},
        format="json",
        headers={"X-CSRFToken": who["csrf"]},
    )
    assert bad.status_code == 400
    assert "do not match" in bad.json()["problem"]
    good = client.post(
        "/api/session",
        {"username": "ada", "password": "a-long-password-1"},
        format="json",
        headers={"X-CSRFToken": who["csrf"]},
    )
    assert good.json()["club"] == "Lanternfell"
    assert client.get("/api/riders").status_code == 200
    assert client.post("/api/riders", {"name": "X"}, format="json").status_code == 403  # no token
    token = good.json()["csrf"]
    assert (
        client.post(
            "/api/riders", {"name": "X"}, format="json", headers={"X-CSRFToken": token}
        ).status_code
        == 201
    )
    assert client.delete("/api/session", headers={"X-CSRFToken": token}).status_code == 204
    assert client.get("/api/riders").status_code == 403


@pytest.mark.parametrize(
    "path", ["riders", "runs", "disciplines", "runs/1/bench", "runs/1/video", "runs/1/script"]
)
def test_nothing_is_shown_to_strangers(db, path):
    answer = APIClient().get(f"/api/{path}")
    assert answer.status_code == 403
    assert answer.json()["problem"]


def test_another_clubs_rows_do_not_exist(run, rider):
    other = client_of(new_coach("Rivermere", "ben"))
    assert other.get("/api/riders").json()["count"] == 0
    assert other.get("/api/runs").json()["count"] == 0
    for path in (f"riders/{rider.pk}", f"runs/{run.pk}", f"runs/{run.pk}/bench", f"runs/{run.pk}/points", f"runs/{run.pk}/video",
                 f"runs/{run.pk}/script"):  # fmt: skip
        assert other.get(f"/api/{path}").status_code == 404
    assert other.post(f"/api/runs/{run.pk}/undo").status_code == 404
    stolen = other.post(
        "/api/runs", {"rider_id": rider.pk, "view": "front", "level": "novice"}, format="json"
    )
    assert stolen.status_code == 400


def test_a_number_is_given_once_in_a_club(client, rider):
    again = client.post("/api/riders", {"name": "Bram", "number": 7}, format="json")
    assert again.status_code == 400
    assert "Wren" in again.json()["fields"]["number"]
    assert client.patch(f"/api/riders/{rider.pk}", {"number": 7}, format="json").status_code == 200
    other = client_of(new_coach("Rivermere", "ben"))
    assert other.post("/api/riders", {"name": "Cy", "number": 7}, format="json").status_code == 201
    assert Rider.objects.filter(number=7).count() == 2


def test_impossible_riders_are_refused(client):
    for field, value in (("height_cm", 9), ("born", 1200), ("level", "expert"), ("name", "")):
        answer = client.post("/api/riders", {"name": "A", field: value}, format="json")
        assert answer.status_code == 400
        assert field in answer.json()["fields"]


def test_pages_carry_a_content_policy(client):
    assert "default-src 'self'" in client.get("/api/session").headers["Content-Security-Policy"]
