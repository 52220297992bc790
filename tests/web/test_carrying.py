"""Marks of gear carried through a clip by a job: once for each change, and what goes wrong is said."""

from __future__ import annotations

import pytest
from procrastinate.contrib.django.models import ProcrastinateJob

from proklisis.core.errors import InputError
from proklisis.core.tracks.landmarks import meaning
from proklisis.footage.limited import limited
from proklisis.web.analysis import carrying
from proklisis.web.analysis.carrying import carry_now
from proklisis.web.clips.gear import wanted_gear
from proklisis.web.runs.blobs import pack, unpack
from proklisis.web.runs.models import Run, packed
from tests.web.test_clip_page import body_only

pytestmark = pytest.mark.django_db


@pytest.fixture
def bare(run) -> Run:
    """A run whose skis are not followed."""
    with run.clip.working.open("rb") as f:
        run.clip.original.save("run.mp4", f)
    run.track_sets.create(file=packed(pack(body_only(unpack(run.track_sets.get().data)))))
    return run


def mark(client, run, frame: int, x: float = 600, y: float = 500, landmark: str = "l_ski_tip"):
    answer = client.post(
        f"/api/runs/{run.pk}/edits",
        {"kind": "mark", "frame": frame, "landmark": landmark, "x": x, "y": y},
        format="json",
    )
    assert answer.status_code == 200, answer.content
    return answer.json()


def bench(client, run):
    return client.get(f"/api/runs/{run.pk}/bench").json()


@pytest.fixture
def carried(monkeypatch):
    """How often a path was followed through the pictures."""
    calls = []

    def counted(work, *args, **kwargs):
        calls.append(kwargs)
        return limited(work, *args, **kwargs)

    monkeypatch.setattr(carrying, "limited", counted)
    return calls


def test_a_mark_asks_for_its_point_to_be_carried_and_for_no_other(client, bare):
    mark(client, bare, 40)
    jobs = [
        j.args
        for j in ProcrastinateJob.objects.filter(task_name__contains="carry", args__run_id=bare.pk)
    ]
    assert jobs == [{"run_id": bare.pk, "landmark": "l_ski_tip"}]


def test_what_was_carried_is_not_carried_again_until_its_marks_change(client, bare, carried):
    mark(client, bare, 40)
    mark(client, bare, 60, 610)
    carry_now(bare.pk, "l_ski_tip")
    carry_now(bare.pk, "l_ski_tip")
    assert len(carried) == 1
    # Two marks came while one job was waiting: the first to run takes both.
    assert set(bare.carried.get().marks) == {"40", "60"}
    assert mark(client, bare, 80, 620)["carrying"] == ["l_ski_tip"]
    carry_now(bare.pk, "l_ski_tip")
    assert len(carried) == 2


def test_a_long_way_is_no_silence(client, bare, carried):
    """The guard that ends a decoder which says nothing hears of every stretch."""
    mark(client, bare, 40)
    carry_now(bare.pk, "l_ski_tip")
    assert callable(carried[0]["progress"])
    assert carried[0]["seconds"] > 0.05 * bare.clip.frames


def test_a_mark_taken_back_takes_its_path_away(client, bare):
    mark(client, bare, 40)
    carry_now(bare.pk, "l_ski_tip")
    assert bare.carried.count() == 1
    client.post(f"/api/runs/{bare.pk}/undo")
    carry_now(bare.pk, "l_ski_tip")
    assert bare.carried.count() == 0
    assert "l_ski_tip" not in bench(client, bare)["points"]
    # Redone, it is there at once in its own frame, and carried again.
    again = client.post(f"/api/runs/{bare.pk}/redo").json()
    assert again["carrying"] == ["l_ski_tip"]


def test_a_clip_that_cannot_be_read_any_more_is_said_once_and_tried_anew_with_the_next_mark(
    client, bare, monkeypatch
):
    def broken(*_args, **_kwargs):
        raise InputError("the clip ends after 12 frames", bare.clip.name, "send it again")

    mark(client, bare, 40)
    monkeypatch.setattr(carrying, "limited", broken)
    carry_now(bare.pk, "l_ski_tip")
    told = bench(client, bare)
    assert len(told["carry_problems"]) == 1
    assert "the clip ends after 12 frames" in told["carry_problems"][0]
    assert told["carrying"] == []
    # The mark itself is not lost.
    assert bare.edits.filter(undone=False).count() == 1
    monkeypatch.undo()
    assert mark(client, bare, 60)["carry_problems"] == []
    carry_now(bare.pk, "l_ski_tip")
    assert bench(client, bare)["carry_problems"] == []


def test_points_are_carried_each_by_itself(client, bare, carried):
    mark(client, bare, 40)
    mark(client, bare, 40, 700, landmark="r_ski_tip")
    carry_now(bare.pk, "r_ski_tip")
    assert bench(client, bare)["carrying"] == ["l_ski_tip"]
    assert [c.landmark for c in bare.carried.all()] == ["r_ski_tip"]


def test_a_run_that_is_gone_or_has_no_tracks_is_left_alone(client, bare):
    mark(client, bare, 40)
    bare.track_sets.all().delete()
    carry_now(bare.pk, "l_ski_tip")
    assert bare.carried.count() == 0
    Run.objects.all().delete()
    carry_now(bare.pk, "l_ski_tip")


@pytest.mark.parametrize(
    ("landmark", "frame"),
    [
        ("l_ski_tip", 99999),
        ("handle", 40),
        ("l_ski_tipp", 40),
        ("surface_a", 40),
        ("l_ski_tip", -1),
    ],
)
def test_what_cannot_be_marked_is_refused_and_nothing_is_queued(client, bare, landmark, frame):
    answer = client.post(
        f"/api/runs/{bare.pk}/edits",
        {"kind": "mark", "frame": frame, "landmark": landmark, "x": 10, "y": 10},
        format="json",
    )
    assert answer.status_code == 400
    assert answer.json()["problem"].endswith(".")
    assert not bare.edits.exists()
    assert not ProcrastinateJob.objects.filter(task_name__contains="carry").exists()


@pytest.mark.parametrize(
    ("discipline", "there", "gone"),
    [("snowboard", {"board_nose", "base_in"}, {"l_ski_tip", "r_ski_tail"}), ("alpine_carve", {"l_ski_tip"}, {"board_nose", "base_in"}),
     ("drop_boof", {"bow", "blade_l", "base_in"}, {"board_nose"}), ("windsurf_gybe", {"board_nose", "mast_foot"}, set())],
)  # fmt: skip
def test_only_points_of_the_sports_own_gear_are_offered_and_each_says_what_it_is(
    discipline, there, gone
):
    offered = wanted_gear(discipline)
    assert there <= set(offered) and not gone & set(offered)
    assert all(meaning(n) for n in offered)
