"""Several clips of one run: added, matched in time, judged together, each measured from the view that shows it."""

from __future__ import annotations

import pytest

from proklisis.web.analysis import several
from proklisis.web.clips import removing
from proklisis.web.runs.models import Run
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


@pytest.fixture
def first(rider, simulated) -> Run:
    return measured_run(
        rider, simulated({"not_level": 1.6}, seed=103, units=4, view="front").tracks
    )


@pytest.fixture
def second(client, first, simulated) -> Run:
    """The same pass from the side, as it stands after its analysis."""
    made = client.post(f"/api/runs/{first.pk}/clips", {"same_pass": True}, format="json")
    assert made.status_code == 201
    sim = simulated({"not_level": 1.6}, seed=103, units=4, view="side_left")
    other = measured_run(first.rider, sim.tracks)
    row = Run.objects.get(pk=made.json()["id"])
    other.clip.run = other.result.run = row
    other.track_sets.update(run=row)
    for part in (other.clip, other.result):
        part.save()
    row.view, row.state = "side_left", "ready"
    row.save()
    Run.objects.filter(pk=other.pk).delete()
    return Run.objects.get(pk=row.pk)


def bench(client, run: Run) -> dict:
    return client.get(f"/api/runs/{run.pk}/bench").json()


def test_another_clip_is_as_the_first_and_on_no_list(client, first, second):
    assert (second.rider, second.level, second.discipline, second.part_of) == (
        first.rider, first.level, first.discipline, first,
    )  # fmt: skip
    assert [r["id"] for r in client.get("/api/runs").json()["results"]] == [first.pk]
    assert client.get("/api/riders").json()["results"][0]["runs"] == 1
    assert (
        "Script is written there" in client.get(f"/api/runs/{second.pk}/script").json()["problem"]
    )
    # What is said of the run holds for all of its clips.
    client.patch(f"/api/runs/{first.pk}", {"level": "advanced", "view": "front"}, format="json")
    second.refresh_from_db()
    assert (second.level, second.view) == ("advanced", "side_left")


def test_until_it_is_matched_it_is_not_used_and_that_is_said(client, first, second):
    several.judged_anew(run=first)
    shown = bench(client, first)
    assert [c["view"] for c in shown["clips"]] == ["front", "side_left"]
    assert shown["clips"][1]["offset_s"] is None
    assert any("not matched yet" in words for words in shown["unused_clips"])


def test_matched_by_hand_both_views_are_judged_together(client, first, second):
    alone = {c["fault"] for c in bench(client, first)["prescription"]["cannot_tell"]}
    answer = client.post(
        f"/api/runs/{second.pk}/match", {"by": "hand", "at_s": 2.0, "first_s": 2.0}, format="json"
    )
    assert answer.status_code == 200, answer.json()
    mine = answer.json()["clips"][1]
    assert (mine["offset_s"], mine["offset_by"], mine["here"]) == (0.0, "hand", True)
    assert 0.0 < mine["offset_pm_s"] < 0.05
    shown = bench(client, first)
    both = {c["fault"] for c in shown["prescription"]["cannot_tell"]}
    assert shown["unused_clips"] == [] and both < alone
    first.result.refresh_from_db()
    assert {m["clip"] for m in first.result.together["measures"]} == {"a", "b"}
    # What the first clip measured stands as it was.
    assert first.result.sheet["clip"]["view"] == "front"
    assert client.get(f"/api/runs/{first.pk}/script").status_code == 200


def test_an_offset_that_swaps_the_sides_is_not_believed(client, first, second):
    unit = first.result.bench["units"][0]
    shift = {"by": "hand", "at_s": 0.0, "first_s": unit["end"] - unit["start"]}
    client.post(f"/api/runs/{second.pk}/match", shift, format="json")
    assert any("left and right agree in only 0" in w for w in bench(client, first)["unused_clips"])


def test_what_cannot_be_matched_is_refused_with_the_way_out(client, first, second):
    def refused(run, **how):
        return client.post(f"/api/runs/{run.pk}/match", how, format="json")

    assert "Only another clip" in refused(first, by="units").json()["problem"]
    assert "not said" in refused(second, by="hand", at_s=1.0).json()["problem"]
    assert refused(second, by="sound").status_code == 409  # no files are kept here
    assert refused(second, by="ear").status_code == 400
    second.refresh_from_db()
    assert second.offset_s is None


def test_another_pass_needs_no_match_and_counts_as_further_units(client, first, simulated):
    made = several.add(first, same_pass=False)
    assert made.pass_no == 2
    sim = simulated({}, seed=104, units=3, view="front")
    other = measured_run(first.rider, sim.tracks)
    for rows in (other.track_sets,):
        rows.update(run=made)
    other.clip.run = other.result.run = made
    other.clip.save()
    other.result.save()
    several.judged_anew(run=first)
    bench(client, first)
    first.result.refresh_from_db()
    together = first.result.together
    assert len(together["segments"]) == len(first.result.sheet["segments"]) + len(
        other.result.sheet["segments"]
    )
    assert "Only another clip of the same pass" in client.post(
        f"/api/runs/{made.pk}/match", {"by": "units"}, format="json"
    ).json()["problem"]  # fmt: skip


def test_a_run_that_goes_takes_its_clips_along_and_strangers_see_none(client, first, second):
    eve = client_of(new_coach("Other", "eve"))
    assert (
        eve.post(f"/api/runs/{first.pk}/clips", {"same_pass": True}, format="json").status_code
        == 404
    )
    assert (
        eve.post(f"/api/runs/{second.pk}/match", {"by": "units"}, format="json").status_code == 404
    )
    for _ in range(6):
        client.post(f"/api/runs/{first.pk}/clips", {"same_pass": True}, format="json")
    full = client.post(f"/api/runs/{second.pk}/clips", {"same_pass": True}, format="json")
    assert full.status_code == 409 and "8 clips at the most" in full.json()["problem"]
    removing.erase(first)
    assert not Run.objects.exists()


def test_another_clock_or_another_clip_is_matched_anew(client, first, second):
    """What was laid over each other at one speed lies otherwise at another: a stale offset would look sure."""
    matched = {"by": "hand", "at_s": 2.0, "first_s": 2.0}
    for run in (first, second):
        client.post(f"/api/runs/{second.pk}/match", matched, format="json")
        client.patch(f"/api/runs/{run.pk}", {"filmed_fps": 120}, format="json")
        second.refresh_from_db()
        assert second.offset_s is None
        bench(client, first)
        # Left out; or, where the picture asks about the clock first, nothing is judged together.
        first.result.refresh_from_db()
        together = first.result.together
        assert together is None or [c["id"] for c in together["clips"]] == ["a"]
