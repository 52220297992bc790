"""A measure over time with everything that makes it uncertain kept apart.

Noise of the landmarks averages out over frames; a wrong camera level or slope does not.
Both are carried, so that a phase's mean and the difference of two phases each get the
uncertainty they deserve (JCGM 100:2008, 5.2: correlated inputs).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import Measure
from proklisis.core.rider.figure import FACTS, Figure
from proklisis.core.uncertainty import Value

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Part:
    """A value, its random u, its own slow u, and how far each scene fact could move it."""

    value: float
    random: float
    slow: float
    facts: Array

    def whole(self, model_u: float) -> Value:
        total = self.random**2 + self.slow**2 + float(self.facts @ self.facts) + model_u**2
        return Value(self.value, float(np.sqrt(total)))


@dataclass(frozen=True)
class Trace:
    """Per-frame values of one measure for one limb.

    Attributes
    ----------
    t : (n,) seconds
    value : (n,) in the measure's unit
    noise : (n,) standard uncertainty of one raw frame from the landmarks
    slow : (n,) further uncertainty that does not average out over a phase
    facts : (f, n) change of the value when each scene fact moves by its u
    """

    measure: Measure
    limb: str
    t: Array
    value: Array
    noise: Array
    slow: Array
    facts: Array
    fps: float
    cutoff_hz: float
    corr_s: float

    def frame_u(self) -> Array:
        """(n,) standard uncertainty of the smoothed value at each frame."""
        share = np.sqrt(1.0 / self._independent(0.0))
        return np.asarray(
            np.sqrt((self.noise * share) ** 2 + self.slow**2 + (self.facts**2).sum(axis=0)
                    + self.measure.model_u**2)
        )  # fmt: skip

    def _independent(self, duration: Array | float) -> Array:
        """Number of independent frames behind the mean of a smoothed signal over ``duration``."""
        window = np.hypot(duration, 1.0 / (2 * self.cutoff_hz))
        return np.asarray(np.maximum(1.0, window / (1.0 / self.fps + 2 * self.corr_s)))

    def mean(self, a: float, b: float) -> Part | None:
        """Mean over [a, b] seconds, or None when under half of its frames are seen."""
        return self.means(np.array([a]), np.array([b]))[0]

    def means(self, a: Array, b: Array) -> list[Part | None]:
        """:meth:`mean` over many intervals at once."""
        value, noise, slow, facts, enough = self._means(a, b)
        return [
            Part(float(value[k]), float(noise[k]), float(slow[k]), facts[:, k])
            if enough[k]
            else None
            for k in range(len(a))
        ]

    def wholes(self, a: Array, b: Array) -> tuple[Array, Array]:
        """(m,) values and standard uncertainties of the means over many intervals; NaN where under half of the frames are seen."""
        value, noise, slow, facts, enough = self._means(a, b)
        u = np.sqrt(noise**2 + slow**2 + (facts**2).sum(axis=0) + self.measure.model_u**2)
        return np.where(enough, value, np.nan), u

    def _means(self, a: Array, b: Array) -> tuple[Array, Array, Array, Array, NDArray[np.bool_]]:
        """Values, random and slow parts, (f, m) parts of the facts, and whether enough is seen, by differences of running sums."""
        i, j = self._spans(a, b)
        totals = self._totals
        n = totals["seen"][j] - totals["seen"][i]
        with np.errstate(invalid="ignore", divide="ignore"):
            value = (totals["value"][j] - totals["value"][i]) / n
            noise2 = np.maximum(totals["noise2"][j] - totals["noise2"][i], 0) / n
            slow2 = np.maximum(totals["slow2"][j] - totals["slow2"][i], 0) / n
            facts = (totals["facts"][:, j] - totals["facts"][:, i]) / n
        independent = self._independent(np.minimum(b - a, n / self.fps))
        enough = n >= np.maximum(1, (j - i + 1) // 2)
        return value, np.sqrt(noise2 / independent), np.sqrt(slow2), facts, enough

    @cached_property
    def _totals(self) -> dict[str, Array]:
        """Running sums over the seen frames, each with a leading 0."""
        ok = np.isfinite(self.value)

        def running(x: Array) -> Array:
            kept = np.where(ok, x, 0.0)
            return np.concatenate(
                [np.zeros((*kept.shape[:-1], 1)), np.cumsum(kept, axis=-1)], axis=-1
            )

        return {
            "seen": running(np.ones(len(ok))),
            "value": running(self.value),
            "noise2": running(self.noise**2),
            "slow2": running(self.slow**2),
            "facts": running(self.facts),
        }

    def at(self, when: float) -> Part | None:
        """Value at one instant, from the nearest frame."""
        i = int(
            np.clip(
                round(float(np.interp(when, self.t, np.arange(len(self.t))))), 0, len(self.t) - 1
            )
        )
        if not np.isfinite(self.value[i]):
            return None
        noise = float(self.noise[i] / np.sqrt(self._independent(0.0)))
        return Part(float(self.value[i]), noise, float(self.slow[i]), self.facts[:, i])

    def _spans(self, a: Array, b: Array) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Index ranges of the frames inside each [a, b], one frame at the least."""
        i = np.searchsorted(self.t, a - 1e-9)
        j = np.searchsorted(self.t, b + 1e-9)
        empty = j <= i
        i = np.where(empty, np.minimum(i, len(self.t) - 1), i)
        return i, np.where(empty, i + 1, j)


def difference(first: Part, second: Part) -> Part:
    """second − first: noise adds up, a shared wrong fact partly cancels."""
    return Part(
        second.value - first.value,
        float(np.hypot(first.random, second.random)),
        float(np.hypot(first.slow, second.slow)),
        second.facts - first.facts,
    )


def ratio(top: Part, bottom: Part) -> Part:
    """top ÷ bottom, to first order."""
    q = top.value / bottom.value
    return Part(
        q,
        float(np.hypot(top.random, q * bottom.random) / abs(bottom.value)),
        float(np.hypot(top.slow, q * bottom.slow) / abs(bottom.value)),
        (top.facts - q * bottom.facts) / bottom.value,
    )


def _call(m: Measure, figure: Figure, limb: str) -> tuple[Array, Array | None]:
    assert m.read is not None
    result: Any = m.read(figure, limb) if limb else m.read(figure)
    value, own = result if isinstance(result, tuple) else (result, None)
    return (value * figure.side if m.signed else value), own


def build_trace(m: Measure, figure: Figure, shifted: dict[str, Figure], limb: str = "") -> Trace:
    """Evaluate a measure on a figure and propagate its landmarks and facts (GUM 5.1, 5.2).

    ``shifted`` maps each uncertain scene fact to the figure with that fact moved by its u.
    Landmarks are nudged one coordinate at a time; only those the measure touched count.
    """
    probe = replace(figure, touched=set())
    value, own = _call(m, probe, limb)
    variance = np.zeros_like(value)
    touched = set(probe.touched)
    for nudged in figure.nudges(touched):
        moved, _ = _call(m, nudged, limb)
        variance += np.nan_to_num((moved - value) ** 2)
    facts = np.zeros((len(FACTS), len(value)))
    for i, name in enumerate(FACTS):
        if name in shifted:
            facts[i] = np.nan_to_num(_call(m, shifted[name], limb)[0] - value)
    slow = np.zeros_like(value) if own is None else np.nan_to_num(own)
    return Trace(
        m, limb, figure.t, value, np.sqrt(variance), slow, facts,
        figure.fps, figure.cutoff_hz, figure.corr_s,
    )  # fmt: skip
