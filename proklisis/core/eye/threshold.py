"""The smallest fault that a coach sees three times out of four, and which size to show next.

A Bayesian threshold with a kept library (questplus): the chance to be right grows with the logarithm of the size by a
Weibull function above the chance of guessing, and the next size is the one whose answer is expected to tell most.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from questplus import QuestPlusWeibull

Array = NDArray[np.float64]
#: How often a fault is seen that is called just seen.
SEEN = 0.75
#: Sizes that a threshold may have, scales beyond the band's edge.
LEAST, MOST, STEPS = 0.15, 6.0, 40
SLOPES = (1.5, 2.5, 4.0)
LAPSES = (0.02,)
#: Fewer answers than this give no threshold.
FEWEST = 12


@dataclass(frozen=True)
class Threshold:
    """Scales beyond the band's edge, with a 95 % interval; ``n`` answers."""

    size: float
    low: float
    high: float
    n: int


YES, NO = "Yes", "No"


@cache
def _fresh(sizes: tuple[float, ...], guess: float) -> QuestPlusWeibull:
    """The estimate before any answer; making one takes a tenth of a second."""
    from questplus import QuestPlusWeibull

    return QuestPlusWeibull(
        intensities=np.log10(np.array(sizes)), thresholds=np.log10(np.geomspace(LEAST, MOST, STEPS)), slopes=list(SLOPES),
        lower_asymptotes=[guess], lapse_rates=list(LAPSES), responses=[YES, NO], stim_scale="log10",
    )  # fmt: skip


def _answered(answers: Sequence[tuple[float, bool]], sizes: Sequence[float], guess: float) -> QuestPlusWeibull:  # fmt: skip
    """The estimate after all answers; their order does not matter, so that alike ones count together."""
    quest = copy(_fresh(tuple(sizes), guess))
    logs = np.log(quest.posterior)
    for (size, right), count in Counter(answers).items():
        seen = quest.likelihoods.sel(intensity=float(np.log10(size)), response=YES if right else NO)
        logs = logs + count * np.log(seen)
    post = np.exp(logs - logs.max())
    quest.posterior = post / post.sum()
    return quest


def next_size(answers: Sequence[tuple[float, bool]], sizes: Sequence[float], guess: float) -> float:
    """Of ``sizes`` the one to show next, from (size, right) of earlier answers; ``guess`` is the chance of guessing right."""
    quest = _answered(answers, sizes, guess)
    # One step of the library: the size whose answer is expected to leave the least doubt.
    wanted = float(quest.next_intensity)
    return float(min(sizes, key=lambda s: abs(np.log10(s) - wanted)))


def threshold(answers: Sequence[tuple[float, bool]], guess: float) -> Threshold | None:
    """The size at which an answer is right three times out of four; None after too few answers."""
    if len(answers) < FEWEST:
        return None
    sizes = sorted({s for s, _ in answers})
    quest = _answered(answers, sizes, guess)
    post = quest.posterior.transpose("threshold", "slope", "lapse_rate", "lower_asymptote")
    names = ("threshold", "slope", "lapse_rate")
    t, slope, lapse = np.meshgrid(*(post.coords[n].values for n in names), indexing="ij")
    x = _seen_at(t, slope, lapse, guess).ravel()
    w = post.values.ravel()
    order = np.argsort(x)
    x, w = x[order], w[order] / w.sum()
    middle, low, high = (_quantile(x, w, q) for q in (0.5, 0.025, 0.975))
    return Threshold(float(10**middle), float(10**low), float(10**high), len(answers))


def _seen_at(t: Array, slope: Array, lapse: Array, guess: float) -> Array:
    """log₁₀ of the size at which the function reaches ``SEEN``: p = g + (1 − g − l)(1 − exp(−10^(β(x − t))))."""
    share = np.minimum((SEEN - guess) / (1 - guess - lapse), 0.999)
    return np.asarray(t + np.log10(-np.log(1 - share)) / slope)


def _quantile(x: Array, w: Array, q: float) -> float:
    """Quantile of a weighted sample, the weights' steps joined by lines."""
    done = np.cumsum(w) - w / 2
    return float(np.interp(q, done, x))
