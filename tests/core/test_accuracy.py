"""The whole pipeline against the simulator's exact truth: a sample of what benchmarks/accuracy.py does at length."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.review import judge, playbook, review, run_sheet
from proklisis.simulate.style import INJECT

pytestmark = pytest.mark.thorough

BOOK = playbook("alpine_carve")


def measured(run):
    done = review(run.tracks, "alpine_carve")
    return done, judge(run_sheet(done, "alpine_carve", run.about()))


@pytest.mark.parametrize("fault", sorted(INJECT))
def test_an_injected_fault_is_the_main_thing_or_explained_by_it(simulated, fault):
    _, found = measured(simulated({fault: 1.5}, seed=501))
    assert found["main"] is not None
    main = found["main"]["fault"]
    explained = next(f["explains"] for f in found["findings"] if f["fault"] == main)
    assert fault in (main, *explained)


@pytest.mark.parametrize("view", ["front", "rear", "side_left", "above"])
def test_a_clean_run_has_nothing_to_put_right(simulated, view):
    _, found = measured(simulated(view=view, seed=77))
    assert found["main"] is None
    # A side view hides what the strengths are read from.
    assert found["strengths"] or view not in ("front", "rear")


def test_intervals_hold_the_truth_and_angles_are_close(simulated):
    inside, errors = [], {"lean": [], "leg_lean": [], "trunk_lean": [], "edge": []}
    for seed, level in ((31, "intermediate"), (32, "intermediate"), (33, "elite"), (34, "elite")):
        for view, faults in (
            ("front", {}),
            ("rear", {"banking": 1.5}),
            ("side_left", {"hips_behind": 1.5}),
            ("above", {"skid": 1.5}),
        ):
            run = simulated(faults, view=view, seed=seed, level=level)
            done, truth = review(run.tracks, "alpine_carve"), run.truth()
            true = {(r.id, r.segment, r.phase, r.limb): r.value for r in truth.readings}
            assert len(done.units) == len(truth.units)
            for r in done.readings:
                if (r.id, r.segment, r.phase, r.limb) in true:
                    off = r.value - true[r.id, r.segment, r.phase, r.limb]
                    inside.append(abs(off) <= 2 * r.u)
                    if r.id in errors:
                        errors[r.id].append(off)
    assert 0.90 <= np.mean(inside) <= 0.99
    for name, most in (("lean", 1.5), ("leg_lean", 1.5), ("trunk_lean", 1.5), ("edge", 3.0)):
        assert np.sqrt(np.mean(np.square(errors[name]))) <= most


def test_exact_tracks_give_the_true_leans(simulated):
    from dataclasses import replace

    run = simulated(view="rear", roll_deg=8.0, k1=-0.15)
    exact = review(replace(run.exact, xyz=None), "alpine_carve")
    true = {(r.segment, r.phase): r.value for r in run.truth().readings if r.id == "leg_lean"}
    off = [r.value - true[r.segment, r.phase] for r in exact.readings if r.id == "leg_lean"]
    # The legs' depth off the picture plane remains; level and lens must leave nothing.
    assert np.abs(off).max() < 1.5


def test_a_mirrored_run_is_judged_alike_on_the_other_side(simulated):
    from dataclasses import replace

    from proklisis.core.tracks.landmarks import mirrored

    run = simulated({"not_level": 1.5}, view="front", seed=8)
    tracks = run.tracks
    xy = tracks.xy.copy()
    xy[..., 0] = tracks.facts.width - xy[..., 0]
    xy[:, tracks.index["scene_drift"], 0] = -tracks.xy[:, tracks.index["scene_drift"], 0]
    facts = tracks.facts.model_copy(
        update={
            "roll_deg": -tracks.facts.roll_deg,
            "view_offset_deg": -tracks.facts.view_offset_deg,
        }
    )
    other = replace(tracks, xy=xy, names=tuple(mirrored(n) for n in tracks.names), facts=facts)
    a, b = review(tracks, "alpine_carve"), review(other, "alpine_carve")
    assert [t.side for t in a.units] != [t.side for t in b.units]
    assert [{"left": "right", "right": "left"}[t.side] for t in a.units] == [
        t.side for t in b.units
    ]
    cues = [judge(run_sheet(x, "alpine_carve", run.about()))["main"]["cue"] for x in (a, b)]
    assert cues[0] == cues[1]
