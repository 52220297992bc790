"""From pixels alone: the offline tracker on a rendered run with exact truth."""

from __future__ import annotations

import subprocess
from itertools import pairwise

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.core.review import judge, review, run_sheet
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import ClipFacts
from proklisis.footage.carry import carry
from proklisis.footage.follow import Person, follow, follow_piece, joined, plan_pieces
from proklisis.footage.frames import frames
from proklisis.footage.people import find_people, seeds_of
from proklisis.footage.probe import probe
from proklisis.simulate import fiducial

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def followed(short_clip):
    clip = probe(short_clip)
    told: list[tuple[int, int]] = []
    tracks = follow(
        clip, ClipFacts(fps=clip.fps, view="front"), 1.75, lambda done, n: told.append((done, n))
    )
    assert told[-1] == (len(clip.t), len(clip.t))
    return tracks


def test_the_clip_carries_its_frame_numbers(short_clip):
    clip = probe(short_clip)
    assert [fiducial.read(f.picture) for f in frames(clip)] == list(range(len(clip.t)))


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


@pytest.fixture(scope="module")
def two_riders(short_clip, tmp_path_factory):
    """The rider on the left, and the same one mirrored and smaller on the right."""
    path = tmp_path_factory.mktemp("two") / "two.mp4"
    halves = "[0:v]crop=640:720:320:0[a];[0:v]hflip,crop=640:720:320:0,scale=512:576,pad=640:720:64:144:gray[b];[a][b]hstack"
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-y",
            "-i",
            str(short_clip),
            "-filter_complex",
            halves,
            "-g",
            "12",
            str(path),
        ],
        check=True,
    )
    return probe(path)


def test_everybody_in_the_picture_is_found_and_the_largest_comes_first(two_riders):
    people = find_people(two_riders)
    assert len(people) == 2
    first, second = (np.array(p.centres) for p in people)
    assert (first[:, 0] < 640).all()
    assert (second[:, 0] > 640).all()
    assert np.median(people[0].heights) > np.median(people[1].heights)


@pytest.mark.parametrize("who", [0, 1])
def test_the_chosen_one_is_followed_in_every_piece_and_the_joins_do_not_show(
    two_riders, who, monkeypatch
):
    monkeypatch.setattr("proklisis.footage.follow.PIECE_FRAMES", 90)
    seeds = seeds_of(find_people(two_riders), who)
    n = len(two_riders.t)
    cuts = plan_pieces(n)
    assert len(cuts) >= 2
    pieces = [follow_piece(two_riders, a, b, seeds) for a, b in cuts]
    whole = joined(pieces[::-1], n)  # in whatever order they are done
    hips = (whole.xy[:, BODY.index("l_hip")] + whole.xy[:, BODY.index("r_hip")]) / 2
    seen = np.isfinite(hips[:, 0])
    assert seen.mean() > 0.95
    assert ((hips[seen, 0] > 640) == (who == 1)).all()
    step = np.linalg.norm(np.diff(hips[seen], axis=0), axis=1)
    for a, _ in cuts[1:]:
        seam = slice(a + 15, a + 45)
        assert step[seam].max() < 3 * np.percentile(step, 95)


def test_pieces_cover_every_frame_once():
    for n in (10, 479, 480, 481, 5000, 72_000):
        cuts = plan_pieces(n)
        assert cuts[0][0] == 0
        assert cuts[-1][1] == n
        for (_, stop), (first, _) in pairwise(cuts):
            assert stop - first == 40
    assert len(plan_pieces(72_000)) == 150


def test_a_clip_with_no_person_says_so(tmp_path):
    from tests.footage.test_clips import write

    clip = probe(write(tmp_path / "empty_slope.mp4", np.arange(30) / 30, size=(640, 360)))
    with pytest.raises(InputError, match="person can be followed in no frame"):
        follow(clip, ClipFacts(fps=30, view="front"))


def test_a_clip_with_no_person_is_one_line_on_the_command_line(tmp_path):
    from tests.cli.test_cli import run
    from tests.footage.test_clips import write

    path = write(tmp_path / "empty_slope.mp4", np.arange(30) / 30, size=(640, 360))
    done = run("analyse", path, "--discipline", "alpine_carve", "--view", "front")
    assert done.returncode == 2
    assert done.stderr.count("\n") == 1
    assert "empty_slope.mp4: a person can be followed in no frame" in done.stderr


def body(trunk: float = 90.0, leg: float = 150.0, x: float = 640.0) -> np.ndarray:
    """A plain figure of 19 points with trunk and leg of the given lengths in pixels."""
    heights = {
        "nose": trunk + 40,
        "ear": trunk + 40,
        "shoulder": trunk,
        "elbow": trunk / 2,
        "wrist": 0,
        "hip": 0,
        "knee": -leg / 2,
    }
    low = {"ankle": -leg, "heel": -leg - 8, "toe": -leg - 8}
    return np.array(
        [
            (x + (20 if n.startswith("l_") else -20), 360 - {**heights, **low}[n.split("_")[-1]])
            for n in BODY
        ]
    )


class Stub:
    """A tracker that hands out what it is told to."""

    def __init__(self, finds, looks=()):
        self.finds, self.looks, self.restarts = list(finds), list(looks), 0

    def follow(self, picture, t):
        return self.finds.pop(0)

    def look(self, picture, centre, half):
        return self.looks.pop(0) if self.looks else None

    def restart(self):
        self.restarts += 1


def test_a_collapsed_figure_is_no_find_and_is_searched_again():
    person, wrong = Person(), body(trunk=25)
    tracker = Stub([body(), wrong, wrong, body()], looks=[body(x=644), None])
    assert person.find(tracker, None, 0.0) is not None
    np.testing.assert_array_equal(person.find(tracker, None, 0.1), body(x=644))
    assert tracker.restarts == 1
    assert person.find(tracker, None, 0.2) is None
    assert person.find(tracker, None, 0.3) is not None


def test_somebody_else_far_off_is_not_taken_for_the_rider():
    person = Person()
    tracker = Stub([body() for _ in range(12)] + [body(x=1100)])
    for k in range(12):
        assert person.find(tracker, None, k / 60) is not None
    assert person.find(tracker, None, 0.2) is None


@pytest.mark.parametrize(
    ("landmark", "most"), [("l_ski_tip", 2.0), ("r_pole_tip", 2.0), ("l_ski_tail", 6.0)]
)
def test_gear_is_carried_between_marks_with_a_pm_that_holds(short_clip, simulated, landmark, most):
    truth = simulated({"not_level": 1.6}, seed=103, units=2, view="front").exact.point(landmark)
    clip = probe(short_clip)
    marks = {r: (float(truth[r, 0]), float(truth[r, 1])) for r in range(20, len(truth) - 5, 25)}
    got = carry(clip, marks)
    off = np.abs(got.xy - truth[got.frames])
    assert np.median(np.linalg.norm(off, axis=1)) < most
    assert ((off / got.u[:, None]) < 2).mean() > 0.88
    assert got.confidence[np.isin(got.frames, list(marks))].min() == 1.0
    assert got.frames[0] < 20  # a little beyond the marks too
    with pytest.raises(InputError, match="no frame"):
        carry(clip, {10**6: (1.0, 1.0)})
