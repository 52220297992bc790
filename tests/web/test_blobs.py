"""Tracks as rows of the database, and what the stage draws of them."""

from __future__ import annotations

import numpy as np

from proklisis.core.review import review, run_sheet
from proklisis.footage.edges import MOST
from proklisis.footage.follow import Piece
from proklisis.web.analysis.payload import bench, drawn_points
from proklisis.web.runs import blobs
from proklisis.web.runs.blobs import pack, pack_piece, unpack, unpack_piece


def test_a_blob_keeps_everything_that_a_screen_can_show(simulated):
    tracks = simulated(view="front").tracks
    back = unpack(memoryview(pack(tracks)))
    assert back.names == tracks.names
    assert back.facts == tracks.facts
    np.testing.assert_allclose(back.xy, tracks.xy, atol=1e-3)
    np.testing.assert_allclose(back.u, tracks.u, rtol=1e-5)
    np.testing.assert_array_equal(back.source, tracks.source)
    assert len(pack(tracks)) < 0.6 * tracks.xy.nbytes


def test_depths_are_kept_where_there_are_any(simulated):
    run = simulated(view="front")
    assert unpack(pack(run.tracks)).depth is None
    back = unpack(pack(run.with_depths()))
    np.testing.assert_allclose(back.depth, run.with_depths().depth, atol=1e-3)


def test_a_piece_that_was_followed_before_depths_were_kept_is_read(monkeypatch):
    m = 4
    piece = Piece(
        7, np.ones((m, 19, 2)), np.zeros((m, 2)), np.zeros(m), np.zeros(m), np.ones(m, bool), np.zeros(m), np.ones(m),
        np.full((m, 19), 3.0), np.full((m, blobs.MOST_EDGES, 4), 5.0),
    )  # fmt: skip
    assert np.array_equal(unpack_piece(pack_piece(piece)).depth, piece.depth)
    assert np.array_equal(unpack_piece(pack_piece(piece)).edges, piece.edges)
    monkeypatch.setattr(blobs, "PIECE", tuple(k for k in blobs.PIECE if k not in ("depth", "edges")))  # fmt: skip
    old = pack_piece(piece)
    monkeypatch.undo()
    assert np.isnan(unpack_piece(old).depth).all()
    assert np.isnan(unpack_piece(old).edges).all()


def test_as_many_edges_are_kept_as_are_looked_for():
    assert blobs.MOST_EDGES == MOST


def test_edges_are_kept_to_a_tenth_of_a_pixel_and_found_points_as_they_are():
    edges = np.full((3, 4, 4), np.nan)
    edges[1, 2] = [10.04, 20.26, 30.0, -4.5]
    back = blobs.unpack_edges(blobs.pack_edges(edges))
    np.testing.assert_allclose(back, np.round(edges, 1), atol=1e-9)
    points = {"bow": (np.array([[1.5, 2.5], [np.nan, np.nan]]), np.array([0.5, np.nan]))}
    there = blobs.unpack_points(blobs.pack_points(points))
    np.testing.assert_allclose(there["bow"][0], points["bow"][0])
    np.testing.assert_allclose(there["bow"][1], points["bow"][1])
    assert blobs.unpack_points(blobs.pack_points({})) == {}


def test_the_bench_says_where_the_body_shows_the_camera_to_stand(simulated):
    run = simulated(view="rear", offset_deg=20.0, units=4)
    done = review(run.with_depths().with_facts(view_offset_deg=0.0), "alpine_carve")
    shown = bench(done, run_sheet(done, "alpine_carve", run.about()))
    value, u = shown["off_line_deg"]
    assert abs(value - 20) < 2 * u
    assert 0 < shown["strain"] < 0.06
    assert any("off the line" in note for note in shown["notes"])


def test_derived_points_are_drawn_and_the_drift_is_not(simulated):
    tracks = simulated(view="front").tracks
    names, xy = drawn_points(tracks)
    assert {"mid_hip", "mid_shoulder", "com"} <= set(names)
    assert "scene_drift" not in names
    middle = (tracks.point("l_hip") + tracks.point("r_hip")) / 2
    np.testing.assert_allclose(xy[:, names.index("mid_hip")], middle)


def test_the_bench_of_a_side_view_says_what_it_cannot_tell(simulated):
    from proklisis.core.review import review, run_sheet

    run = simulated(view="side_left")
    done = review(run.tracks, "alpine_carve")
    shown = bench(done, run_sheet(done, "alpine_carve", run.about()))
    assert shown["ribbon"]["graded"] is False
    assert shown["ribbon"]["edge"] is None
    assert "lean" in {r["measure"] for r in shown["refusals"]}
    assert all(len(shown["ribbon"][k]) == len(shown["t"]) for k in ("swing", "swing_u"))
    assert all(r["pm"] for r in shown["readings"])


def test_means_of_a_side_are_means_of_its_turns(simulated):
    from proklisis.core.readings.readings import side_means
    from proklisis.core.review import review

    done = review(simulated({"not_level": 1.0}, view="front").tracks, "alpine_carve")
    side = {t.n: t.side for t in done.units}
    left = [
        r.value
        for r in done.readings
        if (r.id, r.phase) == ("lean", "belly") and side[r.segment] == "left"
    ]
    mean = next(
        m
        for m in side_means(done.readings, done.units)
        if (m.id, m.phase, m.side) == ("lean", "belly", "left")
    )
    assert mean.value == np.mean(left)
    assert mean.u > 0


def test_lost_frames_are_marked_for_a_look(simulated):
    from dataclasses import replace

    from proklisis.core.review import review, run_sheet

    run = simulated(view="front")
    xy = run.tracks.xy.copy()
    xy[300:360, :19] = np.nan
    done = review(replace(run.tracks, xy=xy), "alpine_carve")
    shown = bench(done, run_sheet(done, "alpine_carve", run.about()))
    assert set(range(300, 360)) <= set(shown["ribbon"]["look"])
