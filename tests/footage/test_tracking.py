"""From pixels alone: the offline tracker on a rendered run with exact truth."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.core.landmarks import BODY
from proklisis.core.review import judge, review, run_sheet
from proklisis.core.tracks import ClipFacts
from proklisis.footage.follow import follow
from proklisis.footage.frames import frames
from proklisis.footage.probe import probe
from proklisis.simulate import framecode

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def followed(short_clip):
    clip = probe(short_clip)
    told: list[tuple[int, int]] = []
    tracks = follow(clip, ClipFacts(fps=clip.fps, view="front"), 1.75, lambda done, n: told.append((done, n)))
    assert told[-1] == (len(clip.t), len(clip.t))
    return tracks


def test_the_clip_carries_its_frame_numbers(short_clip):
    clip = probe(short_clip)
    assert [framecode.read(f.picture) for f in frames(clip)] == list(range(len(clip.t)))


def test_the_body_is_found_in_every_frame_and_close(followed, simulated):
    truth = simulated({"not_level": 1.6}, seed=103, units=2, view="front").exact
    assert np.isfinite(followed.xy[:, : len(BODY)]).all()
    for name, most in (("l_shoulder", 8), ("r_hip", 12), ("l_knee", 10), ("r_ankle", 14)):
        off = np.linalg.norm(followed.point(name) - truth.point(name), axis=1)
        assert np.median(off) < most, name


def test_the_ground_is_followed_under_a_moving_camera(followed, simulated):
    truth = simulated({"not_level": 1.6}, seed=103, units=2, view="front").exact
    step = np.diff(followed.point("scene_drift"), axis=0)
    true = np.diff(truth.point("scene_drift"), axis=0)
    assert np.median(np.abs(step - true)) < 0.5
    assert np.abs(true).max() > 3  # the camera really pans


def test_turns_leans_and_the_cause_come_from_pixels(followed, simulated):
    run = simulated({"not_level": 1.6}, seed=103, units=2, view="front")
    done, truth = review(followed, "alpine_carve"), run.truth()
    found = np.array([b.t for b in done.boundaries])
    assert len(found) == len(run.motion.boundaries)
    assert np.abs(found - run.motion.boundaries).max() <= 4 / 60
    true = {(r.segment, r.phase): r.value for r in truth.readings if r.id == "leg_lean"}
    off = [abs(r.value - true[r.segment, r.phase]) for r in done.readings if r.id == "leg_lean"]
    assert np.median(off) <= 3.0
    assert judge(run_sheet(done, "alpine_carve", run.about()))["main"]["fault"] == "not_level"


def test_a_clip_with_no_person_says_so(tmp_path):
    from tests.footage.test_clips import write

    clip = probe(write(tmp_path / "empty_slope.mp4", np.arange(30) / 30, size=(640, 360)))
    with pytest.raises(InputError, match="person can be followed in no frame"):
        follow(clip, ClipFacts(fps=30, view="front"))
