"""Find what a playbook's author got wrong: misspelt ids, cycles, faults that can never fire."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable
from typing import Any

import yaml
from pydantic import ValidationError

from proklisis.core.errors import InputError
from proklisis.core.measures import library
from proklisis.core.measures.registry import REGISTRY, TURN_PHASES
from proklisis.core.playbook.schema import Playbook

assert library.ALL  # the registry must be whole before ids are checked


def nearest(word: str, known: Iterable[str]) -> str:
    """Return "did you mean …" with the nearest known ids."""
    close = difflib.get_close_matches(word, list(known), n=3, cutoff=0.4)
    return f"the nearest known ids are {', '.join(close)}" if close else "see `proklisis disciplines --json`"


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


def load_playbook(text: str, name: str = "playbook", find: Callable[[str], str] | None = None) -> Playbook:
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


#: The ways of splitting; the table of them cannot be read from here, since its measures need playbooks.
SPLIT_BY = (
    "carve", "board_turns", "poling", "steps", "jumps", "rolls", "loops", "corners", "features", "crossings", "gybes", "waves", "drops",
)  # fmt: skip


def problems(book: Playbook) -> list[str]:
    """List every mistake in a playbook that its schema cannot see."""
    out = []

    def known(word: str, ids: Iterable[str], where: str) -> None:
        if word not in ids:
            out.append(f"{where} names {word!r}, which is not known; {nearest(word, ids)}")

    for m in book.measures:
        known(m, REGISTRY, "measures")
    conditions = [(f"fault {i}", f.when) for i, f in book.faults.items()]
    conditions += [(f"strength {i}", s.when) for i, s in book.strengths.items()]
    for where, condition in conditions:
        for leaf in condition.leaves():
            for key in leaf.given:
                known(key, book.conditions, f"{where} given")
            for question, option in leaf.school.items():
                known(question, book.schools, f"{where} school")
                known(option, book.schools[question].options if question in book.schools else (), f"{where} school")
            if leaf.observation:
                known(leaf.observation, book.observations, where)
                continue
            for m in filter(None, (leaf.measure, leaf.over, leaf.minus)):
                known(m, book.measures, where)
            if leaf.phase:
                known(leaf.phase, book.phases, where)
                own = REGISTRY[leaf.measure].phases if leaf.measure in REGISTRY else ()
                # Shared measures are declared for turns and read in the phases of every family.
                if leaf.phase not in own and own != TURN_PHASES:
                    out.append(f"{where}: {leaf.measure} is not read at {leaf.phase}")
    for i, f in book.faults.items():
        for target in f.leads_to:
            known(target, book.faults, f"fault {i} leads_to")
        for d in f.drills:
            known(d, book.drills, f"fault {i} drills")
        if not any(f.when.leaves()):
            out.append(f"fault {i} can never fire")
    if book.split is not None:
        known(book.split, SPLIT_BY, "split")
    for key in book.condition_defaults:
        known(key, book.conditions, "condition_defaults")
    for i, school in book.schools.items():
        defaults = [school.default] if isinstance(school.default, str) else school.default.values()
        for option in defaults:
            known(option, school.options, f"school {i} default")
        for o in school.options.values():
            for fault in (*o.drops, *o.cues, *(s.fault for s in o.shifts)):
                known(fault, book.faults, f"school {i}")
    for g in book.gear:
        known(g.observation, book.observations, "gear")
        for fault in g.explains:
            known(fault, book.faults, "gear")
    loop = find_cycle({i: f.leads_to for i, f in book.faults.items()})
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
