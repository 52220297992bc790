"""What the neighbouring frames give away: strays are emptied, swaps undone, real movement left alone."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.outlier_rejection import figure_height, reject_outliers, without_outliers
from proklisis.core.tracks.tracks import SOURCES


@pytest.fixture
def tracks(simulated):
    return simulated({"not_level": 1.6}, seed=103, units=2, view="front").tracks


def moved(tracks, rows, joint, by):
    xy = tracks.xy.copy()
    xy[rows, tracks.index[joint]] += by
    return replace(tracks, xy=xy)


def test_a_clean_track_is_left_as_it_is(tracks):
    assert np.array_equal(without_outliers(tracks).xy, tracks.xy, equal_nan=True)


@pytest.mark.parametrize(("first", "stop"), [(60, 61), (60, 64), (60, 85)])
def test_a_joint_that_strays_and_comes_back_is_emptied(tracks, first, stop):
    far = 0.3 * figure_height(tracks.xy, tracks.names)
    back = without_outliers(moved(tracks, slice(first, stop), "l_knee", (far, 0.0)))
    gone = ~np.isfinite(back.point("l_knee")[:, 0])
    assert gone[first:stop].all()
    assert gone.sum() <= stop - first + 6
    assert np.isfinite(back.point("r_knee")).all()


def test_left_and_right_that_changed_places_are_changed_back(tracks):
    xy = tracks.xy.copy()
    for part in ("knee", "ankle", "heel", "toe"):
        left, right = tracks.index[f"l_{part}"], tracks.index[f"r_{part}"]
        xy[70:95, left], xy[70:95, right] = tracks.xy[70:95, right], tracks.xy[70:95, left]
    np.testing.assert_array_equal(without_outliers(replace(tracks, xy=xy)).xy, tracks.xy)


def test_what_a_hand_has_marked_is_never_doubted(tracks):
    far = 0.3 * figure_height(tracks.xy, tracks.names)
    given = moved(tracks, slice(60, 64), "l_knee", (far, 0.0))
    source = given.source.copy()
    source[60:64, given.index["l_knee"]] = SOURCES.index("marked")
    back = without_outliers(replace(given, source=source))
    np.testing.assert_array_equal(back.point("l_knee")[60:64], given.point("l_knee")[60:64])


def test_a_spin_is_no_swap_and_nobody_strays_in_it():
    """Shoulders at five turns a second, seen from the side at 60 frames a second."""
    t = np.arange(120) / 60
    xy = np.zeros((120, len(BODY), 2))
    for k, name in enumerate(BODY):
        way = {"l": 1, "r": -1}.get(name[0], 0) * (0 if name == "nose" else 1)
        height = {
            "nose": 0,
            "ear": 5,
            "shoulder": 60,
            "elbow": 100,
            "wrist": 130,
            "hip": 150,
            "knee": 220,
            "ankle": 290,
        }.get(name.split("_")[-1], 300)
        xy[:, k, 0] = 640 + way * 40 * np.cos(2 * np.pi * 5 * t)
        xy[:, k, 1] = 200 + height
    np.testing.assert_array_equal(reject_outliers(xy, t), xy)


def test_a_landing_that_stops_hard_loses_nothing(tracks):
    """A step in a joint's speed is no stray: it goes on from there."""
    xy = tracks.xy.copy()
    n = len(tracks)
    xy[:, :, 1] += np.minimum(np.arange(n) - 80, 0)[:, None] * 9.0
    assert np.isfinite(without_outliers(replace(tracks, xy=xy)).xy).all()
