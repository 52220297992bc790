"""People ride the simulated runs: their bodies are not built from our table, and their skin goes where their joints go."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from proklisis.core.anthropometry import HIP_JOINTS, TRUNK
from proklisis.core.errors import InputError
from proklisis.core.review import judge, run_sheet
from proklisis.simulate.people.bodies import body, how_many
from proklisis.simulate.people.posing import Pose, posed, skinned
from proklisis.simulate.run import simulate

LIMBS = (("hip", "knee"), ("knee", "ankle"), ("shoulder", "elbow"), ("elbow", "wrist"))


@pytest.fixture(scope="module")
def run():
    return simulate("alpine_carve", {}, units=3, view="front", seed=4, body=3)


def test_there_are_women_men_and_children_of_many_builds():
    people = [body(k) for k in range(how_many())]
    assert len(people) == 24
    assert sum(p.child for p in people) >= 3
    assert 8 <= sum(p.woman for p in people) <= 16
    statures = [p.stature_m for p in people]
    assert min(statures) < 1.35 and max(statures) > 1.78
    hips = [
        np.linalg.norm(p.landmarks["r_hip"] - p.landmarks["l_hip"]) / p.stature_m for p in people
    ]
    assert np.ptp(hips) / np.mean(hips) > 0.2
    tall = body(0).as_tall_as(1.8)
    assert tall.length("hip", "knee") == pytest.approx(
        body(0).length("hip", "knee") * 1.8 / body(0).stature_m
    )
    with pytest.raises(InputError, match="no body 24"):
        body(24)


def test_their_joints_sit_where_anatomy_has_them_and_not_where_our_table_has_them():
    # Common practice in gait laboratories: hip joint centres lie about 17 to 19 cm apart on a grown person, which is
    # 0.10 to 0.12 of stature (values from memory).
    grown = [p for p in map(body, range(how_many())) if not p.child]
    hips = np.array(
        [np.linalg.norm(p.landmarks["r_hip"] - p.landmarks["l_hip"]) / p.stature_m for p in grown]
    )
    assert hips.min() > 0.09 and hips.max() < 0.145
    assert hips.mean() < 0.85 * HIP_JOINTS
    trunks = np.array([
        np.linalg.norm(p.landmarks["r_shoulder"] + p.landmarks["l_shoulder"]) / 2 / p.stature_m for p in grown
    ])  # fmt: skip
    assert np.abs(trunks - TRUNK).max() > 0.02


def test_nothing_moves_where_no_bone_turns():
    who = body(2)
    still = np.broadcast_to(np.eye(3), (1, len(who.bone_names), 3, 3))
    begin = np.stack([who.joints[b] for b in who.bone_names])[None]
    every = np.arange(len(who.vertices))
    assert np.allclose(skinned(who, Pose(still, begin), every, who.vertices)[0], who.vertices)


def test_bones_keep_their_length_and_feet_stay_on_the_gear(run):
    rig = simulate(
        "alpine_carve", {}, units=3, view="front", seed=4, stature_m=body(3).stature_m
    ).motion
    p, q = run.motion.points, rig.points
    for s, (a, b) in itertools.product("lr", LIMBS):
        long = np.linalg.norm(p[f"{s}_{a}"] - p[f"{s}_{b}"], axis=1)
        assert np.ptp(long) < 0.002
        assert long.mean() == pytest.approx(np.linalg.norm(body(3).landmarks[f"{s}_{a}"] - body(3).landmarks[f"{s}_{b}"]), abs=0.004)  # fmt: skip
    for s in "lr":
        assert np.array_equal(p[f"{s}_ankle"], q[f"{s}_ankle"])
        assert np.array_equal(p[f"{s}_ski_tip"], q[f"{s}_ski_tip"])
        # Hands go as far as the arms reach.
        assert np.linalg.norm(p[f"{s}_wrist"] - q[f"{s}_wrist"], axis=1).max() < 0.12


def test_the_skin_lies_around_the_joints_in_every_pose(run):
    who = body(3)
    pose, joints = posed(who, run.motion.points)
    every = np.arange(len(who.vertices))
    for i in (0, len(run.motion.t) // 2):
        one = Pose(pose.turn[i : i + 1], pose.begin[i : i + 1])
        skin = skinned(who, one, every, who.vertices)[0]
        for name, at in joints.items():
            near = skin[np.linalg.norm(skin - at[i], axis=1) < 0.13]
            assert len(near) > 20, name
            # On all sides of it: their middle is no farther off than a limb is thick.
            assert np.linalg.norm(near.mean(axis=0) - at[i]) < 0.08, name


def test_a_clean_run_is_clean_on_another_body_too(run):
    told = judge(run_sheet(run.truth(), "alpine_carve", run.about()))
    assert told["main"] is None


@pytest.mark.slow
def test_the_picture_shows_the_person_where_their_joints_are(run):
    from proklisis.simulate.render.outfit import outfit
    from proklisis.simulate.render.renderer import Renderer

    i = len(run.motion.t) // 2
    at = {n: v[i] for n, v in run.motion.points.items()}
    with Renderer(run.motion, run.shot, outfit(3), 3) as drawn:
        picture = drawn.frame(i, at).astype(float)
    snow = np.median(picture[-60:], axis=(0, 1))
    for name in ("l_hip", "r_hip", "l_knee", "r_knee", "l_shoulder", "r_shoulder", "l_elbow"):
        x, y = run.exact.point(name)[i].round().astype(int)
        assert np.abs(picture[y, x] - snow).max() > 40, name
