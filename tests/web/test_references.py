"""References: kept with consent and an end, offered beside other runs of the club, gone with their run."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone

from proklisis.web.references.models import Reference
from proklisis.web.riders.models import Rider
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


@pytest.fixture
def good(rider, simulated):
    better = Rider.objects.create(club=rider.club, name="Bram", born=1985, height_cm=180)
    return measured_run(better, simulated({}, seed=103, units=3, view="front").tracks)


def ask(run, **more):
    until = (timezone.localdate() + timedelta(days=30)).isoformat()
    return {"run": run.pk, "consent": "Bram, in writing", "until": until, **more}


def offered(client, run):
    found = client.get(f"/api/runs/{run.pk}/against?unit=1").json()["against"]
    return [(x["words"], x["b"]) for x in found if x["kind"] == "reference"]


def test_a_reference_is_offered_beside_other_runs_while_it_lasts(client, rider, good, simulated):
    mine = measured_run(
        rider, simulated({"not_level": 1.6}, seed=103, units=3, view="front").tracks
    )
    assert offered(client, mine) == []
    whole = client.post("/api/references", ask(good), format="json")
    assert whole.status_code == 201 and whole.json()["rider"] == "Bram"
    main = mine.result.prescription["main"]["fault"]
    other = "stands_tall" if main != "stands_tall" else "not_level"
    client.post("/api/references", ask(good, fault=other), format="json")
    client.post("/api/references", ask(good, fault=main), format="json")
    # What is for this run's main thing comes first; the run is not held against itself.
    words = offered(client, mine)
    assert len(words) == 3 and words[0][0].startswith("reference for ") and words[0][1] == good.pk
    assert offered(client, good) == []
    # It opens as a pair.
    assert client.get(f"/api/pair?a={mine.pk}&b={good.pk}").status_code == 200
    # After its end it is not offered any more, and the list says so.
    Reference.objects.filter(fault=main).update(until=timezone.localdate() - timedelta(days=1))
    assert len(offered(client, mine)) == 2
    listed = client.get("/api/references?discipline=alpine_carve").json()["results"]
    assert [r["ended"] for r in listed] == [True, False, False]
    assert client.get("/api/references?discipline=snowboard").json()["results"] == []
    assert client.delete(f"/api/references/{whole.json()['id']}").status_code == 204
    # A run that is taken off the lists takes its references along; an erased one for good.
    client.delete(f"/api/runs/{good.pk}")
    assert offered(client, mine) == []
    client.delete(f"/api/runs/{good.pk}?for_good=true")
    assert not Reference.objects.exists()


def test_without_consent_or_end_it_is_refused_and_other_clubs_cannot(client, good):
    for bad, field, words in (
        ({"consent": "  "}, "consent", "blank"),
        ({"until": "2020-01-01"}, "until", "past"),
        ({"until": "2099-01-01"}, "until", "three years"),
        ({"fault": "nothing"}, "fault", "no such fault"),
        ({"run": 99999}, "run", ""),
    ):
        answer = client.post("/api/references", ask(good) | bad, format="json")
        assert answer.status_code == 400, bad
        assert words in str(answer.json()["fields"][field]), answer.json()
    assert client.post("/api/references", ask(good), format="json").status_code == 201
    again = client.post("/api/references", ask(good), format="json")
    assert again.status_code == 409 and "already" in again.json()["problem"]
    eve = client_of(new_coach("Other", "eve"))
    assert eve.post("/api/references", ask(good), format="json").status_code == 400
    assert eve.get("/api/references").json()["results"] == []
    assert eve.delete(f"/api/references/{Reference.objects.get().pk}").status_code == 404
