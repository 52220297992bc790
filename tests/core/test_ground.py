"""A trace filmed obliquely is read on the ice by four marked corners of a rectangle."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from pydantic import ValidationError

from proklisis.core.errors import InputError, Lacking
from proklisis.core.filming import Look, check
from proklisis.core.review import judge, playbook, review, run_sheet
from proklisis.core.rider.ground import PER_METRE, check_plane, metres_per_px, onto_ice
from proklisis.core.tracks.tracks import Plane
from proklisis.formats.files import read_tracks, write_tracks
from proklisis.simulate.run import simulate
from tests.stand import SIDES, from_the_stand

pytestmark = pytest.mark.thorough

SQUARE = ((100.0, 500.0), (500.0, 520.0), (480.0, 300.0), (160.0, 290.0))


def values(done):
    return {(r.id, r.segment): r for r in done.readings}


@pytest.mark.parametrize("k1", [0.0, -0.08])
def test_without_noise_the_trace_is_that_of_the_ice(k1):
    run, tracks = from_the_stand(noise=0.0, marked=0.0, k1=k1)
    done, true = review(tracks, "figure_loop", draws=0), run.truth()
    np.testing.assert_allclose(
        [b.t for b in done.boundaries], [b.t for b in true.boundaries], atol=2e-3
    )
    for key, r in values(done).items():
        assert r.value == pytest.approx(values(true)[key].value, abs=0.03), key


def test_with_noise_and_a_hand_that_marks_the_truth_is_inside():
    inside, frames = [], []
    for seed in range(4):
        run, tracks = from_the_stand(seed=seed)
        done, true = review(tracks, "figure_loop"), run.truth()
        frames += [60 * min(abs(b.t - t.t) for t in true.boundaries) for b in done.boundaries]
        inside += [
            abs(r.value - values(true)[k].value) <= 2 * r.u
            for k, r in values(done).items()
            if k in values(true) and r.u > 0
        ]
    assert np.mean(inside) > 0.9
    assert np.mean(np.array(frames) <= 2) > 0.9


def test_a_narrow_loop_is_found_and_what_the_ice_hides_is_said():
    _, tracks = from_the_stand({"forced_narrow": 1.5}, seed=7)
    found = judge(run_sheet(review(tracks, "figure_loop"), "figure_loop"))
    assert found["main"]["fault"] == "forced_narrow"
    refused = {r.id: r for r in review(tracks, "figure_loop", draws=0).refusals}
    assert refused["shoulder_turn"].words.endswith("from here only the trace on the ice is read.")
    assert refused["shoulder_turn"].reason == "view"


def test_without_the_corners_an_oblique_clip_says_what_would_help():
    _, tracks = from_the_stand()
    refused = {
        r.id: r.words
        for r in review(tracks.with_facts(plane=None), "figure_loop", draws=0).refusals
    }
    assert refused["loop_ratio"].endswith(
        "or once the four corners of a rectangle on the ice are marked."
    )


def test_without_blades_nothing_lies_on_the_ice():
    _, tracks = from_the_stand()
    keep = [k for k, n in enumerate(tracks.names) if "_blade_" not in n]
    bare = replace(
        tracks,
        names=tuple(tracks.names[k] for k in keep),
        xy=tracks.xy[:, keep],
        u=tracks.u[:, keep],
        source=tracks.source[:, keep],
    )
    with pytest.raises(Lacking, match="blade"):
        review(bare, "figure_loop")


def test_corners_may_go_round_either_way_and_start_anywhere():
    def size(corners, sides):
        p = (
            onto_ice(
                Plane(corners=corners, sides_m=sides),
                np.array([[200.0, 400.0], [400.0, 350.0], [300.0, 450.0]]),
            )
            / PER_METRE
        )
        (ax, ay), (bx, by) = p[1] - p[0], p[2] - p[0]
        return [np.linalg.norm(p[i] - p[j]) for i, j in ((0, 1), (1, 2), (2, 0))], np.sign(
            ax * by - ay * bx
        )

    once, way = size(SQUARE, SIDES)
    for corners, sides in ((SQUARE[::-1], SIDES), (SQUARE[1:] + SQUARE[:1], SIDES[::-1])):
        again, turned = size(corners, sides)
        np.testing.assert_allclose(again, once, rtol=1e-9)
        assert turned == way


def test_beyond_the_horizon_there_is_no_ice():
    plane = Plane(corners=SQUARE, sides_m=SIDES)
    assert np.isfinite(onto_ice(plane, np.array([300.0, 250.0]))).all()
    assert np.isnan(onto_ice(plane, np.array([300.0, -2000.0]))).all()
    assert 0.003 < metres_per_px(plane) < 0.02


@pytest.mark.parametrize("corners", [
    (SQUARE[0], SQUARE[2], SQUARE[1], SQUARE[3]), ((0, 0), (100, 0), (200, 0), (0, 100)), ((0, 0), (0, 0), (100, 100), (0, 100)),
    ((0, 0), (100, 0), (30, 30), (0, 100)),
])  # fmt: skip
def test_what_is_no_rectangle_is_refused(corners):
    with pytest.raises(InputError, match="no corners of a rectangle"):
        check_plane(Plane(corners=corners, sides_m=SIDES))


def test_other_disciplines_read_the_picture_whatever_is_marked_on_the_ground():
    run = simulate("snowboard", {}, units=3, seed=2, view="front")
    with_plane = run.tracks.with_facts(plane={"corners": SQUARE, "sides_m": SIDES})
    assert values(review(with_plane, "snowboard", draws=0)) == values(
        review(run.tracks, "snowboard", draws=0)
    )


@pytest.mark.parametrize(
    ("ice", "grade", "words"), [(True, "fair", "four corners on the ice"), (False, "poor", "Seen")]
)
def test_the_check_of_the_clip_knows_of_the_corners(ice, grade, words):
    look = Look(fps=60, play_fps=60, frames=600, view="oblique", ice=ice)
    verdict = next(v for v in check(look, playbook("figure_loop")) if v.id == "view")
    assert verdict.grade == grade
    assert words in verdict.words
    assert ("four corners" in verdict.next_time) != ice


@pytest.mark.parametrize("name", ["t.json", "t.csv", "t.parquet", "t.coco.json", "t.c3d"])
def test_the_marked_ice_goes_out_and_comes_in_with_the_tracks(tmp_path, name):
    _, tracks = from_the_stand(units=2)
    write_tracks(tracks, tmp_path / name)
    back = read_tracks(tmp_path / name)
    assert back.facts.plane == tracks.facts.plane
    assert back.facts.view == "oblique"
    before, after = (values(review(t, "figure_loop", draws=0)) for t in (tracks, back))
    assert before and before.keys() == after.keys()
    for key, r in before.items():
        assert after[key].value == pytest.approx(r.value, abs=0.02), key


@pytest.mark.parametrize("plane", [
    {"corners": [[0, 0], [1, 0], [1, 1]], "sides_m": [1, 1]}, {"corners": SQUARE, "sides_m": [0, 1]}, {"corners": SQUARE, "sides_m": [1, 1], "u_px": 0},
    {"corners": [[float("nan"), 0], *SQUARE[1:]], "sides_m": [1, 1]}, {"corners": SQUARE, "sides_m": [1, 1], "height": 2},
])  # fmt: skip
def test_facts_with_an_impossible_ice_are_refused(plane):
    _, tracks = from_the_stand(units=2)
    with pytest.raises(ValidationError):
        tracks.with_facts(plane=plane)


def test_wider_marks_give_a_wider_uncertainty():
    _, tracks = from_the_stand(units=2)
    rough = tracks.with_facts(plane={**tracks.facts.plane.model_dump(), "u_px": 12.0})
    fine, wide = (values(review(t, "figure_loop"))["loop_length", 1].u for t in (tracks, rough))
    assert wide > 1.5 * fine
