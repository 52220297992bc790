"""Whether coaches agree, with each other and with themselves, on the same items."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import stats

#: Fewer items that all have answered give no figure.
FEWEST = 8


@dataclass(frozen=True)
class Agreement:
    """``value`` with its 95 % interval (none for three coaches or more on choices), over ``items`` that ``raters`` answered."""

    kind: str
    value: float
    low: float | None
    high: float | None
    items: int
    raters: int


def kappa(answers: Sequence[Sequence[str]]) -> Agreement | None:
    """Cohen's kappa of two coaches or Fleiss' of more, by statsmodels; one row of ``answers`` an item, one answer a coach.

    1 is full agreement, 0 what chance would give. None after too few items, or where all gave one and the same answer.
    """
    from statsmodels.stats.inter_rater import aggregate_raters, cohens_kappa, fleiss_kappa

    rows = [list(r) for r in answers]
    if len(rows) < FEWEST or len({x for r in rows for x in r}) < 2:
        return None
    raters = len(rows[0])
    names = sorted({x for r in rows for x in r})
    coded = np.array([[names.index(x) for x in r] for r in rows])
    if raters == 2:
        table = np.zeros((len(names), len(names)))
        np.add.at(table, (coded[:, 0], coded[:, 1]), 1)
        found = cohens_kappa(table)
        return Agreement("kappa", float(found.kappa), float(found.kappa_low), min(float(found.kappa_upp), 1.0), len(rows), 2)  # fmt: skip
    value = float(fleiss_kappa(aggregate_raters(coded)[0]))
    return Agreement("kappa", value, None, None, len(rows), raters)


def icc(angles: NDArray[np.float64]) -> Agreement | None:
    """Intraclass correlation of single angles in absolute agreement, ICC(A,1) (McGraw & Wong 1996).

    Parameters
    ----------
    angles : (items, coaches) degrees

    None after too few items, or where the items do not differ.
    """
    n, k = angles.shape
    if n < FEWEST or k < 2:
        return None
    grand = angles.mean()
    rows, columns = angles.mean(axis=1), angles.mean(axis=0)
    msr = k * float(((rows - grand) ** 2).sum()) / (n - 1)
    msc = n * float(((columns - grand) ** 2).sum()) / (k - 1)
    rest = angles - rows[:, None] - columns[None] + grand
    mse = float((rest**2).sum()) / ((n - 1) * (k - 1))
    below = msr + (k - 1) * mse + k / n * (msc - mse)
    if below <= 0 or msr <= 0:
        return None
    value = (msr - mse) / below
    if mse <= 0:
        return Agreement("icc", value, value, value, n, k)
    a, b = k * value / (n * (1 - value)), 1 + k * value * (n - 1) / (n * (1 - value))
    v = (a * msc + b * mse) ** 2 / ((a * msc) ** 2 / (k - 1) + (b * mse) ** 2 / ((n - 1) * (k - 1)))
    f1, f2 = float(stats.f.ppf(0.975, n - 1, v)), float(stats.f.ppf(0.975, v, n - 1))
    low = n * (msr - f1 * mse) / (f1 * (k * msc + (k * n - k - n) * mse) + n * msr)
    high = n * (f2 * msr - mse) / (k * msc + (k * n - k - n) * mse + n * f2 * msr)
    return Agreement("icc", value, low, high, n, k)


#: Kappa and the like in words (Landis & Koch 1977).
WORDS = ((0.81, "almost full"), (0.61, "good"), (0.41, "fair"), (0.21, "weak"), (-2.0, "hardly any"))  # fmt: skip


def in_words(value: float) -> str:
    """How much agreement a figure is."""
    return next(words for least, words in WORDS if value >= least)
