"""Tracks as rows of the database, and what the stage draws of them."""

from __future__ import annotations

import numpy as np

from proklisis.web.analysis.payload import bench, drawn_points
from proklisis.web.runs.blobs import pack, unpack


def test_a_blob_keeps_everything_that_a_screen_can_show(simulated):
    tracks = simulated(view="front").tracks
    back = unpack(memoryview(pack(tracks)))
    assert back.names == tracks.names
    assert back.facts == tracks.facts
    np.testing.assert_allclose(back.xy, tracks.xy, atol=1e-3)
    np.testing.assert_allclose(back.u, tracks.u, rtol=1e-5)
    np.testing.assert_array_equal(back.source, tracks.source)
    assert len(pack(tracks)) < 0.6 * tracks.xy.nbytes


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
