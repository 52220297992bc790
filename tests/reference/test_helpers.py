"""Physics helpers against published figures and the trade's check values."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from proklisis.core.camera.projection import on_plane, plane_from_four
from proklisis.core.errors import InputError
from proklisis.core.physics.carve import sidecut_radius
from proklisis.core.physics.course import set_problems
from proklisis.core.physics.optics import (
    blur_px,
    picture_width,
    seen_tilt,
    slowest_shutter,
    true_tilt,
)
from proklisis.core.physics.rope import (
    BALL_OFF_M,
    BALLS_APART_M,
    COURSE_M,
    GATE_TO_BALL_M,
    ROPES_M,
    course_time,
    handle_off,
    length_class,
    mph,
    reach_needed,
    rope_m,
)
from proklisis.core.physics.rotation import air_time_needed, judging_class
from proklisis.core.physics.sail import BROAD_REACH, beaufort, gybe_arc


def test_the_rope_course_adds_up():
    # International tournament rules (value from memory): five spans between six balls and a run-in at either end.
    assert 5 * BALLS_APART_M + 2 * GATE_TO_BALL_M == COURSE_M


def test_feet_off_are_the_loops_of_the_rope():
    # "Off" is feet taken from a 75 ft line; the loops are rounded to a quarter of a metre (tournament rules, from memory).
    for off, metres in ROPES_M.items():
        assert (75 - off) * 0.3048 == pytest.approx(metres, abs=0.2), off
        assert rope_m(off) == metres
    with pytest.raises(InputError, match="no rope"):
        rope_m(80)


def test_boat_speeds_in_both_units():
    # 58/55/52/49/46 km/h are called 36/34.2/32.3/30.4/28.6 mph (tournament rules, from memory).
    for kmh, called in ((58, 36.0), (55, 34.2), (52, 32.3), (49, 30.4), (46, 28.6)):
        assert mph(kmh) == pytest.approx(called, abs=0.05)
    assert course_time(58) == pytest.approx(16.08, abs=0.01)


def test_a_rope_shorter_than_the_ball_is_far_needs_reach():
    assert reach_needed(18.25, 39.06) == pytest.approx(0.0, abs=0.01)
    assert handle_off(18.25, 90) > BALL_OFF_M
    # For R < 11.5 m reach is needed even at 90°.
    assert all((reach_needed(r) > 0) == (r < 11.5) for r in ROPES_M.values())
    assert [length_class(r) for r in (18.25, 16.0, 14.25, 13.0, 10.25)] == [
        "long",
        "long",
        "middle",
        "short",
        "short",
    ]


def test_beaufort_and_the_gybes_arc():
    # WMO: force 4 is 11–16 kn, force 5 is 17–21 kn.
    assert [beaufort(k) for k in (11, 16, 17, 21)] == [4, 4, 5, 5]
    # common practice: in 25 kn a turn of 90° from broad reach to broad reach is enough.
    strong = gybe_arc(25)
    assert strong.turn == pytest.approx(90)
    assert BROAD_REACH[0] <= strong.entry <= BROAD_REACH[1]
    # common practice: just planing, the board is fastest near 100° off the wind.
    assert gybe_arc(14).entry == pytest.approx(100)
    assert gybe_arc(14).turn > gybe_arc(20).turn > strong.turn


def test_field_of_view_is_a_pinholes():
    # OpenCV's calibration gives the same field of view for the same sensor and focal length.
    fov, *_ = cv2.calibrationMatrixValues(
        np.array([[1400.0, 0, 960], [0, 1400.0, 540], [0, 0, 1]]), (1920, 1080), 36.0, 20.25
    )
    focal_mm = 1400.0 / 1920 * 36.0
    assert picture_width(50.0, 36.0, focal_mm) == pytest.approx(
        2 * 50 * np.tan(np.radians(fov / 2))
    )


def test_blur_and_shutter():
    # 15 m/s at 1/250 s and 1 cm to the pixel: 6 cm, six pixels.
    assert blur_px(15, 1 / 250, 0.01) == pytest.approx(6.0)
    assert blur_px(15, slowest_shutter(15, 0.01), 0.01) == pytest.approx(2.0)


def test_a_tilt_seen_from_aside_is_a_projection():
    rng = np.random.default_rng(2)
    for tilt, psi in rng.uniform([-60, -50], [60, 50], (50, 2)):
        a, p = np.radians(tilt), np.radians(psi)
        line = np.array(
            [np.sin(a) * np.cos(p), np.sin(a) * np.sin(p), np.cos(a)]
        )  # x across the picture, z up
        assert seen_tilt(tilt, psi) == pytest.approx(np.degrees(np.arctan2(line[0], line[2])))
        assert true_tilt(seen_tilt(tilt, psi), psi) == pytest.approx(tilt)


def test_sidecut_of_a_ski_with_a_declared_radius():
    # A circle cut into a plank gives its own radius back to a hundredth.
    radius, contact, waist = 17.0, 1.5, 0.066
    end = waist + 2 * (radius - np.sqrt(radius**2 - (contact / 2) ** 2))
    assert sidecut_radius(end, waist, end, contact) == pytest.approx(radius, rel=0.01)
    # common practice: a slalom ski of 165 cm, 118–68–102 mm, is sold as 12–13 m (value from memory).
    assert 11.5 < sidecut_radius(0.118, 0.068, 0.102, 1.46) < 13.5
    with pytest.raises(InputError):
        sidecut_radius(0.07, 0.08, 0.07, 1.5)


def test_gates_that_stand_as_the_rules_allow():
    # International alpine rules (values from memory): giant slalom 4–8 m wide, 10 m apart at least; slalom 4–6 m, 6–13 m.
    assert set_problems("giant_slalom", 6, 24) == []
    assert set_problems("slalom", 5, 10) == []
    assert "apart" in set_problems("slalom", 5, 14)[0]
    assert len(set_problems("giant_slalom", 9, 9)) == 2


def test_how_judges_name_a_short_jump():
    # International judging: a quarter is marked, more is under-rotated, half or more is downgraded (value from memory).
    assert [judging_class(x) for x in (30, 80, 90, 100, 180)] == [
        None,
        None,
        "short by a quarter",
        "under-rotated",
        "downgraded",
    ]
    # Where the doubt reaches a quarter it is not called more, or nothing.
    assert [judging_class(x, 8) for x in (70, 80, 100, 110)] == [
        None,
        "short by a quarter",
        "short by a quarter",
        "under-rotated",
    ]


def test_the_rotation_budget_of_the_trade():
    # common practice: 4.5 turns at 0.15 s need about 0.86 s; 0.80 s is too little.
    assert air_time_needed(4.5, 0.15) == pytest.approx(0.86, abs=0.006)
    assert air_time_needed(4.5, 0.15) > 0.81


def test_four_marks_on_the_ice_are_opencvs_perspective():
    pixels = np.array([[210.0, 420.0], [1050.0, 400.0], [1180.0, 690.0], [90.0, 700.0]])
    metres = np.array([[0.0, 4.0], [5.0, 4.0], [5.0, 0.0], [0.0, 0.0]])
    theirs = cv2.getPerspectiveTransform(pixels.astype(np.float32), metres.astype(np.float32))
    inside = np.random.default_rng(3).uniform([300, 450], [1000, 650], (40, 2))
    expected = cv2.perspectiveTransform(inside.reshape(-1, 1, 2), theirs).reshape(-1, 2)
    np.testing.assert_allclose(
        on_plane(plane_from_four(pixels, metres), inside), expected, atol=1e-4
    )
    with pytest.raises(InputError, match="one line"):
        plane_from_four(np.array([[0.0, 0], [1, 1], [2, 2], [0, 1]]), metres)
