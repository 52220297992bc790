"""Things that stand beside the way: brush that marks it, and a wood behind."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from proklisis.simulate.render.outfit import Colour
from proklisis.simulate.render.parts import Array, Parts

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
