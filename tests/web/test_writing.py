"""Several who write at once: nothing is lost, and nobody's text goes under another's unseen."""

from __future__ import annotations

import os
import threading
import time

import pytest
from django.core.management import call_command
from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob

from proklisis.core.errors import InputError
from proklisis.web.analysis import reviewing
from proklisis.web.analysis.carrying import measure_now
from proklisis.web.analysis.reviewing import brought_up_to_date, refresh
from proklisis.web.runs.models import Edit, Result, Run
from proklisis.web.runs.queueing import resume
from proklisis.web.runs.writing import changed, put_down
from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db


def script(run) -> str:
    return f"/api/runs/{run.pk}/script"


def test_two_tabs_drop_two_findings_and_both_stay_dropped(client, run):
    """Each tab knows only of its own: a whole list from either would bring the other's back."""
    client.patch(script(run), {"dropped": {"not_level": "the camera was tilted"}}, format="json")
    client.patch(script(run), {"dropped": {"banking": "the slope breaks there"}}, format="json")
    both = client.patch(script(run), {"dropped": {"not_level": None}}, format="json").json()
    assert set(both["dropped"]) == {"banking"}


def test_a_text_that_somebody_else_has_changed_is_not_written_over(client, run):
    client.patch(script(run), {"message": "Well done!", "was": {"message": ""}}, format="json")
    late = client.patch(
        script(run), {"message": "Good work", "was": {"message": ""}}, format="json"
    )
    assert late.status_code == 409
    assert late.json()["theirs"] == {"message": "Well done!"}
    assert client.get(script(run)).json()["message"] == "Well done!"
    # The coach has seen both and wants their own.
    assert (
        client.patch(
            script(run), {"message": "Good work", "was": {"message": "Well done!"}}, format="json"
        ).status_code
        == 200
    )
    # Who writes the same as stands there is told nothing.
    assert (
        client.patch(
            script(run), {"message": "Good work", "was": {"message": ""}}, format="json"
        ).status_code
        == 200
    )


def test_the_facts_of_a_run_are_held_against_what_the_change_started_from(client, run):
    assert (
        client.patch(
            f"/api/runs/{run.pk}", {"title": "Lane 3", "was": {"title": ""}}, format="json"
        ).status_code
        == 200
    )
    late = client.patch(
        f"/api/runs/{run.pk}", {"title": "Lane 4", "was": {"title": ""}}, format="json"
    )
    assert (late.status_code, late.json()["theirs"]) == (409, {"title": "Lane 3"})


def test_a_new_run_was_nothing(client, rider):
    made = client.post(
        "/api/runs",
        {"rider_id": rider.pk, "view": "front", "level": "novice", "was": {"title": "x"}},
        format="json",
    )
    assert made.status_code == 201


def test_what_another_discipline_finds_cannot_be_dropped_and_breaks_no_script(client, run):
    refused = client.patch(script(run), {"dropped": {"no_boof": "was none"}}, format="json")
    assert refused.status_code == 400
    assert "not known in alpine carve" in refused.json()["problem"]
    put_down(run, None, "drop", {"faults": ["no_boof"], "reason": "from before"})
    refresh(run)
    assert client.get(script(run)).json()["dropped"] == {}


def test_undo_takes_back_ones_own_correction_and_not_another_coachs(client, run):
    other = client_of(new_coach("Lanternfell", "ben"))
    t = [b["t"] for b in client.get(f"/api/runs/{run.pk}/bench").json()["boundaries"]]
    mine = client.post(
        f"/api/runs/{run.pk}/edits",
        {"kind": "move", "old_t": t[1], "t": t[1] + 0.05},
        format="json",
    ).json()
    theirs = other.post(
        f"/api/runs/{run.pk}/edits", {"kind": "delete", "old_t": t[0]}, format="json"
    ).json()
    assert mine["can_undo"] and theirs["can_undo"]
    back = client.post(f"/api/runs/{run.pk}/undo").json()
    assert not back["can_undo"] and back["can_redo"]
    assert [e.kind for e in run.edits.filter(undone=False)] == ["delete"]
    # A correction of one coach does not throw away what another has taken back.
    other.post(f"/api/runs/{run.pk}/edits", {"kind": "add", "t": t[0]}, format="json")
    assert client.post(f"/api/runs/{run.pk}/redo").status_code == 200
    assert client.post(f"/api/runs/{run.pk}/redo").status_code == 409


@pytest.mark.parametrize(
    "values",
    [
        {"kind": "move", "old_t": -1, "t": 1.0},
        {"kind": "delete", "old_t": 1e15},
        {"kind": "add", "t": -0.5},
        {"kind": "delete", "old_t": 0.77},
    ],
)
def test_boundaries_that_cannot_be_are_refused_and_nothing_is_kept(client, run, values):
    answer = client.post(f"/api/runs/{run.pk}/edits", values, format="json")
    assert answer.status_code == 400
    assert "boundary" in answer.json()["problem"]
    assert not run.edits.exists()


def test_a_run_that_no_job_works_on_is_cancelled_at_once_or_taken_up_again(client, rider, run):
    lost = Run.objects.create(
        club=run.club, rider=rider, view="front", level="novice", state=Run.State.WORKING, attempt=3
    )
    assert client.post(f"/api/runs/{lost.pk}/cancel").json()["state"] == "cancelled"
    Run.objects.filter(pk=lost.pk).update(state=Run.State.WORKING, cancel_asked=True)
    Run.objects.filter(pk=run.pk).update(state=Run.State.WORKING)
    assert set(resume()) == {lost.pk, run.pk}
    assert Run.objects.get(pk=lost.pk).state == "cancelled"
    assert Run.objects.get(pk=run.pk).state == "queued"
    assert ProcrastinateJob.objects.filter(args__run_id=run.pk, status="todo").exists()
    assert resume() == []


@pytest.mark.slow
@pytest.mark.django_db(transaction=True)
def test_four_writers_at_once_lose_nothing_and_the_readings_are_those_of_a_fresh_recompute(
    coach, run
):
    """Marks on the Bench, the run's facts and the Script, side by side; for a minute with PROKLISIS_WRITERS_S=60."""
    wrong: list[str] = []
    done: dict[str, int] = {}
    until = time.monotonic() + float(os.environ.get("PROKLISIS_WRITERS_S", 5))

    def writer(name, work):
        def go():
            try:
                client, k = client_of(coach), 0
                while k < 4 or time.monotonic() < until:
                    answer = work(client, k)
                    if answer.status_code >= 400:
                        wrong.append(f"{answer.status_code} {answer.content[:200]}")
                    k += 1
                done[name] = k
            except Exception as e:
                wrong.append(repr(e))
            finally:
                connection.close()

        return threading.Thread(target=go)

    def mark(landmark):
        return lambda c, k: c.post(
            f"/api/runs/{run.pk}/edits",
            {
                "kind": "mark",
                "frame": 20 + k % 40,
                "landmark": landmark,
                "x": 600 + k % 7,
                "y": 300,
            },
            format="json",
        )

    threads = [
        writer("left", mark("l_knee")), writer("right", mark("r_knee")),
        writer("run", lambda c, k: c.patch(f"/api/runs/{run.pk}", {"title": f"Lane {k}"}, format="json")),
        writer("script", lambda c, k: c.patch(script(run), {"message": f"word {k}"} if k % 2 else {"cue": f"cue {k}"}, format="json")),
    ]  # fmt: skip
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert wrong == []
    marks = Edit.objects.filter(run=run, undone=False, kind="mark")
    assert marks.count() == done["left"] + done["right"]
    now, last = Run.objects.get(pk=run.pk), done["script"] - 1
    assert now.title == f"Lane {done['run'] - 1}"
    cue = client_of(coach).get(script(run)).json()["prescription"]["main"]["cue"]
    assert (now.script.message, cue) == (
        f"word {last - (last + 1) % 2}",
        f"cue {last - last % 2}",
    )
    stored = now.result.bench["readings"]
    assert refresh(now).bench["readings"] == stored
    print(done)


@pytest.fixture
def counted(monkeypatch):
    """How often a run was split and measured, and whether a transaction was open meanwhile."""
    calls: list[bool] = []
    real = reviewing.review

    def review(*args, **more):
        calls.append(connection.in_atomic_block)
        return real(*args, **more)

    monkeypatch.setattr(reviewing, "review", review)
    return calls


@pytest.mark.django_db(transaction=True)
def test_a_correction_is_measured_once_and_with_no_transaction_open(client, run, counted):
    t = [b["t"] for b in client.get(f"/api/runs/{run.pk}/bench").json()["boundaries"]]
    counted.clear()
    client.post(
        f"/api/runs/{run.pk}/edits",
        {"kind": "move", "old_t": t[1], "t": t[1] + 0.05},
        format="json",
    )
    assert counted == [False]
    client.post(f"/api/runs/{run.pk}/undo")
    # What the Bench and the Script then ask for reads what was measured.
    for page in ("bench", "questions", "trace?measure=lean", "points", "script", "script/offered"):
        assert client.get(f"/api/runs/{run.pk}/{page}").status_code == 200, page
    assert counted == [False, False]


def test_what_takes_longer_than_a_moment_is_left_to_a_worker(client, run, counted, monkeypatch):
    monkeypatch.setattr("proklisis.web.analysis.reviewing.MOMENT_S", 1.5)
    client.get(f"/api/runs/{run.pk}/bench")
    Result.objects.filter(run=run).update(took_s=20.0)
    counted.clear()
    before = client.get(f"/api/runs/{run.pk}/bench").json()
    assert not before["measuring"]
    mark = {"kind": "mark", "frame": 20, "landmark": "l_knee", "x": 600, "y": 300}
    answers = [
        client.post(f"/api/runs/{run.pk}/edits", {**mark, "frame": f}, format="json").json()
        for f in (20, 21)
    ]
    assert counted == [] and all(a["measuring"] and a["can_undo"] for a in answers)
    # The picture is fetched again, though the numbers are still the old ones.
    assert (
        answers[0]["version"] != before["version"] and answers[1]["readings"] == before["readings"]
    )
    jobs = ProcrastinateJob.objects.filter(task_name="measure", args__run_id=run.pk, status="todo")
    assert jobs.count() == 1
    measure_now(run.pk)
    after = client.get(f"/api/runs/{run.pk}/bench").json()
    assert not after["measuring"] and after["readings"] != before["readings"] and len(counted) == 1


def test_what_is_written_while_a_run_is_measured_is_measured_too(client, run, monkeypatch):
    real, first = reviewing.review, []

    def review(*args, **more):
        done = real(*args, **more)
        if not first:
            first.append(1)
            Edit.objects.create(
                run=run, kind="mark", values={"frame": 30, "landmark": "l_knee", "x": 600, "y": 300}
            )
            changed(run=run)
        return done

    monkeypatch.setattr(reviewing, "review", review)
    stored = refresh(Run.objects.get(pk=run.pk))
    monkeypatch.undo()
    assert refresh(Run.objects.get(pk=run.pk)).bench["readings"] == stored.bench["readings"]


def test_a_run_that_cannot_be_measured_as_it_stands_says_so_and_is_not_approved(
    client, run, monkeypatch
):
    client.get(f"/api/runs/{run.pk}/bench")

    def broken(*_, **__):
        raise InputError("the view is upside down", "clip view", "turn it round")

    monkeypatch.setattr(reviewing, "review", broken)
    shown = client.post(
        f"/api/runs/{run.pk}/edits",
        {"kind": "mark", "frame": 20, "landmark": "l_knee", "x": 600, "y": 300},
        format="json",
    ).json()
    assert "upside down" in shown["trouble"] and shown["readings"]
    assert "upside down" in client.get(script(run)).json()["trouble"]
    refused = client.post(f"{script(run)}/approve")
    assert refused.status_code == 409 and "upside down" in refused.json()["problem"]
    monkeypatch.undo()
    assert client.post(f"/api/runs/{run.pk}/undo").json()["trouble"] == ""


def test_what_an_older_version_worked_out_is_worked_out_again(client, run, counted):
    client.get(f"/api/runs/{run.pk}/bench")
    made = Result.objects.get(run=run).made
    Result.objects.filter(run=run).update(made_by="older", main_title="Something else")
    counted.clear()
    call_command("measure_again")
    now = Result.objects.get(run=run)
    assert len(counted) == 1 and now.main_title != "Something else"
    # The same numbers: what was approved on them stands.
    assert now.bench["readings"] == run.result.bench["readings"] and now.made > made
    call_command("measure_again")
    assert len(counted) == 1


def test_a_run_that_was_loaded_before_a_change_is_not_remembered_as_after_it(client, run):
    """Else its numbers would be kept as those of the change, and look sure."""
    client.get(f"/api/runs/{run.pk}/bench")
    before = Run.objects.select_related("rider", "clip").get(pk=run.pk)
    Run.objects.filter(pk=run.pk).update(roll_deg=9.0)
    changed(run=run)
    assert reviewing.reviewed(before).tracks.facts.roll_deg == 9.0
    assert client.get(f"/api/runs/{run.pk}/bench").json()["roll_deg"] == 9.0


def test_what_another_request_measured_meanwhile_is_answered_with(client, run):
    """Two ask at once after a change: whoever finds it measured already shows the new numbers, not those it had loaded."""
    client.get(f"/api/runs/{run.pk}/bench")
    mark = {"kind": "mark", "frame": 20, "landmark": "l_knee", "x": 600, "y": 300}
    loaded = Run.objects.select_related("result").get(pk=run.pk)
    after = client.post(f"/api/runs/{run.pk}/edits", mark, format="json").json()
    assert loaded.result.bench["readings"] != after["readings"]
    assert brought_up_to_date(loaded)
    assert loaded.result.bench["readings"] == after["readings"]
