"""Faults put in on purpose: each becomes wishes at the playbook's own band edge plus so many scales."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.schema import Condition, Playbook, Range
from proklisis.core.playbook.schema import Wanted as WantedValue
from proklisis.core.playbook.under import all_hold, holds
from proklisis.core.shapes.run_sheet import Level
from proklisis.simulate.score import Rider, key_of


@dataclass
class Wanted:
    """Wishes that faults bring, and what of the run they need: conditions, schools, a view."""

    wishes: dict[str, float] = field(default_factory=dict)
    given: dict[str, str | bool | float] = field(default_factory=dict)
    schools: dict[str, str] = field(default_factory=dict)
    measures: list[str] = field(default_factory=list)


def measurable(book: Playbook, rider: Rider) -> list[str]:
    """Ids of the faults that can be put in: those with a band on something that is measured."""
    return [i for i, f in book.faults.items() if _leaves(f.when, rider, _given(book, rider))]


def _given(book: Playbook, rider: Rider) -> dict[str, object]:
    """Conditions of the run that is simulated."""
    return {**book.condition_defaults, **rider.given}


def _computed(leaf: Condition) -> bool:
    names = [n for n in (leaf.measure, leaf.over, leaf.minus) if n]
    return bool(names) and all(REGISTRY[n].read is not None for n in names)


def _fits(leaf: Condition, given: Mapping[str, object]) -> bool:
    return all_hold(leaf.given, given)


def _leaves(c: Condition, rider: Rider, given: Mapping[str, object]) -> list[Condition]:
    """The measured leaves that, missed together, make a condition fire; none when there are none."""
    if c.all:
        parts = [_leaves(x, rider, given) for x in c.all]
        return [leaf for part in parts for leaf in part] if all(parts) else []
    if c.any or c.pattern:
        options = [found for x in (*c.any, *c.pattern) if (found := _leaves(x, rider, given))]
        # Every side or phase that has its own band is missed; else the first band that this run has.
        fitting = [o for o in options if all(_fits(leaf, given) for leaf in o)] or options[:1]
        alike = [o[0] for o in fitting if len(o) == 1 and o[0].measure == fitting[0][0].measure]
        if len(alike) > 1:
            return [leaf for leaf in alike if leaf.school == alike[0].school]
        return fitting[0] if fitting else []
    return [c] if c.measure and c.measure not in rider.unmoved and _computed(c) else []


def wanted(book: Playbook, rider: Rider, level: Level, faults: dict[str, float]) -> Wanted:
    """What a run with ``faults`` (id → strength in scales) is wished to be.

    Raises InputError for a fault that is not known, rests on the eye, or is not judged at the level.
    """
    out = Wanted()
    able = measurable(book, rider)
    given = _given(book, rider)
    for fault, strength in faults.items():
        if fault not in book.faults:
            raise InputError(
                f"the fault {fault!r} is not known in {book.discipline}",
                "--fault",
                nearest(fault, book.faults),
            )
        if fault not in able:
            raise InputError(
                f"the fault {fault!r} rests on the coach's eye and cannot be simulated",
                "--fault",
                f"choose one of {', '.join(able)}",
            )
        if level not in book.faults[fault].levels:
            raise InputError(
                f"the fault {fault!r} is not judged at level {level}",
                "--level",
                "choose another level",
            )
        leaves = _leaves(book.faults[fault].when, rider, given)
        for leaf in leaves:
            if leaf.inside and any(key_of(x) == key_of(leaf) and not x.inside for x in leaves):
                continue  # "while above zero" sorts this fault from its neighbour
            band = leaf.band_for(level)
            if band is None:
                raise InputError(
                    f"the fault {fault!r} is not judged at level {level}",
                    "--level",
                    "choose another level",
                )
            wish = _missed(
                leaf, band, strength, leaf.scale_for(level) if not leaf.inside else 0.0, rider
            )
            room = [
                x.band_for(level)
                for x in leaves
                if x.inside and not leaf.inside and key_of(x) == key_of(leaf)
            ]
            least = [
                b[0] + 0.2 * leaf.scale_for(level)
                for b in room
                if b is not None and b[0] is not None
            ]
            out.wishes[key_of(leaf)] = max([wish, *least])
            out.schools.update(leaf.school)
            out.measures += [n for n in (leaf.measure, leaf.over, leaf.minus) if n]
            for key, choice in leaf.given.items():
                if holds(choice, given.get(key)) is not True:
                    out.given[key] = _example(choice)
    return out


def _missed(
    leaf: Condition,
    band: tuple[float | None, float | None],
    strength: float,
    scale: float,
    rider: Rider,
) -> float:
    lo, hi = band
    if leaf.inside:
        return ((lo or 0.0) + (hi if hi is not None else (lo or 0.0) + 1.0)) / 2
    if lo is None or (hi is not None and leaf.measure in rider.high):
        return (hi or 0.0) + strength * scale
    return lo - strength * scale


def _example(choice: WantedValue) -> str | bool | float:
    if not isinstance(choice, Range):
        return next(x for x in choice if x is not None)
    if choice.min is not None and choice.max is not None:
        return (choice.min + choice.max) / 2
    return choice.min if choice.min is not None else (choice.max or 1.0) * 0.9


def view_for(measures: list[str], rider: Rider) -> str:
    """A view from which every one of ``measures`` shows, the rider's usual one if it does."""
    board = rider.stance is not None
    for view in (rider.view, *rider.views):
        if all(
            not REGISTRY[m].seen_from(board) or view in REGISTRY[m].seen_from(board)
            for m in measures
        ):
            return view
    return rider.view


def scales(book: Playbook, level: Level) -> dict[str, float]:
    """Key → scale of the band that stands behind it."""
    out: dict[str, float] = {}
    for fault in book.faults.values():
        for leaf in fault.when.leaves():
            if leaf.measure and not leaf.inside and leaf.band_for(level) is not None:
                out[key_of(leaf)] = min(leaf.scale_for(level), out.get(key_of(leaf), float("inf")))
    return out


def worst_limb(book: Playbook, level: Level) -> dict[str, Callable[[Any], float]]:
    """Measure → which of several limbs misses its band first: the least or the greatest."""
    out: dict[str, Callable[[Any], float]] = {}
    for fault in book.faults.values():
        for leaf in fault.when.leaves():
            band = leaf.band_for(level) if leaf.measure else None
            if leaf.measure and not leaf.inside and band is not None:
                out[leaf.measure] = max if band[0] is None else min
    return out
