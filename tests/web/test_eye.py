"""The Eye over the API: a pool made by a job, sessions, the profile, agreement, hints."""

from __future__ import annotations

import io
from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone
from PIL import Image

from proklisis.simulate import items as simulated
from proklisis.simulate.items import EXERCISES, Item, make_item
from proklisis.simulate.strip import Strip
from proklisis.web.clips import crops
from proklisis.web.demo.practice import practise
from proklisis.web.eye import own
from proklisis.web.eye.models import EyeAnswer, EyeItem, EyeTopic
from proklisis.web.eye.pool import AHEAD, keep, make_next, most_wanted
from proklisis.web.references.models import Reference
from proklisis.web.runs.models import Result
from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db
PICTURE = b"RIFF....WEBP"


def made(number: int, exercise="fault", topic="not_level", size=1.3, discipline="alpine_carve", **truth) -> EyeItem:  # fmt: skip
    question = {"ask": "What is wrong here?", "options": [{"id": topic, "title": "This"}, {"id": "", "title": "Nothing"}]}  # fmt: skip
    if exercise == "angle":
        question = {"ask": "Draw the line.", "points": 2}
        truth = {"deg": 20.0, "line": [[0.5, 0.7], [0.6, 0.4]], **truth}
    else:
        truth = {"answer": topic if size else "", **truth}
    item = Item(exercise, discipline, "intermediate", "front", topic, size, question, {"says": "So it is.", **truth}, [Strip(PICTURE, 3, 2, 300, 0.05)])  # fmt: skip
    return keep(item, number)


def give(client, item, given, took=8.0):
    return client.post(f"/api/eye/items/{item}/answer", {"given": given, "took_s": took}, format="json")  # fmt: skip


@pytest.fixture
def no_jobs(monkeypatch):
    asked = []
    monkeypatch.setattr("proklisis.web.eye.pool.put_once", lambda name, lock, **ids: asked.append((name, ids)))  # fmt: skip
    return asked


def test_a_question_comes_without_its_truth_and_the_answer_with_it(client, no_jobs):
    item = made(1)
    found = client.get("/api/eye/next?count=2").json()
    assert [i["id"] for i in found["items"]] == [item.pk] and found["making"]
    assert "truth" not in str(found) and "So it is" not in str(found)
    assert no_jobs and no_jobs[0][0] == "make_eye_item"
    picture = client.get(found["items"][0]["strips"][0]["url"])
    assert b"".join(picture.streaming_content) == PICTURE and "immutable" in picture["Cache-Control"]  # fmt: skip
    told = give(client, item.pk, {"answer": "not_level"}).json()
    assert told["right"] and told["truth"] == "So it is." and told["fault"] == "not_level"
    assert EyeAnswer.objects.get().right and EyeTopic.objects.get().due > timezone.now()


def test_the_same_is_not_asked_twice_in_a_row_and_what_was_missed_comes_sooner(client, no_jobs):
    items = [made(k, topic=t) for k, t in ((1, "not_level"), (2, "banking"), (3, "early_pivot"))]
    first = client.get("/api/eye/next").json()["items"][0]["id"]
    give(client, first, {"answer": ""})
    second = client.get("/api/eye/next").json()["items"][0]["id"]
    assert second != first
    ahead = client.get(f"/api/eye/next?count=5&leave={second}").json()["items"]
    assert second not in [i["id"] for i in ahead]
    for i in items:
        if i.pk != first:
            topic = i.question["options"][0]["id"]
            give(client, i.pk, {"answer": topic})
    due = {t.topic: t.due for t in EyeTopic.objects.all()}
    missed = next(i for i in items if i.pk == first).topic
    assert all(due[missed] <= d for t, d in due.items() if t != missed)


def test_what_is_wrong_with_an_answer_is_said(client, no_jobs):
    item = made(1)
    assert give(client, item.pk, {"answer": "elsewhere"}).status_code == 400
    assert give(client, item.pk, {}).status_code == 400
    assert give(client, item.pk, {"answer": ""}, -1).status_code == 400
    assert give(client, 999, {"answer": ""}).status_code == 404
    line = made(2, "angle", "trunk_lean")
    assert give(client, line.pk, {"line": [[0, 0]]}).status_code == 400
    assert client.get(f"/api/eye/items/{item.pk}/pictures/1").status_code == 404
    for bad in ("exercise=juggling", "discipline=chess"):
        answer = client.get(f"/api/eye/next?{bad}")
        assert answer.status_code == 400 and "there are" in answer.json()["problem"]
    assert not EyeAnswer.objects.exists()


def test_the_profile_says_what_an_observer_is_like(client, coach, no_jobs):
    empty = client.get("/api/eye/profile").json()
    assert empty["answers"] == 0 and empty["alarms"] is None and empty["read"] == []
    rng = np.random.default_rng(3)
    for k in range(60):
        item = made(k, "angle", "shoulder_tilt")
        a = np.radians(20 + rng.normal(4, 2))
        give(client, item.pk, {"line": [[0.5, 0.7], [0.5 + 0.3 * np.sin(a), 0.7 - 0.3 * np.cos(a)]]})  # fmt: skip
    for k in range(40):
        size = 0.0 if k % 3 == 0 else (0.4, 1.9)[k % 2]
        item = made(100 + k, size=size)
        # Sees what is large, and finds a fault in every second clean rider.
        says = "not_level" if size > 1 or (size == 0 and k % 2) else ""
        give(client, item.pk, {"answer": says})
    p = client.get("/api/eye/profile").json()
    read = next(r for r in p["read"] if r["id"] == "shoulder_tilt")
    assert read["n"] == 60 and read["bias"]["low"] < 4 < read["bias"]["high"]
    assert read["spread"]["low"] < 2 < read["spread"]["high"]
    small = p["smallest"][0]
    assert 0.4 < small["size"] < 1.9 and small["low"] < small["size"] < small["high"]
    assert p["alarms"]["alarms"]["value"] == pytest.approx(0.5, abs=0.1)
    assert p["weeks"][0]["n"] == 100
    # A hint beside the eye notes of that discipline, and only there.
    hints = client.get("/api/eye/hints?discipline=alpine_carve").json()["hints"]
    assert "riders who had none" in hints[""]
    assert any("shoulder tilt" in h and "larger" in h for h in hints.values())
    assert client.get("/api/eye/hints?discipline=drop_boof").json()["hints"] == {}


def test_coaches_of_a_club_are_compared_on_the_same_riders_and_no_others(client, coach, no_jobs):
    other = new_coach("Lanternfell", "bea")
    stranger = client_of(new_coach("Elsewhere", "eve"))
    for k in range(24):
        item = made(k, topic=("not_level", "banking")[k % 2], size=(0.0, 1.3)[k % 3 > 0])
        topic = item.topic
        give(client, item.pk, {"answer": topic if k % 4 else ""})
        give(client_of(other), item.pk, {"answer": topic if k % 4 else ""})
        give(stranger, item.pk, {"answer": ""})
        if k < 12:
            give(client, item.pk, {"answer": topic})
    found = client.get("/api/eye/profile").json()["agreement"]
    assert {a["with"] for a in found} == {"Bea", "yourself, later"}
    both = next(a for a in found if a["with"] == "Bea")
    assert both["kind"] == "kappa" and both["value"] == pytest.approx(1.0) and both["items"] == 24
    assert stranger.get("/api/eye/profile").json()["agreement"] == []
    assert client_of(other).get("/api/eye/profile").json()["answers"] == 24


def test_the_demo_has_three_weeks_and_two_helpers_to_agree_with(client, coach):
    practise(coach.club, coach, timezone.now())
    p = client.get("/api/eye/profile").json()
    assert p["answers"] > 150 and len(p["weeks"]) == 3
    assert p["read"] and p["smallest"] and p["alarms"]
    assert {"Alder Hale", "Liesel Brandt", "all coaches"} <= {a["with"] for a in p["agreement"]}
    # What was answered then has no pictures, and is not asked again.
    assert client.get("/api/eye/next").json()["ready"] == 0
    assert EyeAnswer.objects.latest("at").at < timezone.now() + timedelta(hours=1)


def test_the_pool_grows_where_there_is_least(monkeypatch, client, coach, no_jobs):
    monkeypatch.setattr("proklisis.web.eye.pool.playbook_ids", lambda: ["alpine_carve", "double_pole"])  # fmt: skip

    def quick(exercise, discipline, seed, topic="", size=None):
        if seed % 2:  # a seed that gives nothing
            return None
        return Item(exercise, discipline, "novice", "front", "x", 1.0, {"ask": "?"}, {"says": "."}, [Strip(PICTURE, 1, 1, 300, 0.0)])  # fmt: skip

    monkeypatch.setattr("proklisis.web.eye.pool.make_item", quick)
    kinds = set()
    while (item := make_next()) is not None:
        kinds.add((item.exercise, item.discipline))
    # No two sides where poling has none.
    assert len(kinds) == 2 * len(EXERCISES) - 1 and ("side", "double_pole") not in kinds
    assert EyeItem.objects.count() == AHEAD * len(kinds)
    assert most_wanted() is None
    item = EyeItem.objects.filter(exercise="frame", discipline="double_pole").first()
    EyeAnswer.objects.create(coach=coach, item=item, given={}, right=True, took_s=1, at=timezone.now())  # fmt: skip
    assert most_wanted() == ("frame", "double_pole")
    assert simulated.EXERCISES is EXERCISES


@pytest.mark.slow
@pytest.mark.parametrize("exercise", EXERCISES)
def test_an_item_of_each_exercise_is_made_kept_and_answered(client, exercise, no_jobs):
    item = next(i for s in range(1, 9) if (i := make_item(exercise, "snowboard", s)) is not None)
    if exercise == "angle":  # the same again for the same seed
        again = next(
            i for s in range(1, 9) if (i := make_item(exercise, "snowboard", s)) is not None
        )
        assert (again.question, again.truth) == (item.question, item.truth)
    row = keep(item, 1)
    shown = client.get(f"/api/eye/next?exercise={exercise}").json()["items"][0]
    for strip in shown["strips"]:
        picture = b"".join(client.get(strip["url"]).streaming_content)
        assert picture[8:12] == b"WEBP" and len(picture) < 600_000
    t = item.truth
    given = (
        {"frame": t["frames"][0]} if exercise == "frame" else {"line": t["line"]} if exercise == "angle"
        else {"order": t["order"]} if exercise == "cause" else {"answer": t["answer"]}
    )  # fmt: skip
    told = give(client, row.pk, given).json()
    assert told["right"] and (told["error"] is None or abs(told["error"]) < 0.01)


@pytest.fixture
def referred(client, run):
    """The run as a reference of the club for a month."""
    # The clip of this fixture is a working copy alone; its original is the same file.
    run.clip.original.save("run.mp4", run.clip.working.file)
    until = (timezone.localdate() + timedelta(days=30)).isoformat()
    kept = client.post("/api/references", {"run": run.pk, "consent": "Wren, in writing", "until": until}, format="json")  # fmt: skip
    assert kept.status_code == 201
    return Reference.objects.get()


def test_frames_of_a_reference_are_asked_in_its_own_club_while_it_lasts(client, run, referred, no_jobs, monkeypatch):  # fmt: skip
    monkeypatch.setattr("proklisis.web.clips.crops.put_once", lambda *_, **__: None)
    assert own.make_next() is None  # its pictures are not cut yet
    crops.make(run.tracks.pk)
    item = own.make_next()
    assert item is not None and item.exercise == "angle" and item.reference == referred
    assert "as measured" in item.truth["says"] and "±" in item.truth["says"]
    shown = client.get("/api/eye/next").json()["items"][0]
    assert shown["id"] == item.pk and shown["points"] == len(item.truth["line"])
    picture = b"".join(client.get(shown["strips"][0]["url"]).streaming_content)
    assert Image.open(io.BytesIO(picture)).size == (480, 480)
    told = give(client, item.pk, {"line": item.truth["line"]}).json()
    assert told["right"]
    # What is measured is no exact truth: it makes no bias of the coach's.
    for _ in range(6):
        give(client, item.pk, {"line": item.truth["line"]})
    assert client.get("/api/eye/profile").json()["read"] == []
    # Nobody else's eyes.
    other = client_of(new_coach("Elsewhere", "eve"))
    assert other.get("/api/eye/next").json()["items"] == []
    assert other.get(shown["strips"][0]["url"]).status_code == 404
    assert give(other, item.pk, {"line": item.truth["line"]}).status_code == 404
    # What was corrected since is not asked as it was measured before, and is asked anew.
    Result.objects.filter(run=run).update(made=timezone.now())
    assert client.get("/api/eye/next").json()["items"] == []
    item = own.make_next()
    assert client.get("/api/eye/next").json()["items"][0]["id"] == item.pk
    shown = client.get("/api/eye/next").json()["items"][0]
    # Its end ends it, and its going takes it along.
    Reference.objects.update(until=timezone.localdate() - timedelta(days=1))
    assert client.get("/api/eye/next").json()["items"] == []
    assert client.get(shown["strips"][0]["url"]).status_code == 404
    client.delete(f"/api/references/{referred.pk}")
    assert not EyeItem.objects.exists()


def test_a_reference_gives_a_few_items_and_is_then_left_alone(client, run, referred, no_jobs, monkeypatch):  # fmt: skip
    monkeypatch.setattr("proklisis.web.clips.crops.put_once", lambda *_, **__: None)
    for _ in range(12):
        if own.make_next() is None:
            crops.make(run.tracks.pk)
    assert 1 <= EyeItem.objects.count() <= own.EACH
    assert len({i.topic for i in EyeItem.objects.all()}) == EyeItem.objects.count()
    assert not own.short().exists()
