"""Gear that is found on a clip by itself: kept, shown as proposed, confirmed or left out by one press, put right by a mark."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.tracks.landmarks import GEAR, SCENE, is_scene
from proklisis.simulate.run import simulate
from proklisis.web.analysis.reviewing import corrected, refresh
from proklisis.web.clips import found
from proklisis.web.runs import blobs
from proklisis.web.runs.models import Edit, FoundGear, Run, SeenEdges, packed
from tests.core.test_gear import edges_of
from tests.web.conftest import measured_run

pytestmark = pytest.mark.django_db


@pytest.fixture(scope="module")
def sim():
    return simulate("snowboard", {}, view="front", seed=971, units=3, fps=30)


@pytest.fixture
def bare(rider, sim) -> Run:
    """A snowboard run of which the body alone was followed, with the edges that its pictures show."""
    keep = [
        k for k, n in enumerate(sim.tracks.names)
        if n == "scene_drift" or not (n in GEAR or n in SCENE or is_scene(n))
    ]  # fmt: skip
    tracks = replace(
        sim.tracks, names=tuple(sim.tracks.names[k] for k in keep), xy=sim.tracks.xy[:, keep], u=sim.tracks.u[:, keep],
        source=sim.tracks.source[:, keep],
    )  # fmt: skip
    rider.stance = sim.tracks.facts.stance
    rider.save()
    run = measured_run(rider, tracks, discipline="snowboard")
    edges = edges_of(sim, [("board_nose", "board_tail")], np.random.default_rng(971))
    SeenEdges.objects.create(tracks=run.track_sets.get(), file=packed(blobs.pack_edges(edges)))
    refresh(run)
    return run


def bench(client, run):
    return client.get(f"/api/runs/{run.pk}/bench").json()


def say(client, run, **edit):
    return client.post(f"/api/runs/{run.pk}/edits", edit, format="json")


def test_what_was_found_is_on_the_bench_and_in_the_numbers_and_looked_for_once(
    client, bare, sim, monkeypatch
):
    shown = bench(client, bare)
    (board,) = shown["found_gear"]
    assert board["words"] == "the board" and board["points"] == ["board_nose", "board_tail"]
    assert 0.4 < board["share"] <= 1 and board["said"] is None
    assert {"board_nose", "board_tail"} <= set(shown["points"])
    assert len(shown["units"]) == 3
    monkeypatch.setattr(found, "find_gear", None)  # looked for again, it would fail
    tracks, _ = corrected(bare)
    off = np.linalg.norm(tracks.point("board_nose") - sim.exact.point("board_nose"), axis=1)
    assert np.nanmedian(off) < 25


def test_it_is_found_again_from_another_front_foot_and_in_no_other_discipline(client, bare, rider):
    before = FoundGear.objects.get().found_for
    rider.stance = {"regular": "goofy", "goofy": "regular"}[rider.stance]
    rider.save()
    bare.refresh_from_db()
    corrected(Run.objects.get(pk=bare.pk))
    assert FoundGear.objects.get().found_for != before
    Run.objects.filter(pk=bare.pk).update(discipline="speed_skate")
    tracks, _ = corrected(Run.objects.get(pk=bare.pk))
    assert "board_nose" not in tracks.index


def test_it_is_found_again_when_the_clip_is_said_to_play_slower_than_life(bare):
    before = FoundGear.objects.get().found_for
    Run.objects.filter(pk=bare.pk).update(filmed_fps=120)
    corrected(Run.objects.get(pk=bare.pk))
    assert FoundGear.objects.get().found_for != before


def test_one_press_confirms_it_or_leaves_it_out_and_can_be_undone(client, bare):
    right = say(client, bare, kind="gear", landmark="board_nose", on=True).json()
    assert right["found_gear"][0]["said"] is True
    assert right["corrections"][0]["words"] == "the board as it was found: right"
    out = say(client, bare, kind="gear", landmark="board_nose", on=False).json()
    assert out["found_gear"][0]["said"] is False
    assert "board_nose" not in out["points"] or out["found_gear"][0]["said"] is False
    tracks, _ = corrected(Run.objects.get(pk=bare.pk))
    assert "board_nose" not in tracks.index
    client.post(f"/api/runs/{bare.pk}/undo")
    assert bench(client, bare)["found_gear"][0]["said"] is True
    assert "board_nose" in corrected(Run.objects.get(pk=bare.pk))[0].index


def test_a_mark_puts_right_what_lies_around_it_and_nothing_else(client, bare):
    given = corrected(bare)[0]
    frame = int(np.flatnonzero(np.isfinite(given.u[:, given.index["board_nose"]]))[20])
    x, y = given.point("board_nose")[frame] + [30.0, -12.0]
    assert say(client, bare, kind="mark", frame=frame, landmark="board_nose", x=x, y=y).status_code == 200  # fmt: skip
    now = corrected(Run.objects.get(pk=bare.pk))[0]
    np.testing.assert_allclose(now.point("board_nose")[frame], [x, y])
    # Before it is carried, and far from the mark, what was found stands.
    far = np.abs(given.t - given.t[frame]) > 1.0
    np.testing.assert_allclose(
        now.point("board_nose")[far], given.point("board_nose")[far], equal_nan=True
    )


def test_what_was_carried_from_a_mark_holds_around_it_only(bare, client):
    given = corrected(bare)[0]
    k = given.index["board_nose"]
    seen = np.flatnonzero(np.isfinite(given.u[:, k]))
    frame = int(seen[len(seen) // 2])
    x, y = given.point("board_nose")[frame]
    say(client, bare, kind="mark", frame=frame, landmark="board_nose", x=x + 5, y=y)
    from proklisis.footage.carry import Carried

    n = len(given)
    path = Carried(np.arange(n), given.point("board_nose") + 40.0, np.full(n, 2.0), np.ones(n))
    path = Carried(*(v[seen] for v in (path.frames, path.xy, path.u, path.confidence)))
    run = Run.objects.get(pk=bare.pk)
    marks = {str(frame): [x + 5, y]}
    run.carried.create(landmark="board_nose", marks=marks, data=blobs.pack_carried(path))
    now = corrected(run)[0].point("board_nose")
    t = given.t
    near = seen[(np.abs(t[seen] - t[frame]) < 0.35) & (seen != frame)]
    far = seen[np.abs(t[seen] - t[frame]) > 0.45]
    np.testing.assert_allclose(now[near], given.point("board_nose")[near] + 40.0, atol=1e-3)
    np.testing.assert_allclose(now[far], given.point("board_nose")[far], atol=1e-3)


def test_what_is_not_looked_for_cannot_be_confirmed(client, bare):
    answer = say(client, bare, kind="gear", landmark="bow", on=True)
    assert answer.status_code == 400 and "board_nose" in answer.content.decode()
    assert say(client, bare, kind="gear", landmark="board_nose").status_code == 400
    assert not bare.edits.filter(kind=Edit.Kind.GEAR).exists()


def test_tracks_without_edges_or_whose_file_is_gone_are_judged_all_the_same(client, bare):
    edges = SeenEdges.objects.get()
    FoundGear.objects.all().delete()
    edges.file.storage.delete(edges.file.name)
    refresh(bare)
    assert bench(client, bare)["found_gear"] == []
    edges.delete()
    refresh(bare)
    assert bench(client, bare)["found_gear"] == []


def test_a_run_takes_its_edges_and_what_was_found_with_it_when_it_goes(client, bare):
    from proklisis.web.clips.removing import erase, strays

    assert FoundGear.objects.exists()
    erase(bare)
    assert not FoundGear.objects.exists() and not SeenEdges.objects.exists()
    assert not [n for n in strays() if "tracks" in n]
