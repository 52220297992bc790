"""A drawn rider stands in where a club keeps no reference: asked for, made once, looked at by every club, changed by none."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone

from proklisis.footage.probe import probe
from proklisis.web.analysis import drawn
from proklisis.web.references.models import Reference
from proklisis.web.runs import queueing
from proklisis.web.runs.models import Run
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


@pytest.fixture
def jobs(monkeypatch) -> list[int]:
    put: list[int] = []
    monkeypatch.setattr(drawn, "put", lambda name, run_id: put.append(run_id))
    return put


def offered(client, run: Run) -> dict:
    against = client.get(f"/api/runs/{run.pk}/against?unit=1").json()["against"]
    return {x["kind"]: x for x in against}


@pytest.mark.slow
def test_a_drawn_rider_is_held_against_a_run_as_a_reference_would_be(
    client, run, jobs, tmp_path, monkeypatch
):
    monkeypatch.setattr(drawn, "UNITS", 3)
    assert offered(client, run)["drawn"]["b"] is None
    assert client.get(f"/api/runs/{run.pk}/drawn").status_code == 404
    asked = client.post(f"/api/runs/{run.pk}/drawn")
    assert asked.status_code == 202 and asked.json()["state"] == "queued"
    number = asked.json()["id"]
    # Asked for again while it is made, it is the same one.
    assert client.post(f"/api/runs/{run.pk}/drawn").json()["id"] == number and jobs == [number]
    drawn.draw(number)
    there = client.get(f"/api/runs/{run.pk}/drawn").json()
    assert (there["state"], there["progress"]) == ("ready", 1.0)
    assert offered(client, run)["drawn"]["b"] == number
    # It is held against the run: from the same view, without faults, and it is said what it is.
    got = client.get(f"/api/pair?a={run.pk}&b={number}").json()
    assert got["rows"] and got["same"]
    assert "B is drawn by the simulator" in got["comparison"]["fairness"][0]
    assert "not_level" in got["comparison"]["first_difference"]["chain"]
    bench = client.get(f"/api/runs/{number}/bench").json()
    assert bench["prescription"]["main"] is None and bench["run"]["view"] == run.view
    path = tmp_path / "drawn.mp4"
    path.write_bytes(b"".join(client.get(f"/api/runs/{number}/video").streaming_content))
    assert len(probe(path).t) == len(bench["t"])
    # Another club looks at the same one; nobody changes it, lists it, or takes its rider for one of theirs.
    eve = client_of(new_coach("Other", "eve"))
    assert eve.get(f"/api/runs/{number}/bench").status_code == 200
    for who in (client, eve):
        assert who.delete(f"/api/runs/{number}").status_code == 404
        assert who.post(f"/api/runs/{number}/edits", {}, format="json").status_code == 404
        assert who.get(f"/api/runs/{number}").status_code == 404
        assert number not in [r["id"] for r in who.get("/api/runs").json()["results"]]
        assert drawn.NAME not in str(who.get("/api/riders").json())
    # A film of it beside a rider shows no second person.
    body = {"a": run.pk, "b": number}
    assert client.post("/api/pair/films", body, format="json").status_code == 202
    # Where the club keeps a reference, that is offered in its place.
    own = measured_run(run.rider, drawn_tracks(run))
    until = timezone.localdate() + timedelta(days=30)
    Reference.objects.create(club=run.club, run=own, consent="the rider", until=until)
    assert set(offered(client, run)) >= {"reference"} and "drawn" not in offered(client, run)


def drawn_tracks(run: Run):
    from proklisis.web.analysis.reviewing import tracker_tracks

    return tracker_tracks(run)


def test_a_drawing_is_stopped_and_one_that_was_lost_says_so(client, run, jobs):
    number = client.post(f"/api/runs/{run.pk}/drawn").json()["id"]
    # The job that looks for lost runs leaves it alone.
    assert number not in queueing.resume()
    assert client.delete(f"/api/runs/{run.pk}/drawn").status_code == 204
    drawn.draw(number)
    assert client.get(f"/api/runs/{run.pk}/drawn").json()["state"] == "cancelled"
    client.post(f"/api/runs/{run.pk}/drawn")
    drawn.give_up(number)
    said = client.get(f"/api/runs/{run.pk}/drawn").json()
    assert said["state"] == "failed" and "Try again" in said["problem"]
    assert client.post(f"/api/runs/{run.pk}/drawn").json()["state"] == "queued"


def test_nobody_is_held_against_a_drawn_rider_who_shows_a_fault(client, run, jobs, monkeypatch):
    monkeypatch.setattr(drawn, "UNITS", 3)
    number = client.post(f"/api/runs/{run.pk}/drawn").json()["id"]
    clean = drawn.simulate
    monkeypatch.setattr(drawn, "simulate", lambda d, _, **how: clean(d, {"not_level": 2.0}, **how))
    monkeypatch.setattr(drawn, "write_clip", lambda *_, **__: pytest.fail("it is not drawn first"))
    drawn.draw(number)
    said = client.get(f"/api/runs/{run.pk}/drawn").json()
    assert said["state"] == "failed" and "no drawn rider rides as is wanted" in said["problem"]
    assert offered(client, run)["drawn"]["b"] is None


def test_a_drawing_that_breaks_off_does_not_stay_on_its_way(client, run, jobs, monkeypatch):
    number = client.post(f"/api/runs/{run.pk}/drawn").json()["id"]

    def breaks(*_, **__):
        raise RuntimeError("no screen to draw on")

    monkeypatch.setattr(drawn, "_without_faults", breaks)
    drawn.draw(number)
    said = client.get(f"/api/runs/{run.pk}/drawn").json()
    assert said["state"] == "failed" and "could not be drawn" in said["problem"]


def test_every_discipline_says_from_where_its_rider_can_be_drawn():
    from proklisis.core.review import playbook_ids

    assert all(drawn.views_of(d) for d in playbook_ids())
    assert drawn.views_of("alpine_carve")[0] == "front"
