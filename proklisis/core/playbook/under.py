"""What a run is judged under: its schools, and the conditions of each of its units.

A band that hangs on a condition that was not given is not judged and not left out: it waits, and names the key.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from proklisis.core.playbook.conditions import in_one_unit
from proklisis.core.playbook.notes import Notes
from proklisis.core.playbook.schema import Condition, Playbook, Range, SchoolOption, Wanted
from proklisis.core.shapes.run_sheet import RunSheet

#: Before the id of an observation: judged only where it was, or was not, noted.
NOTED = "noted."
#: Before the id of a fault: judged only where the rider was, or was not, working on it.
INTENDED = "intended."


def chosen_schools(sheet: RunSheet, book: Playbook) -> dict[str, str]:
    """Return question → option: the sheet's choice, else the default for the level."""
    return {q: sheet.schools.get(q, s.default_for(sheet.level)) for q, s in book.schools.items()}


def apply_schools(book: Playbook, chosen: dict[str, str]) -> tuple[Playbook, dict[str, str]]:
    """Return the playbook as the chosen schools change it, and fault → cue they replace."""
    options: list[SchoolOption] = [book.schools[q].options[o] for q, o in chosen.items()]
    faults = dict(book.faults)
    cues: dict[str, str] = {}

    def change(fault: str, to: Condition | None) -> None:
        if to is None:
            faults.pop(fault)
        else:
            faults[fault] = faults[fault].model_copy(update={"when": to})

    for option in options:
        for fault in option.drops:
            faults.pop(fault, None)
        for shift in option.shifts:
            if shift.fault in faults:
                move = partial(_shifted, measure=shift.measure, by=shift.by)
                change(shift.fault, faults[shift.fault].when.rebuilt(move))
        for fault, phases in option.not_at.items():
            if fault in faults:
                change(fault, faults[fault].when.rebuilt(partial(_not_at, phases=phases)))
        cues.update(option.cues)
    return book.model_copy(update={"faults": faults}), cues


def other_drills(book: Playbook, chosen: dict[str, str]) -> frozenset[str]:
    """Drills that belong to an option which is not chosen."""
    return frozenset(
        d
        for q, school in book.schools.items()
        for o, option in school.options.items()
        if chosen[q] != o
        for d in option.drills
    )


def _not_at(c: Condition, phases: tuple[str, ...]) -> Condition | None:
    return None if c.phase in phases else c


def _shifted(c: Condition, measure: str, by: float) -> Condition:
    if c.measure != measure or c.inside or c.band is None:
        return c

    def move(band: Any) -> Any:
        return tuple(None if x is None else x + by for x in band)

    band = {k: move(v) for k, v in c.band.items()} if isinstance(c.band, dict) else move(c.band)
    return c.model_copy(update={"band": band})


def holds(wanted: Wanted, value: object) -> bool | None:
    """Whether a condition has a wanted value; None where it was not given and that is not among the wanted."""
    if isinstance(wanted, Range):
        return None if value is None and not wanted.or_unknown else wanted.holds(value)
    return None if value is None and None not in wanted else value in wanted


def all_hold(wanted: Mapping[str, Wanted], given: Mapping[str, object]) -> bool:
    """Whether every condition has its wanted value."""
    return all(holds(w, given.get(key)) for key, w in wanted.items())


class Under:
    """The playbook's conditions as they are judged in each unit of a run."""

    def __init__(self, book: Playbook, sheet: RunSheet, schools: Mapping[str, str]) -> None:
        self._book, self._schools = book, schools
        about = {f"rider.{k}": v for k, v in sheet.rider.model_dump().items() if v is not None}
        about |= {f"gear.{k}": v for k, v in sheet.gear.items()}
        about |= {
            f"{INTENDED}{i}": True for i in (sheet.intention.faults if sheet.intention else ())
        }
        defaults, run = book.condition_defaults, in_one_unit(sheet.conditions)
        notes = Notes(sheet.observations, {s.n: s for s in sheet.segments}, book.noted)
        noted = [i for i in notes.ids if f"{NOTED}{i}" in book.asked_under]
        self._run: dict[str, object] = _more(
            {**defaults, **run, **about, **{NOTED + i: True for i in noted if notes.p(i, None)}}
        )
        self._units: dict[int, dict[str, object]] = {}
        for s in sheet.segments:
            own: dict[str, object] = {
                **in_one_unit(s.conditions),
                **({"ball": s.ball} if s.ball is not None else {}),
            }
            own |= {NOTED + i: True for i in noted if notes.p(i, s.n)}
            if own:
                self._units[s.n] = _more({**defaults, **run, **about, **own})
        self._when: dict[tuple[str, int], Condition | None] = {}

    def given(self, unit: int | None) -> Mapping[str, object]:
        """Conditions of a unit, those of the run where it has no own; ropes in metres and so on."""
        return self._units.get(unit or 0, self._run)

    def when(self, fault: str, unit: int | None) -> Condition | None:
        """What is judged of a fault in a unit, or None when nothing of it is."""
        key = (fault, unit if unit in self._units else 0)
        if key not in self._when:  # type: ignore[comparison-overlap]
            given = self.given(unit)
            self._when[key] = self._book.faults[fault].when.rebuilt(lambda c: self._leaf(c, given))  # type: ignore[index]
        return self._when[key]  # type: ignore[index]

    def measured(self, fault: str, unit: int | None) -> Condition | None:
        """The same without the observation that bears the fault's own name, which is the coach's note of it."""
        key = (f"{fault} measured", unit if unit in self._units else 0)
        if key not in self._when:  # type: ignore[comparison-overlap]
            when = self.when(fault, unit)
            self._when[key] = when and when.rebuilt(lambda c: None if c.observation == fault else c)  # type: ignore[index]
        return self._when[key]  # type: ignore[index]

    def _leaf(self, c: Condition, given: Mapping[str, object]) -> Condition | None:
        if any(self._schools.get(q) != option for q, option in c.school.items()):
            return None
        answers = {key: holds(wanted, given.get(key)) for key, wanted in c.given.items()}
        if False in answers.values():
            return None
        waits = [key for key, answer in answers.items() if answer is None]
        if c.less_wanted is not None and given.get(c.less_wanted) is None:
            waits.append(c.less_wanted)
        return c.model_copy(update={"hangs_on": tuple(waits)}) if waits else c


def _more(given: dict[str, Any]) -> dict[str, object]:
    """Conditions with what follows from several of them: ``wave_to_height``, a wave ÷ the rider's own height."""
    wave, tall = given.get("wave_m"), given.get("rider.height_cm")
    more = (
        {"wave_to_height": wave / (tall / 100)}
        if isinstance(wave, int | float) and isinstance(tall, int | float)
        else {}
    )
    return {**given, **more}
