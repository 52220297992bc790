"""Tracks handed in with a clip: kept beside the tracker's, judged in its place."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from proklisis.formats.tracks_json import to_json
from proklisis.simulate.run import simulate
from proklisis.web.analysis.reviewing import refresh
from proklisis.web.runs.models import Piece, Run
from tests.web.conftest import client_of, new_coach, work_off

pytestmark = pytest.mark.django_db


def hand_in(client, run, text: str, name: str = "tracks.json"):
    return client.post(
        f"/api/runs/{run.pk}/tracks", {"file": SimpleUploadedFile(name, text.encode())}
    )


@pytest.fixture
def board_run(run):
    """The fixture's clip, said to be a snowboard run: the tracker gave it no board."""
    run.discipline, run.view, run.conditions = "snowboard", "front", {}
    run.rider.stance = "regular"
    run.rider.save()
    run.save()
    run.result.delete()
    return Run.objects.get(pk=run.pk)


def test_tracks_that_are_handed_in_are_judged_like_our_own(client, board_run):
    board_run.clip.frames = 600
    board_run.clip.save()
    sim = simulate("snowboard", {"hinge_over": 1.6}, seed=7, units=4, view="front")
    answer = hand_in(client, board_run, json.dumps(to_json(sim.tracks)))
    assert answer.status_code == 202, answer.content
    board_run.refresh_from_db()
    assert board_run.track_sets.count() == 2
    refresh(Run.objects.get(pk=board_run.pk))
    bench = client.get(f"/api/runs/{board_run.pk}/bench").json()
    assert bench["prescription"]["main"]["fault"] == "hinge_over"
    assert {t["finest_side"] for t in bench["units"]} == {"toe", "heel"}
    assert "board_nose" in bench["points"]


@pytest.mark.parametrize(
    ("text", "name", "words"),
    [
        ("{", "tracks.json", "JSON"),
        ("frame,t_s\n", "tracks.csv", "tracks.csv"),
        ("x", "tracks.txt", "not a track format"),
    ],
)
def test_bad_tracks_are_refused_in_one_sentence(client, run, text, name, words):
    answer = hand_in(client, run, text, name)
    assert answer.status_code == 400
    assert words in answer.json()["problem"]
    assert run.track_sets.count() == 1


def test_tracks_handed_in_after_a_cancelled_following_do_not_wait_for_its_pieces(client, run):
    sim = simulate("alpine_carve", {"not_level": 1.6}, seed=103, units=2, view="front")
    run.track_sets.all().delete()
    Piece.objects.create(run=run, number=0, first=0, stop=len(sim.tracks))
    Run.objects.filter(pk=run.pk).update(state=Run.State.CANCELLED, follow_again=True)
    assert hand_in(client, run, json.dumps(to_json(sim.tracks))).status_code == 202
    work_off()
    run.refresh_from_db()
    assert (run.state, run.problem, run.follow_again) == (Run.State.READY, "", False)
    assert run.track_sets.count() == 1


def test_tracks_of_another_clip_are_refused(client, run):
    run.clip.frames = 5
    run.clip.save()
    sim = simulate("alpine_carve", {}, seed=2, units=2)
    answer = hand_in(client, run, json.dumps(to_json(sim.tracks)))
    assert answer.status_code == 400
    assert "the clip has 5" in answer.json()["problem"]


def test_another_clubs_run_is_not_there(db, run):
    stranger = client_of(new_coach("Elsewhere", "edda"))
    assert hand_in(stranger, run, "{}").status_code == 404


def test_tracks_without_a_joint_that_the_cuts_need_open_the_bench_with_a_sentence(client, run):
    """As a laboratory's marker sets do that leave out heels and toes: nothing fails, and nothing is made up."""
    sim = simulate("speed_skate", {}, seed=3, units=3)
    keep = [k for k, n in enumerate(sim.tracks.names) if not n.endswith(("_heel", "_toe"))]
    t = sim.tracks
    bare = replace(
        t,
        names=tuple(t.names[k] for k in keep),
        xy=t.xy[:, keep],
        u=t.u[:, keep],
        source=t.source[:, keep],
    )
    run.discipline, run.view, run.conditions = "speed_skate", "front", {}
    run.save()
    run.clip.frames = len(t)
    run.clip.save()
    run.result.delete()
    assert hand_in(client, run, json.dumps(to_json(bare))).status_code == 202
    work_off()
    run = Run.objects.get(pk=run.pk)
    assert (run.state, run.problem) == (Run.State.READY, "")
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert any("left heel" in note for note in bench["notes"])
    assert bench["units"] == []
    # A joint that no tracks have is not moved, and that is said.
    answer = client.post(
        f"/api/runs/{run.pk}/edits",
        {"kind": "mark", "landmark": "l_heel", "frame": 3, "x": 5, "y": 5},
        format="json",
    )
    assert (answer.status_code, "left heel" in answer.content.decode()) == (400, True), (
        answer.content
    )
    assert client.get(f"/api/runs/{run.pk}/bench").status_code == 200
