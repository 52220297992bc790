"""Things that stand beside the way: brush that marks it, and a wood behind."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from proklisis.simulate.render.outfit import Colour
from proklisis.simulate.render.parts import Array, Parts

#: Half as wide as the ice, from its middle to its boards; a panel's length; from one painted line to the next, metres.
RINK, PANEL, LINES = 9.0, 2.4, 7.5
#: A camera farther from the middle of the way stands beside it, metres.
BESIDE = 3.0

Ground = Callable[[float, float], Array]
BARK: Colour = (0.26, 0.18, 0.12)
SNOW: Colour = (0.90, 0.93, 0.97)


def add_brush(
    out: Parts, ground: Ground, ends: tuple[float, float], rng: np.random.Generator
) -> None:
    """Twigs at both edges of the way, from one end of it to the other (metres along)."""
    for y in np.arange(*ends, 3.5):
        for x in (-5.5, 5.5):
            foot = ground(x + 0.4 * rng.standard_normal(), y + rng.standard_normal())
            tall = 0.25 + 0.2 * rng.random()
            top = foot + np.array([0, 0, tall]) + np.array([0.08, 0.08, 0]) * rng.standard_normal(3)
            out.add(foot, top, 0.015, 0.01, (0.30, 0.20, 0.12))
            out.add(foot + [0, 0, 0.35 * tall], top, 0.07, 0.02, (0.10, 0.28, 0.16))


def add_trees(
    out: Parts, ground: Ground, ends: tuple[float, float], snowy: bool, rng: np.random.Generator
) -> None:
    """Conifers on both sides, a few metres apart, the nearest eight metres off the middle of the way."""
    for y in np.arange(*ends, 4.0):
        for side in (-1.0, 1.0):
            foot = ground(side * (8.0 + 16.0 * rng.random() ** 1.5), y + 2 * rng.standard_normal())
            tall = rng.uniform(3.5, 8.0)
            shade = rng.uniform(0.7, 1.3)
            green = (0.07 * shade, 0.20 * shade, 0.12 * shade)
            white = snowy and rng.random() < 0.5
            out.add(foot, foot + [0, 0, 0.3 * tall], 0.03 * tall, 0.025 * tall, BARK)
            for k, (low, high, wide) in enumerate(((0.15, 0.55, 0.19), (0.40, 0.78, 0.14), (0.64, 1.0, 0.09))):  # fmt: skip
                colour = SNOW if white and k == 2 else green
                out.add(foot + [0, 0, low * tall], foot + [0, 0, high * tall], wide * tall, 0.01 * tall, colour, stripe=SNOW if white else None, stripe_width=0.3 if white else 0.0)  # fmt: skip


#: Colours of the panels along a rink.
PANELS: tuple[Colour, ...] = (
    (0.93, 0.94, 0.95), (0.16, 0.30, 0.55), (0.93, 0.94, 0.95), (0.80, 0.62, 0.14), (0.90, 0.91, 0.93), (0.20, 0.46, 0.36),
)  # fmt: skip
RED: Colour = (0.72, 0.16, 0.16)
BLUE: Colour = (0.16, 0.28, 0.62)


def add_rink(
    out: Parts, ground: Ground, ends: tuple[float, float], eye: Array, rng: np.random.Generator
) -> None:
    """Boards along both long sides of the ice, a painted line across it here and there, and the seats' rails above.

    ``eye`` is where the camera stands: the boards on its own side are left out where it stands beside the way.
    """
    beside = abs(float(eye[0])) > BESIDE
    for side in (-1.0, 1.0):
        if beside and side * eye[0] > 0:
            continue
        for y in np.arange(*ends, PANEL):
            _panel(out, ground(side * RINK, y), ground(side * RINK, y + 0.96 * PANEL), rng)
    for y in ends:
        for x in np.arange(-RINK, RINK, PANEL):
            _panel(out, ground(x, y), ground(x + 0.96 * PANEL, y), rng)
    for k, y in enumerate(np.arange(*ends, LINES)):
        a, b = ground(-RINK, y), ground(RINK, y)
        out.add(a, b, 0.14, 0.14, RED if k % 3 else BLUE, side=np.array([0.0, 1.0, 0.0]), flat=0.02)


def _panel(out: Parts, a: Array, b: Array, rng: np.random.Generator) -> None:
    """A panel of the boards from ``a`` to ``b`` on the ice, with the rail of the seats above it."""
    up, colour = np.array([0.0, 0.0, 1.0]), PANELS[int(rng.integers(len(PANELS)))]
    out.add(a + 0.55 * up, b + 0.55 * up, 0.55, 0.55, colour, side=up, flat=0.06)
    out.add(a + 0.10 * up, b + 0.10 * up, 0.11, 0.11, (0.85, 0.70, 0.15), side=up, flat=0.4)
    out.add(a + 1.4 * up, a + 2.6 * up, 0.03, 0.03, (0.25, 0.27, 0.30))
    out.add(a + 2.0 * up, b + 2.0 * up, 0.04, 0.04, (0.30, 0.32, 0.36))
