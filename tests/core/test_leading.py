"""The fewest presses that tell more, one after the other."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.corrections.leading import leading
from proklisis.core.errors import Lacking
from proklisis.core.review import judge, review, run_sheet, unsplit
from proklisis.core.tracks.landmarks import BODY
from proklisis.simulate.run import simulate


def without(tracks, *names):
    from dataclasses import replace

    keep = [k for k, n in enumerate(tracks.names) if n not in names]
    return replace(
        tracks,
        names=tuple(tracks.names[k] for k in keep),
        xy=tracks.xy[:, keep],
        u=tracks.u[:, keep],
        source=tracks.source[:, keep],
    )


def led(tracks, discipline: str, marked=(), may=None):
    try:
        done = review(tracks, discipline)
    except Lacking as e:
        done = unsplit(tracks, discipline, e)
    p = judge(run_sheet(done, discipline))
    gear = (
        "board_nose",
        "board_tail",
        "l_ski_tip",
        "r_ski_tip",
        "l_ski_tail",
        "r_ski_tail",
        "l_pole_tip",
        "r_pole_tip",
    )
    return done, p, leading(done, discipline, p, marked, gear if may is None else may)


def test_what_the_run_is_split_by_comes_first_every_half_second():
    sim = simulate("double_pole", {}, seed=5, units=3, view="side_right")
    tracks = without(sim.tracks, "l_pole_tip", "r_pole_tip")
    done, _, way = led(tracks, "double_pole")
    assert done.units == []
    assert set(way.points) == {"l_pole_tip", "r_pole_tip"} and way.faults == ()
    times = tracks.t[sorted({s.frame for s in way.steps})]
    assert np.diff(times) == pytest.approx(0.5, abs=0.02)


def test_with_units_a_press_a_point_in_each_settles_the_most_faults_and_every_mark_is_one_less():
    sim = simulate("alpine_carve", {}, seed=5, units=4, view="front")
    gear = [n for n in sim.tracks.names if n not in BODY and not n.startswith(("surface", "scene"))]
    tracks = without(sim.tracks, *gear)
    done, p, way = led(tracks, "alpine_carve")
    assert way is not None and way.faults and way.done == 0
    assert len(way.steps) == len(way.points) * len(done.units)
    settled = {
        c["fault"]
        for c in p["cannot_tell"]
        if set(c["unlock"]["points"]) <= set(way.points) and c["unlock"]["points"]
    }
    assert set(way.faults) <= settled
    first = way.steps[0]
    _, _, later = led(tracks, "alpine_carve", [(first.frame, first.landmark)])
    assert later.steps == way.steps[1:] and later.done == 1
    everything = [(s.frame, s.landmark) for s in way.steps]
    _, _, over = led(tracks, "alpine_carve", everything)
    assert over is None


def test_nobody_is_led_where_no_hand_may_mark():
    sim = simulate("alpine_carve", {}, seed=5, units=3, view="front")
    assert led(sim.tracks, "alpine_carve", may=())[2] is None
