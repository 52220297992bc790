"""Whether two values differ, how many turns would tell, and the smallest change that can be told."""

from __future__ import annotations

import math
from collections.abc import Mapping

from scipy import stats

from proklisis.core.reckoner.declared import (
    Calculator,
    Known,
    Number,
    Plot,
    Quantities,
    quantity,
    rule,
)
from proklisis.core.reckoner.words import plain, with_u

#: How sure a difference has to be.
SURE = 0.95
#: More turns than this nobody films (house choice).
MOST_TURNS = 10_000


class DifferenceOf(Quantities):
    a: Number = quantity("First value")
    a_n: Number = quantity("Turns in the first; its ± is then of one turn", whole=True, ge=1, le=MOST_TURNS)  # fmt: skip
    b: Number = quantity("Second value")
    b_n: Number = quantity("Turns in the second; its ± is then of one turn", whole=True, ge=1, le=MOST_TURNS)  # fmt: skip
    difference: Number = quantity("Difference, first less second")
    p: Number = quantity("Probability that the difference is real", ge=0, le=1)
    smallest_told: Number = quantity("Smallest difference that these can tell", ge=0)
    turns_needed: Number = quantity("Turns of each that would tell this one", ge=1)


def _of_mean(u: float, n: float | None) -> float:
    return u / math.sqrt(n) if n else u


def freedom(a_u: float, a_n: float | None, b_u: float, b_n: float | None) -> float:
    """Effective degrees of freedom of the difference (Welch–Satterthwaite, JCGM 100:2008, G.4.1); infinite where no counts are given."""
    parts = [(_of_mean(u, n), n) for u, n in ((a_u, a_n), (b_u, b_n))]
    below = sum(s**4 / (n - 1) for s, n in parts if n and n > 1)
    return sum(s**2 for s, _ in parts) ** 2 / below if below else math.inf


def standard(a_u: float, a_n: float | None, b_u: float, b_n: float | None) -> float:
    """Standard uncertainty of the difference of two means."""
    return math.hypot(_of_mean(a_u, a_n), _of_mean(b_u, b_n))


def _factor(nu: float) -> float:
    return float(stats.norm.ppf(0.5 + SURE / 2) if math.isinf(nu) else stats.t.ppf(0.5 + SURE / 2, nu))  # fmt: skip


def _real(difference: float, u: float, nu: float) -> float | None:
    if u <= 0:
        return None
    t = abs(difference) / u
    return float(1 - 2 * (stats.norm.sf(t) if math.isinf(nu) else stats.t.sf(t, nu)))


def turns_that_tell(difference: float, a_u: float, b_u: float) -> float | None:
    """Fewest turns of each (two or more) at which this difference of their means would be told."""
    if difference == 0 or a_u == b_u == 0:
        return None
    low, high = 1, 2
    while not _told(difference, a_u, b_u, high):
        low, high = high, 2 * high
        if high > MOST_TURNS:
            return None
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if _told(difference, a_u, b_u, middle) else (middle, high)
    return float(high)


def _told(difference: float, a_u: float, b_u: float, n: int) -> bool:
    return abs(difference) >= _factor(freedom(a_u, n, b_u, n)) * standard(a_u, n, b_u, n)


def _counted(k: Known) -> tuple[float, float | None, float, float | None]:
    return k.get("a_u", 0.0), k.get("a_n"), k.get("b_u", 0.0), k.get("b_n")


def _doubt(k: Known) -> dict[str, float]:
    if "difference" not in k:
        return {}
    out = {"p": 0.0, "smallest_told": 0.0, "turns_needed": 0.0, "difference": standard(*_counted(k))}  # fmt: skip
    return {key: u for key, u in out.items() if key in k}


def _says(k: Known, u: Mapping[str, float]) -> list[str]:
    if "p" not in k:
        return ["Give both values with their ±."] if "difference" in k else []
    out = [
        f"The difference is {with_u(k['difference'], u['difference'], '')}, real with a probability of {100 * k['p']:.1f} %: "
        + (
            "it is told."
            if k["p"] >= SURE
            else "it may be, it is not sure."
            if k["p"] >= 0.8
            else "it cannot be told."
        )
    ]
    out.append(f"The smallest difference that these can tell is {plain(k['smallest_told'], 2)}.")
    if "turns_needed" in k and "a_n" in k and k["p"] < SURE:
        out.append(f"If it is as large as it looks, {k['turns_needed']:.0f} turns of each would tell it.")  # fmt: skip
    return out


def _p(difference: float, a_u: float = 0, b_u: float = 0, a_n: float | None = None, b_n: float | None = None) -> float | None:  # fmt: skip
    return _real(difference, standard(a_u, a_n, b_u, b_n), freedom(a_u, a_n, b_u, b_n))


def _smallest(difference: float, a_u: float = 0, b_u: float = 0, a_n: float | None = None, b_n: float | None = None) -> float | None:  # fmt: skip
    u = standard(a_u, a_n, b_u, b_n)
    return _factor(freedom(a_u, a_n, b_u, b_n)) * u if u > 0 else None


def _turns(difference: float, a_u: float = 0, b_u: float = 0) -> float | None:
    return turns_that_tell(difference, a_u, b_u)


DIFFERENCE = Calculator(
    id="difference", title="Is it different?", doc="Two values with their ±, or two sets of turns with the spread of one turn: is the difference real?",
    formula="u² = a_u²/a_n + b_u²/b_n; t = difference ÷ u with Welch–Satterthwaite's degrees of freedom; p = 1 − the two-sided probability of such a t by chance; smallest told = t(97.5 %) × u; without counts a_u and b_u are those of the values",
    source="JCGM 100:2008, G.4 (effective degrees of freedom); Welch's two-sample test",
    of=DifferenceOf, answers=("difference", "p", "smallest_told", "turns_needed"),
    rules=(
        rule("difference", lambda a, b: a - b),
        rule("a", lambda difference, b: b + difference),
        rule("b", lambda a, difference: a - difference),
        rule("p", _p), rule("smallest_told", _smallest), rule("turns_needed", _turns),
    ),
    own_doubt=_doubt, says=_says,
    example={"a": "52", "a_u": "3", "a_n": "6", "b": "48", "b_u": "3.5", "b_n": "5"}, plots=(Plot("a", "p", ("b", "a_n", "b_n")), Plot("a", "p", ("b",)), Plot("difference", "p", ("a_n", "b_n")), Plot("difference", "p"),),
)  # fmt: skip
