"""What the picture says against what was said of it is asked on the Bench before anything is judged."""

from __future__ import annotations

import pytest

from proklisis.simulate.run import simulate
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Clip, Run
from proklisis.web.runs.writing import changed
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


def bench(client, run) -> dict:
    answer = client.get(f"/api/runs/{run.pk}/bench")
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_a_view_that_is_changed_to_a_wrong_one_is_asked_and_answered(client, run):
    assert bench(client, run)["prescription"]["main"]["fault"] == "not_level"
    assert client.patch(f"/api/runs/{run.pk}", {"view": "rear"}, format="json").status_code == 200
    asked = bench(client, run)
    assert asked["doubt"]["kind"] == "view"
    assert [c["value"] for c in asked["doubt"]["choices"]] == ["front", None]
    assert (
        asked["prescription"]["main"] is None and asked["units"] == [] and asked["readings"] == []
    )
    assert client.get(f"/api/runs/{run.pk}").json()["main_title"] == "A question first"
    # On the Desk it needs a look, and one press.
    [row] = client.get("/api/runs?order=due&stands=look").json()["results"]
    assert (row["id"], row["presses"]) == (run.pk, 1)
    words = {
        c["film_next"]
        for c in client.get(f"/api/runs/{run.pk}/script").json()["prescription"]["cannot_tell"]
    }
    assert any("before this is settled" in w for w in words)
    clip = client.get(f"/api/runs/{run.pk}/footage").json()
    view = next(v for v in clip["verdicts"] if v["id"] == "view")
    assert (view["grade"], "right shoulder" in view["words"]) == ("poor", True)
    for wrong in ({"kind": "view", "value": "above"}, {"kind": "rate", "value": None}):
        assert client.post(f"/api/runs/{run.pk}/answer", wrong, format="json").status_code == 409
    answered = client.post(
        f"/api/runs/{run.pk}/answer", {"kind": "view", "value": "front"}, format="json"
    ).json()
    assert answered["doubt"] is None
    assert answered["prescription"]["main"]["fault"] == "not_level"
    [row] = client.get("/api/runs?order=due&stands=judge").json()["results"]
    assert (row["id"], row["presses"]) == (run.pk, None)


def test_a_coach_may_be_sure_against_the_picture(client, run):
    client.patch(f"/api/runs/{run.pk}", {"view": "rear"}, format="json")
    answered = client.post(
        f"/api/runs/{run.pk}/answer", {"kind": "view", "value": None}, format="json"
    ).json()
    assert answered["doubt"] is None and len(answered["units"]) == 2
    assert answered["run"]["sure"] == ["view"]


def test_nobody_answers_for_another_club(run):
    stranger = client_of(new_coach("Elsewhere", "eve"))
    assert (
        stranger.post(
            f"/api/runs/{run.pk}/answer", {"kind": "view", "value": None}, format="json"
        ).status_code
        == 404
    )


def test_a_rate_that_the_file_says_is_asked_before_judging(client, run):
    Clip.objects.filter(run=run).update(filmed_hint=240.0)
    changed(run=run)
    asked = bench(client, run)
    assert asked["doubt"]["kind"] == "rate" and "240 frames a second" in asked["doubt"]["says"]
    as_it_was = client.post(
        f"/api/runs/{run.pk}/answer", {"kind": "rate", "value": None}, format="json"
    ).json()
    assert as_it_was["doubt"] is None and as_it_was["prescription"]["main"]["fault"] == "not_level"


def test_a_front_foot_is_asked_kept_with_the_rider_and_every_run_of_theirs_follows(client, rider):
    tracks = simulate("snowboard", {"straight_legs": 1.6}, seed=9, units=3).tracks.with_facts(
        stance=None
    )
    first, second = (measured_run(rider, tracks, discipline="snowboard") for _ in range(2))
    assert bench(client, first)["doubt"]["kind"] == "front_foot"
    answered = client.post(
        f"/api/runs/{first.pk}/answer", {"kind": "front_foot", "value": "regular"}, format="json"
    ).json()
    assert {t["finest_side"] for t in answered["units"]} == {"toe", "heel"}
    assert Rider.objects.get(pk=rider.pk).stance == "regular"
    assert bench(client, second)["doubt"] is None
    # Said otherwise on the Riders page, it is asked with the view.
    assert (
        client.patch(f"/api/riders/{rider.pk}", {"stance": "goofy"}, format="json").status_code
        == 200
    )
    assert "one of the two is otherwise" in bench(client, second)["doubt"]["says"]


def test_a_rope_is_taken_in_the_trades_count_and_said_back(client, rider):
    assert client.get("/api/rope", {"said": "28"}).json() == {"words": "14.25 m (28 off)"}
    refused = client.get("/api/rope", {"said": "17 off"})
    assert refused.status_code == 400 and "18.25 m (15 off)" in refused.json()["problem"]
    body = {
        "rider_id": rider.pk,
        "view": "front",
        "level": "advanced",
        "discipline": "slalom_ski",
        "conditions": {"rope": "15 off", "boat_mph": 34.2},
    }
    made = client.post("/api/runs", body, format="json").json()
    assert made["conditions"] == {"rope_off_ft": 15.0, "boat_mph": 34.2}
    for conditions, words in (
        ({"rope": "12.5"}, "nearest loops"),
        ({"rope_m": 15}, "nearest loops"),
        ({"boat_kmh": "fast"}, "is a number"),
        ({"buoys": "some"}, "true nor false"),
    ):
        answer = client.patch(f"/api/runs/{made['id']}", {"conditions": conditions}, format="json")
        assert answer.status_code == 400 and words in answer.json()["fields"]["conditions"]


def test_notes_of_faults_by_unit_and_side_are_kept_and_judged(client, run):
    for note in (
        {"fault": "skid", "scope": "unit", "unit": 1},
        {"fault": "skid", "scope": "unit", "unit": 2},
        {"fault": "hips_behind", "scope": "side", "side": "left", "sure": False},
        {"fault": "scissor_open", "scope": "run", "seen": False},
    ):
        answer = client.post(f"/api/runs/{run.pk}/edits", {"kind": "note", **note}, format="json")
        assert answer.status_code == 200, answer.json()
    found = {f["fault"]: f for f in bench(client, run)["prescription"]["findings"]}
    assert found["skid"]["verdict"] == "clear"
    assert (found["hips_behind"]["side"], found["hips_behind"]["verdict"]) == ("left", "likely")


def test_a_school_that_is_chosen_on_screen_changes_what_is_judged(client, run):
    assert (
        client.patch(
            f"/api/runs/{run.pk}", {"schools": {"crossing": "topple"}}, format="json"
        ).status_code
        == 200
    )
    topple = {(b["fault"], b["lo"]) for b in bench(client, run)["bands"]}
    client.patch(f"/api/runs/{run.pk}", {"schools": {"crossing": "level"}}, format="json")
    assert ("banking", 0.0) in topple and ("banking", 5.0) in {
        (b["fault"], b["lo"]) for b in bench(client, run)["bands"]
    }


def test_a_result_of_an_older_version_is_worked_out_again_when_it_is_looked_at(client, run):
    old = Run.objects.get(pk=run.pk).result
    old.prescription = {
        k: v for k, v in old.prescription.items() if k not in ("unlock", "intention")
    }
    old.made_by = "older"
    old.save()
    assert "unlock" in bench(client, run)["prescription"]
