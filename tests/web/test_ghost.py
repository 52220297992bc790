"""The mended ghost over the API."""

from __future__ import annotations

import pytest

from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


def test_the_main_thing_is_drawn_mended_where_it_was_measured(client, rider, simulated):
    tracks = simulated({"not_level": 2.0}, seed=103, units=4, view="front").tracks
    run = measured_run(rider, tracks)
    main = run.result.prescription["main"]["fault"]
    found = next(f for f in run.result.prescription["findings"] if f["fault"] == main)
    unit = found["evidence"][0]["segment"]
    got = client.get(f"/api/runs/{run.pk}/ghost?unit={unit}").json()
    assert got["lacking"] == "" and "A drawing, not a measurement" in got["says"]
    assert 0 <= got["row"] < len(run.result.bench["t"]) and "l_shoulder" in got["joints"]
    assert "in the picture" in got["says"] or "cm" in got["says"]
    beside = client.get(f"/api/runs/{run.pk}/ghost?unit=99").json()
    assert beside["row"] is None and "not measured in this unit" in beside["lacking"]
    assert client.get(f"/api/runs/{run.pk}/ghost").status_code == 400
    eve = client_of(new_coach("Other", "eve"))
    assert eve.get(f"/api/runs/{run.pk}/ghost?unit={unit}").status_code == 404


def test_where_nothing_is_the_main_thing_nothing_is_mended(client, rider, simulated):
    run = measured_run(rider, simulated({}, seed=103, units=3, view="front").tracks)
    assert run.result.prescription["main"] is None
    assert "nothing to mend" in client.get(f"/api/runs/{run.pk}/ghost?unit=1").json()["lacking"]
