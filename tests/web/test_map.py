"""The map over the API."""

from __future__ import annotations

import pytest

from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


def test_a_run_is_drawn_and_other_clubs_see_nothing(client, rider, simulated):
    run = measured_run(rider, simulated({}, seed=103, units=3, view="front").tracks)
    found = client.get(f"/api/runs/{run.pk}/map").json()["map"]
    assert found["title"] == "Arcs by heading" and {x["unit"] for x in found["lines"]} == {1, 2, 3}
    assert client_of(new_coach("Other", "eve")).get(f"/api/runs/{run.pk}/map").status_code == 404
    assert client.get("/api/runs/99999/map").status_code == 404
