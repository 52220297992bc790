"""Pictures of the simulated skier: where the truth says a limb is, a limb is drawn."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.simulate.render.outfit import Outfit, outfit
from proklisis.simulate.render.renderer import Renderer

pytestmark = pytest.mark.slow


def drawn(run, frame: int, wear: Outfit):
    with Renderer(run.motion, run.shot, wear, 1) as renderer:
        return renderer.frame(frame, {n: p[frame] for n, p in run.motion.points.items()})


def colour_at(picture, xy, reach: int = 3) -> np.ndarray:
    x, y = map(round, map(float, xy))
    return np.median(
        picture[y - reach : y + reach + 1, x - reach : x + reach + 1].reshape(-1, 3), axis=0
    )


@pytest.mark.parametrize(
    "options",
    [{}, {"roll_deg": 12.0}, {"k1": -0.25}, {"offset_deg": 15.0}],
    ids=["plain", "rolled", "lens", "offset"],
)
def test_limbs_are_drawn_where_the_truth_has_them(simulated, options):
    run = simulated(view="front", seed=14, units=2, **options)
    wear = Outfit(trousers=(0.9, 0.05, 0.05), jacket=(0.05, 0.1, 0.9), stripe=(0.9, 0.05, 0.05))
    picture = drawn(run, 60, wear)
    exact = run.exact
    hip, knee = (exact.point(n)[60] for n in ("l_hip", "l_knee"))
    red, _, blue = colour_at(picture, (hip + knee) / 2)
    assert red > blue + 40
    chest = (
        0.6 * (exact.point("l_shoulder")[60] + exact.point("r_shoulder")[60]) / 2
        + 0.4 * (exact.point("l_hip")[60] + exact.point("r_hip")[60]) / 2
    )
    red, _, blue = colour_at(picture, chest)
    assert blue > red + 40


def test_the_snow_passes_under_a_panning_camera(simulated):
    run = simulated(view="rear", seed=14, units=2)
    a, b = (drawn(run, i, outfit(2)).astype(int) for i in (40, 44))
    corner = np.s_[560:, :300]
    assert np.abs(a[corner] - b[corner]).mean() > 1.0


def test_outfits_differ_and_repeat():
    assert outfit(3) == outfit(3)
    assert len({outfit(s).jacket for s in range(12)}) > 3
    assert all(outfit(s).jacket != outfit(s).trousers for s in range(12))
