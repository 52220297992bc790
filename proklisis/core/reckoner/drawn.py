"""The plot of a calculator: its answer over one of its quantities, with ± as a soft edge."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from proklisis.core.reckoner.declared import Plot
from proklisis.core.reckoner.reckon import Asked
from proklisis.core.reckoner.solve import OUTSIDE, slopes, solve

#: Places along the plot.
PLACES = 33
#: The plot runs from this share of where the quantity stands to so many times it, within its span (house choice).
FROM, TO = 0.5, 1.8
#: Values within this ratio are drawn over the same range.
STEP = 1.6


@dataclass(frozen=True)
class Drawn:
    """Points (x, y, U of y) of a plot, where the answer stands on it, and whether x was given and may be moved."""

    x: str
    y: str
    points: list[tuple[float, float, float]]
    at: tuple[float, float]
    moves: bool


def drawn(asked: Asked) -> Drawn | None:
    """The first of a calculator's plots all of whose quantities are known, one over what was given before others."""
    possible = [p for p in asked.calc.plots if {p.x, p.y, *p.fixed} <= asked.known.keys()]
    for plot in sorted(possible, key=lambda p: p.x not in asked.inputs):
        points = _points(asked, plot)
        if len(points) > 1:
            at = (float(asked.known[plot.x]), float(asked.known[plot.y]))
            return Drawn(plot.x, plot.y, points, at, plot.x in asked.inputs)
    return None


def span(asked: Asked, key: str) -> tuple[float, float]:
    """From where to where a quantity is drawn and may be dragged, around where it stands."""
    value = float(asked.known[key])
    low, high = asked.calc.about(key).span or (-math.inf, math.inf)
    # The same for values that lie near each other, so that it stands still while one is dragged.
    size = STEP ** round(math.log(abs(value)) / math.log(STEP)) if value else 1.0
    first, last = (FROM * size, TO * size) if value >= 0 else (-TO * size, TO * size)
    first, last = max(min(first, value), low), min(max(last, value), high)
    return (first, last) if last > first else (value - size, value + size)


def _points(asked: Asked, plot: Plot) -> list[tuple[float, float, float]]:
    fixed = {k: asked.known[k] for k in plot.fixed}
    us = {k: asked.us.get(k, 0.0) for k in asked.given}
    out = []
    for x in np.linspace(*span(asked, plot.x), PLACES):
        try:
            known, _ = solve(asked.calc, {**fixed, plot.x: float(x)}, us, enough=plot.y)
        except OUTSIDE:
            continue
        if plot.y in known:
            doubts = {k: u for k, u in us.items() if k in plot.fixed and u > 0}
            u = slopes(asked.calc, {**fixed, plot.x: float(x)}, us, doubts, plot.y)
            out.append((float(x), float(known[plot.y]), 2 * u))
    return out
