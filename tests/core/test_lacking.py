"""Tracks from elsewhere may lack joints: what can be read is read, and the rest says what it needs."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.errors import Lacking, NotFollowed
from proklisis.core.review import judge, review, run_sheet, unsplit
from proklisis.core.rider.figure import build
from proklisis.core.tracks.tracks import Tracks
from proklisis.simulate.run import Simulated, simulate

pytestmark = pytest.mark.thorough


def without(tracks: Tracks, *parts: str) -> Tracks:
    keep = [k for k, n in enumerate(tracks.names) if not any(p in n for p in parts)]
    names = tuple(tracks.names[k] for k in keep)
    return replace(
        tracks,
        names=names,
        xy=tracks.xy[:, keep],
        u=tracks.u[:, keep],
        source=tracks.source[:, keep],
    )


@pytest.fixture(scope="module")
def skated() -> Simulated:
    return simulate("speed_skate", {}, seed=3, units=4)


def test_a_figure_names_what_it_lacks(skated):
    figure = build(without(skated.tracks, "_heel"), 6.0)
    with pytest.raises(NotFollowed, match="l_heel"):
        figure["l_heel"]
    with pytest.raises(NotFollowed) as e:
        figure["com"]
    assert set(e.value.args) == {"l_heel", "r_heel"}


@pytest.mark.parametrize(("discipline", "parts", "words"), [
    ("speed_skate", ("_toe", "_heel"), "the left heel is not followed"), ("inline_start", ("_knee",), "the left knee is not followed"),
    ("figure_jump", ("_knee",), "the left knee is not followed"), ("double_pole", ("_knee",), "the left knee is not followed"),
    ("slalom_ski", ("_ear", "nose"), "not followed on this clip"),
])  # fmt: skip
def test_a_run_that_cannot_be_split_says_which_joint_is_missing(discipline, parts, words):
    run = simulate(discipline, {}, seed=3, units=3)
    bare = without(run.tracks, *parts)
    with pytest.raises(Lacking, match="hand in tracks that have them") as e:
        review(bare, discipline)
    assert words in str(e.value)
    # A joint cannot be marked where no tracks have it.
    assert "mark them" not in str(e.value)
    # It opens all the same, with the sentence and nothing measured.
    done = unsplit(bare, discipline, e.value)
    assert done.units == [] and words.split()[-1] in done.notes[0]
    assert judge(run_sheet(done, discipline, run.about()))["main"] is None


@pytest.mark.parametrize(("discipline", "parts", "refused", "kept"), [
    ("figure_loop", ("_toe", "_heel"), "blade_pressure", "loop_length"), ("snowboard", ("_ear",), "lean", "edge"),
    ("speed_skate", ("_wrist", "_elbow"), "lean", "push_time"), ("alpine_carve", ("_toe",), "lean", "stance_width"),
])  # fmt: skip
def test_measures_of_the_missing_joints_are_refused_by_name_and_the_rest_is_read(
    discipline, parts, refused, kept
):
    run = simulate(discipline, {}, seed=3, units=3)
    done = review(without(run.tracks, *parts), discipline)
    read = {r.id for r in done.readings}
    why = next(r for r in done.refusals if r.id == refused)
    assert kept in read
    assert refused not in read
    assert why.reason == "not_measured"
    assert "_" not in why.words and f"left {parts[0][1:]}" in why.words
    judge(run_sheet(done, discipline, run.about()))


@pytest.mark.parametrize("view", ["front", "rear", "side_left", "side_right"])
def test_jumps_over_ground_that_nobody_marked_are_found_by_the_ground_the_background_carries(view):
    run = simulate("figure_jump", {}, seed=4, units=4, view=view)
    done = review(without(run.tracks, "surface_"), "figure_jump")
    found, true = ([b.t for b in x] for x in (done.boundaries, run.truth().boundaries))
    assert len(found) == len(true) == 8
    for a, b in zip(done.boundaries, true, strict=True):
        assert abs(a.t - b) <= max(2 * a.u, 1.5 / 60)
    assert any("No line on the ground is marked" in note for note in done.notes)
    assert "air_time" in {r.id for r in done.readings}


@pytest.mark.parametrize(("discipline", "lost", "view"), [
    ("alpine_carve", ("l_ski_tip",), "front"), ("alpine_carve", ("l_ski_tip", "l_ski_tail", "r_ski_tip", "r_ski_tail"), "rear"),
    ("alpine_carve", ("l_knee",), "side_left"), ("snowboard", ("board_nose",), "front"), ("double_pole", ("l_toe",), "side_right"),
    ("drop_boof", ("blade_l",), "side_right"), ("surf_turn", ("l_wrist",), "front"), ("trail_stance", ("saddle",), "side_right"),
])  # fmt: skip
def test_a_point_that_is_listed_but_nowhere_seen_is_as_one_that_is_not_there(
    discipline, lost, view
):
    """A table may have the column and no number in it; so has a gear point that was marked and never carried."""
    run = simulate(discipline, {}, seed=3, units=3, view=view)
    xy = run.tracks.xy.copy()
    xy[:, [run.tracks.index[n] for n in lost]] = np.nan
    empty = review(replace(run.tracks, xy=xy), discipline, draws=2)
    gone = review(without(run.tracks, *lost), discipline, draws=2)
    assert {(r.id, r.segment) for r in empty.readings} == {(r.id, r.segment) for r in gone.readings}
    assert {r.id for r in empty.refusals} == {r.id for r in gone.refusals}
    assert empty.units
