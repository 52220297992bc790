"""A rider who goes about turns hips and feet to both sides: only what they show more to one side speaks of the camera."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.doubts import Doubtful
from proklisis.core.review import judge, review, run_sheet
from proklisis.simulate.run import Simulated, simulate

GYBE = "windsurf_gybe"


def _gybes(view: str, off_deg: float, units: int = 2) -> Simulated:
    return simulate(GYBE, {}, view=view, offset_deg=off_deg, units=units, seed=987)  # type: ignore[arg-type]


@pytest.mark.parametrize("view", ["side_left", "side_right", "front", "rear"])
@pytest.mark.parametrize("off_deg", [0.0, -20.0, 20.0])
def test_a_camera_whose_place_is_said_rightly_is_believed(view, off_deg):
    run = _gybes(view, off_deg)
    done = review(run.tracks, GYBE)
    assert len(done.units) == 2
    assert judge(run_sheet(done, GYBE, run.about()))["main"] is None


@pytest.mark.parametrize("view", ["side_left", "side_right", "front", "rear"])
@pytest.mark.parametrize("off_deg", [-20.0, 20.0])
def test_a_camera_off_the_line_that_nobody_said_is_asked_about(view, off_deg):
    unsaid = _gybes(view, off_deg, 4).tracks.with_facts(view_offset_deg=0.0)
    with pytest.raises(Doubtful) as asked:
        review(unsaid, GYBE)
    offered = [c.value for c in asked.value.doubt.choices if c.value]
    about = float(offered[0].removeprefix("offset:"))
    assert np.sign(about) == np.sign(off_deg)
    assert abs(about - off_deg) <= 13


def test_hands_hold_the_boom_but_for_one_that_is_free_while_the_rig_swings():
    run = simulate(GYBE, {}, units=3, seed=987)
    p, t = run.motion.points, run.motion.t
    line = p["boom_end"] - p["boom_front"]
    off = []
    for limb in "lr":
        d = p[f"{limb}_wrist"] - p["boom_front"]
        at = np.clip((d * line).sum(axis=1) / (line**2).sum(axis=1), 0, 1)
        off.append(np.linalg.norm(d - at[:, None] * line, axis=1))
        arm = np.linalg.norm(p[f"{limb}_elbow"] - p[f"{limb}_shoulder"], axis=1)
        assert arm.std() < 0.01 * arm.mean()
    swings = [u.events["rig"] for u in run.truth().units]
    near = np.min([np.abs(t - s) for s in swings], axis=0) < 0.7
    # A trunk is about half a metre long: a hand that holds is within a fifth of one.
    assert np.max(off, axis=0)[~near].max() < 0.1
    for s in swings:
        assert np.max(off, axis=0)[np.abs(t - s) < 0.2].max() > 0.3


@pytest.mark.parametrize("view", ["front", "rear"])
def test_a_hand_that_may_be_free_toward_the_camera_is_not_called_held(view):
    run = simulate(GYBE, {"grabs_rig": 2.0}, view=view, units=3, seed=987)
    done = review(run.tracks, GYBE)
    assert not [r for r in done.readings if r.id == "rig_release_gap" and r.value < 0.25]
    told = judge(run_sheet(done, GYBE, run.about()))
    assert "grabs_rig" in {row["fault"] for row in told["cannot_tell"]}
