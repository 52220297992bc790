"""Double-poling cycles, from pole plant to pole plant, by the height of the pole tips over the snow."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import NotFollowed
from proklisis.core.rider.figure import Figure
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import boundary, crossings, ground_level, leg, signal_of
from proklisis.core.splitting.units import Boundary, Unit

Array = NDArray[np.float64]
TIPS = ("l_pole_tip", "r_pole_tip")
#: Plants are told where a tip is followed in this share of the frames (house choice).
MOSTLY = 0.6
#: A tip this close to the snow, in leg lengths, is on it (house choice).
TOUCH = 0.05
#: The tip's speed up or down is read over this long around that height, and it is no longer on its way to the snow than that (house choice).
FALLS_S, LONGEST_FALL_S = 0.05, 0.05
#: The plant and the release are read over this long after and around the event, seconds (house choice).
AROUND_S = 0.04


def tip_height(figure: Figure) -> Array:
    """(n,) mean height of both pole tips over the snow, leg lengths; of one, in frames where the other is not followed."""
    tips = [figure[p][:, 2] for p in TIPS if p in figure.points]
    both = np.stack(tips)
    seen = np.isfinite(both)
    mean = np.where(seen, both, 0.0).sum(axis=0) / np.where(
        seen.any(axis=0), seen.sum(axis=0), np.nan
    )
    return np.asarray((mean - ground_level(figure)) / leg(figure))


def poling_signal(figure: Figure) -> EventSignal:
    """Poles are planted together, so that one tip tells for both; NotFollowed where none is followed through much of the run."""
    seen = [p for p in TIPS if p in figure.points]
    if not seen or np.isfinite([figure[p][:, 2] for p in seen]).any(axis=0).mean() < MOSTLY:
        raise NotFollowed(*TIPS)
    return signal_of(figure, tip_height(figure))


def contacts(figure: Figure, heights: Array) -> list[tuple[float, int]]:
    """Times at which the tips leave (+1) and touch (−1) the snow.

    A tip that is as near to the snow as can be told is still on its way: how fast it sinks or rises there says how long.
    """
    t, out = figure.t, []
    for when, way in crossings(t, heights, TOUCH, 0.3 * TOUCH):
        before, after = np.interp([when - FALLS_S / 2, when + FALLS_S / 2], t, heights)
        speed = max(way * (after - before) / FALLS_S, TOUCH / LONGEST_FALL_S)
        out.append((when - way * TOUCH / speed, way))
    return out


def poling_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    return [boundary(when, figure.fps) for when, way in contacts(figure, signal.values) if way < 0]


def poling_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    releases = [when for when, way in contacts(figure, poling_signal(figure).values) if way > 0]
    out = []
    for n, (a, b) in enumerate(itertools.pairwise(sorted(boundaries, key=lambda x: x.t)), start=1):
        inside = [r for r in releases if a.t < r < b.t]
        release = inside[0] if inside else a.t + 0.35 * (b.t - a.t)
        phases = {
            "plant": (a.t, a.t + AROUND_S), "drive": (a.t + AROUND_S, release - AROUND_S),
            "release": (release - AROUND_S, release + AROUND_S / 2), "reposition": (release + AROUND_S / 2, b.t),
        }  # fmt: skip
        out.append(Unit(n, a, b, phases, events={"plant": a.t, "release": release}))
    return out
