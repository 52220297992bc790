"""The small decisions around the tracker: where the rider is, whom to believe, how sure a point is."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.core.tracks.landmarks import BODY
from proklisis.footage import working_copy
from proklisis.footage.follow import Person
from proklisis.footage.people import Seeds, Someone, bodily, seeded, seeds_of
from proklisis.footage.point_u import FAR, point_u, rider_size
from proklisis.footage.probe import probe


def seeds(
    numbers=(0, 20, 40, 60, 80, 100),
    heights=(200, 205, 210, 215, 220, 225),
    x=(300, 320, 340, 360, 380, 400),
    crowded=False,
):
    return seeded(
        np.array(numbers),
        np.column_stack([x, np.full(len(x), 360.0)]),
        np.array(heights, float),
        crowded,
    )


def standing(height: float, x: float = 600.0) -> np.ndarray:
    """(1, 19, 2) pixels of somebody who stands straight, from Drillis and Contini's shares (from memory)."""
    level = {
        "nose": 0.93, "ear": 0.94, "shoulder": 0.818, "elbow": 0.63, "wrist": 0.485, "hip": 0.53, "knee": 0.285,
        "ankle": 0.039, "heel": 0.0, "toe": 0.0,
    }  # fmt: skip
    y = [680 - height * level[n.split("_")[-1]] for n in BODY]
    return np.column_stack([np.full(len(BODY), x), y])[None]


def test_between_samples_the_rider_is_between_them():
    centre, height = seeds().near(30, 60)
    assert centre == pytest.approx([330, 360])
    assert height == pytest.approx(207.5)


def test_far_from_every_sample_nobody_claims_to_know():
    assert seeds().near(161, 60) is None
    assert seeds().at(21) is None
    assert seeds().at(20)[1] == 205
    assert Seeds(np.array([], int), np.empty((0, 2)), np.empty(0)).near(0, 60) is None


def test_a_sample_of_half_a_body_is_left_out():
    s = seeds(heights=(200, 205, 80, 215, 220, 225))
    assert list(s.numbers) == [0, 20, 60, 80, 100]
    assert s.near(40, 60)[1] == pytest.approx(210)


def test_a_rider_who_comes_closer_keeps_every_sample():
    assert len(seeds(heights=(100, 130, 160, 200, 250, 300)).numbers) == 6


def test_the_chosen_person_is_the_one_who_is_followed():
    def somebody(x):
        person = Someone()
        for number in range(3):
            box = np.array([[x - 20.0, 300], [x + 20.0, 500]])
            person.add(number * 10, box, np.zeros(3))
        return person

    two = [somebody(200), somebody(900)]
    assert seeds_of(two).centres[0] == pytest.approx([200, 400])
    assert seeds_of(two, 1).centres[0] == pytest.approx([900, 400])
    assert seeds_of(two).crowded
    assert not seeds_of(two[:1]).crowded


def test_a_small_rider_is_shown_to_the_tracker_without_the_rest_of_the_picture():
    person = Person(seeds())
    person.keep_to(range(0, 101), 1280, 720)
    x0, y0, x1, y1 = person.window
    assert x0 <= 300 - 200
    assert x1 >= 400 + 200
    assert 0 <= y0 < y1 <= 720
    assert (x1 - x0) * (y1 - y0) < 0.6 * 1280 * 720


@pytest.mark.parametrize(
    "who",
    [
        None,
        seeds(heights=(700,) * 6),
        seeds(x=(100, 350, 600, 850, 1100, 1200), heights=(400,) * 6),
    ],
    ids=["nobody sampled", "fills the picture", "crosses the picture"],
)
def test_else_the_tracker_gets_the_whole_picture(who):
    person = Person(who)
    person.keep_to(range(0, 101), 1280, 720)
    assert person.window is None


def test_a_points_uncertainty_grows_with_the_rider_and_on_the_far_side():
    small, tall = point_u(standing(150), "side_left"), point_u(standing(450), "side_left")
    assert (tall > small).all()
    # A small rider is known worse for their size.
    assert (small / 150 > tall / 450).all()
    left, right = BODY.index("l_knee"), BODY.index("r_knee")
    assert tall[0, right] == pytest.approx(FAR * tall[0, left])
    ahead = point_u(standing(450), "front")
    assert ahead[0, right] == ahead[0, left] == tall[0, left]


def test_an_unseen_point_has_no_uncertainty():
    xy = standing(300)
    xy[0, BODY.index("r_wrist")] = np.nan
    u = point_u(xy, "front")
    assert np.isnan(u[0, BODY.index("r_wrist")])
    assert np.isfinite(np.delete(u[0], BODY.index("r_wrist"))).all()


def test_a_crouch_does_not_make_a_rider_small():
    xy = standing(300)
    crouched = xy.copy()
    upper = [
        k
        for k, n in enumerate(BODY)
        if n.split("_")[-1] in ("nose", "ear", "shoulder", "elbow", "wrist", "hip")
    ]
    crouched[0, upper, 1] += 60
    crouched[0, [BODY.index("l_knee"), BODY.index("r_knee")], 0] += 45
    assert rider_size(crouched) > 0.85 * rider_size(xy)


def test_a_disk_that_fills_while_the_copy_is_made_is_told_and_leaves_nothing(short_clip, tmp_path):
    out = tmp_path / "working.mp4"
    # What is written to this device finds no room, as on a full disk.
    (tmp_path / "working.mp4.partial.mp4").symlink_to("/dev/full")
    with pytest.raises(InputError) as told:
        working_copy.make_working_copy(probe(short_clip), out)
    assert told.value.what == working_copy.DISK_FULL
    assert "make room" in str(told.value)
    assert "the clip is kept" in str(told.value)
    assert list(tmp_path.iterdir()) == []


def test_without_the_converter_the_coach_is_told_what_to_install(short_clip, tmp_path, monkeypatch):
    monkeypatch.setenv("PATH", str(tmp_path))
    with pytest.raises(InputError, match="ffmpeg is missing"):
        working_copy.make_working_copy(probe(short_clip), tmp_path / "working.mp4")
    assert not list(Path(tmp_path).glob("*.mp4"))


def body_at(x: float, y: float, height: float, right_leg: float = 1.0) -> np.ndarray:
    """A body that stands upright with its hips at (x, y); one leg may be longer than the other."""
    at = {
        "nose": (0, -0.45), "ear": (0.05, -0.46), "shoulder": (0.12, -0.34), "elbow": (0.16, -0.17), "wrist": (0.17, 0.0),
        "hip": (0.06, 0.0), "knee": (0.07, 0.25), "ankle": (0.07, 0.5), "heel": (0.07, 0.52), "toe": (0.10, 0.53),
    }  # fmt: skip
    out = []
    for name in BODY:
        dx, dy = at[name.split("_")[-1]]
        long = right_leg if name.startswith("r_") and dy > 0 else 1.0
        out.append((x + (dx if name.startswith("r_") else -dx) * height, y + dy * long * height))
    return np.array(out)


def test_a_body_in_a_tree_counts_for_less_than_a_rider():
    whole = bodily(body_at(600, 360, 300), 720, 1280)
    assert whole == pytest.approx(1.0)
    # Half of it out of the picture, one leg twice the other: what a network sees in a conifer.
    tree = bodily(body_at(60, 60, 420, right_leg=2.4), 720, 1280)
    assert tree < 0.7 * whole
    assert 0.5 < bodily(body_at(45, 360, 300), 720, 1280) < 1.0


def test_the_likeliest_rider_is_whole_and_others_are_still_offered():
    rider, tree = Someone(), Someone()
    for number in (0, 10, 20):
        for who, found in ((rider, body_at(600, 360, 300)), (tree, body_at(60, 60, 420, 2.4))):
            who.add(number, found, np.zeros(3), bodily(found, 720, 1280))
    assert tree.presence() > rider.presence()
    assert tree.weight() < rider.weight()
