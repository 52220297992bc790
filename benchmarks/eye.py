"""Whether the Eye's profile finds what made-up observers are like, and how fast the Reckoner and the Eye answer.

    python -m benchmarks.eye [--observers N] [--seed S]

Observers have a bias, spread, criterion and threshold of their own; how they see is a log-normal function, another than
the one that is fitted. Nothing in the profile was tuned on these seeds.
"""

from __future__ import annotations

import argparse
import time
from statistics import median

import numpy as np
from scipy.stats import norm

from proklisis.core.eye.profile import bias_and_spread, detection
from proklisis.core.eye.threshold import next_size, threshold
from proklisis.core.reckoner.drawn import drawn
from proklisis.core.reckoner.library import CALCULATORS
from proklisis.core.reckoner.reckon import ask
from proklisis.simulate.items import SIZES

ANSWERS = 200


def _right(size: float, at: float, slope: float, guess: float, rng: np.random.Generator) -> bool:
    share = (0.75 - guess) / (1 - guess)
    return bool(rng.random() < guess + (1 - guess) * norm.cdf(slope * np.log(size / at) + norm.ppf(share)))  # fmt: skip


def thresholds(observers: int, guess: float, seed: int) -> str:
    rng = np.random.default_rng(seed)
    off, inside = [], []
    for _ in range(observers):
        at, slope = float(rng.uniform(0.5, 1.6)), float(rng.uniform(1.5, 3))
        answers: list[tuple[float, bool]] = []
        while len(answers) < ANSWERS:
            size = next_size(answers, SIZES, guess)
            answers.append((size, _right(size, at, slope, guess, rng)))
        found = threshold(answers, guess)
        assert found is not None
        off.append(found.size / at - 1)
        inside.append(found.low <= at <= found.high)
    x = np.array(off)
    return f"within 20 %: {np.mean(np.abs(x) <= 0.2):.0%}, mean {x.mean():+.1%}, spread {x.std():.1%}, inside its interval {np.mean(inside):.0%}"


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--observers", type=int, default=400)
    parser.add_argument("--seed", type=int, default=501)
    given = parser.parse_args()
    rng = np.random.default_rng(given.seed)
    held = np.zeros((2000, 4), bool)
    for k in range(len(held)):
        bias, spread = rng.uniform(-6, 6), rng.uniform(1, 8)
        b = bias_and_spread(rng.normal(bias, spread, ANSWERS).tolist())
        d, c = rng.uniform(0.3, 2.8), rng.uniform(-0.7, 0.7)
        clean = 60
        alarms = int((rng.normal(0, 1, clean) > d / 2 + c).sum())
        hits = int((rng.normal(d, 1, ANSWERS - clean) > d / 2 + c).sum())
        s = detection(hits, ANSWERS - clean, alarms, clean)
        assert b is not None and s is not None
        held[k] = [
            b.bias.low <= bias <= b.bias.high, b.spread.low <= spread <= b.spread.high,
            s.d_prime.low <= d <= s.d_prime.high, s.criterion.low <= c <= s.criterion.high,
        ]  # fmt: skip
    print(f"inside the stated 95 % interval, n = {len(held)} observers of {ANSWERS} answers:")
    for name, share in zip(("bias", "spread", "d′", "criterion"), held.mean(axis=0), strict=True):
        print(f"  {name}: {share:.1%}")
    for guess in (0.2, 0.5):
        print(f"threshold, chance of guessing {guess}, n = {given.observers}: {thresholds(given.observers, guess, given.seed + 1)}")  # fmt: skip
    took = []
    for _ in range(5):
        for c in CALCULATORS.values():
            began = time.perf_counter()
            drawn(ask(c.id, c.example))
            took.append(1000 * (time.perf_counter() - began))
    print(f"a calculator's answer with its plot: median {median(took):.1f} ms, slowest {max(took):.0f} ms")  # fmt: skip


if __name__ == "__main__":
    main()
