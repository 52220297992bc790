"""What a coach says of a run: what their eye saw, their word on what comes first, schools, and judging by eye alone."""

from __future__ import annotations

import pytest

from proklisis.web.analysis import reviewing
from proklisis.web.runs.models import Result, Run
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


def bench(client, run) -> dict:
    answer = client.get(f"/api/runs/{run.pk}/bench")
    assert answer.status_code == 200, answer.json()
    return answer.json()


def say(client, run, status: int = 200, **what) -> dict:
    answer = client.post(f"/api/runs/{run.pk}/edits", what, format="json")
    assert answer.status_code == status, answer.json()
    return answer.json()


def finding(shown: dict, fault: str) -> dict | None:
    return next((f for f in shown["prescription"]["findings"] if f["fault"] == fault), None)


@pytest.fixture
def four(rider, simulated, short_clip) -> Run:
    return measured_run(
        rider, simulated({"not_level": 1.6}, seed=103, units=4, view="front").tracks, short_clip
    )


def middle(shown: dict, n: int) -> float:
    unit = next(u for u in shown["units"] if u["n"] == n)
    return (unit["start"] + unit["end"]) / 2


def test_what_was_seen_in_a_turn_stays_with_its_moment_when_turns_are_numbered_anew(client, four):
    shown = bench(client, four)
    shown = say(client, four, kind="note", fault="spray_long", scope="unit", t=middle(shown, 2))
    assert [(n["title"] != "", n["unit"], n["seen"]) for n in shown["seen"]] == [(True, 2, True)]
    assert finding(shown, "skid")["status"] == "episode"
    # A boundary taken away before it makes the second turn the first.
    fewer = say(client, four, kind="delete", old_t=shown["boundaries"][0]["t"])
    assert [n["unit"] for n in fewer["seen"]] == [1]


def test_also_here_and_not_there_and_the_last_word_of_a_unit_stands(client, four):
    shown = bench(client, four)
    for n in (1, 2, 3, 4):
        shown = say(client, four, kind="note", fault="spray_long", scope="unit", t=middle(shown, n))
    assert finding(shown, "skid")["status"] in ("root", "symptom")
    for n in (1, 2, 3):
        shown = say(
            client,
            four,
            kind="note",
            fault="spray_long",
            scope="unit",
            t=middle(shown, n),
            seen=False,
        )
    assert finding(shown, "skid")["status"] == "episode"


def test_eye_against_measure_is_said_and_a_note_is_undone_and_taken_back(client, four):
    assert finding(bench(client, four), "not_level")["verdict"] == "clear"
    shown = say(client, four, kind="note", fault="not_level", scope="run", seen=False)
    assert finding(shown, "not_level") is None
    against = next(d for d in shown["prescription"]["disagreements"] if d["fault"] == "not_level")
    assert against["eye"]["seen"] is False and against["measured"]["there"] is True
    assert shown["verdict_change"]["main_changed"]
    assert "The inside shoulder drops" in shown["verdict_change"]["gone"]
    undone = client.post(f"/api/runs/{four.pk}/undo").json()
    assert finding(undone, "not_level") and undone["seen"] == []
    again = client.post(f"/api/runs/{four.pk}/redo").json()
    assert finding(again, "not_level") is None
    back = say(client, four, kind="unnote", note=again["seen"][0]["id"])
    assert back["seen"] == [] and finding(back, "not_level")
    # Taking back is undone like everything else.
    assert len(client.post(f"/api/runs/{four.pk}/undo").json()["seen"]) == 1


def test_a_note_judges_again_without_measuring_again(client, four, monkeypatch):
    bench(client, four)

    def no(*_):
        raise AssertionError("measured again")

    monkeypatch.setattr(reviewing, "review", no)
    # Neither does a run that takes long to measure keep its coach waiting.
    monkeypatch.setattr(reviewing, "MOMENT_S", 0.0)
    shown = say(client, four, kind="note", fault="spray_long", scope="run")
    assert finding(shown, "skid") and not shown["measuring"]
    answer = client.patch(f"/api/runs/{four.pk}", {"level": "novice"}, format="json")
    assert answer.status_code == 200
    assert bench(client, four)["prescription"]["level"] == "novice"


def test_what_could_not_be_measured_is_not_taken_for_measured_by_a_note(client, four, monkeypatch):
    from proklisis.core.errors import InputError

    shown = bench(client, four)

    def cannot(*_):
        raise InputError("nothing is to be read", "clip", "film it again")

    with monkeypatch.context() as broken:
        broken.setattr(reviewing, "review", cannot)
        moved = {
            "kind": "move",
            "old_t": shown["boundaries"][1]["t"],
            "t": shown["boundaries"][1]["t"] + 0.1,
        }
        assert "nothing is to be read" in say(client, four, **moved)["trouble"]
        noted = say(client, four, kind="note", fault="spray_long", scope="run")
        assert "nothing is to be read" in noted["trouble"]
    mended = say(client, four, kind="note", fault="skid", scope="run")
    assert mended["trouble"] == ""
    assert mended["boundaries"][1]["by"] == "coach"


def test_words_are_kept_with_their_moment_found_again_and_offered_to_the_script(client, four):
    shown = bench(client, four)
    shown = say(client, four, kind="note", words="weak left pole", scope="unit", t=middle(shown, 3))
    assert (shown["seen"][0]["words"], shown["seen"][0]["unit"]) == ("weak left pole", 3)
    assert [r["id"] for r in client.get("/api/runs?find=weak left").json()["results"]] == [four.pk]
    assert client.get(f"/api/runs/{four.pk}/script").json()["noted_words"] == ["weak left pole"]


def test_a_strength_that_was_seen_comes_with_the_others(client, four):
    from proklisis.core.review import playbook

    of_book = playbook("alpine_carve").strengths
    measured = next(
        i for i, x in of_book.items() if x.when.observation is None and "intermediate" in x.levels
    )
    shown = say(client, four, kind="note", fault=measured, scope="run")
    assert measured in {s["id"] for s in shown["prescription"]["strengths"]}
    shown = say(client, four, kind="note", fault=measured, scope="run", seen=False)
    assert measured not in {s["id"] for s in shown["prescription"]["strengths"]}


@pytest.mark.parametrize(
    ("what", "words"),
    [
        ({"kind": "note", "scope": "run"}, "empty"),
        ({"kind": "note", "fault": "skidd", "scope": "run"}, "skid"),
        ({"kind": "note", "fault": "skid", "scope": "unit"}, "which turn"),
        ({"kind": "note", "fault": "skid", "scope": "side"}, "which side"),
        ({"kind": "note", "fault": "skid", "scope": "everywhere"}, "everywhere"),
        ({"kind": "unnote", "note": 99999}, "not there any more"),
        ({"kind": "choose", "fault": "no_boof"}, "not known"),
        ({"kind": "drop", "faults": ["skid", "nothing"], "reason": "x"}, "nothing"),
        ({"kind": "drill", "fault": "skid", "drill": "fly"}, "fly"),
        (
            {"kind": "drill", "fault": "skid", "steps": [{"stage": "still", "text": "Stand."}]},
            "name",
        ),
        ({"kind": "side", "t": 1.0, "side": "up"}, "up"),
    ],
)
def test_what_cannot_be_said_is_refused_in_a_sentence(client, run, what, words):
    answer = say(client, run, 400, **what)
    assert words in answer["problem"]


def test_the_likeliest_to_be_noted_come_first_by_phase_and_by_habit(
    client, four, rider, simulated, short_clip
):
    offered = client.get(f"/api/runs/{four.pk}/notable").json()
    titles = {i["id"]: i["title"] for i in offered["items"]}
    assert {"not_level", "spray_long", "skid"} <= titles.keys() and all(titles.values())
    order = offered["by_phase"]
    assert set(order) == set(bench(client, four)["phases"])
    assert all(sorted(ids) == sorted(titles) for ids in order.values())
    assert len({tuple(ids) for ids in order.values()}) > 1
    rare = order["belly"][-1]
    other = measured_run(rider, simulated({}, seed=104, units=2, view="front").tracks, short_clip)
    for _ in range(9):
        say(client, other, kind="note", fault=rare, scope="run")
    after = client.get(f"/api/runs/{four.pk}/notable").json()["by_phase"]["belly"]
    assert after.index(rare) < len(after) / 4
    # Another coach has habits of their own.
    ben = client_of(new_coach("Lanternfell", "ben"))
    assert ben.get(f"/api/runs/{four.pk}/notable").json()["by_phase"]["belly"] == order["belly"]


def test_the_coachs_word_on_the_main_thing_stands_on_bench_and_script(client, four):
    shown = say(client, four, kind="note", fault="spray_long", scope="run")
    own = shown["prescription"]["main"]["fault"]
    assert own == "not_level"
    shown = say(client, four, kind="choose", fault="skid")
    main = shown["prescription"]["main"]
    assert (main["fault"], main["by"], main["would_be"]["fault"]) == ("skid", "coach", "not_level")
    script = client.get(f"/api/runs/{four.pk}/script").json()["prescription"]
    assert script["main"] == main
    # What was chosen and is gone is said, and the software's own stands again.
    gone = say(client, four, kind="note", fault="skid", scope="run", seen=False)
    assert gone["prescription"]["main"]["fault"] == "not_level"
    assert gone["word"]["lost"] == ["Skidding"] or gone["word"]["lost"]
    say(client, four, kind="choose", fault="")
    assert bench(client, four)["word"]["main"] == ""


def test_cue_and_drill_are_swapped_and_offered_first_next_time(
    client, four, rider, simulated, short_clip
):
    choices = client.get(f"/api/runs/{four.pk}/choices").json()["faults"]["not_level"]
    assert choices["cues"] and choices["drills"]
    last = "Level as a full tray."
    shown = say(client, four, kind="cue", fault="not_level", cue=last)
    assert shown["prescription"]["main"]["cue"] == last
    mine = {
        "title": "Tray on the hand",
        "steps": [{"stage": "slow", "text": "Carry a tray.", "dose": "4 runs"}],
    }
    shown = say(client, four, kind="drill", fault="not_level", **mine)
    assert shown["prescription"]["drills"][0]["title"] == "Tray on the hand"
    assert shown["prescription"]["main"]["by"] == "coach"
    other = measured_run(
        rider, simulated({"not_level": 1.6}, seed=104, units=2, view="front").tracks, short_clip
    )
    first = client.get(f"/api/runs/{other.pk}/choices").json()["faults"]["not_level"]["cues"][0]
    assert first == {"cue": last, "used": 1}
    back = say(client, four, kind="cue", fault="not_level", cue="")
    assert back["prescription"]["main"]["cue"] != last


def test_several_findings_are_dropped_at_once_and_one_is_given_beside_the_main_thing(client, four):
    shown = say(client, four, kind="note", fault="spray_long", scope="run")
    ids = [f["fault"] for f in shown["prescription"]["findings"]][:2]
    shown = say(client, four, kind="drop", faults=ids, reason="The camera makes it look so")
    assert not {f["fault"] for f in shown["prescription"]["findings"]} & set(ids)
    assert shown["word"]["dropped"] == dict.fromkeys(ids, "The camera makes it look so")
    assert client.get(f"/api/runs/{four.pk}/script").json()["dropped"] == shown["word"]["dropped"]
    shown = client.post(f"/api/runs/{four.pk}/undo").json()
    assert set(ids) <= {f["fault"] for f in shown["prescription"]["findings"]}
    shown = say(client, four, kind="also", fault="skid", on=True)
    assert "skid" in {c["fault"] for c in shown["prescription"]["cues"]}


def test_a_school_is_chosen_for_the_club_the_rider_or_the_run(
    client, four, rider, simulated, short_clip
):
    other = measured_run(rider, simulated({}, seed=104, units=2, view="front").tracks, short_clip)
    url = f"/api/runs/{four.pk}/school"

    def choose(option, whose):
        answer = client.post(
            url, {"question": "crossing", "option": option, "whose": whose}, format="json"
        )
        assert answer.status_code == 200, answer.json()

    choose("topple", "club")
    for run in (four, other):
        assert bench(client, run)["schools_in_force"]["crossing"] == {
            "option": "topple",
            "whose": "club",
        }
        assert Result.objects.get(run=run).sheet["schools"] == {"crossing": "topple"}
    choose("level", "run")
    assert bench(client, four)["schools_in_force"]["crossing"] == {
        "option": "level",
        "whose": "run",
    }
    assert bench(client, other)["schools_in_force"]["crossing"]["option"] == "topple"
    choose(None, "run")
    choose(None, "club")
    assert bench(client, other)["schools_in_force"] == {}
    wrong = client.post(
        url, {"question": "crosing", "option": "level", "whose": "run"}, format="json"
    )
    assert wrong.status_code == 400 and "crossing" in wrong.json()["problem"]


def test_a_run_is_judged_by_eye_before_anybody_is_followed(client, four):
    four.track_sets.all().delete()
    Result.objects.all().delete()
    assert client.get(f"/api/runs/{four.pk}/bench").status_code == 409
    assert client.post(f"/api/runs/{four.pk}/by_eye").status_code == 200
    shown = bench(client, four)
    assert shown["by_eye"] and shown["units"] == [] and shown["points"] == []
    assert client.get(f"/api/runs/{four.pk}/points").content == b""
    # Seen without a single cut, it is seen on the whole run.
    shown = say(client, four, kind="note", fault="spray_long", scope="run")
    assert shown["prescription"]["main"]["fault"] == "skid"
    for t in (0.1, 1.4, 2.7, 4.0):
        shown = say(client, four, kind="add", t=t)
    assert [u["n"] for u in shown["units"]] == [1, 2, 3]
    shown = say(client, four, kind="side", t=2.0, side="left")
    assert [u["side"] for u in shown["units"]] == ["right", "left", "right"]
    shown = say(client, four, kind="note", fault="not_level", scope="side", side="right")
    assert finding(shown, "not_level")["side"] == "right"
    assert client.get(f"/api/runs/{four.pk}/script").json()["prescription"]["main"]


def test_units_are_only_counted_and_noted_by_their_numbers(client, four):
    four.track_sets.all().delete()
    Result.objects.all().delete()
    client.post(f"/api/runs/{four.pk}/by_eye")
    wrong = client.post(
        f"/api/runs/{four.pk}/edits", {"kind": "count", "count": 500}, format="json"
    )
    assert wrong.status_code == 400
    shown = say(client, four, kind="count", count=8)
    assert [u["n"] for u in shown["units"]] == list(range(1, 9))
    assert all(u["counted"] for u in shown["units"]) and shown["boundaries"] == []
    # A note is of a number, wherever the clip stood as it was made.
    third, t = shown["units"][2], shown["units"][6]["start"]
    shown = say(client, four, kind="note", fault="not_level", scope="unit", unit=third["n"], t=t)
    shown = say(client, four, kind="note", fault="not_level", scope="unit", unit=5, t=t)
    assert [(n["unit"], n["t"]) for n in shown["seen"]] == [(3, None), (5, None)]
    assert finding(shown, "not_level")["share"] == pytest.approx(2 / 8)
    shown = say(client, four, kind="side", t=third["start"] + 0.01, side="left")
    assert [u["side"] for u in shown["units"]][:4] == ["left", "right", "left", "right"]
    # Nobody says when they were: not the sheet, nor a Telling.
    four.refresh_from_db()
    assert all("start_s" not in s for s in Result.objects.get(run=four).sheet["segments"])
    held = client.get(f"/api/pair?a={four.pk}&b={four.pk}")
    assert held.status_code == 409 and "only counted" in held.json()["problem"]
    # Counted anew, or not at all; and by undo.
    assert len(say(client, four, kind="count", count=6)["units"]) == 6
    assert say(client, four, kind="count", count=0)["units"] == []
    client.post(f"/api/runs/{four.pk}/undo")
    assert len(bench(client, four)["units"]) == 6
    # What is cut says when, and takes the place of what was counted; the notes stay with their numbers.
    for t in (0.1, 1.0, 2.0, 3.0):
        shown = say(client, four, kind="add", t=t)
    assert [(u["n"], u["counted"]) for u in shown["units"]] == [(1, False), (2, False), (3, False)]
    assert {n["unit"] for n in shown["seen"]} == {3, None}
    refused = client.post(
        f"/api/runs/{four.pk}/edits", {"kind": "count", "count": 4}, format="json"
    )
    assert refused.status_code == 400 and "has units already" in refused.json()["problem"]


def test_nothing_is_judged_by_eye_while_there_is_no_film_to_see(client, rider):
    run = Run.objects.create(club=rider.club, rider=rider, level="intermediate", view="front")
    assert client.post(f"/api/runs/{run.pk}/by_eye").status_code == 409


def test_another_club_sees_and_says_nothing(run):
    stranger = client_of(new_coach("Other", "eve"))
    for path in ("notable", "choices"):
        assert stranger.get(f"/api/runs/{run.pk}/{path}").status_code == 404
    for path in ("school", "by_eye", "edits"):
        assert stranger.post(f"/api/runs/{run.pk}/{path}", {}, format="json").status_code == 404
