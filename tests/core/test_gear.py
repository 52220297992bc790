"""Gear is found among straight edges in the pictures; what they do not show is not told."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.gear.bars import GEAR
from proklisis.core.gear.fit import likeliest
from proklisis.core.gear.found import find_gear, stature, with_found_gear
from proklisis.core.gear.underfoot import with_board_underfoot
from proklisis.core.review import playbook, playbook_ids
from proklisis.core.tracks.tracks import SOURCES
from proklisis.simulate.run import simulate


def edges_of(sim, ends, rng, broken=0.2, clutter=6):
    """Edges as a picture would show them: both rims of each bar in pieces, and others at random around the rider."""
    exact, n = sim.exact, len(sim.tracks)
    out = np.full((n, 4 * len(ends) + clutter, 4), np.nan)
    for i in range(n):
        k = 0
        for front, back in ends:
            a, b = exact.point(front)[i], exact.point(back)[i]
            long = max(np.linalg.norm(a - b), 1e-6)
            side = np.array([-(a - b)[1], (a - b)[0]]) / long
            for rim in (-2.0, 2.0):
                for lo, hi in ((0.02, 0.45), (0.5, 0.98)):
                    if rng.random() > broken:
                        noise = rng.normal(0, 0.5, 4)
                        piece = [*(b + lo * (a - b) + rim * side), *(b + hi * (a - b) + rim * side)]
                        out[i, k] = np.array(piece) + noise
                    k += 1
        feet = exact.point("l_ankle")[i]
        for j in range(clutter):
            at, way = feet + rng.normal(0, 90, 2), rng.random() * np.pi
            half = 20 * np.array([np.cos(way), np.sin(way)])
            out[i, k + j] = [*(at - half), *(at + half)]
    return out


def turned(sim, found, front, back):
    """Degrees between the bar that was found and the true one, in frames in which it is told."""
    (f, u), (b, _) = found[front], found[back]
    v, w = f - b, sim.exact.point(front) - sim.exact.point(back)
    off = np.degrees(np.arctan2(v[:, 0] * w[:, 1] - v[:, 1] * w[:, 0], (v * w).sum(axis=1)))
    ok = np.isfinite(off)
    return np.abs(off[ok]), np.degrees(np.sqrt(2) * u[ok] / np.linalg.norm(v[ok], axis=1))


@pytest.mark.parametrize(
    ("discipline", "view", "ends"),
    [
        ("snowboard", "front", [("board_nose", "board_tail")]),
        ("surf_turn", "front", [("board_nose", "board_tail")]),
        ("kite_roll", "side_right", [("board_nose", "board_tail")]),
        ("drop_boof", "side_right", [("bow", "stern")]),
        ("alpine_carve", "side_right", [("l_ski_tip", "l_ski_tail"), ("r_ski_tip", "r_ski_tail")]),
        ("double_pole", "side_right", [("l_pole_tip", "l_pole_grip"), ("r_pole_tip", "r_pole_grip")]),
    ],
)  # fmt: skip
def test_bars_are_found_to_two_degrees_with_the_right_end_in_front(discipline, view, ends):
    sim = simulate(discipline, {}, view=view, seed=961, units=3, fps=30)
    rng = np.random.default_rng(961)
    found = find_gear(sim.tracks, edges_of(sim, ends, rng), playbook(discipline).found_gear)
    for front, back in ends:
        off, u = turned(sim, found, front, back)
        assert len(off) > 0.4 * len(sim.tracks)
        assert np.median(off) < 2.0
        assert (off < 2 * u).mean() > 0.9
        assert (off > 90).mean() < 0.02


def test_clutter_alone_is_no_gear():
    for discipline, view in (("snowboard", "front"), ("alpine_carve", "front"), ("drop_boof", "side_right")):  # fmt: skip
        sim = simulate(discipline, {}, view=view, seed=962, units=3, fps=30)
        edges = edges_of(sim, [], np.random.default_rng(962), clutter=8)
        assert find_gear(sim.tracks, edges, playbook(discipline).found_gear) == {}


def test_no_edges_no_front_foot_or_a_view_from_above_give_nothing():
    sim = simulate("snowboard", {}, view="front", seed=963, units=2, fps=30)
    edges = edges_of(sim, [("board_nose", "board_tail")], np.random.default_rng(963))
    gear = playbook("snowboard").found_gear
    assert find_gear(sim.tracks, edges, gear)
    assert find_gear(sim.tracks, np.full_like(edges, np.nan), gear) == {}
    assert find_gear(sim.tracks, edges[:, :0], gear) == {}
    assert find_gear(sim.tracks.with_facts(stance=None), edges, gear) == {}
    assert find_gear(sim.tracks.with_facts(view="above"), edges, gear) == {}


def test_found_points_are_the_trackers_own_and_never_take_the_place_of_what_is_there():
    sim = simulate("snowboard", {}, view="front", seed=963, units=2, fps=30)
    edges = edges_of(sim, [("board_nose", "board_tail")], np.random.default_rng(963))
    marked = with_found_gear(sim.tracks, edges, ("board",))
    assert marked.names == sim.tracks.names
    keep = [k for k, n in enumerate(sim.tracks.names) if not n.startswith("board_")]
    bare = replace(
        sim.tracks, names=tuple(sim.tracks.names[k] for k in keep), xy=sim.tracks.xy[:, keep], u=sim.tracks.u[:, keep],
        source=sim.tracks.source[:, keep],
    )  # fmt: skip
    more = with_found_gear(bare, edges, ("board",))
    assert set(more.names) - set(bare.names) == {"board_nose", "board_tail"}
    assert (more.source[:, more.index["board_nose"]] == SOURCES.index("auto")).all()


def test_a_board_lies_where_the_feet_stand_where_nothing_shows_it():
    sim = simulate("snowboard", {}, view="side_right", seed=964, units=3, fps=30)
    keep = [k for k, n in enumerate(sim.tracks.names) if not n.startswith("board_")]
    bare = replace(
        sim.tracks, names=tuple(sim.tracks.names[k] for k in keep), xy=sim.tracks.xy[:, keep], u=sim.tracks.u[:, keep],
        source=sim.tracks.source[:, keep],
    )  # fmt: skip
    under = with_board_underfoot(bare)
    for end in ("board_nose", "board_tail"):
        off = np.linalg.norm(under.point(end) - sim.exact.point(end), axis=1)
        u = under.u[:, under.index[end]]
        seen = np.isfinite(u)
        assert seen.mean() > 0.5
        assert (off[seen] < 2 * np.sqrt(2) * u[seen]).mean() > 0.9
    # What was marked or found stays as it is.
    assert np.array_equal(with_board_underfoot(sim.tracks).point("board_nose"), sim.tracks.point("board_nose"))  # fmt: skip
    assert with_board_underfoot(bare.with_facts(stance=None)).names == bare.names


def test_the_likeliest_course_bridges_frames_that_speak_for_another_direction():
    score = np.zeros((30, 120))
    score[:, 40] = 3.0
    score[14:16] = 0.0
    score[14:16, 100] = 4.0
    assert (likeliest(score, np.full(29, 1 / 30)) == 40).all()
    # One that lasts is followed.
    score[14:, 40], score[14:, 100] = 0.0, 4.0
    course = likeliest(score, np.full(29, 1 / 30))
    assert (course[:14] == 40).all() and (course[14:] == 100).all()


def test_the_stature_is_read_off_trunk_and_legs():
    sim = simulate("alpine_carve", {}, view="front", seed=965, units=2, fps=30, figure_px=300)
    assert np.nanmedian(stature(sim.exact)) == pytest.approx(300, rel=0.15)


def test_every_playbook_looks_for_gear_that_is_known():
    for discipline in playbook_ids():
        for name in playbook(discipline).found_gear:
            assert name in GEAR
    pairs = [(b.front, b.back) for bars in GEAR.values() for b in bars]
    assert all(front != back for front, back in pairs)
