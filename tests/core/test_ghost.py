"""The mended ghost: the measure comes out at its band's edge on the moved joints, limbs keep their lengths, feet stay."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.mended.ghost import ghost
from proklisis.core.review import playbook, review
from proklisis.core.splitting.library import splitter
from proklisis.core.tracks.landmarks import BONES
from proklisis.simulate.run import simulate


def measured(discipline, fault, **more):
    sim = simulate(discipline, {fault: 2.0}, seed=15, units=4, **more)
    return sim, review(sim.tracks, discipline), splitter(playbook(discipline).split)


def reading(done, measure, phase, unit=2):
    return next(r for r in done.readings if (r.id, r.segment, r.phase) == (measure, unit, phase))


@pytest.fixture(scope="module")
def tilted():
    return measured("alpine_carve", "not_level")


def test_the_shoulders_come_level_and_all_else_hardly_moves(tilted):
    _, done, how = tilted
    r = reading(done, "shoulder_tilt", "belly")
    assert r.value > 15
    got = ghost(done, how, r, (None, 12.0))
    assert not got.lacking and "A drawing, not a measurement" in got.says
    assert "12° instead of" in got.says and ("shoulder" in got.says.split(":")[1])
    before = {n: done.tracks.xy[got.row, k] for n, k in done.tracks.index.items()}

    def tilt(at):
        d = np.subtract(at["l_shoulder"], at["r_shoulder"])
        return abs(np.degrees(np.arctan2(d[1], d[0])) % 180)

    def off_level(at):
        return min(tilt(at), 180 - tilt(at))

    # By the picture alone, with no function of the measure: the line of the shoulders turns by as much as is said.
    assert off_level(before) - off_level(got.joints) == pytest.approx(r.value - 12, abs=2.5)
    for name in ("l_ankle", "r_ankle", "l_toe", "r_toe"):
        assert got.joints[name] == pytest.approx(tuple(before[name]))
    for a, b in BONES:
        if a in got.joints and b in got.joints and a in before and b in before:
            was = np.hypot(*np.subtract(before[a], before[b]))
            now = np.hypot(*np.subtract(got.joints[a], got.joints[b]))
            assert abs(now - was) < 0.12 * was + 4, (a, b)
    # The knees, which the shoulders do not rest on, move less than the shoulders.
    moved = {n: np.hypot(*np.subtract(got.joints[n], before[n])) for n in ("l_knee", "r_knee", "l_shoulder", "r_shoulder")}  # fmt: skip
    assert max(moved["l_knee"], moved["r_knee"]) < max(moved["l_shoulder"], moved["r_shoulder"])


def test_the_mended_run_measures_at_the_edge_of_the_band(tilted):
    """Put into every frame of a stretch, the moved joints measure as they were drawn, by the whole pipeline."""
    _, done, how = tilted
    r = reading(done, "shoulder_tilt", "belly")
    got = ghost(done, how, r, (None, 12.0))
    xy = done.tracks.xy.copy()
    for name, at in got.joints.items():
        k = done.tracks.index[name]
        xy[:, k] += np.subtract(at, done.tracks.xy[got.row, k])
    again = review(replace(done.tracks, xy=xy), "alpine_carve")
    t = done.tracks.t[got.row]
    trace = again.traces["shoulder_tilt", ""]
    row = int(np.abs(again.tracks.t - t).argmin())
    assert abs(abs(trace.value[row]) - 12) < 3.5


def test_what_is_as_wanted_or_may_be_is_not_mended(tilted):
    _, done, how = tilted
    r = reading(done, "shoulder_tilt", "belly")
    assert "nothing to mend" in ghost(done, how, r, (None, 90.0)).lacking
    wide = replace(r, u=20.0)
    assert "nothing to mend" in ghost(done, how, wide, (None, 12.0)).lacking


def test_what_is_no_position_or_lies_in_depth_is_not_drawn(tilted):
    _, done, how = tilted
    time = next(r for r in done.readings if r.id == "turn_time")
    assert "no position in one frame" in ghost(done, how, time, (None, time.value - 1)).lacking
    sim = simulate(
        "alpine_carve", {"not_level": 2.0}, seed=15, units=4, view="front", offset_deg=25
    )
    seen = review(sim.with_depths(), "alpine_carve")
    if seen.tracks.in_space is not None and abs(seen.tracks.facts.view_offset_deg) > 5:
        r = reading(seen, "shoulder_tilt", "belly")
        assert "off the line" in ghost(seen, how, r, (None, r.value - 30 * r.u - 5)).lacking
    else:
        pytest.fail("the clip was not read in space")


@pytest.mark.thorough
@pytest.mark.parametrize(
    ("discipline", "fault", "measure", "phase", "edge"),
    [
        ("snowboard", "hinge_over", "hinge", "belly", (None, 20.0)),
        ("trail_stance", "standing_tall", "chest_low", None, (25.0, None)),
        ("alpine_carve", "hip_out", "angulation", "belly", (0.0, None)),
    ],
)
def test_it_is_drawn_for_other_measures_and_disciplines(discipline, fault, measure, phase, edge):
    _, done, how = measured(discipline, fault)
    r = reading(done, measure, phase)
    got = ghost(done, how, r, edge)
    assert not got.lacking, got.lacking
    goal = next(x for x in edge if x is not None)
    assert f"at {goal:g}" in got.says or f"at {goal:.1f}" in got.says
