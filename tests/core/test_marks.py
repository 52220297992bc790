"""A coach's corrections on top of the tracker's result."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.corrections.marks import Cut, Mark, apply_cuts, apply_marks, check_cut
from proklisis.core.errors import InputError
from proklisis.core.splitting.units import Boundary
from proklisis.core.tracks.tracks import SOURCES


def test_a_mark_holds_exactly_and_fades_to_its_neighbours(simulated):
    tracks = simulated(view="front").tracks
    k = tracks.index["l_knee"]
    x, y = tracks.xy[200, k]
    fixed = apply_marks(tracks, [Mark(200, "l_knee", x + 30, y - 10)])
    np.testing.assert_allclose(fixed.xy[200, k], [x + 30, y - 10])
    shift = (fixed.xy[:, k] - tracks.xy[:, k])[:, 0]
    assert shift[205] < shift[200]
    assert 0 < shift[208] < shift[204]
    assert shift[240] == pytest.approx(0, abs=0.01)
    assert SOURCES[fixed.source[200, k]] == "marked"
    assert SOURCES[fixed.source[203, k]] == "interpolated"
    assert (tracks.xy[200, k] == [x, y]).all()  # the tracker's own result is not touched


def test_two_marks_close_together_carry_over_from_one_to_the_other(simulated):
    tracks = simulated(view="front").tracks
    k = tracks.index["r_hip"]
    marks = [Mark(f, "r_hip", *(tracks.xy[f, k] + [20, 0])) for f in (300, 312)]
    shift = (apply_marks(tracks, marks).xy - tracks.xy)[:, k, 0]
    # What the jitter of single frames explains is not carried over.
    np.testing.assert_allclose(shift[300:313], 20, atol=1.5)
    assert shift[[300, 312]] == pytest.approx(20)


def test_a_mark_far_away_leaves_a_corrected_slip_as_it_was(simulated):
    """A slip for a quarter of a second, put right by one mark, stays so when the joint is marked elsewhere too."""
    true = simulated(view="front").tracks
    k, xy = true.index["l_hip"], true.xy.copy()
    xy[292:309, k, 0] += 50 * np.sin(np.pi * (np.arange(292, 309) - 291) / 18) ** 2
    slipped = replace(true, xy=xy)
    here = Mark(300, "l_hip", *true.xy[300, k])
    alone = apply_marks(slipped, [here]).xy[:, k]
    both = apply_marks(slipped, [here, Mark(60, "l_hip", *(true.xy[60, k] + [4, 0]))]).xy[:, k]
    assert np.abs(alone[292:309] - true.xy[292:309, k]).max() < 12
    np.testing.assert_array_equal(both[270:330], alone[270:330])
    np.testing.assert_array_equal(both[100:270], slipped.xy[100:270, k])


def test_a_mark_within_the_jitter_moves_no_other_frame(simulated):
    """The tracks jitter by 2 px: a mark 2 px off says nothing of the frames beside it."""
    tracks = simulated(view="front").tracks
    k = tracks.index["l_knee"]
    fixed = apply_marks(tracks, [Mark(200, "l_knee", *(tracks.xy[200, k] + [2, 0]))])
    np.testing.assert_allclose(
        np.delete(fixed.xy[:, k], 200, axis=0), np.delete(tracks.xy[:, k], 200, axis=0), atol=0.1
    )


def test_a_later_mark_of_the_same_frame_wins(simulated):
    tracks = simulated(view="front").tracks
    fixed = apply_marks(tracks, [Mark(50, "nose", 100, 100), Mark(50, "nose", 120, 90)])
    np.testing.assert_allclose(fixed.xy[50, tracks.index["nose"]], [120, 90])


@pytest.mark.parametrize(("mark", "words"), [(Mark(5, "tail", 1, 1), "tail"), (Mark(99_999, "nose", 1, 1), "99999"), (Mark(5, "nose", 9e9, 1), "outside")])  # fmt: skip
def test_impossible_marks_are_refused(simulated, mark, words):
    with pytest.raises(InputError, match=words):
        apply_marks(simulated(view="front").tracks, [mark])


FOUND = [Boundary(1.0, 0.01), Boundary(2.4, 0.01), Boundary(3.8, 0.01)]


def test_cuts_move_add_and_delete():
    assert [b.t for b in apply_cuts(FOUND, [Cut("move", 2.6, 2.4)], 60)] == [1.0, 2.6, 3.8]
    assert [b.t for b in apply_cuts(FOUND, [Cut("delete", old_t=2.4)], 60)] == [1.0, 3.8]
    added = apply_cuts(FOUND, [Cut("add", 4.5)], 60)
    assert added[-1].t == 4.5
    assert added[-1].source == "coach"


def test_what_is_found_later_gives_way_to_a_coachs_boundary():
    """A joint that is put right moves what is found: the coach's own stays, and nothing is refused for it."""
    assert [b.t for b in apply_cuts([*FOUND, Boundary(4.45, 0.01)], [Cut("add", 4.5)], 60)] == [
        1.0,
        2.4,
        3.8,
        4.5,
    ]
    assert [b.t for b in apply_cuts([Boundary(9.0, 0.01)], [Cut("delete", old_t=2.4)], 60)] == [9.0]
    assert apply_cuts([], [Cut("move", 2.6, 2.4)], 60) == []


@pytest.mark.parametrize(
    ("cut", "words"),
    [(Cut("add", 2.5), "shorter"), (Cut("add", 9.0), "outside the clip"), (Cut("move", 1.05, 2.4), "shorter"), (Cut("move", 2.5, 3.0), "no boundary"),
     (Cut("delete", old_t=0.5), "no boundary"), (Cut("delete", old_t=-1.0), "outside")],
)  # fmt: skip
def test_a_cut_that_cannot_be_is_refused(cut, words):
    with pytest.raises(InputError, match=words):
        check_cut([b.t for b in FOUND], cut, 0, 5)


def test_a_boundary_may_be_moved_a_little():
    check_cut([b.t for b in FOUND], Cut("move", 2.45, 2.4), 0, 5)
