"""Poles stay as long as they are and stand where they were planted; a skater who leans far is not read as one who stands."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.review import judge, review, run_sheet
from proklisis.simulate.run import simulate


@pytest.mark.parametrize("body", [None, 2])
def test_poles_are_stiff_and_stand_still_from_plant_to_release(body):
    sim = simulate("double_pole", {}, seed=3, units=4, body=body, noise_px=0.0)
    p, t = sim.motion.points, sim.motion.t
    tip, grip = p["l_pole_tip"], p["l_pole_grip"]
    assert np.ptp(np.linalg.norm(tip - grip, axis=1)) < 0.01
    for unit in sim.truth().units:
        stands = (t > unit.events["plant"] + 0.02) & (t < unit.events["release"] - 0.03)
        assert np.ptp(tip[stands], axis=0).max() < 0.005
        # The upper arms never swing up behind the back.
        d = p["l_elbow"][stands] - p["l_shoulder"][stands]
        assert np.degrees(np.arctan2(d[:, 1], -d[:, 2])).min() > -100


def test_a_plant_is_found_within_two_frames_of_contact():
    sim = simulate("double_pole", {}, seed=4, units=4)
    t, tip = sim.motion.t, sim.motion.points["l_pole_tip"][:, 2]
    contact = t[1:][(tip[1:] < 1e-6) & (tip[:-1] > 1e-6)]
    found = review(sim.tracks, "double_pole").boundaries
    assert len(found) == 5
    for b in found:
        assert np.abs(contact - b.t).min() <= 2 / 60


@pytest.mark.thorough
@pytest.mark.parametrize("level", ["intermediate", "elite"])
@pytest.mark.parametrize("seed", [1, 2])
def test_a_clean_skater_who_leans_far_is_not_called_wrong_from_the_side(level, seed):
    sim = simulate("speed_skate", {}, level=level, view="side_right", seed=seed, units=4)
    assert (
        sim.truth_sheet()
        and judge(run_sheet(sim.truth(), "speed_skate", sim.about()))["main"] is None
    )
    seen = review(sim.tracks, "speed_skate")
    assert judge(run_sheet(seen, "speed_skate", sim.about()))["main"] is None
    true = {(r.segment, r.id): r.value for r in sim.truth().readings}
    sits = [r for r in seen.readings if r.id == "sit"]
    assert len(sits) == 4
    for r in sits:
        assert abs(r.value - true[r.segment, "sit"]) < 1.96 * r.u
    # When a leg that leans so far out of the picture starts to stretch is not said.
    assert not [r for r in seen.readings if r.id == "pressure_delay"]
