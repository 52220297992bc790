"""The rider in space: depths behind the picture, where the camera stands by them, and what is read so."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.camera.views import azimuth_of, nearest_view, turned
from proklisis.core.doubts import Doubtful
from proklisis.core.review import judge, review, run_sheet
from proklisis.core.space.depth import LONGEST, fit_depths
from proklisis.core.space.placed import placed
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import SOURCES
from proklisis.simulate.filming import exact_depths
from proklisis.simulate.run import Simulated

pytestmark = pytest.mark.thorough

PISTE = "alpine_carve"


def fitted(run: Simulated):
    tracks = run.with_depths()
    columns = [tracks.index[n] for n in BODY]
    return fit_depths(tracks.xy[:, columns], tracks.u[:, columns], tracks.depth, tracks.t, 0.0)


def off_line(simulated, view: str, offset: float, said: float | None = None, **more) -> Simulated:
    """A run filmed ``offset`` degrees off the line, of which it is said that it was filmed ``said`` off it."""
    run = simulated(view=view, offset_deg=offset, units=6, **more)
    return replace(run, tracks=run.tracks.with_facts(view_offset_deg=offset if said is None else said, view_offset_u_deg=5.0))  # fmt: skip


@pytest.mark.parametrize("view", ["front", "rear", "side_left", "side_right", "oblique"])
def test_the_fit_knows_depths_better_than_the_network_and_says_how_well(simulated, view):
    run = simulated(view=view, units=4)
    true, guess = exact_depths(run.motion, run.shot), run.with_depths().depth
    space = fitted(run).in_space
    assert np.sqrt(np.mean((space.z - true) ** 2)) < 0.95 * np.sqrt(np.mean((guess - true) ** 2))
    rng = np.random.default_rng(3)
    spread = np.std([space.drawn(rng).z for _ in range(40)], axis=0)
    inside = np.abs(space.z - true) < 2 * spread
    # What a clip's frames share is wider than these tracks need: a network's mistakes last, this noise does not.
    assert inside.mean() > 0.95
    assert np.median(spread) < 0.1 * run.motion.stature_m * run.tracks.facts.px_per_m


def test_a_long_clip_is_fitted_in_stretches_without_a_seam(simulated):
    run = simulated(view="side_right", units=6)
    tracks = run.with_depths()
    columns = [tracks.index[n] for n in BODY]

    def again(x):
        return np.concatenate([x, x[::-1]] * 4)[: 2 * LONGEST + 200]

    xy, u, guess = again(tracks.xy[:, columns]), again(tracks.u[:, columns]), again(tracks.depth)
    t = np.arange(len(xy)) / tracks.facts.fps
    space = fit_depths(xy, u, guess, t, 0.0).in_space
    assert len(space.stretches) == 3
    step = np.abs(np.diff(space.z, n=2, axis=0)).max(axis=1)
    for seam in (s.first for s in space.stretches[1:]):
        assert step[seam - 5 : seam + 45].max() <= 1.5 * np.percentile(step, 99)


def test_views_and_azimuths_say_the_same():
    for view in ("front", "rear", "side_left", "side_right"):
        for off in (-30.0, 0.0, 20.0):
            assert nearest_view(azimuth_of(view, off)) == (view, pytest.approx(off))
    # From the front toward the rider's right is from their right side, turned forward.
    assert azimuth_of("front", 90) == pytest.approx(azimuth_of("side_right", 0))
    assert azimuth_of("rear", 90) == pytest.approx(azimuth_of("side_right", 0))
    assert turned(azimuth_of("oblique", 0) - azimuth_of("front", 45)) == pytest.approx(0)


@pytest.mark.parametrize("view", ["front", "rear", "side_left", "side_right"])
@pytest.mark.parametrize("offset", [-20.0, 0.0, 25.0])
def test_where_the_camera_stands_is_found_from_any_side(simulated, view, offset):
    run = off_line(simulated, view, offset, said=0.0)
    stands = placed(run.with_depths(), facing=True)
    assert stands.azimuth is not None
    assert abs(turned(stands.azimuth.value - azimuth_of(view, offset))) < 8
    if offset:
        assert stands.tracks.facts.view_offset_deg == pytest.approx(offset, abs=8)
        assert "off the line" in stands.notes[0]
    else:
        assert stands.tracks.facts.view_offset_deg == 0 and not stands.notes


def test_a_view_that_nobody_said_is_taken_from_the_body_and_told(simulated):
    run = simulated(view="rear", units=4)
    tracks = replace(run.with_depths(), facts=run.tracks.facts.model_copy(update={"view": None}))
    done = review(tracks, PISTE)
    assert done.tracks.facts.view == "rear"
    assert "Nobody said from where it was filmed" in done.notes[0]
    # Without depths the order of the shoulders shows it.
    flat = review(replace(tracks, depth=None), PISTE)
    assert flat.tracks.facts.view == "rear"
    assert "the right shoulder is on the right" in flat.notes[0]


def test_a_view_that_the_body_speaks_against_is_asked_about(simulated):
    run = simulated(view="side_right", units=4)
    with pytest.raises(Doubtful) as asked:
        review(run.with_depths().with_facts(view="front"), PISTE)
    assert "side_right" in [c.value for c in asked.value.doubt.choices]
    kept = run.with_depths().with_facts(view="front", sure=["view"])
    assert review(kept, PISTE).tracks.facts.view == "front"


@pytest.mark.parametrize(
    ("view", "offset", "wide"), [("front", 20.0, 14), ("rear", -20.0, 14), ("oblique", 0.0, 32)]
)
def test_off_the_line_the_body_is_read_in_space(simulated, view, offset, wide):
    run = off_line(simulated, view, offset)
    true = {(r.id, r.segment, r.phase): r.value for r in run.truth().readings}
    done = review(run.with_depths(), PISTE)
    assert len(done.units) == len(run.truth().units)
    read = [r for r in done.readings if r.id in ("angulation", "edge", "shoulder_tilt") and (r.id, r.segment, r.phase) in true]  # fmt: skip
    assert len(read) >= 3 * len(done.units)
    off = np.array([r.value - true[r.id, r.segment, r.phase] for r in read])
    u = np.array([r.u for r in read])
    assert (np.abs(off) <= 2 * u).mean() > 0.9
    # Narrow enough to be of use.
    assert np.median(2 * u) < wide


@pytest.mark.parametrize("offset", [-20.0, 20.0])
def test_a_clean_run_off_the_line_has_no_main_thing_said_or_not(simulated, offset):
    for said in (offset, 0.0):
        run = off_line(simulated, "front", offset, said)
        told = judge(run_sheet(review(run.with_depths(), PISTE), PISTE, run.about()))
        assert told["main"] is None


def test_turns_are_cut_from_the_side_by_the_body_in_space(simulated):
    run = simulated(view="side_left", units=6)
    true = run.motion.boundaries
    found = np.array([b.t for b in review(run.with_depths(), PISTE).boundaries])
    assert len(found) == len(true)
    assert np.abs(found - true).max() < 0.12


def test_the_trackers_bias_is_taken_out_of_its_points_and_not_out_of_marks(simulated):
    from proklisis.core.space.bias import BIAS, body_axes

    run = simulated(view="rear", units=4)
    tracks = run.with_depths()
    columns = [tracks.index[n] for n in BODY]
    out, ahead, up = body_axes(run.exact.xy[:, columns], exact_depths(run.motion, run.shot))
    size = run.motion.stature_m * run.tracks.facts.px_per_m
    xy = tracks.xy.copy()
    for s, sign in (("l", -1.0), ("r", 1.0)):
        shares = BIAS["shoulder"]
        off = size * (shares[0] * sign * out + shares[1] * ahead + shares[2] * up)
        xy[:, tracks.index[f"{s}_shoulder"]] += off[:, :2] * [1.0, -1.0]
    source = np.full_like(tracks.source, SOURCES.index("auto"))
    marked = tracks.index["r_shoulder"]
    source[:, marked] = SOURCES.index("marked")
    cleared = placed(replace(tracks, xy=xy, source=source), facing=True).tracks
    true = run.exact.point("l_shoulder")
    before = np.linalg.norm((xy[:, tracks.index["l_shoulder"]] - true).mean(axis=0))
    after = np.linalg.norm((cleared.point("l_shoulder") - true).mean(axis=0))
    assert before > 0.015 * size
    assert after < 0.35 * before
    assert np.array_equal(cleared.xy[:, marked], xy[:, marked])
    assert np.array_equal(cleared.u[:, marked], tracks.u[:, marked])


def test_a_limb_that_lies_behind_the_other_is_known_less_well(simulated):

    run = simulated(view="side_right", units=4)
    tracks = run.with_depths()
    tracks = replace(tracks, source=np.full_like(tracks.source, SOURCES.index("auto")))
    u = placed(tracks, facing=True).tracks.u
    near, far = (np.median(u[:, tracks.index[f"{s}_elbow"]]) for s in "rl")
    assert far > 1.2 * near


def test_a_body_that_is_followed_roughly_is_told_and_known_less_well(simulated):
    from proklisis.core.space.bias import roughly

    run = simulated(view="front", units=4)
    tracks = run.with_depths()
    auto = replace(tracks, source=np.full_like(tracks.source, SOURCES.index("auto")))
    rng = np.random.default_rng(5)
    shaken = auto.xy.copy()
    columns = [tracks.index[n] for n in BODY]
    # Elbows, knees and the rest wander by a tenth of the rider, slowly, as on a dark clip.
    slow = np.cumsum(rng.standard_normal((len(tracks), len(columns), 2)), axis=0)
    slow = 16 * slow / slow.std(axis=0)
    shaken[:, columns] += slow
    steady, rough = placed(auto, facing=True), placed(replace(auto, xy=shaken), facing=True)
    assert not any("roughly" in note for note in steady.notes)
    assert any("followed roughly" in note for note in rough.notes)
    knee = tracks.index["l_knee"]
    assert np.median(rough.tracks.u[:, knee]) > 1.5 * np.median(steady.tracks.u[:, knee])
    assert roughly(fitted(run)) < 1.2


def test_level_shoulders_over_a_leaning_trunk_are_not_drawn_square_to_it(simulated):

    run = simulated(view="rear", units=4)
    tracks = run.with_depths()
    l_sh, r_sh = (tracks.index[f"{s}_shoulder"] for s in "lr")
    exact = run.exact.xy[: len(tracks)]
    hips = (run.exact.point("l_hip") + run.exact.point("r_hip")) / 2
    middle, half = (exact[:, l_sh] + exact[:, r_sh]) / 2, (exact[:, r_sh] - exact[:, l_sh]) / 2
    trunk = middle - hips
    square = np.arctan2(trunk[:, 0], -trunk[:, 1])  # how far the square of the trunk is tilted
    own = np.arctan2(half[:, 1], half[:, 0])
    # As a network draws it: two fifths of the way to the square.
    drawn = own + 0.4 * (square - own)
    long = np.linalg.norm(half, axis=1)
    way = np.stack([np.cos(drawn), np.sin(drawn)], axis=1) * long[:, None]
    xy = tracks.xy.copy()
    xy[:, l_sh], xy[:, r_sh] = middle - way, middle + way
    auto = replace(tracks, xy=xy, source=np.full_like(tracks.source, SOURCES.index("auto")))
    mended = placed(auto, facing=True).tracks

    def off(points):
        d = points[:, r_sh] - points[:, l_sh]
        return np.degrees(np.abs(np.arctan2(d[:, 1], d[:, 0]) - own))

    leaning = np.abs(np.degrees(square - own)) > 8
    assert leaning.sum() > 30
    assert np.median(off(xy)[leaning]) > 3
    assert np.median(off(mended.xy)[leaning]) < 0.5 * np.median(off(xy)[leaning])


def test_legs_that_change_sides_for_a_whole_turn_are_changed_back(simulated):
    from proklisis.core.space.sides import with_settled_sides

    run = simulated(view="front", units=6)
    tracks = run.with_depths()
    xy = tracks.xy.copy()
    turn = slice(200, 280)
    for part in ("knee", "ankle", "heel", "toe", "hip"):
        a, b = tracks.index[f"l_{part}"], tracks.index[f"r_{part}"]
        xy[turn, a], xy[turn, b] = tracks.xy[turn, b], tracks.xy[turn, a]
    mended = with_settled_sides(replace(tracks, xy=xy))
    for part in ("knee", "ankle", "toe", "hip"):
        k = tracks.index[f"l_{part}"]
        changed = np.linalg.norm(xy[turn, k] - tracks.xy[turn, k], axis=1) > 12
        back = np.linalg.norm(mended.xy[turn, k] - tracks.xy[turn, k], axis=1) < 1e-9
        assert back[changed].mean() > 0.85, part
    # What a coach put there stays, in that frame.
    source = tracks.source.copy()
    source[240, tracks.index["l_knee"]] = SOURCES.index("marked")
    by_hand = with_settled_sides(replace(tracks, xy=xy, source=source))
    assert np.array_equal(by_hand.point("l_knee")[240], xy[240, tracks.index["l_knee"]])
    # What was right is left alone, and from the side nothing is settled.
    assert np.array_equal(with_settled_sides(tracks).xy, tracks.xy)
    beside = simulated(view="side_left", units=4).with_depths()
    assert with_settled_sides(beside) is beside


def test_a_number_that_nobody_could_use_is_not_said():
    from proklisis.core.readings.readings import Reading, worth_saying

    kept, refused = worth_saying(
        [Reading("stance_width", 1.6, 0.3, 2, "belly"), Reading("stance_width", 19.7, 61.0, 3, "belly"), Reading("knee_gap", 4.0, 9.0, 3, "belly")]
    )  # fmt: skip
    assert [r.value for r in kept] == [1.6]
    assert [r.id for r in refused] == ["knee_gap"] and "±18" in refused[0].words
