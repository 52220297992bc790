"""A run from its sheet to its numbers, and a coach's corrections to them."""

from __future__ import annotations

import jsonschema
import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from proklisis.formats.schemas import schemas
from proklisis.web.analysis.work import analyse_run
from proklisis.web.runs.models import Run
from tests.web.conftest import work_off

pytestmark = pytest.mark.django_db
#: Begins like an MP4 and is none.
NO_FILM = b"\x00\x00\x00\x18ftypisom" + b"this is no film" * 99


def new_run(client, rider, **more) -> int:
    answer = client.post(
        "/api/runs",
        {"rider_id": rider.pk, "view": "front", "level": "intermediate", **more},
        format="json",
    )
    assert answer.status_code == 201, answer.json()
    return answer.json()["id"]


def send(client, run: int, data: bytes, name: str = "clip.mp4"):
    return client.post(
        f"/api/runs/{run}/upload", {"file": SimpleUploadedFile(name, data)}, format="multipart"
    )


def test_ids_that_the_discipline_does_not_know_are_refused(client, rider):
    for field, value, near in (
        ("intention_faults", ["not_levl"], "not_level"), ("schools", {"crosing": "level"}, "crossing"),
        ("conditions", {"slope": 3}, "slope_deg"), ("discipline", "alpine_carv", "alpine_carve"),
    ):  # fmt: skip
        answer = client.post(
            "/api/runs", {"rider_id": rider.pk, "view": "front", field: value}, format="json"
        )
        assert answer.status_code == 400
        assert near in answer.json()["problem"]


@pytest.mark.slow
def test_an_uploaded_clip_is_analysed_by_its_job(client, rider, short_clip):
    run = new_run(client, rider, conditions={"slope_deg": 17})
    sent = send(client, run, short_clip.read_bytes())
    assert sent.status_code == 202
    assert sent.json()["state"] == "queued"
    work_off()
    done = client.get(f"/api/runs/{run}").json()
    assert (done["state"], done["progress"]) == ("ready", 1.0)
    assert done["main_title"]
    assert done["clip"]["frames"] == len(client.get(f"/api/runs/{run}/bench").json()["t"])
    again = send(client, new_run(client, rider), short_clip.read_bytes())
    assert again.status_code == 409
    assert "already in run" in again.json()["problem"]


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("clip.mp4", b"", "empty"),
        ("clip.txt", b"abc", "not a video file"),
        ("clip.mp4", b"PK\x03\x04" + bytes(99), "ZIP archive"),
        ("clip.mp4", b"this is no film" * 99, "not a video"),
    ],
)
def test_what_cannot_be_a_clip_is_refused_at_the_door(client, rider, name, data, words):
    run = new_run(client, rider)
    answer = send(client, run, data, name)
    assert answer.status_code == 400
    assert words in answer.json()["problem"]
    assert client.get(f"/api/runs/{run}").json()["state"] == "waiting"


def test_a_broken_clip_fails_with_a_sentence_and_another_can_be_sent(client, rider):
    run = new_run(client, rider, intention_text="kept")
    assert send(client, run, NO_FILM + b"1", "holiday.mp4").status_code == 202
    work_off()
    failed = client.get(f"/api/runs/{run}").json()
    assert failed["state"] == "failed"
    assert failed["problem"].startswith("holiday.mp4: this is not a video")
    assert failed["intention_text"] == "kept"
    assert send(client, run, NO_FILM + b"2", "other.mp4").status_code == 202


def test_another_clip_starts_with_nothing_marked(client, rider):
    run = new_run(client, rider)
    send(client, run, NO_FILM + b"1")
    work_off()
    Run.objects.filter(pk=run).update(
        camera={"level": {"by": "hand", "roll_deg": 4}}, follow_again=True
    )
    assert send(client, run, NO_FILM + b"2").status_code == 202
    after = Run.objects.get(pk=run)
    assert (after.camera, after.follow_again) == ({}, False)


def test_cancel_and_retry(client, rider):
    run = new_run(client, rider)
    assert client.post(f"/api/runs/{run}/retry").status_code == 409
    send(client, run, NO_FILM)
    first = Run.objects.get(pk=run).attempt
    assert client.post(f"/api/runs/{run}/cancel").json()["state"] == "cancelled"
    analyse_run(run, first)  # the job that was queued before finds that it is not wanted
    assert Run.objects.get(pk=run).state == Run.State.CANCELLED
    assert client.post(f"/api/runs/{run}/cancel").status_code == 409
    assert client.post(f"/api/runs/{run}/retry").json()["state"] == "queued"
    analyse_run(run, first)  # an old job never touches a newer attempt
    assert Run.objects.get(pk=run).state == Run.State.QUEUED


def test_a_lost_job_is_queued_again(client, rider):
    from django.core.management import call_command

    run = new_run(client, rider)
    send(client, run, NO_FILM)
    attempt = Run.objects.get(pk=run).attempt
    call_command("resume_jobs")
    assert Run.objects.get(pk=run).attempt == attempt  # its job still waits
    Run.objects.filter(pk=run).update(state=Run.State.WORKING)
    with __import__("django.db", fromlist=["connection"]).connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs")
    call_command("resume_jobs")
    assert Run.objects.get(pk=run).attempt == attempt + 1
    assert Run.objects.get(pk=run).state == Run.State.QUEUED


def test_the_bench_tells_turns_readings_and_findings(client, run):
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert [t["side"] for t in bench["units"]] in (["left", "right"], ["right", "left"])
    jsonschema.validate(bench["prescription"], schemas()["prescription"])
    reading = next(
        r for r in bench["readings"] if r["measure"] == "shoulder_tilt" and r["phase"] == "belly"
    )
    assert reading["u"] > 0
    assert reading["words"]
    assert reading["pm"]
    assert bench["prescription"]["main"]["fault"] == "not_level"
    assert {b["measure"] for b in bench["bands"]} >= {"shoulder_tilt", "edge"}
    assert any("shows from" in r["words"] for r in bench["refusals"])
    raw = np.frombuffer(client.get(f"/api/runs/{run.pk}/points").content, "<f4")
    assert raw.size == len(bench["t"]) * len(bench["points"]) * 2
    series = client.get(f"/api/runs/{run.pk}/trace?measure=lean").json()
    assert len(series["value"]) == len(series["u"]) == len(bench["t"])
    assert client.get(f"/api/runs/{run.pk}/trace?measure=nonsense").status_code == 404


def test_a_run_without_numbers_says_so(client, rider):
    answer = client.get(f"/api/runs/{new_run(client, rider)}/bench")
    assert answer.status_code == 409
    assert "not measured yet" in answer.json()["problem"]


def value_of(bench, measure: str, turn: int, phase: str = "belly") -> float:
    return next(
        r["value"]
        for r in bench["readings"]
        if (r["measure"], r["unit"], r["phase"]) == (measure, turn, phase)
    )


def test_dragging_a_joint_moves_the_numbers_and_undo_brings_them_back(client, run):
    url = f"/api/runs/{run.pk}"
    before = client.get(f"{url}/bench").json()
    belly = before["units"][0]["phases"]["belly"]
    frame = int(np.searchsorted(before["t"], sum(belly) / 2))
    points = np.frombuffer(client.get(f"{url}/points").content, "<f4").reshape(
        len(before["t"]), -1, 2
    )
    x, y = map(float, points[frame, before["points"].index("l_shoulder")])
    edit = {"kind": "mark", "frame": frame, "landmark": "l_shoulder", "x": x, "y": y - 40}
    after = client.post(f"{url}/edits", edit, format="json").json()
    assert abs(value_of(after, "shoulder_tilt", 1) - value_of(before, "shoulder_tilt", 1)) > 3
    assert after["version"] != before["version"]
    assert after["can_undo"]
    undone = client.post(f"{url}/undo").json()
    assert value_of(undone, "shoulder_tilt", 1) == value_of(before, "shoulder_tilt", 1)
    redone = client.post(f"{url}/redo").json()
    assert value_of(redone, "shoulder_tilt", 1) == value_of(after, "shoulder_tilt", 1)
    assert client.post(f"{url}/redo").status_code == 409
    assert run.track_sets.count() == 1


def test_boundaries_move_add_and_delete(client, run):
    url = f"/api/runs/{run.pk}/edits"
    cuts = [b["t"] for b in client.get(f"/api/runs/{run.pk}/bench").json()["boundaries"]]
    moved = client.post(
        url, {"kind": "move", "old_t": cuts[1], "t": cuts[1] + 0.15}, format="json"
    ).json()
    assert moved["units"][0]["end"] == pytest.approx(cuts[1] + 0.15, abs=1e-3)
    assert moved["boundaries"][1]["by"] == "coach"
    time = next(r for r in moved["readings"] if r["measure"] == "turn_time" and r["unit"] == 1)
    assert time["value"] == pytest.approx(cuts[1] + 0.15 - cuts[0], abs=1e-3)
    fewer = client.post(url, {"kind": "delete", "old_t": cuts[1] + 0.15}, format="json").json()
    assert len(fewer["units"]) == len(cuts) - 2
    more = client.post(url, {"kind": "add", "t": cuts[1]}, format="json").json()
    assert len(more["units"]) == len(cuts) - 1


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        ({"kind": "mark", "frame": 1, "landmark": "tail", "x": 1, "y": 1}, "tail"),
        ({"kind": "mark", "frame": 999999, "landmark": "nose", "x": 1, "y": 1}, "999999"),
        ({"kind": "mark", "frame": 1}, "needed"),
        ({"kind": "add", "t": -3}, "outside"),
        ({"kind": "paint"}, "paint"),
    ],
)
def test_impossible_corrections_change_nothing(client, run, edit, words):
    before = client.get(f"/api/runs/{run.pk}/bench").json()
    answer = client.post(f"/api/runs/{run.pk}/edits", edit, format="json")
    assert answer.status_code == 400
    assert words in answer.json()["problem"]
    assert client.get(f"/api/runs/{run.pk}/bench").json() == before


def test_level_and_the_coachs_eye_are_judged_at_once(client, run):
    seen = {"kind": "note", "fault": "spray_long", "scope": "run"}
    assert client.post(f"/api/runs/{run.pk}/edits", seen, format="json").status_code == 200
    faults = {
        f["fault"]
        for f in client.get(f"/api/runs/{run.pk}/bench").json()["prescription"]["findings"]
    }
    assert "skid" in faults
    client.patch(f"/api/runs/{run.pk}", {"level": "novice"}, format="json")
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert bench["prescription"]["level"] == "novice"
    assert "banking" not in {b["fault"] for b in bench["bands"]}


def test_slow_motion_runs_on_the_cameras_clock(client, run):
    slow = client.get(f"/api/runs/{run.pk}/bench").json()
    client.patch(f"/api/runs/{run.pk}", {"filmed_fps": 240}, format="json")
    real = client.get(f"/api/runs/{run.pk}/bench").json()
    assert real["t"][-1] == pytest.approx(slow["t"][-1] / 4, rel=1e-3)


@pytest.mark.parametrize(
    ("header", "status", "first", "length"),
    [(None, 200, 0, None), ("bytes=0-99", 206, 0, 100), ("bytes=100-", 206, 100, None), ("bytes=-50", 206, -50, 50), ("bytes=999999999-", 416, 0, 0)],
)  # fmt: skip
def test_the_video_answers_byte_ranges(client, run, short_clip, header, status, first, length):
    whole = short_clip.read_bytes()
    answer = client.get(f"/api/runs/{run.pk}/video", headers={"Range": header} if header else {})
    assert answer.status_code == status
    if status == 416:
        assert answer["Content-Range"] == f"bytes */{len(whole)}"
        return
    body = b"".join(answer.streaming_content)
    wanted = whole[first:] if length is None else whole[first:][:length]
    assert body == wanted
    if status == 206:
        assert answer["Content-Length"] == str(len(wanted))


def test_deleting_a_run_takes_its_files(client, run, django_capture_on_commit_callbacks):
    from pathlib import Path

    path = Path(run.clip.working.path)
    assert path.exists()
    with django_capture_on_commit_callbacks(execute=True):
        assert client.delete(f"/api/runs/{run.pk}?for_good=1").status_code == 204
    assert not path.exists()


def test_a_change_by_a_coach_leaves_what_a_worker_writes_at_the_same_time(run):
    from proklisis.web.runs.serializers import RunSerializer

    seen = Run.objects.get(pk=run.pk)
    # Between the coach's reading and writing the worker goes on.
    Run.objects.filter(pk=run.pk).update(state=Run.State.WORKING, progress=0.4, step="following")
    change = RunSerializer(seen, data={"title": "Lane 3"}, partial=True)
    assert change.is_valid(), change.errors
    change.save()
    now = Run.objects.get(pk=run.pk)
    assert (now.title, now.state, now.progress, now.step) == (
        "Lane 3",
        Run.State.WORKING,
        0.4,
        "following",
    )


def test_a_run_is_told_apart_by_a_small_picture_and_the_outline_of_its_ribbon(client, run, rider):
    picture = client.get(f"/api/runs/{run.pk}/portrait")
    assert picture["Content-Type"] == "image/jpeg"
    data = b"".join(picture.streaming_content)
    assert 500 < len(data) < 20_000
    name = Run.objects.get(pk=run.pk).clip.portrait.name
    client.get(f"/api/runs/{run.pk}/portrait")
    assert Run.objects.get(pk=run.pk).clip.portrait.name == name
    listed = client.get("/api/runs").json()["results"][0]
    assert len(listed["outline"]) == 60 and max(map(abs, listed["outline"])) == 100
    assert client.get(f"/api/runs/{new_run(client, rider)}/portrait").status_code == 404


def test_how_far_an_analysis_is_is_asked_without_the_list(client, run, rider):
    working = Run.objects.create(
        club=run.club,
        rider=rider,
        view="front",
        level="novice",
        state="working",
        progress=0.4,
        step="Following the rider",
    )
    (told,) = client.get("/api/runs/busy").json()
    assert told == {
        "id": working.pk,
        "state": "working",
        "step": "Following the rider",
        "progress": 0.4,
        "seconds_left": None,
    }


def test_what_waits_comes_first_over_all_pages(client, run, rider):
    client.post(f"/api/runs/{run.pk}/script/approve")
    older = Run.objects.create(
        club=run.club,
        rider=rider,
        view="front",
        level="novice",
        state="failed",
        title="the old one",
    )
    Run.objects.filter(pk=older.pk).update(added="2020-01-01T00:00Z")
    assert [r["id"] for r in client.get("/api/runs?limit=1").json()["results"]] == [older.pk]
    assert [r["id"] for r in client.get("/api/runs?find=old one").json()["results"]] == [older.pk]
    assert client.get("/api/runs?find=nobody").json()["count"] == 0
