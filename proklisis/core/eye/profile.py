"""How good an eye is: bias and spread, false alarms, order, progress; each with a 95 % interval."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from proklisis.core.playbook.cues import Share, share

LEVEL = 0.95
#: Fewer answers than this give no figure.
FEWEST = 5


@dataclass(frozen=True)
class Interval:
    """A figure with its 95 % interval, from ``n`` answers."""

    value: float
    low: float
    high: float
    n: int


@dataclass(frozen=True)
class BiasAndSpread:
    bias: Interval
    spread: Interval


def bias_and_spread(errors: Sequence[float]) -> BiasAndSpread | None:
    """Mean error with Student's interval, and its standard deviation with that of χ²; None after too few answers."""
    x = np.asarray(errors, float)
    n = len(x)
    if n < FEWEST:
        return None
    mean, sd = float(x.mean()), float(x.std(ddof=1))
    half = float(stats.t.ppf(0.5 + LEVEL / 2, n - 1)) * sd / math.sqrt(n)
    low, high = (float(stats.chi2.ppf(q, n - 1)) for q in (0.5 + LEVEL / 2, 0.5 - LEVEL / 2))
    return BiasAndSpread(
        Interval(mean, mean - half, mean + half, n),
        Interval(sd, sd * math.sqrt((n - 1) / low), sd * math.sqrt((n - 1) / high), n),
    )


@dataclass(frozen=True)
class Detection:
    """How well faults are told from none: ``d_prime``, and ``criterion`` (+ = slow to say that something is wrong)."""

    d_prime: Interval
    criterion: Interval
    false_alarms: Share
    hits: Share


def detection(hits: int, faults: int, alarms: int, clean: int) -> Detection | None:
    """Signal detection from ``hits`` of ``faults`` riders with a fault and ``alarms`` of ``clean`` ones without.

    d′ = z(H) − z(F), c = −(z(H) + z(F))/2 with the log-linear correction (Hautus 1995); variances by
    Gourevitch & Galanter (1967). None after too few of either.
    """
    if min(faults, clean) < FEWEST:
        return None
    h, f = (hits + 0.5) / (faults + 1), (alarms + 0.5) / (clean + 1)
    zh, zf = float(stats.norm.ppf(h)), float(stats.norm.ppf(f))
    variance = h * (1 - h) / (faults * stats.norm.pdf(zh) ** 2) + f * (1 - f) / (clean * stats.norm.pdf(zf) ** 2)  # fmt: skip
    z = float(stats.norm.ppf(0.5 + LEVEL / 2))
    d, c, n = zh - zf, -(zh + zf) / 2, faults + clean
    sd = math.sqrt(float(variance))
    return Detection(
        Interval(d, d - z * sd, d + z * sd, n), Interval(c, c - z * sd / 2, c + z * sd / 2, n), share(alarms, clean), share(hits, faults)
    )  # fmt: skip


@dataclass(frozen=True)
class Week:
    """One week of answers: how many were right; ``start`` in days from the first answer."""

    start: int
    right: int
    n: int


def by_week(days: Sequence[float], right: Sequence[bool]) -> list[Week]:
    """Answers put into weeks of seven days from the first one; weeks without any are left out."""
    if not days:
        return []
    first = min(days)
    weeks: dict[int, list[bool]] = {}
    for day, ok in zip(days, right, strict=True):
        weeks.setdefault(int((day - first) // 7), []).append(ok)
    return [Week(7 * k, sum(v), len(v)) for k, v in sorted(weeks.items())]
