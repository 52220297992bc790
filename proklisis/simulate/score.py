"""How a run is composed: wishes by measure, beats, and curves through points in time.

A rider module asks for a wish by the key of a measure, ``measure[@phase][#side][.limb]``, in the
measure's own unit. What comes out is measured on the exact positions, and the wishes are moved
until it is what was wanted: a rider's code may be roughly right, the run is exactly so.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.interpolate import PchipInterpolator

from proklisis.core.playbook.schema import Condition
from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate import rig
from proklisis.simulate.motion import Motion

Array = NDArray[np.float64]


def key_of(leaf: Condition) -> str:
    """The key under which a condition's measure is wished for."""
    name = leaf.measure or ""
    name += f"/{leaf.over}" if leaf.over else f"-{leaf.minus}" if leaf.minus else ""
    return (
        name
        + (f"@{leaf.phase}" if leaf.phase else "")
        + (f"#{leaf.side}" if leaf.side else "")
        + (f".{leaf.limb}" if leaf.limb else "")
    )


@dataclass(frozen=True)
class Score:
    """What a rider module is given: wishes, number of units, clock, size and conditions."""

    wishes: Mapping[str, float]
    spread: Mapping[str, float]
    units: int
    fps: float
    seed: int
    stature_m: float
    level: Level
    given: Mapping[str, object]
    stance: str | None = None
    seg: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.seg.update(rig.segments(self.stature_m, np.random.default_rng([self.seed, 1])))

    def rng(self, stream: int) -> np.random.Generator:
        """A random stream of its own for each use, so that one wish does not shift another's dice."""
        return np.random.default_rng([self.seed, 20 + stream])

    def __getitem__(self, key: str) -> float:
        return self.wishes[key]

    def per_unit(self, key: str) -> Array:
        """(units,) a wish as it comes out in each unit, a little different every time."""
        dice = np.random.default_rng([self.seed, 7, *key.encode()]).standard_normal(self.units)
        return np.asarray(
            self.wishes[key] + self.spread.get(key, 0.0) * np.clip(dice - dice.mean(), -1.5, 1.5)
        )

    def beats(self, mean_s: float, sd_share: float = 0.03) -> Array:
        """(units,) durations in seconds around ``mean_s``."""
        dice = np.clip(self.rng(0).standard_normal(self.units), -2, 2)
        return np.asarray(mean_s * (1 + sd_share * (dice - dice.mean())))

    def clock(self, length_s: float) -> Array:
        return np.arange(round(length_s * self.fps)) / self.fps


def curve(t: Array, knots: Sequence[tuple[float, float]]) -> Array:
    """A smooth curve through (time, value) points that does not overshoot them; flat outside."""
    last: dict[float, float] = {}
    for when, value in sorted(knots, key=lambda k: k[0]):
        last[round(float(when), 6)] = float(value)
    x, y = np.array(list(last)), np.array(list(last.values()))
    if len(x) == 1:
        return np.full_like(t, y[0])
    return np.asarray(PchipInterpolator(x, y)(np.clip(t, x[0], x[-1])))


def bump(t: Array, at: float, half: float) -> Array:
    """1 at ``at``, smoothly 0 from ``half`` seconds away."""
    return np.asarray(
        np.where(np.abs(t - at) < half, 0.5 + 0.5 * np.cos(np.pi * (t - at) / half), 0.0)
    )


def step(t: Array, at: float, half: float) -> Array:
    """From 0 to 1 around ``at``, within ``half`` seconds to either side."""
    x = np.clip((t - at) / (2 * half) + 0.5, 0, 1)
    return np.asarray(x * x * (3 - 2 * x))


def lerp(a: ArrayLike, b: ArrayLike, w: ArrayLike) -> Array:
    return np.asarray(np.asarray(a) + (np.asarray(b) - np.asarray(a)) * np.asarray(w))


@dataclass(frozen=True)
class Rider:
    """A simulated discipline.

    Attributes
    ----------
    move : a score in, exact motion out
    clean : level → wish by key; a clean rider's values, inside the bands
    view : where it is filmed from unless a fault shows from elsewhere
    views : where else it may be filmed from, best first
    given : conditions of the run
    stance : for board riders
    rough : keys that are wishes of the rider module only and measure nothing
    high : measures whose band is missed at its upper end where it has two
    """

    move: Callable[[Score], Motion]
    clean: Callable[[Level], dict[str, float]]
    view: str
    views: tuple[str, ...] = ("side_right", "front", "rear", "above")
    given: Mapping[str, str | bool | float] = field(default_factory=dict)
    stance: str | None = None
    rough: frozenset[str] = frozenset()
    high: frozenset[str] = frozenset()
    #: Measures that this rider does not miss on purpose.
    unmoved: frozenset[str] = frozenset()
