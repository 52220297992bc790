"""Cutting a run into turns."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import load_playbook
from proklisis.core.review import _text, review
from proklisis.core.splitting.turns import find_boundaries, make_turns, pace_hz, paced, prepare
from proklisis.core.splitting.units import Boundary
from proklisis.simulate.run import simulate

pytestmark = pytest.mark.thorough

FPS = 60.0


def wave(
    seconds: float = 12.0,
    period: float = 2.8,
    peak: float = 30.0,
    noise: float = 0.0,
    seed: int = 0,
):
    t = np.arange(int(seconds * FPS)) / FPS
    tilt = peak * np.sin(2 * np.pi * t / period) + noise * np.random.default_rng(
        seed
    ).standard_normal(len(t))
    return t, tilt


def test_boundaries_are_the_sign_changes_of_the_tilt():
    t, tilt = wave()
    found = find_boundaries(prepare(t, tilt, FPS))
    inner = [b.t for b in found if 0.3 < b.t < 11.7]
    np.testing.assert_allclose(inner, np.arange(1, len(inner) + 1) * 1.4, atol=1 / FPS)
    assert all(b.u > 0 and 0.9 < b.confidence <= 1 for b in found)


def test_noise_adds_no_turns_and_widens_the_uncertainty():
    quiet = find_boundaries(prepare(*wave(), FPS))
    noisy = find_boundaries(prepare(*wave(noise=4.0, seed=3), FPS))
    assert len(noisy) == len(quiet)
    assert np.mean([b.u for b in noisy]) > np.mean([b.u for b in quiet])


def test_a_wobble_under_the_hysteresis_is_no_turn():
    t, tilt = wave(peak=2.0)
    assert find_boundaries(prepare(t, tilt, FPS)) == []


def test_phases_follow_each_other_and_fill_the_turn():
    t, tilt = wave()
    signal = prepare(t, tilt, FPS)
    for turn in make_turns(signal, find_boundaries(signal)):
        spans = [turn.phases[p] for p in ("transition", "entry", "belly", "finish")]
        assert all(a < b for a, b in spans)
        assert all(left[1] == pytest.approx(right[0]) for left, right in itertools.pairwise(spans))
        assert spans[0][0] <= turn.start.t <= spans[0][1]


def test_transition_is_where_the_tilt_is_under_thirty_percent():
    t, tilt = wave()
    signal = prepare(t, tilt, FPS)
    turn = make_turns(signal, find_boundaries(signal))[2]
    a, b = turn.phases["transition"]
    # A sine is under 30 % of its peak for 2·asin(0.3)/(2π) of its period.
    assert b - a == pytest.approx(2.8 * 2 * np.arcsin(0.3) / (2 * np.pi), abs=0.03)


def test_sides_alternate_and_name_the_outside_foot():
    t, tilt = wave()
    signal = prepare(t, tilt, FPS)
    turns = make_turns(signal, find_boundaries(signal))
    assert [x.side for x in turns[:3]] == ["left", "right", "left"]
    assert [x.outside_foot for x in turns[:2]] == ["r", "l"]


def test_a_coachs_boundaries_replace_the_found_ones(simulated):
    run = simulated()
    found = review(run.tracks, "alpine_carve")
    fewer = [Boundary(b.t, b.u) for b in found.boundaries if b is not found.boundaries[3]]
    joined = review(run.tracks, "alpine_carve", lambda _: fewer)
    assert len(joined.units) == len(found.units) - 1
    assert {r.segment for r in joined.readings if r.segment} == set(range(1, len(joined.units) + 1))


@pytest.mark.parametrize("view", ["front", "rear", "above", "side_left", "side_right"])
def test_every_view_finds_the_true_edge_changes(simulated, view):
    run = simulated(view=view, seed=21)
    found = np.array([b.t for b in review(run.tracks, "alpine_carve").boundaries])
    assert len(found) == len(run.motion.boundaries)
    assert np.abs(found - run.motion.boundaries).max() <= 2.5 / 60


def test_frame_rate_and_figure_size_do_not_change_the_turns(simulated):
    for options in ({"fps": 120.0}, {"fps": 30.0}, {"figure_px": 500.0}):
        run = simulated(view="front", **options)
        found = review(run.tracks, "alpine_carve")
        assert [t.side for t in found.units] == [t.side for t in run.truth().units]


def test_a_way_of_splitting_that_is_not_there_is_refused_by_name():
    with pytest.raises(InputError, match=r"split names 'polling'.*poling"):
        load_playbook(
            _text("double_pole").replace("split: poling", "split: polling"), "double_pole"
        )


def test_the_pace_is_that_of_the_quicker_turns():
    t, tilt = wave()
    signal = prepare(t, tilt, FPS)
    cuts = [b.t for b in find_boundaries(signal)]
    assert pace_hz(signal, 2.0) == pytest.approx(1 / np.percentile(np.diff(cuts), 25))
    assert pace_hz(prepare(t, np.full_like(t, 0.1), FPS), 2.0) == np.inf


def test_smoothing_to_the_pace_brings_the_edge_changes_nearer_to_the_truth():
    def off(smooth) -> float:
        t, tilt = wave(seconds=30.0)
        true = [b.t for b in find_boundaries(prepare(t, tilt, FPS))]
        noisy = prepare(t, tilt + np.random.default_rng(3).normal(0, 6.0, len(t)), FPS)
        return float(np.std(np.array([b.t for b in find_boundaries(smooth(noisy))]) - true))

    assert off(lambda s: paced(s, 2.4)) < 0.8 * off(lambda s: s)


@pytest.mark.parametrize("view", ["side_right", "side_left"])
@pytest.mark.parametrize("fault", [None, "big_circle"])
def test_a_loop_from_the_side_closes_where_the_blade_shows_it(view, fault):
    """Loops of other sizes than usual: only the blade's foreshortening tells where they close."""
    run = simulate(
        "figure_loop", {fault: 1.5} if fault else {}, view=view, seed=8, units=4, noise_px=0.3
    )
    found = np.array([b.t for b in review(run.tracks, "figure_loop").boundaries])
    assert len(found) == 8
    assert np.abs(found - [b.t for b in run.truth().boundaries]).max() <= 2 / 60


def test_a_loop_without_marks_on_the_blade_is_taken_to_be_of_the_usual_size():
    run = simulate("figure_loop", {}, view="side_right", seed=8, units=4)
    names = [n for n in run.tracks.names if "blade" not in n]
    keep = [run.tracks.index[n] for n in names]
    bare = replace(
        run.tracks,
        names=tuple(names),
        xy=run.tracks.xy[:, keep],
        u=run.tracks.u[:, keep],
        source=run.tracks.source[:, keep],
    )
    found = review(bare, "figure_loop").boundaries
    assert len(found) == 8
    assert (
        np.abs(np.array([b.t for b in found]) - [b.t for b in run.truth().boundaries]).max() < 0.2
    )
