"""Figures of faults: what ships is small, whole and shows its fault; and one is made anew."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.review import playbook, playbook_ids
from proklisis.figures import figure_file, figures
from proklisis.simulate.figures import GAP_PX, LEAST_APART, SEEN, STILL_PX, figure


@pytest.mark.parametrize("discipline", playbook_ids())
def test_every_shipped_figure_shows_its_fault_and_is_small(discipline):
    book, shown = playbook(discipline), figures(discipline)
    assert shown and set(shown) <= set(book.faults)
    for fault, what in shown.items():
        asked = {c.measure for c in book.faults[fault].when.leaves()}
        assert what["measure"] in asked and what["measure"] in REGISTRY, fault
        assert what["scales_apart"] >= LEAST_APART, fault
        assert max(what["still_apart"], what["loop_apart"]) >= SEEN, fault
        for moving in (False, True):
            path = figure_file(discipline, fault, moving)
            assert path is not None and path.stat().st_size <= 60_000, fault
            picture = Image.open(path)
            assert getattr(picture, "n_frames", 1) == (1 if not moving else picture.n_frames)
            assert (picture.n_frames > 5) == moving, fault


def test_a_fault_without_a_figure_has_none():
    assert figure_file("drop_boof", "flips", False) is None
    assert figure_file("drop_boof", "../x", False) is None


@pytest.mark.slow
def test_a_figure_is_made_of_two_riders_who_differ_where_the_fault_is():
    found = figure(playbook("alpine_carve"), "not_level")
    assert found is not None
    still, loop, moment = found
    assert moment.measure == "shoulder_tilt" and moment.far > 2
    picture = np.asarray(Image.open(io.BytesIO(still)).convert("RGB")).astype(int)
    assert picture.shape == (STILL_PX, 2 * STILL_PX + GAP_PX, 3)
    wrong, right = picture[:, :STILL_PX], picture[:, STILL_PX + GAP_PX :]
    # The line along the shoulders, in its own colour, is tilted in the one and level in the other.
    tilts = []
    for half in (wrong, right):
        y, x = np.nonzero((np.abs(half - (255, 225, 77)) < 60).all(axis=2))
        assert len(x) > 30
        tilts.append(abs(np.degrees(np.arctan(np.polyfit(x, y, 1)[0]))))
    assert tilts[0] > tilts[1] + 10
    assert Image.open(io.BytesIO(loop)).n_frames > 5
