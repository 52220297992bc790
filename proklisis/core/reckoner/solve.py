"""From what is given to what can be worked out, in every direction, with ± carried along."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from scipy.optimize import brentq, newton

from proklisis.core.errors import InputError
from proklisis.core.reckoner.declared import Calculator, Known, Rule

#: Two ways of saying one quantity may differ by rounding, not by more than this share (house choice).
AGREE = 0.03
#: Places at which an unknown is tried before the sign change between two of them is closed in on.
TRIED = 240
#: Places at which it is looked whether a quantity hangs on an unknown at all.
PROBES = 7
#: Nodes of a Gauss–Hermite sum in each doubtful quantity, by how many there are of them.
NODES = {1: 7, 2: 5, 3: 5, 4: 3, 5: 3}
#: What a rule raises where its quantities lie outside what it is defined for.
OUTSIDE = (ValueError, ZeroDivisionError, OverflowError)


class TooLittle(InputError):
    """Nothing follows yet from what is given; it says what else would do."""


def solve(
    calc: Calculator, given: Mapping[str, Any], us: Mapping[str, float] = {},
    ask: str | None = None, near: Mapping[str, float] | None = None, enough: str | None = None,
    also: dict[str, float] | None = None,
) -> tuple[Known, Known]:  # fmt: skip
    """Everything that follows from ``given``.

    Parameters
    ----------
    given : key → value in the key's unit
    us : key → standard uncertainty; a rule may take it as ``KEY_u``
    ask : the unknown that is wanted, which then takes no default
    near : values at which unknowns were found before, to look for them there first
    enough : the quantity beyond which nothing else is looked for, once it is known
    also : filled with a second value of an unknown that was looked for, where two answer

    Returns
    -------
    known : all quantities that are known now
    assumed : those of them that are defaults

    Raises
    ------
    InputError
        Where the given ones contradict each other or are impossible together.
    """
    doubts = {f"{k}_u": u for k, u in us.items()}
    known = dict(given)
    _chain(calc, known, doubts)
    assumed: Known = {}
    for key in calc.keys:
        default = calc.about(key).default
        if key not in known and key != ask and default is not None:
            known[key] = assumed[key] = default
            _chain(calc, known, doubts)
    if enough in known:
        return known, assumed
    if near is None:
        _agree(calc, given, assumed, doubts, us)
    missed: list[InputError] = []
    for key in [ask] if ask else calc.keys:
        if key not in known and calc.about(key).span is not None:
            found = _looked_for(calc, key, given, known, doubts, (near or {}).get(key), missed)
            if found:
                known[key] = found[0]
                if also is not None and len(found) > 1:
                    also[key] = found[1]
                _chain(calc, known, doubts)
    if (ask and ask not in known) or known.keys() <= given.keys() | assumed.keys():
        raise missed[0] if missed else _too_little(calc, known, ask)
    return known, assumed


def _too_little(calc: Calculator, known: Known, ask: str | None) -> TooLittle:
    """What else would have to be given, by the way that lacks least."""
    ways = [r for r in calc.rules if r.target not in known and (ask is None or r.target == ask)]
    lacking = min(([n for n in r.needs if n not in known] for r in ways), key=len, default=[])
    more = " and ".join(lacking) or "another quantity"
    return TooLittle("nothing follows from this alone", calc.id, f"give {more} too")


def _chain(calc: Calculator, known: Known, doubts: Mapping[str, float], bound: str = "") -> None:  # fmt: skip
    """Apply rules until none gives anything new; ``bound`` is a quantity that no rule of thumb gives."""
    rules = [r for r in calc.rules if r.binding or r.target != bound]
    new = True
    while new:
        new = False
        for rule in rules:
            if rule.target not in known and (value := _read(rule, known, doubts)) is not None:
                known[rule.target] = value
                new = True


def _read(rule: Rule, known: Mapping[str, Any], doubts: Mapping[str, float]) -> Any:
    """A rule's value, or None where something that it needs is not known or it gives nothing."""
    if any(n not in known for n in rule.needs):
        return None
    more = {n: x for n in rule.takes if (x := known.get(n, doubts.get(n))) is not None}
    value = rule.read(*(known[n] for n in rule.needs), **more)
    if isinstance(value, float | int) and not math.isfinite(value):
        return None
    return value


def _agree(
    calc: Calculator, given: Mapping[str, Any], assumed: Known, doubts: Mapping[str, float], us: Mapping[str, float]
) -> None:  # fmt: skip
    """Refuse what is given where all the rest makes something else of it, by whatever chain of rules."""
    for key, said in given.items():
        if not isinstance(said, int | float):
            continue
        rest = {**{k: v for k, v in given.items() if k != key}, **assumed}
        try:
            _chain(calc, rest, doubts, bound=key)
        except OUTSIDE:
            continue
        worked = rest.get(key)
        if not isinstance(worked, int | float):
            continue
        room = max(AGREE * max(abs(said), abs(worked)), 3 * us.get(key, 0.0), 1e-9)
        if abs(said - worked) > room:
            others = ", ".join(k for k in given if k != key)
            raise InputError(
                f"{key} {said:g} does not go with the others ({others}), which make it {worked:.4g}",
                calc.id, f"leave {key} or one of the others out",
            )  # fmt: skip


def _looked_for(
    calc: Calculator, key: str, given: Mapping[str, Any], known: Known, doubts: Mapping[str, float], near: float | None,
    missed: list[InputError],
) -> list[float]:  # fmt: skip
    """The values of an unknown at which some given quantity comes out as it was given, the lowest first."""
    fixed = {k: v for k, v in known.items() if k in given or calc.about(k).default == v}
    for wanted in [k for k in given if isinstance(given[k], int | float)]:
        if not any(r.target == wanted for r in calc.rules):
            continue
        without = {k: v for k, v in fixed.items() if k != wanted}

        def off(x: float, rest: Known = without, wanted: str = wanted) -> float:
            trial = {**rest, key: float(x)}
            try:
                _chain(calc, trial, doubts)
            except OUTSIDE:
                return math.nan
            got = trial.get(wanted)
            return float(got) - float(given[wanted]) if isinstance(got, int | float) else math.nan

        low, high = calc.about(key).span or (0.0, 1.0)
        probes = [off(x) for x in np.linspace(low, high, PROBES)]
        seen = {round(x, 12) for x in probes if math.isfinite(x)}
        if not seen or (len(seen) == 1 and len(probes) == sum(map(math.isfinite, probes))):
            continue  # it does not hang on this one
        found = _roots(off, low, high, near)
        if found:
            return found
        what = f"no {key} from {low:g} to {high:g} makes {wanted} {given[wanted]:g}"
        missed.append(InputError(what, calc.id, f"give another {wanted}"))
    return []


def _roots(off: Callable[[float], float], low: float, high: float, near: float | None) -> list[float]:  # fmt: skip
    """The places between ``low`` and ``high`` where ``off`` is zero; from ``near`` where one is known to be close."""
    if near is not None:
        try:
            return [float(newton(off, near, x1=near * (1 + 1e-6) + 1e-9, tol=1e-12, maxiter=40))]
        except (RuntimeError, *OUTSIDE):
            pass
    places = np.geomspace(low, high, TRIED) if low > 0 and high / low > 30 else np.linspace(low, high, TRIED)  # fmt: skip
    values = [off(float(x)) for x in places]
    out = []
    for a, b, x, y in zip(values, values[1:], places, places[1:], strict=False):
        if a == 0:
            out.append(float(x))
        elif math.isfinite(a) and math.isfinite(b) and a * b < 0:
            out.append(float(brentq(off, float(x), float(y), xtol=1e-14, rtol=1e-13)))
    return out


def spread(
    calc: Calculator, given: Mapping[str, Any], us: Mapping[str, float], ask: str | None = None, also: dict[str, float] | None = None,
) -> tuple[Known, Known, dict[str, float]]:  # fmt: skip
    """Known quantities, defaults among them, and the standard uncertainty of each number; ``also`` as in :func:`solve`.

    The uncertainty is the standard deviation of each number where the doubtful quantities are normal and independent (the
    propagation of distributions of JCGM 101:2008), summed by Gauss–Hermite quadrature; where that steps outside what the
    formulas are defined for, by the law of propagation (JCGM 100:2008, 5.1.2).
    """
    known, assumed = solve(calc, given, us, ask, also=also)
    doubtful = [k for k, u in us.items() if u > 0 and isinstance(known.get(k), int | float)]
    numbers = [k for k, v in known.items() if isinstance(v, int | float) and not isinstance(v, bool)]  # fmt: skip
    out = dict.fromkeys(numbers, 0.0)

    def at(shift: Mapping[str, float]) -> Known:
        moved = {**given, **{k: known[k] + d for k, d in shift.items()}}
        return solve(calc, moved, us, ask, near=known)[0]

    if doubtful:
        try:
            out = _summed(known, us, doubtful, numbers, at)
        except OUTSIDE:
            out = _by_slopes(known, us, doubtful, numbers, at)
    if calc.own_doubt is not None:
        out |= calc.own_doubt({**known, **{f"{k}_u": u for k, u in us.items()}})
    return known, assumed, out


def _summed(
    known: Known, us: Mapping[str, float], doubtful: list[str], numbers: list[str], at: Callable[[Mapping[str, float]], Known]
) -> dict[str, float]:  # fmt: skip
    if len(doubtful) not in NODES:
        raise ValueError("too many for a sum")
    x, w = np.polynomial.hermite_e.hermegauss(NODES[len(doubtful)])
    w = w / w.sum()
    total = np.zeros((2, len(numbers)))
    for nodes in itertools.product(range(len(x)), repeat=len(doubtful)):
        found = at({k: float(x[i]) * us[k] for k, i in zip(doubtful, nodes, strict=True)})
        values = np.array([float(found.get(k, math.nan)) for k in numbers])
        weight = float(np.prod(w[list(nodes)]))
        off = values - np.array([float(known[k]) for k in numbers])
        total += weight * np.array([off, off**2])
    if not np.isfinite(total).all():
        raise ValueError("not defined everywhere")
    variance = np.maximum(total[1] - total[0] ** 2, 0.0)
    return {k: _settled(float(np.sqrt(v)), float(known[k])) for k, v in zip(numbers, variance, strict=True)}  # fmt: skip


def _by_slopes(
    known: Known, us: Mapping[str, float], doubtful: list[str], numbers: list[str], at: Callable[[Mapping[str, float]], Known]
) -> dict[str, float]:  # fmt: skip
    variance = dict.fromkeys(numbers, 0.0)
    for k in doubtful:
        step = us[k] / 1000
        ends = []
        for way in (step, -step):
            try:
                ends.append((way, at({k: way})))
            except OUTSIDE:
                continue
        if not ends:
            raise InputError(
                f"{k} lies at the very edge of what can be", "", "give a value further in"
            )
        (first, hi), (last, lo) = ends[0], ends[-1] if len(ends) > 1 else (0.0, known)
        for n in numbers:
            if n in hi and n in lo:
                slope = (float(hi[n]) - float(lo[n])) / (first - last)
                variance[n] += (slope * us[k]) ** 2
    return {k: _settled(math.sqrt(v), float(known[k])) for k, v in variance.items()}


def slopes(
    calc: Calculator, given: Mapping[str, Any], us: Mapping[str, float], doubtful: Mapping[str, float], key: str
) -> float:  # fmt: skip
    """Standard uncertainty of one quantity by the law of propagation, from some of the doubtful ones; 0 where it cannot be told."""
    if calc.own_doubt is not None or not doubtful:
        return 0.0
    known = solve(calc, given, us, enough=key)[0]

    def at(shift: Mapping[str, float]) -> Known:
        moved = {**given, **{k: known[k] + d for k, d in shift.items()}}
        return solve(calc, moved, us, enough=key)[0]

    try:
        return _by_slopes(known, doubtful, list(doubtful), [key], at)[key]
    except OUTSIDE:
        return 0.0


def _settled(u: float, value: float) -> float:
    """A doubt without the last digits of a machine's arithmetic."""
    return 0.0 if u < 1e-10 * max(abs(value), 1e-6) else u
