"""The body tracker on real people: photographs and film that Debian's package opencv-doc carries.

``./test`` fetches them. The joints of the photograph were marked by hand on an enlarged print of it
for this test; in the film OpenCV's background subtraction says, on its own, where somebody walks.
"""

import os
import subprocess
from pathlib import Path

import cv2
import numpy as np
import pytest

from proklisis.core.gear.bars import GEAR
from proklisis.core.gear.found import find_gear
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import ClipFacts, Tracks
from proklisis.footage.follow import follow_piece
from proklisis.footage.people import find_people, seeded, seeds_of
from proklisis.footage.point_u import point_u
from proklisis.footage.pose import PoseFinder
from proklisis.footage.probe import probe

pytestmark = pytest.mark.slow
PICTURES = Path(os.environ.get("PROKLISIS_PICTURES", "var/pictures"))
#: Joints of the man with the ball who stands whole in basketball1.png, pixels, marked by hand.
MARKED = {
    "nose": (94, 112), "r_ear": (66, 117), "l_shoulder": (117, 156), "r_shoulder": (48, 160), "r_elbow": (91, 210),
    "r_wrist": (132, 154), "l_elbow": (139, 212), "l_hip": (111, 283), "r_hip": (64, 284), "l_knee": (121, 373),
    "r_knee": (66, 373), "l_ankle": (118, 446), "r_ankle": (60, 452), "l_heel": (112, 455), "l_toe": (151, 466),
}  # fmt: skip
HEIGHT_PX = 390.0
HIPS = [BODY.index("l_hip"), BODY.index("r_hip")]


def photograph(name: str) -> np.ndarray:
    picture = cv2.imread(str(PICTURES / name))
    assert picture is not None, f"{PICTURES / name} is not there: ./test fetches it"
    return cv2.cvtColor(picture, cv2.COLOR_BGR2RGB)


def marked_off(found: np.ndarray) -> np.ndarray:
    """Distances of the found joints from those marked by hand, as shares of the height."""
    return np.array([np.hypot(*(found[BODY.index(n)] - p)) for n, p in MARKED.items()]) / HEIGHT_PX


def test_joints_of_a_man_in_a_photograph_are_where_a_hand_marks_them():
    with PoseFinder() as finder:
        found = min(finder.find(photograph("basketball1.png")), key=lambda f: f[HIPS, 0].mean())
    off = marked_off(found)
    assert np.median(off) < 0.025
    assert off.max() < 0.06


def test_the_stated_uncertainty_holds_a_hand_s_marks():
    with PoseFinder() as finder:
        found = min(finder.find(photograph("basketball1.png")), key=lambda f: f[HIPS, 0].mean())
    u = point_u(found[None], "front")[0]
    # A hand's own mark on an enlarged print is good to about 2 px.
    inside = [
        np.abs(found[BODY.index(n)] - p) <= 2 * np.hypot(u[BODY.index(n)], 2.0)
        for n, p in MARKED.items()
    ]
    assert 0.85 <= np.mean(inside) <= 1.0


@pytest.fixture(scope="module")
def panned(tmp_path_factory):
    """A clip that pans over and closes in on the photograph of two people; and where its pixels go."""
    picture = cv2.imread(str(PICTURES / "basketball2.png"))
    path = tmp_path_factory.mktemp("panned") / "panned.mp4"
    out = cv2.VideoWriter(str(path), cv2.VideoWriter_fourcc(*"mp4v"), 30.0, (900, 620))
    moves = []
    for k in range(60):
        zoom = 1.1 + 0.15 * k / 60
        shift = np.array(
            [60 * np.sin(2 * np.pi * k / 60) + 40, 15 * np.cos(2 * np.pi * k / 45) + 20]
        )
        moves.append((zoom, shift))
        grid = np.array([[zoom, 0, shift[0]], [0, zoom, shift[1]]])
        out.write(cv2.warpAffine(picture, grid, (900, 620), borderMode=cv2.BORDER_REPLICATE))
    out.release()
    return path, moves


def test_a_pan_over_a_photograph_moves_the_joints_as_it_moves_the_picture(panned):
    path, moves = panned
    clip = probe(path)
    people = find_people(clip)
    left = min(range(len(people)), key=lambda k: people[k].centres[0][0])
    piece = follow_piece(clip, 0, 60, seeds_of(people, left))
    seen = np.isfinite(piece.xy[:, HIPS[0], 0])
    assert seen.mean() > 0.95
    still = np.array(
        [(xy - shift) / zoom for xy, (zoom, shift) in zip(piece.xy, moves, strict=True)]
    )
    # In the photograph nobody moves: what is left is the tracker's own unrest.
    for joint in ("l_shoulder", "r_shoulder", "l_hip", "r_hip", "l_knee", "r_knee"):
        assert np.nanstd(still[:, BODY.index(joint)], axis=0).max() < 0.02 * HEIGHT_PX, joint
    assert np.median(marked_off(np.nanmedian(still, axis=0))) < 0.04


def test_each_of_two_real_people_can_be_chosen(panned):
    path, moves = panned
    clip = probe(path)
    people = find_people(clip)
    assert len(people) >= 2
    places = []
    for k in range(2):
        piece = follow_piece(clip, 0, 60, seeds_of(people, k))
        x = [
            (xy[HIPS, 0].mean() - shift[0]) / zoom
            for xy, (zoom, shift) in zip(piece.xy, moves, strict=True)
        ]
        places.append(np.array(x)[np.isfinite(x)])
    left, right = sorted(places, key=np.median)
    assert len(left) > 50 and len(right) > 30
    assert left.max() < 250 < right.min()


def test_one_press_on_a_real_person_is_enough_to_follow_them(panned):
    """As where the coach points at a rider: head and feet in a single frame, and others in the picture."""
    path, moves = panned
    zoom, shift = moves[30]
    middle = zoom * np.array([88.0, 275.0]) + shift
    piece = follow_piece(
        probe(path),
        0,
        60,
        seeded(np.array([30]), middle[None], np.array([zoom * HEIGHT_PX]), crowded=True),
    )
    x = np.array(
        [
            (xy[HIPS, 0].mean() - shift[0]) / zoom
            for xy, (zoom, shift) in zip(piece.xy, moves, strict=True)
        ]
    )
    assert np.isfinite(x).mean() > 0.9
    assert np.nanmax(np.abs(x - 88)) < 40


@pytest.fixture(scope="module")
def street(tmp_path_factory):
    """The first eight seconds of a film of people who walk across a yard, some 70 px tall."""
    path = tmp_path_factory.mktemp("street") / "street.avi"
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-i",
            str(PICTURES / "vtest.avi"),
            "-t",
            "8",
            "-c",
            "copy",
            str(path),
        ],
        check=True,
    )
    return path


def walkers(path: Path) -> list[np.ndarray]:
    """Where somebody is in each frame: pixels that differ from the median of the film."""
    film, frames = cv2.VideoCapture(str(path)), []
    while True:
        more, frame = film.read()
        if not more:
            break
        frames.append(frame)
    yard = np.median(frames[::4], axis=0)
    masks = [(np.abs(f - yard).max(axis=2) > 40).astype(np.uint8) for f in frames]
    return [cv2.dilate(m, np.ones((13, 13), np.uint8)) > 0 for m in masks]


def test_people_of_a_film_are_followed_where_something_moves(street):
    clip = probe(street)
    people = find_people(clip)
    assert len(people) >= 3
    masks = walkers(street)
    piece = follow_piece(clip, 0, len(clip.t), seeds_of(people, 0))
    seen = np.flatnonzero(np.isfinite(piece.xy[:, HIPS[0], 0]))
    assert len(seen) > 0.85 * len(clip.t)
    on = []
    for k in seen:
        xy = np.clip(np.round(piece.xy[k]).astype(int), 0, [clip.width - 1, clip.height - 1])
        on.append(masks[k][xy[:, 1], xy[:, 0]].mean())
    assert np.mean(on) > 0.85


def test_no_gear_is_found_on_people_who_have_none(street):
    """Source: the film itself; whoever walks across the yard has neither skis nor boards, poles nor boats."""
    clip = probe(street)
    people = find_people(clip)
    looked = 0
    for who in range(min(2, len(people))):
        piece = follow_piece(clip, 0, len(clip.t), seeds_of(people, who))
        seen = np.isfinite(piece.xy[..., 0])
        if seen[:, 0].mean() < 0.5:
            continue
        looked += 1
        for view in ("front", "rear", "side_left", "side_right"):
            facts = ClipFacts(
                fps=clip.fps, width=clip.width, height=clip.height, view=view, stance="regular"
            )
            tracks = Tracks(
                np.arange(len(clip.t)), clip.t - clip.t[0], BODY, piece.xy, np.where(seen, 3.0, np.nan), np.zeros(seen.shape, np.uint8), facts,
            )  # fmt: skip
            for gear in GEAR:
                assert find_gear(tracks, piece.edges, [gear]) == {}, (who, view, gear)
    assert looked
