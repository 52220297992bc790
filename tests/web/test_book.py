"""What became of a prescription: the next run is held against it, and the Book and the ledger tell."""

from __future__ import annotations

import csv
import io

from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from proklisis.web.targets.models import Prescribed
from tests.web.conftest import client_of, new_coach

HIP_OUT = {"hip_out": 1.8}


def approved(client, run: Run) -> dict:
    answer = client.post(f"/api/runs/{run.pk}/script/approve")
    assert answer.status_code == 200, answer.json()
    return answer.json()


def following(client, run: Run):
    answer = client.get(f"/api/runs/{run.pk}/following")
    assert answer.status_code == 200, answer.json()
    return answer.json()["following"]


def test_the_next_run_is_held_against_the_last_prescription(client, ridden):
    first = ridden(HIP_OUT, 31)
    said = approved(client, first)
    assert said["prescription"]["main"]["fault"] == "hip_out"
    later = ridden({}, 32)
    told = following(client, later)
    assert told["run"] == first.pk
    assert told["cue"] == said["prescription"]["main"]["cue"]
    assert told["outcome"] == "moved"
    assert {r["verdict"] for r in told["rows"]} <= {"in_band", "better"}
    assert all("±" in r["before"] and "±" in r["now"] for r in told["rows"])
    # It stands in the run's own prescription too, which its Script is made from.
    script = client.get(f"/api/runs/{later.pk}/script").json()
    assert [r["verdict"] for r in script["prescription"]["followup"]] == [r["verdict"] for r in told["rows"]]  # fmt: skip


def test_a_run_that_is_no_other_is_not_called_better(client, ridden):
    approved(client, ridden(HIP_OUT, 31))
    told = following(client, ridden(HIP_OUT, 31))
    assert told["outcome"] == "no_change"
    assert told["changed"] == []


def test_the_first_run_is_held_against_nothing(client, ridden):
    assert following(client, ridden(HIP_OUT, 31)) is None


def test_what_is_opened_again_holds_no_more(client, ridden):
    first = ridden(HIP_OUT, 31)
    approved(client, first)
    later = ridden({}, 32)
    assert following(client, later) is not None
    assert client.delete(f"/api/runs/{first.pk}/script/approve").status_code == 200
    assert following(client, later) is None
    later.result.refresh_from_db()
    assert later.result.prescription["followup"] == []


def test_an_approval_that_comes_late_still_counts_for_the_runs_after(client, ridden):
    first, later = ridden(HIP_OUT, 31), ridden({}, 32)
    approved(client, first)
    assert following(client, later)["outcome"] == "moved"


def test_another_rider_and_another_discipline_are_not_held_against_it(client, coach, ridden):
    approved(client, ridden(HIP_OUT, 31))
    other = Rider.objects.create(club=coach.club, name="Bram", number=8, born=1980, height_cm=180)
    assert following(client, ridden({}, 32, other)) is None


def test_a_cue_that_changed_nothing_twice_is_offered_for_another(client, ridden):
    first = ridden(HIP_OUT, 31)
    cue = approved(client, first)["prescription"]["main"]["cue"]
    second = ridden(HIP_OUT, 33)
    assert following(client, second)["outcome"] == "no_change"
    assert following(client, second)["instead"] is None
    approved(client, second)
    third = ridden(HIP_OUT, 34)
    told = following(client, third)
    assert told["outcome"] == "no_change"
    assert told["instead"]["cue"] != cue
    assert "no change" in told["instead"]["says"]


def test_what_the_club_said_for_a_fault_before_is_the_next_cue(client, ridden):
    first = ridden(HIP_OUT, 31)
    own = {"kind": "cue", "fault": "hip_out", "cue": "Sit into the turn with your inner hip."}
    assert client.post(f"/api/runs/{first.pk}/edits", own, format="json").status_code == 200
    other = {**own, "cue": ""}
    assert client.post(f"/api/runs/{first.pk}/edits", other, format="json").status_code == 200
    approved(client, first)
    approved(client, ridden(HIP_OUT, 33))
    told = following(client, ridden(HIP_OUT, 34))
    assert told["instead"]["cue"] == "Sit into the turn with your inner hip."


def test_the_book_tells_what_was_given_and_what_became_of_it(client, rider, ridden):
    first = ridden(HIP_OUT, 31)
    approved(client, first)
    second = ridden({}, 32)
    book = client.get(f"/api/riders/{rider.pk}/book").json()
    assert [r["run"] for r in book["runs"]] == [first.pk, second.pk]
    [given] = book["prescribed"]
    assert (given["run"], given["seen_in"], given["outcome"]) == (first.pk, second.pk, "moved")
    top = book["series"][0]
    assert top["target"] is not None
    assert {p["run"] for line in top["sides"] for p in line["points"]} == {first.pk, second.pk}
    assert {line["side"] for line in top["sides"]} == {"left", "right"}
    assert all(p["pm"] > 0 for line in top["sides"] for p in line["points"])


def test_the_books_numbers_as_a_table(client, rider, ridden):
    run = ridden(HIP_OUT, 31)
    answer = client.get(f"/api/riders/{rider.pk}/book/table")
    rows = list(csv.DictReader(io.StringIO(answer.content.decode())))
    assert rows
    assert {r["run"] for r in rows} == {str(run.pk)}
    assert all(float(r["U"]) >= 0 for r in rows)


def test_an_empty_book_says_so_and_unknown_disciplines_are_refused(client, rider):
    assert client.get(f"/api/riders/{rider.pk}/book").json()["disciplines"] == []
    assert client.get(f"/api/riders/{rider.pk}/book?discipline=bobsleigh").status_code == 400
    assert client.get("/api/cues?discipline=").status_code == 400


def test_the_ledger_counts_what_came_of_each_cue(client, coach, ridden):
    cue = approved(client, ridden(HIP_OUT, 31))["prescription"]["main"]["cue"]
    ridden({}, 32)
    other = Rider.objects.create(club=coach.club, name="Bram", number=8, born=1980, height_cm=180)
    approved(client, ridden(HIP_OUT, 33, other))
    [row] = client.get("/api/cues?discipline=alpine_carve").json()
    assert (row["cue"], row["given"], row["moved"], row["not_yet"]) == (cue, 2, 1, 1)
    assert "1 of 1" in row["says"] and "interval" in row["says"]


def test_other_clubs_see_nothing_of_it(client, rider, ridden):
    run = ridden(HIP_OUT, 31)
    approved(client, run)
    stranger = client_of(new_coach("Elsewhere", "eve"))
    assert stranger.get(f"/api/runs/{run.pk}/following").status_code == 404
    assert stranger.get(f"/api/riders/{rider.pk}/book").status_code == 404
    assert stranger.get(f"/api/riders/{rider.pk}/book/table").status_code == 404
    assert stranger.get("/api/cues?discipline=alpine_carve").json() == []
    assert Prescribed.objects.count() == 1
