"""Find what a playbook's author got wrong: misspelt ids, cycles, faults that can never fire."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable
from typing import Any

import yaml
from pydantic import ValidationError

from proklisis.core.errors import InputError
from proklisis.core.gear.bars import GEAR
from proklisis.core.measures import library
from proklisis.core.measures.registry import REGISTRY, TURN_PHASES
from proklisis.core.playbook.schema import Playbook
from proklisis.core.splitting.library import SPLITTERS

assert library.ALL  # the registry must be whole before ids are checked


def nearest(word: str, known: Iterable[str]) -> str:
    """Return "did you mean …" with the nearest known ids."""
    close = difflib.get_close_matches(word, list(known), n=3, cutoff=0.4)
    return (
        f"the nearest known ids are {', '.join(close)}"
        if close
        else "see `proklisis disciplines --json`"
    )


def first_problem(error: ValidationError) -> tuple[str, str]:
    """Return the path of the first offending key and what is wrong with it, in plain words."""
    e = error.errors()[0]
    path = ".".join(str(p) for p in e["loc"]) or "(top)"
    words = {
        "extra_forbidden": "this key is not known",
        "missing": "this key is missing",
        "finite_number": "the number is not finite",
    }.get(e["type"], e["msg"].removeprefix("Value error, "))
    return path, words


def merged(base: Any, own: Any) -> Any:
    """Lay a playbook over the one it extends: maps are joined key by key, lists one after the other."""
    if isinstance(base, dict) and isinstance(own, dict):
        return {**base, **{k: merged(base[k], v) if k in base else v for k, v in own.items()}}
    if isinstance(base, list) and isinstance(own, list):
        return [*base, *(x for x in own if x not in base)]
    return own


def load_playbook(
    text: str, name: str = "playbook", find: Callable[[str], str] | None = None
) -> Playbook:
    """Parse and check a playbook; raise InputError naming the first mistake and its place.

    A top key ``extends`` names another discipline, whose text ``find`` returns, to build on.
    """
    try:
        raw = yaml.safe_load(text)
        if isinstance(raw, dict) and "extends" in raw and find is not None:
            raw = merged(yaml.safe_load(find(raw.pop("extends"))), raw)
        book = Playbook.model_validate(raw)
    except yaml.YAMLError as e:
        raise InputError(f"not readable as YAML ({e.__class__.__name__})", name) from e
    except ValidationError as e:
        path, words = first_problem(e)
        raise InputError(words, f"{name}: {path}") from e
    for problem in problems(book):
        raise InputError(problem, name)
    return book


#: What follows from several conditions of a run (see ``under``).
FOLLOWS = ("wave_to_height",)


def problems(book: Playbook) -> list[str]:
    """List every mistake in a playbook that its schema cannot see."""
    out = []

    def known(word: str, ids: Iterable[str], where: str) -> None:
        if word not in ids:
            out.append(f"{where} names {word!r}, which is not known; {nearest(word, ids)}")

    for m in book.measures:
        known(m, REGISTRY, "measures")
    conditions = [(f"fault {i}", f.when) for i, f in book.faults.items()]
    conditions += [
        (f"fault {i} unless", x.unless) for i, f in book.faults.items() for x in f.links if x.unless
    ]
    conditions += [(f"strength {i}", s.when) for i, s in book.strengths.items()]

    def given(wanted: Iterable[str], where: str) -> None:
        for key in wanted:
            if key.startswith("noted."):
                known(key.removeprefix("noted."), book.observations, f"{where} given")
            elif key.startswith("intended."):
                known(key.removeprefix("intended."), book.faults, f"{where} given")
            elif not key.startswith(("rider.", "gear.")):
                known(key, {*book.conditions, *FOLLOWS}, f"{where} given")

    for where, condition in conditions:
        if condition.parts and (condition.given or condition.school or condition.side):
            out.append(f"{where}: given, school and side stand with a measure or an observation")
        for leaf in condition.leaves():
            given(leaf.given, where)
            if leaf.less_wanted:
                given([leaf.less_wanted], where)
            for question, option in leaf.school.items():
                known(question, book.schools, f"{where} school")
                known(
                    option,
                    book.schools[question].options if question in book.schools else (),
                    f"{where} school",
                )
            if leaf.observation:
                known(leaf.observation, book.observations, where)
                if leaf.phase:
                    known(leaf.phase, book.phases, where)
                continue
            for m in filter(None, (leaf.measure, leaf.over, leaf.minus)):
                known(m, book.measures, where)
            if leaf.phase:
                known(leaf.phase, book.phases, where)
                own = REGISTRY[leaf.measure].phases if leaf.measure in REGISTRY else ()
                # Shared measures are declared for turns and read in the phases of every family.
                if leaf.phase not in own and own != TURN_PHASES:
                    out.append(f"{where}: {leaf.measure} is not read at {leaf.phase}")
    used = {leaf.observation for _, c in conditions for leaf in c.leaves()}
    used |= {key.removeprefix("noted.") for key in book.asked_under}
    used |= {g.observation for g in book.gear} | {x.observation for x in book.limits}
    out += [
        f"observation {i} is used by nothing: no fault, strength, gear or limit"
        for i in book.observations
        if i not in used
    ]
    for i, f in book.faults.items():
        for link in f.links:
            known(link.to, book.faults, f"fault {i} leads_to")
            given(link.given, f"fault {i} leads_to")
        for d in (*f.drills, *(d for way in (f.below, f.above) if way for d in way.drills)):
            known(d, book.drills, f"fault {i} drills")
        given({*f.tolerated, *(key for h in f.heavier for key in h.given)}, f"fault {i}")
        if not any(f.when.leaves()):
            out.append(f"fault {i} can never fire")
    if book.split is not None:
        known(book.split, SPLITTERS, "split")
    for name in book.found_gear:
        known(name, GEAR, "found_gear")
    for key in book.condition_defaults:
        known(key, book.conditions, "condition_defaults")
    for i, school in book.schools.items():
        defaults = [school.default] if isinstance(school.default, str) else school.default.values()
        for option in defaults:
            known(option, school.options, f"school {i} default")
        for o in school.options.values():
            for fault in (*o.drops, *o.cues, *o.not_at, *(s.fault for s in o.shifts)):
                known(fault, book.faults, f"school {i}")
            for d in o.drills:
                known(d, book.drills, f"school {i} drills")
    for g in book.gear:
        known(g.observation, book.observations, "gear")
        for fault in g.explains:
            known(fault, book.faults, "gear")
    for limit in book.limits:
        known(limit.observation, book.observations, "limits")
        for m in limit.measures:
            known(m, book.measures, "limits")
    for pair in book.beside:
        for m in pair:
            known(m, book.measures, "beside")
    for fact in book.fairness:
        given(fact.given, "fairness")
    for easier in book.easier:
        known(easier.drill, book.drills, "easier")
        given(easier.given, "easier")
    for fault in (*book.by_eye, *(i for half in book.halves.values() for i in half)):
        known(fault, book.faults, "by_eye or halves")
    for m in book.by_hand:
        known(m, book.measures, "by_hand")
    for m in book.front_foot.measures if book.front_foot else ():
        known(m, book.measures, "front_foot")
    loop = find_cycle({i: tuple(x.to for x in f.links) for i, f in book.faults.items()})
    if loop:
        out.append("the causes run in a circle: " + " → ".join(loop))
    return out


def find_cycle(graph: dict[str, tuple[str, ...]]) -> list[str]:
    """Return one cycle of a directed graph, or an empty list."""
    done: set[str] = set()

    def walk(node: str, trail: list[str]) -> list[str]:
        if node in trail:
            return [*trail[trail.index(node) :], node]
        if node in done:
            return []
        for child in graph.get(node, ()):
            loop = walk(child, [*trail, node])
            if loop:
                return loop
        done.add(node)
        return []

    for start in graph:
        loop = walk(start, [])
        if loop:
            return loop
    return []
