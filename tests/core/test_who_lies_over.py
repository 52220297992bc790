"""A rider who lies far over on a slope, seen from the side: how far ahead the hips are does not change with the lean."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.review import review
from proklisis.simulate.run import simulate


@pytest.mark.thorough
@pytest.mark.parametrize("body", [None, 6])
def test_an_expert_s_fore_and_aft_is_read_on_a_slope(body):
    sim = simulate(
        "alpine_carve", {}, level="elite", view="side_left", seed=941, units=5, body=body
    )
    true = {(r.id, r.segment, r.phase): r.value for r in sim.truth().readings}
    for measure, near in (("hip_fore_aft", 0.012), ("com_fore_aft", 0.015)):
        off, inside = [], []
        for r in review(sim.tracks, "alpine_carve").readings:
            if r.id == measure and (r.id, r.segment, r.phase) in true:
                off.append(r.value - true[r.id, r.segment, r.phase])
                inside.append(abs(off[-1]) <= 1.96 * r.u)
        assert len(off) >= 16
        assert np.median(np.abs(off)) < near and np.mean(inside) >= 0.9
