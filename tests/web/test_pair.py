"""Two runs, or two units of one, held against each other over the API."""

from __future__ import annotations

import pytest

from proklisis.web.runs.models import Run
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


@pytest.fixture
def before(rider, simulated) -> Run:
    return measured_run(
        rider, simulated({"not_level": 1.6}, seed=103, units=6, view="front").tracks
    )


@pytest.fixture
def after(rider, before, simulated) -> Run:
    return measured_run(rider, simulated({}, seed=103, units=6, view="front").tracks)


def test_two_runs_are_held_against_each_other(client, before, after):
    got = client.get(f"/api/pair?a={before.pk}&b={after.pk}").json()
    first = got["comparison"]["first_difference"]
    assert first["chain"][0] == "not_level" and isinstance(first["frame_a"], int)
    assert len(got["rows"]) == len(got["comparison"]["rows"])
    row = next(r for r in got["rows"] if r["measure"] == "shoulder_tilt")
    assert "±" in row["difference"] and row["difference"].endswith("°")
    # Six units each, with rising moments in both clips.
    assert len(got["same"]) == 6
    for s in got["same"]:
        assert s["side_a"] == s["side_b"] and len(s["a"]) == len(s["phases"]) + 1
        assert s["a"] == sorted(s["a"]) and s["b"] == sorted(s["b"])


def test_what_a_unit_may_be_held_against_is_offered(client, before, after):
    offered = client.get(f"/api/runs/{after.pk}/against?unit=2").json()
    kinds = {x["kind"]: x for x in offered["against"]}
    side = {s["n"]: s["side"] for s in after.result.bench["units"]}
    assert set(kinds) == {"own_best", "other_side", "last_run"}
    assert side[kinds["own_best"]["unit_b"]] == side[2] and kinds["own_best"]["unit_b"] != 2
    assert side[kinds["other_side"]["unit_b"]] != side[2] and kinds["other_side"]["mirror"]
    assert kinds["last_run"]["b"] == before.pk
    assert {x["segment"] for x in offered["best_units"]} == set(side)
    # The first run of a rider has none before it.
    first = client.get(f"/api/runs/{before.pk}/against").json()["against"]
    assert [x["kind"] for x in first] == []


def test_a_signal_of_two_units_on_matched_time(client, after):
    ask = f"/api/pair/curves?a={after.pk}&b={after.pk}&unit_a=2&unit_b=3&mirror=1&measure=shoulder_tilt"
    got = client.get(ask).json()
    assert (got["title"], got["unit"]) == ("Tilt of the shoulders", "°") or got["unit"] == "°"
    assert len(got["at"]) == len(got["a"]) == len(got["b_u"])
    assert client.get(ask.replace("shoulder_tilt", "nothing")).status_code == 400


def test_bad_asking_is_refused_by_name_and_other_clubs_see_nothing(client, before, after):
    for ask, status, words in (
        (f"a={before.pk}", 400, "not said"),
        (f"a={before.pk}&b={after.pk}&unit_a=1", 400, "only one run"),
        (f"a={before.pk}&b={after.pk}&unit_a=1&unit_b=77", 400, "no unit 77"),
        (f"a={before.pk}&b={after.pk}&event=apex", 400, "no event"),
        (f"a={before.pk}&b={after.pk}&event=belly&offset_s=x", 400, "number of seconds"),
        (f"a={before.pk}&b=99999", 404, ""),
    ):
        answer = client.get(f"/api/pair?{ask}")
        assert answer.status_code == status and words in answer.json()["problem"], answer.json()
    eve = client_of(new_coach("Other", "eve"))
    assert eve.get(f"/api/pair?a={before.pk}&b={after.pk}").status_code == 404
    assert eve.get(f"/api/runs/{before.pk}/against").status_code == 404
    assert client.get(f"/api/pair?a={before.pk}&b={after.pk}&event=belly&offset_s=0.1").json()[
        "comparison"
    ]["matched"] == {"by": "event", "event": "belly", "offset_s": 0.1, "mirror": False}
