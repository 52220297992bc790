"""A loop seen from the side is rebuilt; a board's edge changes are read from more than the legs."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.review import review
from proklisis.core.splitting.side_trace import rebuild
from proklisis.simulate.run import simulate

pytestmark = pytest.mark.thorough

FPS = 60.0


def seen_from_side(
    turn_deg: float = 300.0, speed: float = 80.0, blade: float = 50.0, noise: float = 0.0
):
    """A skate that turns steadily through ``turn_deg`` in two seconds between straight arms, and its exact path."""
    t = np.arange(int(4.0 * FPS)) / FPS
    turned = np.radians(90 + turn_deg * np.clip((t - 2.0) / 2.0, -0.5, 0.5))
    v = speed * np.stack([np.sin(turned), np.cos(turned)], axis=1)
    path = np.concatenate([[[0.0, 0.0]], np.cumsum((v[1:] + v[:-1]) / 2 / FPS, axis=0)])
    rng = np.random.default_rng(5)
    y = path[:, 1] + noise * rng.standard_normal(len(t))
    shown = blade * np.cos(turned)
    return t, path, y, shown + 2 * noise * rng.standard_normal(len(t)), shown / blade


@pytest.mark.parametrize(("noise", "within"), [(0.0, 1.5), (1.0, 3.0)])
def test_the_way_across_is_rebuilt_from_what_shows_along_the_picture(noise, within):
    """To a few hundredths of a loop 60 px wide; its arcs meet its arms in corners that no smooth turning has."""
    t, path, y, blade, share = seen_from_side(noise=noise)
    top = int(np.argmax(path[:, 1]))
    got = rebuild(t, y, blade, share, top, (0, len(t) - 1), max(noise, 0.1))
    middle = np.abs(got.t - t[top]) < 0.9
    k = np.searchsorted(t, got.t[middle] - 1e-9)
    across = got.across[middle] - got.across[middle].mean()
    assert np.abs(across - (path[k, 0] - path[k, 0].mean())).max() < within
    np.testing.assert_allclose(got.along[middle], path[k, 1], atol=within)


def test_a_blade_that_stands_still_or_never_shows_is_not_rebuilt():
    t, _, y, blade, share = seen_from_side()
    assert rebuild(t, np.zeros_like(y), blade, share, 120, (0, len(t) - 1), 1.0) is None
    assert rebuild(t, y, blade, 0.2 * share, 120, (0, len(t) - 1), 1.0) is None
    assert rebuild(t, y, blade, share, 120, (118, 123), 1.0) is None


def off(run, discipline: str) -> np.ndarray:
    """How many frames at 60 a second each true boundary lies from the nearest found one."""
    found = np.array([b.t for b in review(run.tracks, discipline, draws=0).boundaries])
    true = np.array([b.t for b in run.truth().boundaries])
    assert len(found) == len(true)
    return 60 * np.abs(found[None] - true[:, None]).min(axis=1)


@pytest.mark.parametrize(("discipline", "fault", "view"), [
    ("figure_loop", "knee_held", "side_right"), ("figure_loop", "looks_down", "side_left"), ("figure_loop", None, "above"),
    ("snowboard", "heel_weight", "front"), ("snowboard", "looking_down", "side_right"), ("snowboard", "knees_in", "side_left"),
    ("snowboard", "hips_forward", "front"), ("snowboard", "hips_backward", "front"), ("snowboard", None, "rear"),
])  # fmt: skip
def test_boundaries_are_within_two_frames_with_the_noise_of_a_tracker(discipline, fault, view):
    runs = [
        simulate(discipline, {fault: 1.5} if fault else {}, view=view, seed=40 + k, units=6)
        for k in range(2)
    ]
    frames = np.concatenate([off(run, discipline) for run in runs])
    assert np.mean(frames <= 2.01) >= 0.92
    assert frames.max() < 4


def without(run, *parts: str):
    keep = [k for k, n in enumerate(run.tracks.names) if not any(p in n for p in parts)]
    t = run.tracks
    return replace(
        run,
        tracks=replace(
            t,
            names=tuple(t.names[k] for k in keep),
            xy=t.xy[:, keep],
            u=t.u[:, keep],
            source=t.source[:, keep],
        ),
    )


@pytest.mark.parametrize("view", ["front", "side_right"])
def test_feet_that_are_tracked_badly_do_not_spoil_a_marked_base(view):
    """From pixels toes and heels are off by far more than a board's marks, and say so."""
    run = simulate("snowboard", {}, view=view, seed=12, units=6)
    xy, u = run.tracks.xy.copy(), run.tracks.u.copy()
    rng = np.random.default_rng(1)
    for name in ("l_toe", "l_heel", "r_toe", "r_heel"):
        k = run.tracks.index[name]
        xy[:, k] += rng.normal(0, 14, (len(xy), 2))
        u[:, k] = 14.0
    spoilt = off(replace(run, tracks=replace(run.tracks, xy=xy, u=u)), "snowboard")
    assert np.median(spoilt) < 1.2
    assert spoilt.max() < 3.5


def test_a_board_without_marks_on_its_base_is_split_by_the_legs():
    run = simulate("snowboard", {}, view="front", seed=12, units=6)
    assert off(without(run, "base_"), "snowboard").max() < 4


def test_boots_take_the_noise_out_of_a_trace_from_above():
    runs = [simulate("figure_loop", {}, view="above", seed=60 + k, units=5) for k in range(3)]
    with_boots = np.concatenate([off(r, "figure_loop") for r in runs])
    alone = np.concatenate([off(without(r, "_toe", "_heel"), "figure_loop") for r in runs])
    assert np.sqrt(np.mean(with_boots**2)) < np.sqrt(np.mean(alone**2))


@pytest.mark.parametrize(("discipline", "view", "points", "from_", "to"), [
    ("snowboard", "side_right", ("l_toe", "l_heel"), 0.0, 1.0), ("snowboard", "front", ("r_toe",), 0.25, 0.75),
    ("snowboard", "front", ("base_in", "base_out"), 0.05, 1.0), ("figure_loop", "side_right", ("l_toe", "r_toe"), 0.0, 1.0),
    ("figure_loop", "side_right", ("l_toe", "r_toe"), 0.25, 0.75), ("figure_loop", "above", ("l_heel", "r_heel"), 0.25, 0.75),
])  # fmt: skip
def test_what_only_helps_to_read_a_boundary_is_not_missed_where_it_is_not_seen(
    discipline, view, points, from_, to
):
    run = simulate(discipline, {}, seed=3, units=3, view=view)
    xy = run.tracks.xy.copy()
    for name in points:
        xy[int(from_ * len(xy)) : int(to * len(xy)), run.tracks.index[name]] = np.nan
    assert off(replace(run, tracks=replace(run.tracks, xy=xy)), discipline).max() < 4


def strayed(run, by: float, seed: int = 0, said: float | None = None):
    """The run's exact tracks with a background flow that strays by ``by`` pixels a frame, and says so or not."""
    k = run.exact.index["scene_drift"]
    xy, u = run.exact.xy.copy(), np.full(run.exact.u.shape, 1.0)
    xy[:, k] += np.cumsum(by * np.random.default_rng(seed).standard_normal((len(xy), 2)), axis=0)
    u[:, k] = by if said is None else said
    return replace(run, tracks=replace(run.tracks, xy=xy, u=u))


def test_a_blades_direction_holds_a_trace_whose_background_strays():
    runs = [simulate("figure_loop", {}, view="above", seed=80 + k, units=5) for k in range(4)]
    with_blade = np.concatenate(
        [off(strayed(r, 0.12, k), "figure_loop") for k, r in enumerate(runs)]
    )
    alone = np.concatenate(
        [off(strayed(r, 0.12, k, said=1e-6), "figure_loop") for k, r in enumerate(runs)]
    )
    assert np.sqrt(np.mean(with_blade**2)) < 0.85 * np.sqrt(np.mean(alone**2))


def test_a_blade_that_skids_sideways_keeps_its_trace():
    """The blade is drawn swinging by 25° to both sides of its way: the way is as it was."""
    run = simulate("figure_loop", {}, view="above", seed=90, units=4)
    xy = run.exact.xy.copy()
    swing = 0.44 * np.sin(2 * np.pi * run.exact.t / 3.1)
    turn = np.stack(
        [np.stack([np.cos(swing), np.sin(swing)], 1), np.stack([-np.sin(swing), np.cos(swing)], 1)],
        1,
    )
    for s in "lr":
        ends = [run.exact.index[f"{s}_{n}"] for n in ("blade_front", "blade_back", "toe", "heel")]
        middle = xy[:, ends].mean(axis=1, keepdims=True)
        xy[:, ends] = (xy[:, ends] - middle) @ turn + middle
    skidded = replace(run, exact=replace(run.exact, xy=xy))
    assert off(strayed(skidded, 0.02, said=0.08), "figure_loop").max() < 2.5
