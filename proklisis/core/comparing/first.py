"""From where on two runs differ, and what follows from it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm, t

from proklisis.core.comparing.rows import clock_unsure, combined_u, real, scales
from proklisis.core.comparing.sides import Place, Side, mirrored_place
from proklisis.core.measures.counted import WHOLE, WHOLE_U
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.words import phase_words, unit_words
from proklisis.core.review import judge
from proklisis.core.shapes.comparison import FirstDifference
from proklisis.core.shapes.prescription import Finding, Prescription
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
#: A step on the way is looked for in no fewer units than these.
LEAST_STEP = 4
#: Their values' u counts as no more units than these where the scatter of a few is worked out. Equal series of 5, 8 and 14 units
#: (15,000 each) then step beyond chance less often than is said; up to 1.8 times as often where units scatter by 2 to 5 times u.
MOST_BORROWED = 10
#: From so many times that u on, units tell of their scatter by themselves alone (house choice, tried as above).
FREE_SCATTER = 1.25
#: A value is followed over the units where both have it in at least this share of them (house choice).
LEAST_SEEN = 0.6
#: A value that is so many times as uncertain as the others of its kind was hardly read at all (house choice).
UNUSUAL = 5.0
#: More units than these say nothing more of which fault it is (house choice).
MOST_JUDGED = 24


@dataclass(frozen=True)
class _Differences:
    """One value over the units: which of the pairs have it, on which limb, by how much a and b differ there, and u."""

    measure: str
    phase: str | None
    limbs: list[str | None]
    at: NDArray[np.intp]
    d: Array
    u: Array
    #: A clip that plays slower than is said shifts all of them alike: only a step on the way is a difference.
    steps_only: bool


@dataclass(frozen=True)
class _Change:
    """A value that stays apart from a unit on: the index of that unit, and by how much ± u."""

    of: _Differences
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

    def place(self, begin: int) -> tuple[Place, int]:
        """Where its value is read in this unit, or in the next that has it, and the index of that one."""
        k = min(int(np.searchsorted(self.of.at, begin)), len(self.of.at) - 1)
        return (self.of.measure, self.of.phase, self.of.limbs[k]), int(self.of.at[k])


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
    changes = _beyond_chance(series, len(pairs), book) or _beyond_chance(
        _of_new_faults(series, a, b, pairs), len(pairs), book
    )
    if not changes:
        return None
    begin = max(changes, key=lambda c: c.strength).begin
    if not pairs:
        return None  # by the run alone nobody can say from where on
    there = [c for c in changes if c.fits(begin)] or changes
    chain: list[str] = []
    of_root = there
    for places, faults in _new_faults(a, b, pairs[begin:]):
        # A fault is named only where what it rests on differs too, from there on.
        of_fault = [s for s in series if (s.measure, s.phase) in places]
        borne_out = [c for c in there if (c.of.measure, c.of.phase) in places] or [
            c for c in _beyond_chance(of_fault, len(pairs), book, begin) if c.fits(begin)
        ]
        if borne_out:
            of_root, chain = borne_out, faults
            break
    order = {p: k for k, p in enumerate((None, *book.phases))}
    first = min(of_root, key=lambda c: (order.get(c.of.phase, 0), -c.strength))
    place, shown = first.place(begin)
    return _said(a, b, begin == 0, pairs[shown], first, place, chain, book, mirror)


def _beyond_chance(
    series: list[_Differences], units: int, book: Playbook, at: int | None = None
) -> list[_Change]:
    """The changes among these that are beyond chance over all that is looked at, and matter by the playbook's own scales.

    With ``at`` only what begins at that unit is looked for.
    """
    known = scales(book)
    found = [c for s in series if (c := _change(s, units, len(series), at)) is not None]
    return [
        c
        for c in found
        if abs(c.difference)
        >= 0.5 * known.get((c.of.measure, c.of.phase), known.get((c.of.measure, None), 0.0))
    ]


def _of_new_faults(
    series: list[_Differences], a: Side, b: Side, pairs: list[tuple[int, int]]
) -> list[_Differences]:
    """What a fault rests on that one of the two has in its later half alone: the playbook has pointed at it, so little else is looked at."""
    if len(pairs) < LEAST_STEP:
        return []
    places, _ = next(_new_faults(a, b, pairs[len(pairs) // 2 :]), (set(), []))
    return [s for s in series if (s.measure, s.phase) in places]


def _series(a: Side, b: Side, pairs: list[tuple[int, int]], mirror: bool) -> Iterable[_Differences]:
    """Every value that both show in nearly all units. What each unit has of one limb alone (a stride's own leg) is one value."""
    of_a = [a.rows(x) for x, _ in pairs] or [a.rows(None)]
    of_b = [b.rows(y) for _, y in pairs] or [b.rows(None)]
    one_camera = a.clip == b.clip
    found: dict[tuple[str, str | None], dict[str | None, dict[int, tuple[float, float]]]] = {}
    for k, (rows_a, rows_b) in enumerate(zip(of_a, of_b, strict=True)):
        for at, x in rows_a.items():
            y = rows_b.get(mirrored_place(at) if mirror else at)
            if y is None:
                continue
            u = max(combined_u(at[0], x.u, y.u, one_camera), _least_u(at[0]))
            if u > 0:
                found.setdefault(at[:2], {}).setdefault(at[2], {})[k] = x.value - y.value, u
    for (measure, phase), by_limb in sorted(found.items(), key=str):
        for limbs, all_values in _rows_of(by_limb):
            usual = float(np.median([u for _, u in all_values.values()]))
            values = {k: v for k, v in all_values.items() if v[1] <= UNUSUAL * usual}
            if len(values) >= LEAST_SEEN * len(of_a):
                at_units = sorted(values)
                yield _Differences(
                    measure, phase, [limbs[k] for k in at_units], np.array(at_units),
                    np.array([values[k][0] for k in at_units]), np.array([values[k][1] for k in at_units]),
                    clock_unsure(measure, a, b),
                )  # fmt: skip


def _least_u(measure: str) -> float:
    """What no difference of two counts is known better than; 0 of what is measured."""
    m = REGISTRY.get(measure)
    return WHOLE_U if m is not None and m.of in WHOLE else 0.0


def _rows_of(
    by_limb: dict[str | None, dict[int, tuple[float, float]]],
) -> list[tuple[dict[int, str | None], dict[int, tuple[float, float]]]]:
    """Limbs and values by unit: of each limb, or of all in one where no unit has two of them."""
    units = [k for values in by_limb.values() for k in values]
    if len(by_limb) > 1 and len(units) == len(set(units)):
        limbs = {k: limb for limb, values in by_limb.items() for k in values}
        return [(limbs, {k: v for values in by_limb.values() for k, v in values.items()})]
    return [(dict.fromkeys(values, limb), values) for limb, values in by_limb.items()]


def _change(s: _Differences, units: int, places: int, at: int | None) -> _Change | None:
    """The unit from which a series stays apart, by the least misfit among those at which that is beyond chance."""
    d, u = s.d, s.u
    n = len(d)
    k = np.arange(n)
    of_tail, of_head = (n - k).astype(float), np.maximum(k, 1.0)
    sums, squares = np.cumsum(d), np.cumsum(d**2)
    head = np.where(k > 0, np.concatenate([[0.0], sums[:-1]]) / of_head, 0.0)
    tail = (sums[-1] - head * k) / of_tail
    within = np.maximum(squares[-1] - k * head**2 - of_tail * tail**2, 0.0)
    noise = float(np.median(u))
    # A body moves by a little from unit to unit: scatter that is less than that is chance.
    steps = float(np.median(np.abs(np.diff(d)))) / 0.954 if n > 1 else 0.0
    if n >= LEAST_STEP:
        # Units of two kinds in turn (left and right) step more than they scatter.
        steps = min(steps, float(np.sqrt(within.min() / (n - 2))))
    misfit = within / max(steps, LEAST_SCATTER * noise, 1e-9) ** 2
    u_tail = np.sqrt((np.sum(u**2) - np.concatenate([[0.0], np.cumsum(u**2)[:-1]])) / of_tail)
    strength = np.zeros(n)
    if not s.steps_only:
        strength[0] = abs(tail[0]) / u_tail[0] / float(norm.ppf(1 - FALSE / (4 * places)))
    if n >= LEAST_STEP:
        # That the two differ may be plain already, and only the place in question.
        looked_at = (1 if at else n - 1) * (1 if strength[0] > 1 else places)
        p = FALSE / (4 * looked_at)
        # The mean from there on has u_tail: its values' root mean square.
        u_step, strength[1:] = _steps(
            np.abs(tail - head), within, np.maximum(noise, u_tail), of_head, of_tail, p
        )
    beyond = np.flatnonzero(strength > 1)
    if not len(beyond):
        return None
    begin = int(beyond[np.argmin(misfit[beyond])])
    if strength[0] > 1 and misfit[0] - misfit[begin] <= STEP:
        begin = 0
    by, u_by = (tail[0], u_tail[0]) if begin == 0 else (tail[begin] - head[begin], u_step[begin])
    # What begins at a unit without the value is seen from the next on that has it.
    seen = np.minimum(np.searchsorted(s.at, np.arange(units)), n - 1) if units else np.arange(n)
    first = int(s.at[begin]) if begin else 0
    return _Change(s, first, float(by), float(u_by), strength[seen], misfit[seen])


def _steps(
    step: Array, within: Array, noise: Array, of_head: Array, of_tail: Array, p: float
) -> tuple[Array, Array]:
    """(n,) standard uncertainty of a step at each unit, and (n − 1,) how far it is beyond chance by ``p`` on one side, from the second on.

    ``noise`` is what the values from there on are uncertain by. By what the units scatter about the two levels, where no unit
    stands alone; or, as few units tell little of that, with what their values are
    uncertain by counted as some more of them, unless they scatter by more (a moderated t: Smyth 2004,
    https://doi.org/10.2202/1544-6115.1027). Half of ``p`` each.
    """
    n = len(step)
    root = np.sqrt(1 / of_tail + 1 / of_head)
    scatter = np.sqrt(within / (n - 2))
    own = np.maximum(scatter, LEAST_SCATTER * noise)
    more = min(MOST_BORROWED, 2 * (n - LEAST_STEP))
    moderated = np.maximum(np.sqrt((within + more * noise**2) / (n - 2 + more)), own)
    alone = step / (own * root) / t.ppf(1 - p / 2, n - 2)
    alone = np.where(np.minimum(of_head, of_tail) > 1, alone, 0.0)
    helped = step / (moderated * root) / t.ppf(1 - p / 2, n - 2 + more)
    helped = np.where(scatter > FREE_SCATTER * noise, 0.0, helped)
    u = np.where(alone >= helped, own, moderated) * root
    return u, np.maximum(alone, helped)[1:]


def _new_faults(
    a: Side, b: Side, units: list[tuple[int, int]]
) -> Iterator[tuple[set[tuple[str, str | None]], list[str]]]:
    """Each fault that only one of the two has from these units on, with what hangs from it, and the (measure, phase) of what
    they rest on: the main one first, then other roots, then what follows from something."""
    of_a = _judged(a, [n for n, _ in units])
    of_b = _judged(b, [m for _, m in units])
    for mine, others in ((of_b, of_a), (of_a, of_b)):
        had = {f["fault"] for f in _held(others)}
        new = {f["fault"]: f for f in _held(mine) if f["fault"] not in had}
        main = mine["main"]["fault"] if mine["main"] else None
        for f in sorted(new.values(), key=lambda f: (f["fault"] != main, f["status"] != "root")):
            chain = [f["fault"], *[i for i in f["explains"] if i in new]]
            places = {
                (e["measure"].split("/")[0].split("-")[0], e["phase"])
                for i in chain
                for e in new[i]["evidence"]
            }
            yield places, chain


def _held(judged: Prescription) -> list[Finding]:
    """What a run has, neither in single units only nor perhaps."""
    return [f for f in judged["findings"] if f["status"] in ("root", "symptom")]


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
    from_start: bool,
    units: tuple[int, int],
    c: _Change,
    place: Place,
    chain: list[str],
    book: Playbook,
    mirror: bool,
) -> FirstDifference:
    measure, phase, limb = place
    other = mirrored_place(place) if mirror else place
    segment = next((s for s in a.units if s.n == units[0]), None)
    m = REGISTRY.get(measure)
    title = m.title if m else measure
    at = f"in the {phase_words(phase)} of" if phase else "in"
    begins = "From the beginning" if from_start else "Up to here the two are the same. From here on"
    return {
        "measure": measure, "phase": phase, "at": _at(segment, phase, book), "frame_a": a.frame(measure, units[0], phase, limb),
        "frame_b": b.frame(measure, units[1], phase, other[2]), "difference": round(c.difference, 4), "u": round(c.u, 4),
        "p": round(real(c.difference, c.u), 4),
        "says": f"{begins}, {at} {book.unit} {units[0]}, {title.lower()} differs by "
        f"{digits(c.difference, c.u)} ± {digits(2 * c.u, c.u)}{unit_words(measure)}.",
        "chain": chain,
    }  # fmt: skip


def _at(s: object, phase: str | None, book: Playbook) -> float:
    """When that is in a's clip, seconds: the middle of the phase, as if the unit's phases were equally long; 0 without times."""
    begin, end = getattr(s, "start_s", None), getattr(s, "end_s", None)
    if begin is None or end is None:
        return 0.0
    share = (book.phases.index(phase) + 0.5) / len(book.phases) if phase in book.phases else 0.5
    return round(float(begin + share * (end - begin)), 4)
