"""The clip's verdicts, the filming plan and the camera by marks."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from proklisis.core.camera.calibrate import (
    lens_from_lines,
    lens_from_view,
    level_from_line,
    scale_from_length,
)
from proklisis.core.camera.projection import (
    distort_radial,
    level,
    undistort_radial,
)
from proklisis.core.errors import InputError
from proklisis.core.filming import Look, check, plans, time_pm
from proklisis.core.physics.optics import blur_px
from proklisis.core.review import playbook, playbook_ids

GOOD = Look(
    fps=120,
    play_fps=120,
    frames=900,
    rider_px=420,
    rider_px_least=400,
    blur=0.4,
    light=120,
    levelled=True,
    roll_u_deg=0.4,
    lens="the lens you chose",
)


def grades(**changes):
    from dataclasses import replace

    return {v.id: v for v in check(replace(GOOD, **changes), playbook("alpine_carve"))}


def test_a_good_clip_has_nothing_poor():
    assert {v.grade for v in grades().values()} == {"good"}


@pytest.mark.parametrize(
    ("changes", "which", "grade", "words"),
    [
        ({"fps": 30, "play_fps": 30}, "rate", "poor", "±0.027 s only"),
        ({"fps": 240, "play_fps": 30}, "rate", "good", "played at 30"),
        ({"missing": 3}, "whole", "fair", "missing in 3 places"),
        ({"doubled": 300}, "whole", "poor", "300 frames show the one before again"),
        ({"rider_px": 120, "rider_px_least": 90}, "size", "poor", "120 pixels tall"),
        ({"blur": 0.8}, "sharp", "poor", "smeared"),
        ({"light": 20}, "light", "poor", "dark"),
        ({"offset_deg": 40}, "view", "poor", "40° off"),
        ({"view": "side_left"}, "view", "good", "cannot show"),
        ({"levelled": False}, "level", "unknown", "±1°"),
        ({"levelled": False, "turned_deg": 0.0}, "level", "good", "stands upright"),
        ({"levelled": False, "turned_deg": -4.2}, "level", "fair", "turned by -4.2"),
        ({"rider_px": None}, "size", "unknown", "Nobody"),
    ],
)
def test_each_trouble_is_named_with_what_it_hides(changes, which, grade, words):
    v = grades(**changes)[which]
    assert v.grade == grade
    assert words in f"{v.words} {v.hides}"


def test_time_precision_is_that_of_two_events_read_off_frames():
    """JCGM 100:2008: a rectangular reading error of one frame at either end, U = 2u."""
    assert time_pm(60) == pytest.approx(2 * np.sqrt(2) * (1 / 60) / np.sqrt(12))


@pytest.mark.parametrize("discipline", playbook_ids())
def test_every_discipline_has_a_plan_that_shows_what_it_is_judged_by(discipline):
    made = plans(playbook(discipline))
    assert made
    for p in made:
        assert 8 <= p.distance_m <= 60
        assert 1 <= p.zoom <= 5
        assert p.rider_px > 200
        assert p.blur_px <= 2.01
        assert len(p.words) >= 5


def test_the_plan_keeps_blur_within_two_pixels_and_follows_the_wanted_measures():
    (plan,) = plans(playbook("alpine_carve"), ["shoulder_tilt"])
    assert plan.view in ("front", "rear")
    assert plan.shows == ("Shoulder tilt",)
    metres_per_px = plan.across_m / 1920
    assert blur_px(4.0, 1 / plan.shutter, metres_per_px) == pytest.approx(plan.blur_px, rel=1e-6)


@pytest.mark.parametrize("roll", [-12.0, -0.5, 0.0, 3.0, 17.0])
def test_level_by_horizon_and_by_a_plumb_thing(roll):
    centre = np.array([640.0, 360.0])
    # What is level in the scene, as a picture turned by −roll shows it.
    for ends, plumb in (([[200, 300], [1100, 300]], False), ([[700, 650], [700, 120]], True)):
        seen = level(np.array(ends, float), -roll, centre)
        for points in (seen, seen[::-1]):
            found = level_from_line(points.tolist(), 1280, plumb)
            assert found.roll_deg == pytest.approx(roll, abs=1e-9)
            assert 0.4 < found.u_deg < 1.0


def test_marks_that_cannot_be_are_refused_in_words():
    with pytest.raises(InputError, match="too close"):
        level_from_line([[10, 10], [14, 10]], 1280)
    with pytest.raises(InputError, match="lies 45° off"):
        level_from_line([[10, 10], [500, 500]], 1280)
    with pytest.raises(InputError, match="out of range"):
        scale_from_length([[0, 0], [300, 0]], 0, 1280)
    with pytest.raises(InputError, match="three points"):
        lens_from_lines([[[0, 0], [5, 5]]], 1280, 720)
    with pytest.raises(InputError, match="tell nothing"):
        lens_from_lines([[[0, 360], [640, 360], [1280, 360]]], 1280, 720)


def test_scale_is_pixels_over_metres():
    px, rel = scale_from_length([[100, 100], [400, 500]], 2.5, 1280)
    assert px == pytest.approx(200)
    assert 0.01 <= rel < 0.02


@pytest.mark.parametrize("k1", [-0.25, -0.08, 0.0, 0.06])
def test_the_lens_is_found_from_lines_that_opencv_bent(k1):
    """OpenCV's radial model is the reference: lines are bent by its ``projectPoints``."""
    k = np.array([[1280.0, 0, 640], [0, 1280, 360], [0, 0, 1]])
    lines = []
    for ends in (
        ((-0.45, -0.24), (0.45, -0.25)),
        ((-0.44, 0.22), (0.44, 0.26)),
        ((-0.46, -0.2), (-0.4, 0.25)),
    ):
        p = np.linspace(ends[0], ends[1], 7)
        seen, _ = cv2.projectPoints(
            np.column_stack([p, np.ones(7)]), np.zeros(3), np.zeros(3), k, np.array([k1, 0, 0, 0.0])
        )
        lines.append((seen[:, 0] + np.random.default_rng(1).normal(0, 0.3, (7, 2))).tolist())
    found = lens_from_lines(lines, 1280, 720)
    assert found.k1 == pytest.approx(k1, abs=0.02)
    assert found.u_px < 1.0


def test_a_fisheye_preset_straightens_what_an_equidistant_lens_bends():
    """To a hundredth of the picture's width: two radial terms are all that the clip's facts hold."""
    lens = lens_from_view(120, 1280, fisheye=True)
    centre = np.array([640.0, 360.0])
    seen = np.array([[200.0, 200.0], [400, 500], [1000, 300]])
    # Reference: OpenCV's equidistant fisheye.
    matrix = np.array([[lens.focal_px, 0, centre[0]], [0, lens.focal_px, centre[1]], [0, 0, 1]])
    exact = cv2.fisheye.undistortPoints(
        seen.reshape(-1, 1, 2), matrix, np.zeros(4), P=matrix
    ).reshape(-1, 2)
    np.testing.assert_allclose(
        undistort_radial(seen, lens.focal_px, centre, lens.k1, lens.k2), exact, atol=0.012 * 1280
    )
    np.testing.assert_allclose(
        distort_radial(exact, lens.focal_px, centre, lens.k1, lens.k2), seen, atol=0.01 * 1280
    )


def test_the_check_says_where_the_body_shows_the_camera_to_stand_and_how_well_it_is_followed():
    look = Look(60, 60, 600, view="front", off_line_deg=(3.2, 5.0), strain=0.021)
    verdicts = {v.id: v for v in check(look, playbook("alpine_carve"))}
    assert "By the rider's body the camera stands 3 ± 10° off that line." in verdicts["view"].words
    assert verdicts["view"].grade == "good"
    assert verdicts["body"].grade == "good" and "to 2 %" in verdicts["body"].words
    askew = Look(60, 60, 600, view="front", off_line_deg=(24.0, 5.0), strain=0.061)
    verdicts = {v.id: v for v in check(askew, playbook("alpine_carve"))}
    # Not refused any more: read in space, wider.
    assert verdicts["view"].grade == "fair" and "read in space" in verdicts["view"].words
    assert verdicts["body"].grade == "poor" and verdicts["body"].next_time
    plain = {v.id: v for v in check(Look(60, 60, 600, view="front", offset_deg=24), playbook("alpine_carve"))}  # fmt: skip
    assert plain["view"].grade == "poor" and "body" not in plain
