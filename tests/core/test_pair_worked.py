"""Worked cases of comparing: two jumps, a regular beside a goofy rider, before and after advice, three polers."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.comparing.pair import of_review, pair
from proklisis.core.review import review
from proklisis.core.splitting.flights import SET_S
from proklisis.simulate.run import simulate

pytestmark = pytest.mark.thorough


def run(discipline, faults, seed, name, view=None, **more):
    sim = simulate(discipline, faults, seed=seed, view=view, units=5, **more)
    done = review(sim.tracks, discipline)
    return of_review(name, done, discipline, sim.about()), sim


def row(got, measure, phase=None):
    return next(r for r in got["rows"] if (r["measure"], r["phase"]) == (measure, phase))


def test_two_jumps_that_differ_in_their_axis_a_fifth_of_a_second_after_the_take_off():
    straight, exact = run("figure_jump", {}, 7, "a", "front")
    leaning, wrong = run("figure_jump", {"axis_off": 2.0}, 7, "b", "front")
    got = pair(leaning, straight, 2, 2)
    tilt = row(got, "axis_tilt", "set")
    assert tilt["verdict"] == "differs"

    def true_tilt(sim, k):
        """Feet to shoulders in the exact positions at the take-off + 0.20 s, from the picture of the simulator alone."""
        units = sim.truth().units
        when = units[k].start.t + SET_S
        p = sim.motion.points
        d = (p["l_shoulder"] + p["r_shoulder"] - p["l_ankle"] - p["r_ankle"]) / 2
        x, z = (np.interp(when, sim.motion.t, d[:, i]) for i in (0, 2))
        return np.degrees(np.arctan2(x, z))

    true = abs(true_tilt(wrong, 1) - true_tilt(exact, 1))
    assert abs(tilt["difference"]) == pytest.approx(true, abs=3 * tilt["u"] + 1)
    whole = pair(leaning, straight)["first_difference"]
    assert whole["measure"] == "axis_tilt" and whole["chain"][0] == "axis_off"


def test_a_regular_and_a_goofy_rider_are_the_same_once_mirrored():
    """A goofy rider is a regular one in a mirror: the picture's left and right are swapped, and nothing else."""
    from proklisis.core.tracks.landmarks import mirrored
    from proklisis.core.tracks.tracks import Tracks

    sim = simulate("snowboard", {}, seed=7, view="front", units=5)
    xy = sim.tracks.xy.copy()
    xy[..., 0] = sim.tracks.facts.width - xy[..., 0]
    names = tuple(mirrored(n) for n in sim.tracks.names)
    goofy = "goofy" if sim.tracks.facts.stance == "regular" else "regular"
    swapped = Tracks(
        sim.tracks.frames, sim.tracks.t, names, xy, sim.tracks.u, sim.tracks.source, sim.tracks.facts
    ).with_facts(stance=goofy)  # fmt: skip
    about = sim.about()
    a = of_review("a", review(sim.tracks, "snowboard"), "snowboard", about)
    other = {**about, "rider": {**about["rider"], "stance": goofy}}
    b = of_review("b", review(swapped, "snowboard"), "snowboard", other)
    got = pair(a, b, mirror=True)
    assert len(got["rows"]) > 10
    assert [r for r in got["rows"] if r["verdict"] == "differs"] == []
    worst = max(abs(r["difference"]) / max(r["u"], 1e-9) for r in got["rows"])
    assert worst < 2, "the same numbers, but for the noise of the draws"
    assert got["first_difference"] is None


def test_before_and_after_a_word_of_advice():
    before, _ = run("alpine_carve", {"not_level": 2.0}, 7, "a")
    after, _ = run("alpine_carve", {"not_level": 0.4}, 7, "b")
    again, _ = run("alpine_carve", {"not_level": 2.0}, 7, "c")
    tilt = row(pair(after, before), "shoulder_tilt", "belly")
    assert tilt["difference"] < 0 and tilt["verdict"] == "differs"
    same = row(pair(again, before), "shoulder_tilt", "belly")
    assert same["verdict"] != "differs"


def test_three_polers_beside_each_other():
    polers = {
        "upright": run("double_pole", {}, 7, "a")[0],
        "bent": run("double_pole", {"no_forward_push": 2.0}, 7, "b")[0],
        "behind": run("double_pole", {"plant_behind": 2.0}, 7, "c")[0],
    }
    firsts = {}
    for one, other in itertools.combinations(polers, 2):
        got = pair(polers[one], polers[other])["first_difference"]
        assert got is not None, (one, other)
        firsts[one, other] = got["measure"]
    assert firsts["upright", "bent"] == "elbow_flex"
    assert firsts["upright", "behind"] == "plant_fore"
    # The plant comes before the release: of the two who are wrong in their own ways, it is where they part first.
    assert firsts["bent", "behind"] == "plant_fore"


@pytest.mark.parametrize("discipline", ["snowboard", "drop_boof", "windsurf_gybe"])
def test_it_does_not_matter_which_edge_of_a_base_was_marked_as_which(discipline):
    """The page asks for one edge and the other: marked the other way round, every value is the same."""
    view = {"drop_boof": "front", "windsurf_gybe": "front"}.get(discipline, "front")
    sim = simulate(discipline, {}, seed=7, view=view, units=4)
    k = [sim.tracks.index[n] for n in ("base_in", "base_out")]
    xy, u = sim.tracks.xy.copy(), sim.tracks.u.copy()
    xy[:, k], u[:, k] = xy[:, k[::-1]], u[:, k[::-1]]
    one = review(sim.tracks, discipline)
    other = review(replace(sim.tracks, xy=xy, u=u), discipline)

    def values(done):
        return {(r.id, r.segment, r.phase, r.limb): (r.value, r.u) for r in done.readings}

    a, b = values(one), values(other)
    assert set(a) == set(b) and len(a) > 10
    for key, (value, u_value) in a.items():
        assert abs(value - b[key][0]) <= 1e-6 + 0.5 * u_value, key
