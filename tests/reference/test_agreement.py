"""Agreement between coaches against libraries of general use and published tables."""

from __future__ import annotations

import numpy as np
import pingouin
import pytest
from scipy import optimize, stats
from sklearn.metrics import cohen_kappa_score

from proklisis.core.eye.agreement import icc, kappa
from proklisis.core.eye.profile import detection
from proklisis.core.eye.threshold import threshold

#: Shrout & Fleiss 1979, Psychol Bull 86, table 2: six targets, four judges (values from memory).
SHROUT_FLEISS = np.array([[9, 2, 5, 8], [6, 1, 3, 2], [8, 4, 6, 8], [7, 1, 2, 6], [10, 5, 6, 9], [6, 2, 4, 7]], float)  # fmt: skip


def test_the_intraclass_correlation_is_shrout_and_fleiss(monkeypatch):
    monkeypatch.setattr("proklisis.core.eye.agreement.FEWEST", 6)
    # ICC(2,1) of that table is 0.29.
    assert icc(SHROUT_FLEISS).value == pytest.approx(0.29, abs=0.005)


def test_the_intraclass_correlation_is_pingouins():
    import pandas as pd

    rng = np.random.default_rng(2)
    for n, k, noise in ((12, 2, 2.0), (30, 3, 5.0), (9, 4, 10.0)):
        angles = rng.normal(20, 8, (n, 1)) + rng.normal(0, 2, (1, k)) + rng.normal(0, noise, (n, k))
        ours = icc(angles)
        long = pd.DataFrame({"item": np.repeat(np.arange(n), k), "coach": np.tile(np.arange(k), n), "deg": angles.ravel()})  # fmt: skip
        table = pingouin.intraclass_corr(long, targets="item", raters="coach", ratings="deg")
        theirs = table[table["Type"].isin(["ICC2", "ICC(A,1)"])].iloc[0]
        assert ours.value == pytest.approx(float(theirs["ICC"]), abs=1e-3)
        interval = theirs[next(c for c in table.columns if "95" in c)]
        assert (ours.low, ours.high) == pytest.approx(tuple(interval), abs=0.01)


def test_kappa_of_two_is_cohens():
    rng = np.random.default_rng(3)
    a = rng.choice(list("xyz"), 60)
    b = np.where(rng.random(60) < 0.7, a, rng.choice(list("xyz"), 60))
    found = kappa([[p, q] for p, q in zip(a, b, strict=True)])
    # scikit-learn has its own Cohen's kappa.
    assert found.value == pytest.approx(cohen_kappa_score(a, b))
    assert found.low < found.value < found.high


def test_kappa_of_many_is_fleiss():
    # Fleiss 1971, Psychol Bull 76, as retold in textbooks: ten subjects, fourteen raters, five categories, kappa 0.21 (from memory).
    counts = [
        [0, 0, 0, 0, 14], [0, 2, 6, 4, 2], [0, 0, 3, 5, 6], [0, 3, 9, 2, 0], [2, 2, 8, 1, 1],
        [7, 7, 0, 0, 0], [3, 2, 6, 3, 0], [2, 5, 3, 2, 2], [6, 5, 2, 1, 0], [0, 2, 2, 3, 7],
    ]  # fmt: skip
    answers = [[str(k) for k, n in enumerate(row) for _ in range(n)] for row in counts]
    assert kappa(answers).value == pytest.approx(0.210, abs=0.001)
    assert kappa([["x", "x"]] * 20) is None


def test_d_prime_of_a_textbook_table():
    # Macmillan & Creelman, Detection Theory: 20 of 25 hits, 10 of 25 false alarms are d′ ≈ 1.095, c ≈ −0.294 (from memory, uncorrected).
    found = detection(20, 25, 10, 25)
    plain = stats.norm.ppf(0.8) - stats.norm.ppf(0.4)
    assert plain == pytest.approx(1.095, abs=0.001)
    # The log-linear correction (Hautus 1995) draws it a little towards none.
    assert 0.9 * plain < found.d_prime.value < plain
    assert found.criterion.value == pytest.approx(-0.294, abs=0.03)


def test_the_threshold_is_the_one_that_a_likelihood_fit_finds():
    # The same Weibull fitted by maximum likelihood with scipy, slope and place free, guessing and lapsing as given.
    rng = np.random.default_rng(5)
    guess, lapse, at, slope = 0.2, 0.02, 1.0, 2.5

    def chance(size, t, b):
        return guess + (1 - guess - lapse) * (1 - np.exp(-((size / t) ** b)))

    sizes = rng.choice([0.4, 0.6, 0.9, 1.3, 1.9, 2.8], 400)
    right = rng.random(400) < chance(sizes, at, slope)

    def off(x):
        p = chance(sizes, np.exp(x[0]), np.exp(x[1]))
        return -float(np.log(np.where(right, p, 1 - p)).sum())

    best = optimize.minimize(off, [0.0, 1.0], method="Nelder-Mead")
    t, b = np.exp(best.x)
    theirs = t * (-np.log(1 - (0.75 - guess) / (1 - guess - lapse))) ** (1 / b)
    ours = threshold(list(zip(sizes.tolist(), right.tolist(), strict=True)), guess)
    assert ours.size == pytest.approx(theirs, rel=0.05)
    assert ours.low < theirs < ours.high
