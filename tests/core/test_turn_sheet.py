"""What the turn sheet says of a value: against its band, and among its like."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.comparing.turn_sheet import against, standing_out
from proklisis.core.playbook.bands import WantedBand


def band(lo, hi):
    return WantedBand("lean", None, None, (lo, hi), "a_fault")


def test_a_value_is_called_outside_or_inside_only_where_its_uncertainty_allows():
    assert against(30, 2, [band(10, 20)]) == "outside"
    assert against(15, 1, [band(10, 20)]) == "inside"
    assert against(21, 2, [band(10, 20)]) == "unsure"
    assert against(19.5, 2, [band(10, 20)]) == "unsure"
    assert against(30, 8, [band(10, 20)]) == "unsure"
    # An open end, several bands, none at all, and a clock that nobody has borne out.
    assert against(-50, 2, [band(None, 20)]) == "inside"
    assert against(15, 1, [band(10, 20), band(18, None)]) == "outside"
    assert against(15, 1, []) is None
    assert against(30, 2, [band(10, 20)], sure=False) == "unsure"


def test_one_that_is_far_from_its_like_stands_out_and_a_wide_one_does_not():
    values, us = [10, 11, 10, 12, 11, 30], [1.0] * 6
    assert standing_out(values, us) == [False] * 5 + [True]
    assert not any(standing_out(values, [1.0] * 5 + [12.0]))
    # Of few nothing can be said; where all are equal, ± alone decides.
    assert not any(standing_out([1, 1, 30], [0.1] * 3))
    assert standing_out([5, 5, 5, 5, 5.4], [0.5] * 5) == [False] * 5


def test_by_chance_alone_hardly_any_value_stands_out():
    rng = np.random.default_rng(0)
    found = [
        sum(standing_out(list(rng.normal(0, 1, n)), [1.0] * n)) / n
        for n in (4, 6, 8, 12)
        for _ in range(400)
    ]
    assert np.mean(found) < 0.03


@pytest.mark.parametrize("u", [0.0])
def test_a_value_without_uncertainty_is_inside_or_outside(u):
    assert against(9.99, u, [band(10, 20)]) == "outside"
    assert against(10.0, u, [band(10, 20)]) == "inside"
