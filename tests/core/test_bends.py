"""Bends that a camera shows foreshortened: what is said of them holds the truth, and no more is claimed."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from proklisis.core.review import review
from proklisis.core.rider.geometry import bend_seen, flexion
from proklisis.simulate.run import simulate

pytestmark = pytest.mark.thorough

ORIGIN = np.zeros((1, 3))
#: The axis that a camera at the side does not see.
DEPTH = 0


def limb(up_deg: float, out_deg: float, size: float) -> np.ndarray:
    """(1, 3) across, along, up: turned ``up_deg`` from straight ahead, then ``out_deg`` out of the picture."""
    up, out = np.radians(up_deg), np.radians(out_deg)
    return size * np.array([[np.sin(out), np.cos(out) * np.cos(up), np.cos(out) * np.sin(up)]])


def pictured(v: np.ndarray) -> np.ndarray:
    flat = v.copy()
    flat[:, DEPTH] = np.nan
    return flat


def seen(p: np.ndarray, q: np.ndarray, **options) -> tuple[float, float]:
    value, own = bend_seen(
        pictured(p),
        pictured(ORIGIN),
        pictured(q),
        (np.linalg.norm(p), np.linalg.norm(q)),
        **options,
    )
    return float(value[0]), float(own[0])


def test_a_bend_in_the_picture_is_read_as_it_is():
    value, own = seen(limb(90, 0, 40), limb(30, 0, 35))
    assert value == pytest.approx(120)
    assert own == 0


@given(
    st.floats(-180, 180), st.floats(-180, 180), st.floats(45, 70), st.floats(45, 70), st.sampled_from([1, -1]), st.sampled_from([1, -1])
)  # fmt: skip
def test_out_of_the_picture_the_truth_lies_within_what_is_said(a, b, out_a, out_b, side_a, side_b):
    p, q = limb(a, side_a * out_a, 40), limb(b, side_b * out_b, 35)
    true = float(flexion(p, ORIGIN, q)[0])
    value, own = seen(p, q)
    # Bodies differ by a twelfth in their lengths, which is left out of the depth.
    assert abs(value - true) <= 2 * own + 26


@given(st.floats(-180, 180), st.floats(-180, 180), st.floats(30, 70))
def test_a_limb_that_points_at_the_camera_is_never_called_sure(a, b, out):
    assert seen(limb(a, 0, 40), limb(b, 0, 35))[1] == 0
    _, own = seen(limb(a, out, 40), limb(b, 0, 35))
    # Square to the other it looks square however far it points out.
    if abs(np.cos(np.radians(a - b))) > 0.3:
        assert own > 0.5


def test_an_elbow_held_out_hides_its_bend():
    upper, fore = limb(90, -50, 30), limb(-60, -50, 25)  # shoulder and hand behind the elbow
    true = float(flexion(upper, ORIGIN, fore)[0])
    value, own = seen(upper, fore, ways=(1,))
    assert abs(value - true) > 10
    assert abs(value - true) <= 2 * own + 10


def test_in_space_nothing_is_in_doubt():
    p, q = limb(90, 40, 40), limb(20, -30, 35)
    value, own = bend_seen(p, ORIGIN, q, (40, 35))
    assert value == pytest.approx(flexion(p, ORIGIN, q))
    assert (own == 0).all()


@pytest.mark.parametrize(
    ("discipline", "measure", "view"),
    [
        ("figure_jump", "knee_flex", "side_left"),
        ("figure_loop", "knee_flex", "side_left"),
        ("trail_stance", "elbow_flex", None),
        ("drop_boof", "boat_angle", "front"),
    ],
)
def test_what_the_view_foreshortens_is_stated_with_its_uncertainty(discipline, measure, view):
    options = {"view": view} if view else {}
    run = simulate(discipline, {}, seed=404, units=5, **options)
    true = {(r.id, r.segment, r.phase, r.limb): r.value for r in run.truth().readings}
    read = [r for r in review(run.tracks, discipline, draws=24).readings if r.id == measure]
    pairs = [
        (r, true[r.id, r.segment, r.phase, r.limb])
        for r in read
        if (r.id, r.segment, r.phase, r.limb) in true
    ]
    assert len(pairs) >= 4
    assert np.mean([abs(r.value - t) <= 2 * r.u for r, t in pairs]) >= 0.9


def test_a_turning_skaters_knee_is_read_where_it_shows():
    """The bend in the picture swings between all of it and none; what is said of the whole unit does not."""
    run = simulate("figure_jump", {}, seed=404, units=4, view="side_left")
    true = {(r.id, r.segment, r.limb): r.value for r in run.truth().readings if r.id == "knee_flex"}
    off = [
        r.value - true[r.id, r.segment, r.limb]
        for r in review(run.tracks, "figure_jump", draws=24).readings
        if r.id == "knee_flex"
    ]
    assert np.abs(np.mean(off)) < 5
