"""From where on two runs differ, and what follows from it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm, t

from proklisis.core.comparing.rows import clock_unsure, combined_u, real, scales
from proklisis.core.comparing.sides import Place, Side, mirrored_place
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.words import phase_words, unit_words
from proklisis.core.review import judge
from proklisis.core.shapes.comparison import FirstDifference
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.uncertainty import digits

Array = NDArray[np.float64]
#: How often equal runs may be told apart somewhere, over all that is compared.
FALSE = 0.05
#: A change that fits a unit nearly as well as its own best one may as well begin there (Δχ² of one standard uncertainty doubled).
NEARLY = 4.0
#: A step on the way has to mend the misfit by more than this, that it is not taken for a difference from the beginning (house choice).
STEP = 12.0
#: Units of a body never differ by less than this share of what their values are uncertain by (house choice).
LEAST_SCATTER = 0.1
#: More units than these say nothing more of which fault it is (house choice).
MOST_JUDGED = 24


@dataclass(frozen=True)
class _Change:
    """A value that stays apart from a unit on: its place, the index of that unit, and by how much ± u."""

    place: Place
    begin: int
    difference: float
    u: float
    #: Of a change that begins at each unit: how far it is beyond chance (1 is the threshold), and its misfit, χ².
    strengths: Array
    misfit: Array

    @property
    def strength(self) -> float:
        return float(self.strengths[self.begin])

    def fits(self, begin: int) -> bool:
        """Whether it may as well have begun at this unit."""
        return bool(
            self.strengths[begin] > 1
            and self.misfit[begin] - self.misfit[self.begin] <= (STEP if begin == 0 else NEARLY)
        )


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
    if not pairs:
        return None  # by the run alone nobody can say from where on
    there = [c for c in changes if c.fits(begin)] or changes
    roots, chain = _roots(a, b, pairs[begin:])
    of_root = [c for c in there if (c.place[0], c.place[1]) in roots]
    # What differs is then not what the fault rests on: nothing is said to follow.
    chain = chain if of_root else []
    of_root = of_root or there
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
        if clock_unsure(at[0], a, b):
            continue
        rows = [(x[at], y[other]) for x, y in zip(of_a, of_b, strict=True)]
        d = np.array([x.value - y.value for x, y in rows])
        u = np.array([combined_u(at[0], x.u, y.u, one_camera) for x, y in rows])
        if (u > 0).all():
            yield at, d, u


def _change(at: Place, d: Array, u: Array, looked_at: int, places: int) -> _Change | None:
    """The unit from which a series stays apart, by the least misfit among those at which that is beyond chance."""
    n = len(d)
    k = np.arange(n)
    of_tail, of_head = n - k, np.maximum(k, 1)
    sums, squares = np.cumsum(d), np.cumsum(d**2)
    head = np.where(k > 0, np.concatenate([[0.0], sums[:-1]]) / of_head, 0.0)
    tail = (sums[-1] - head * k) / of_tail
    within = np.maximum(squares[-1] - k * head**2 - of_tail * tail**2, 0.0)
    noise = float(np.median(u))
    # A body moves by a little from unit to unit: scatter that is less than that is chance.
    steps = float(np.median(np.abs(np.diff(d)))) / 0.954 if n > 1 else 0.0
    misfit = within / max(steps, LEAST_SCATTER * noise, 1e-9) ** 2
    u_tail = np.sqrt((np.sum(u**2) - np.concatenate([[0.0], np.cumsum(u**2)[:-1]])) / of_tail)
    strength = np.zeros(n)
    strength[0] = abs(tail[0]) / u_tail[0] / float(norm.ppf(1 - FALSE / (4 * places)))
    if n > 3:
        scatter = np.maximum(np.sqrt(within / (n - 2)), LEAST_SCATTER * noise)
        u_step = scatter * np.sqrt(1 / of_tail + 1 / of_head)
        limit = float(t.ppf(1 - FALSE / (4 * looked_at), n - 2))
        strength[1:] = (np.abs(tail - head) / u_step / limit)[1:]
    beyond = np.flatnonzero(strength > 1)
    if not len(beyond):
        return None
    begin = int(beyond[np.argmin(misfit[beyond])])
    if strength[0] > 1 and misfit[0] - misfit[begin] <= STEP:
        begin = 0
    by, u_by = (tail[0], u_tail[0]) if begin == 0 else (tail[begin] - head[begin], u_step[begin])
    return _Change(at, begin, float(by), float(u_by), strength, misfit)


def _roots(
    a: Side, b: Side, units: list[tuple[int, int]]
) -> tuple[set[tuple[str, str | None]], list[str]]:
    """(measure, phase) of what the first fault rests on that only one of the two has from these units on, and that fault with what hangs from it."""
    of_a = _judged(a, [n for n, _ in units])
    of_b = _judged(b, [m for _, m in units])
    for mine, others in ((of_b, of_a), (of_a, of_b)):
        had = {f["fault"] for f in others["findings"]}
        new = [f for f in mine["findings"] if f["fault"] not in had]
        main = mine["main"]
        roots = [f for f in new if main and f["fault"] == main["fault"]] or [
            f for f in new if f["status"] == "root"
        ]
        for f in roots:
            names = {i["fault"] for i in new}
            places = {(e["measure"].split("/")[0].split("-")[0], e["phase"]) for e in f["evidence"]}
            return places, [f["fault"], *[i for i in f["explains"] if i in names]]
    return set(), []


def _judged(side: Side, units: list[int]) -> Prescription:
    """The verdict on some units alone; on the first of them, where there are many."""
    kept = set(units[:MOST_JUDGED])
    sheet = side.sheet.model_copy(
        update={
            "segments": [s for s in side.units if s.n in kept],
            "measures": [m for m in side.sheet.measures if m.segment in kept],
            "observations": [],
        }
    )
    return judge(sheet)


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
