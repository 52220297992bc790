"""A part of a film as a clip of its own, in the same file."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.footage.frames import frames
from proklisis.footage.people import sample_numbers
from proklisis.footage.probe import part, probe
from proklisis.footage.working_copy import make_working_copy
from proklisis.simulate.fiducial import read

pytestmark = pytest.mark.slow


@pytest.mark.parametrize(("from_s", "to_s"), [(0.0, 1.0), (1.3, 2.2), (3.0, 99.0)])
def test_the_frames_of_a_part_and_of_its_copy_are_those_of_the_film(
    short_clip, tmp_path, from_s, to_s
):
    film = probe(short_clip)
    its = part(film, from_s, to_s)
    first = int(np.searchsorted(film.t, from_s - 1e-6))
    wanted = list(range(first, first + len(its.t)))
    assert its.t[0] == 0.0 and its.t[-1] <= to_s - from_s + 1e-6
    seen = [(f.number, read(f.picture)) for f in frames(its)]
    assert seen == list(zip(range(len(wanted)), wanted, strict=True))
    # From the middle on, too, as a worker takes its piece.
    assert [read(f.picture) for f in frames(its, 7, 12)] == wanted[7:12]
    make_working_copy(its, tmp_path / "copy.mp4")
    copy = probe(tmp_path / "copy.mp4")
    assert [read(f.picture) for f in frames(copy)] == wanted
    assert np.allclose(copy.t, its.t, atol=1e-3)
    assert all(0 <= n < len(its.t) for n in sample_numbers(its))


def test_a_part_of_a_part_is_a_part_of_the_film(short_clip):
    film = probe(short_clip)
    inner = part(part(film, 1.0, 3.0), 0.5, 1.0)
    assert inner.into == pytest.approx(1.5, abs=0.02)
    assert read(next(iter(frames(inner))).picture) == int(np.searchsorted(film.t, 1.5 - 1e-6))


@pytest.mark.parametrize(("from_s", "to_s"), [(2.0, 1.0), (50.0, 60.0), (1.0, 1.05)])
def test_a_part_that_is_none_is_refused(short_clip, from_s, to_s):
    with pytest.raises(InputError, match="frames"):
        part(probe(short_clip), from_s, to_s)
