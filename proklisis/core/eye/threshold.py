"""The smallest fault that a coach sees three times out of four, and which size to show next.

A Bayesian threshold on a grid: the chance to be right grows with the size by a Weibull function above the chance of
guessing, p = g + (1 − g − l)·(1 − exp(−(size/t)^b)), and the next size is the one whose answer is expected to leave the
least doubt (Watson 2017, QUEST+, J Vis 17(3):10, from memory).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import entr, softmax, xlogy

Array = NDArray[np.float64]
#: How often a fault is seen that is called just seen.
SEEN = 0.75
#: Places of the function, scales beyond the band's edge; any is as likely as another before there are answers.
PLACES = np.geomspace(0.15, 6.0, 60)
#: Slopes b of the function.
SLOPES = np.array([1.5, 2.0, 2.8, 4.0])
#: Share of answers that are slips.
LAPSE = 0.02
#: Fewer answers than this give no threshold.
FEWEST = 12


@dataclass(frozen=True)
class Threshold:
    """Scales beyond the band's edge, with a 95 % interval; ``n`` answers."""

    size: float
    low: float
    high: float
    n: int


def _right(sizes: Array, guess: float) -> Array:
    """(places, slopes, sizes) chance to be right."""
    ratio = sizes[None, None] / PLACES[:, None, None]
    return np.asarray(guess + (1 - guess - LAPSE) * (1 - np.exp(-(ratio ** SLOPES[None, :, None]))))


def _posterior(answers: Sequence[tuple[float, bool]], guess: float) -> Array:
    """(places, slopes) how likely each is after the answers; their order does not matter."""
    counts = Counter(answers)
    p = _right(np.array([size for size, _ in counts]), guess)
    right = np.array([r for _, r in counts], float)
    logs = np.array(list(counts.values())) * (xlogy(right, p) + xlogy(1 - right, 1 - p))
    return np.asarray(softmax(logs.sum(axis=2)))


def next_size(answers: Sequence[tuple[float, bool]], sizes: Sequence[float], guess: float) -> float:
    """Of ``sizes`` the one to show next, from (size, right) of earlier answers; ``guess`` is the chance of guessing right."""
    weights = _posterior(answers, guess)[..., None] if answers else np.full((len(PLACES), len(SLOPES), 1), 1 / (len(PLACES) * len(SLOPES)))  # fmt: skip
    p = _right(np.array(sizes, float), guess)
    doubt = np.zeros(len(sizes))
    for chance in (p, 1 - p):
        joint = weights * chance
        total = joint.sum(axis=(0, 1))
        doubt += total * entr(joint / total).sum(axis=(0, 1))
    return float(sizes[int(doubt.argmin())])


def threshold(answers: Sequence[tuple[float, bool]], guess: float) -> Threshold | None:
    """The size at which an answer is right three times out of four; None after too few answers."""
    if len(answers) < FEWEST:
        return None
    share = (SEEN - guess) / (1 - guess - LAPSE)
    # Where each function reaches it: log t + log(−log(1 − share))/b.
    x = (np.log(PLACES)[:, None] + np.log(-np.log(1 - share)) / SLOPES[None]).ravel()
    w = _posterior(answers, guess).ravel()
    order = np.argsort(x)
    done = np.cumsum(w[order]) - w[order] / 2
    middle, low, high = (float(np.exp(np.interp(q, done, x[order]))) for q in (0.5, 0.025, 0.975))
    return Threshold(middle, low, high, len(answers))
