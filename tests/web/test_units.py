"""A coach who thinks in feet and miles is shown them, and what is kept stays metric."""

from __future__ import annotations

import pytest

from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db


def test_units_are_each_coachs_own_and_change_words_not_what_is_kept(client, run):
    plan = client.get(f"/api/runs/{run.pk}/footage").json()["plans"][0]["words"][0]
    assert " m away" in plan and client.get("/api/session").json()["units"] == "metric"
    assert (
        client.patch("/api/session", {"units": "imperial"}, format="json").json()["units"]
        == "imperial"
    )
    assert " ft away" in client.get(f"/api/runs/{run.pk}/footage").json()["plans"][0]["words"][0]
    for page in ("bench", "script", "questions"):
        assert client.get(f"/api/runs/{run.pk}/{page}").status_code == 200
    other = client_of(new_coach("Lanternfell", "ben"))
    assert other.get(f"/api/runs/{run.pk}/footage").json()["plans"][0]["words"][0] == plan
    client.patch("/api/session", {"units": "metric"}, format="json")
    assert client.get(f"/api/runs/{run.pk}/footage").json()["plans"][0]["words"][0] == plan


def test_what_is_no_unit_is_refused_and_nobody_elses_is_changed(client, run):
    assert client.patch("/api/session", {"units": "cubits"}, format="json").status_code == 400
    from rest_framework.test import APIClient

    assert APIClient().patch("/api/session", {"units": "imperial"}, format="json").status_code in (
        401,
        403,
    )
