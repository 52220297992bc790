"""The simulated skier: what is put in is in the exact truth, and the camera sees it."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.core.review import judge, run_sheet
from proklisis.simulate.run import simulate
from proklisis.simulate.truth import truth


def mean(run, measure: str, phase: str | None = "belly", limb: str | None = None) -> float:
    return float(
        np.mean(
            [
                r.value
                for r in run.truth().readings
                if (r.id, r.phase, r.limb) == (measure, phase, limb)
            ]
        )
    )


@pytest.mark.parametrize(
    ("fault", "measure", "phase", "wanted", "within"),
    [
        ("low_edge", "edge", "belly", 25 - 1.5 * 15, 3), ("not_level", "shoulder_tilt", "belly", 12 + 1.5 * 8, 3),
        ("hip_out", "angulation", "belly", 0 - 1.5 * 8, 2), ("skid", "skid_angle", "belly", 12 + 1.5 * 10, 5),
        ("upper_body_leads", "separation", "belly", 0 - 1.5 * 12, 4), ("scissor_open", "scissor", "belly", 6 + 1.5 * 5, 2),
        ("hips_behind", "hip_fore_aft", "entry", -0.05 - 1.5 * 0.12, 0.06), ("hands_behind", "hand_fore", "belly", 0 - 1.5 * 0.4, 0.15),
    ],
)  # fmt: skip
def test_a_fault_is_put_in_at_its_strength(simulated, fault, measure, phase, wanted, within):
    assert mean(simulated({fault: 1.5}, seed=5), measure, phase) == pytest.approx(
        wanted, abs=within
    )


def test_strength_scales_the_fault(simulated):
    mild, strong = (
        mean(simulated({"not_level": s}, seed=5, view="front"), "shoulder_tilt") for s in (0.5, 2.5)
    )
    assert strong - mild == pytest.approx(2.0 * 8, abs=2)


@pytest.mark.parametrize("level", ["novice", "intermediate", "advanced", "elite"])
def test_clean_riders_of_every_level_are_clean_in_truth(level):
    run = simulate("alpine_carve", level=level, seed=3, view="front")
    assert judge(run_sheet(run.truth(), "alpine_carve", run.about()))["main"] is None


def test_turns_alternate_and_vary(simulated):
    turns = simulated(view="front", seed=14).truth().units
    assert len(turns) == 8
    assert all(a.side != b.side for a, b in itertools.pairwise(turns))
    times = [t.end.t - t.start.t for t in turns]
    assert 0.01 < np.std(times) < 0.3


def test_segments_keep_their_length(simulated):
    points = simulated(view="front", seed=14).motion.points
    for a, b in (
        ("l_knee", "l_ankle"),
        ("r_hip", "r_knee"),
        ("l_shoulder", "l_elbow"),
        ("r_elbow", "r_wrist"),
    ):
        length = np.linalg.norm(points[a] - points[b], axis=1)
        assert length.std() / length.mean() < 0.02, (a, b)


def test_skis_lie_on_the_snow(simulated):
    run = simulated(view="front", seed=14)
    slope = np.radians(run.motion.slope_deg)
    for name in ("l_ski_tip", "r_ski_tail"):
        p = run.motion.points[name]
        assert np.abs(p[:, 1] * np.sin(slope) + p[:, 2] * np.cos(slope)).max() < 1e-6


@pytest.mark.parametrize("view", ["front", "rear", "side_left", "side_right", "above"])
def test_the_camera_keeps_the_rider_in_the_picture_at_the_asked_size(simulated, view):
    run = simulated(view=view, seed=14)
    xy = run.exact.xy[:, : run.exact.index["l_toe"] + 1]
    assert xy[..., 0].min() > 0
    assert xy[..., 0].max() < 1280
    assert xy[..., 1].min() > 0
    assert xy[..., 1].max() < 720
    if view != "above":
        tall = xy[..., 1].max(axis=1) - xy[..., 1].min(axis=1)
        assert 200 < np.median(tall) < 340


def test_front_and_rear_are_mirror_pictures(simulated):
    front, rear = (simulated(view=v, seed=14).exact for v in ("front", "rear"))
    k = front.index["l_knee"], front.index["r_knee"]
    assert ((front.xy[:, k[0], 0] - front.xy[:, k[1], 0]) > 0).mean() > 0.95
    assert ((rear.xy[:, k[0], 0] - rear.xy[:, k[1], 0]) < 0).mean() > 0.95


def test_noise_is_as_asked_and_the_same_seed_is_the_same_run():
    a, b = (simulate("alpine_carve", view="front", seed=9, noise_px=3.0) for _ in range(2))
    np.testing.assert_array_equal(a.tracks.xy, b.tracks.xy)
    body = slice(0, 19)
    assert (a.tracks.xy - a.exact.xy)[:, body].std() == pytest.approx(3.0, rel=0.03)
    assert not np.array_equal(
        a.tracks.xy,
        simulate("alpine_carve", view="front", seed=10, noise_px=3.0).tracks.xy[: len(a.tracks)],
    )


def test_truth_is_whole(simulated):
    run = simulated({"banking": 1.0}, view="rear", units=3)
    told = truth(run)
    assert told["faults"] == {"banking": 1.0}
    assert len(told["landmarks"]["com" if "com" in told["landmarks"] else "nose"]) == len(
        told["t_s"]
    )
    assert len(told["boundaries_s"]) == 4
    assert all(m["u"] >= 0 for m in told["run_sheet"]["measures"])


@pytest.mark.parametrize(
    ("options", "words"),
    [
        ({"units": 1}, "--units"), ({"fps": 5000.0}, "--fps"), ({"noise_px": -1.0}, "--noise"), ({"roll_deg": 80.0}, "--roll"),
        ({"faults": {"nonsense": 1.0}}, "nonsense"), ({"faults": {"low_edge": 1.0}, "level": "novice"}, "level"),
    ],
)  # fmt: skip
def test_what_cannot_be_simulated_is_told(options, words):
    with pytest.raises(InputError, match=words):
        simulate("alpine_carve", **{"seed": 1, **options})
