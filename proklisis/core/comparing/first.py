"""From where on two runs differ, and what follows from it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm, t

from proklisis.core.comparing.rows import combined_u, real, scales
from proklisis.core.comparing.sides import Place, Side, mirrored_place
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.words import phase_words, unit_words
from proklisis.core.shapes.comparison import FirstDifference
from proklisis.core.uncertainty import digits

Array = NDArray[np.float64]
#: How often equal runs may be told apart somewhere, over all that is compared.
FALSE = 0.05
#: A change that fits a unit nearly as well as its own best one may as well begin there (Δχ² of one standard uncertainty doubled).
NEARLY = 4.0


@dataclass(frozen=True)
class _Change:
    """A value that stays apart from a unit on: its place, the index of that unit, by how much, ± u, and how surely."""

    place: Place
    begin: int
    difference: float
    u: float
    strength: float
    #: Misfit of a change that begins at each unit, χ².
    misfit: Array


def first_difference(
    a: Side, b: Side, pairs: list[tuple[int, int]], book: Playbook, mirror: bool
) -> FirstDifference | None:
    """The earliest moment from which the runs stay apart; None where nothing does beyond chance.

    A place's values over the units are one series of differences. It is apart from a unit on when the mean from there
    differs from 0 by more than both sides' u allow, or from the mean before by more than the series itself scatters:
    what is wrong all clip long is in both means and falls out. Thresholds are divided by all that is looked at
    (Bonferroni), so that equal runs are told apart in :data:`FALSE` of cases at the most.
    """
    series = list(_series(a, b, pairs, mirror))
    if not series:
        return None
    looked_at = len(series) * max(1, len(pairs) - 1)
    changes = [c for s in series if (c := _change(*s, looked_at, len(series))) is not None]
    known = scales(book)
    changes = [
        c
        for c in changes
        if abs(c.difference) >= 0.5 * known.get(c.place[:2], known.get((c.place[0], None), 0.0))
    ]
    if not changes:
        return None
    begin = max(changes, key=lambda c: c.strength).begin
    there = [c for c in changes if c.misfit[begin] - c.misfit.min() <= NEARLY] or changes
    roots, chain = _roots(book, there)
    of_root = [c for c in there if (c.place[0], c.place[1]) in roots] or there
    order = {p: k for k, p in enumerate((None, *book.phases))}
    first = min(of_root, key=lambda c: (order.get(c.place[1], 0), -c.strength))
    return _said(a, b, pairs[begin], first, chain, book, mirror)


def _series(
    a: Side, b: Side, pairs: list[tuple[int, int]], mirror: bool
) -> Iterable[tuple[Place, Array, Array]]:
    """Every place that both show in all units: (n,) differences over the units and their standard uncertainties."""
    of_a = [a.rows(x) for x, _ in pairs]
    of_b = [b.rows(y) for _, y in pairs]
    if not pairs:
        of_a, of_b = [a.rows(None)], [b.rows(None)]
    one_camera = a.clip == b.clip
    for at in sorted(of_a[0], key=str):
        other = mirrored_place(at) if mirror else at
        if not all(at in x and other in y for x, y in zip(of_a, of_b, strict=True)):
            continue
        rows = [(x[at], y[other]) for x, y in zip(of_a, of_b, strict=True)]
        d = np.array([x.value - y.value for x, y in rows])
        u = np.array([combined_u(at[0], x.u, y.u, one_camera) for x, y in rows])
        if (u > 0).all():
            yield at, d, u


def _change(at: Place, d: Array, u: Array, looked_at: int, places: int) -> _Change | None:
    n = len(d)
    misfit = np.array([_misfit(d, u, k) for k in range(n)])
    best: tuple[float, int, float, float] | None = None
    for k in range(n):
        tail, head = d[k:], d[:k]
        away, u_tail = float(tail.mean()), float(np.sqrt((u[k:] ** 2).mean()))
        if k == 0:
            strength = abs(away) / u_tail / float(norm.ppf(1 - FALSE / (4 * places)))
            found = away, u_tail
        else:
            away -= float(head.mean())
            dof = n - 2
            if dof < 2:
                continue
            within = float(((tail - tail.mean()) ** 2).sum() + ((head - head.mean()) ** 2).sum())
            # Scatter that is less than chance leaves the stated noise's share; a body moves by a little from unit to unit.
            scatter = max(sqrt(within / dof), 0.1 * float(np.median(u)))
            u_mean = scatter * sqrt(1 / len(tail) + 1 / len(head))
            strength = abs(away) / u_mean / float(t.ppf(1 - FALSE / (4 * looked_at), dof))
            found = away, u_mean
        if strength > 1 and (best is None or misfit[k] < misfit[best[1]]):
            best = strength, k, *found
    if best is None:
        return None
    return _Change(at, best[1], best[2], best[3], best[0], misfit)


def _misfit(d: Array, u: Array, k: int) -> float:
    """χ² of a series that is level before unit ``k`` and level from it on, in the scatter of single units."""
    head, tail = d[:k], d[k:]
    off = ((tail - tail.mean()) ** 2).sum()
    off += ((head - head.mean()) ** 2).sum() if k else 0.0
    if k == 0:
        off = ((d - d.mean()) ** 2).sum()
    spread = max(float(np.median(np.abs(np.diff(d)))) / 0.954, 0.1 * float(np.median(u)), 1e-9)
    return float(off / spread**2)


def _roots(book: Playbook, changes: list[_Change]) -> tuple[set[tuple[str, str | None]], list[str]]:
    """(measure, phase) of the faults from which the others that changed may follow, and those faults with what hangs from the first."""
    at = {(c.place[0], c.place[1]): c.strength for c in changes}
    touched: dict[str, set[tuple[str, str | None]]] = {}
    for i, fault in book.faults.items():
        hit = {
            (leaf.measure, phase)
            for leaf in fault.when.leaves() if leaf.measure is not None
            for measure, phase in at if measure == leaf.measure and leaf.phase in (None, phase)
        }  # fmt: skip
        if hit:
            touched[i] = hit  # type: ignore[assignment]
    follows = {i: {link.to for link in book.faults[i].links} for i in book.faults}
    below = {i: _reached(follows, i) for i in touched}
    roots = [i for i in touched if not any(i in below[j] and j not in below[i] for j in touched)]
    roots = [i for i in roots if book.faults[i].role == "cause"] or roots
    roots.sort(key=lambda i: -max(at[k] for k in touched[i]))
    places = {k for i in roots for k in touched[i]}
    if not roots:
        return places, []
    return places, [roots[0], *[i for i in touched if i in below[roots[0]] and i != roots[0]]]


def _reached(follows: dict[str, set[str]], i: str) -> set[str]:
    found: set[str] = set()
    queue = [i]
    while queue:
        for j in follows.get(queue.pop(), set()) - found:
            found.add(j)
            queue.append(j)
    return found


def _said(
    a: Side,
    b: Side,
    units: tuple[int, int],
    c: _Change,
    chain: list[str],
    book: Playbook,
    mirror: bool,
) -> FirstDifference:
    measure, phase, limb = c.place
    row_a = a.rows(units[0]).get(c.place)
    other = mirrored_place(c.place) if mirror else c.place
    segment = next((s for s in a.units if s.n == units[0]), None)
    m = REGISTRY.get(measure)
    unit = unit_words(measure)
    title = m.title if m else measure
    where = (
        f"in the {phase_words(phase)} of {book.unit} {units[0]}"
        if phase
        else f"in {book.unit} {units[0]}"
    )
    begins = (
        f"Up to here the two are the same. From here on, {where}, "
        if units[0] != a.units[0].n
        else f"From the beginning, {where}, "
    )
    return {
        "measure": measure, "phase": phase, "at": _at(segment, phase, book), "frame_a": a.frame(measure, units[0], phase, limb),
        "frame_b": b.frame(measure, units[1], phase, other[2]), "difference": round(c.difference, 4), "u": round(c.u, 4),
        "p": round(real(c.difference, c.u), 4),
        "says": f"{begins}{title.lower()} differs by {digits(c.difference, c.u)} ± {digits(2 * c.u, c.u)}{unit}."
        if row_a is not None else f"{begins}{title.lower()} differs.",
        "chain": chain,
    }  # fmt: skip


def _at(s: object, phase: str | None, book: Playbook) -> float:
    """When that is in a's clip, seconds: the middle of the phase, as if the unit's phases were equally long; 0 without times."""
    begin, end = getattr(s, "start_s", None), getattr(s, "end_s", None)
    if begin is None or end is None:
        return 0.0
    share = (book.phases.index(phase) + 0.5) / len(book.phases) if phase in book.phases else 0.5
    return round(float(begin + share * (end - begin)), 4)
