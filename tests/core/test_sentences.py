"""Every sentence that a playbook can say is read: units in the plural, numbers with their unit, no ids."""

from __future__ import annotations

import re

import pytest

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Condition
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.playbook.words import unit_words
from proklisis.core.review import judge, playbook, playbook_ids

PLURALS = {"push": "pushes", "turn": "turns", "cycle": "cycles", "loop": "loops", "jump": "jumps", "step": "steps", "corner": "corners", "feature": "features",
           "crossing": "crossings", "gybe": "gybes", "roll": "rolls", "ride": "rides", "attempt": "attempts"}  # fmt: skip


def noted(discipline: str, fault: str, level: str, units: int):
    book = playbook(discipline)
    return judge(parse_sheet({
        "format": "run-sheet/1", "discipline": discipline, "level": level, "rider": {"name": "A"},
        "segments": [{"n": n, "kind": book.unit} for n in range(1, units + 1)],
        "observations": [{"id": fault, "segments": list(range(1, units + 1))}],
        "intention": {"text": "x", "faults": [fault]},
    }))  # fmt: skip


def plain(text: str) -> None:
    assert not re.search(r"[a-z]_[a-z]", text), text
    assert "  " not in text and ".." not in text and "{" not in text, text
    assert not re.search(r"\b\w*(ss|sh|ch)s\b", text), text  # pushs


@pytest.mark.parametrize("discipline", playbook_ids())
def test_the_sentences_of_every_fault_read_well_for_one_unit_and_for_many(discipline):
    book = playbook(discipline)
    assert book.units == PLURALS[book.unit]
    for fault, f in book.faults.items():
        level = next(x for x in ("intermediate", "advanced", "elite", "novice") if x in f.levels)
        for units in (1, 6):
            p = noted(discipline, fault, level, units)
            texts = [
                p["unlock"],
                *(c["film_next"] for c in p["cannot_tell"]),
                *([p["intention"]["why"]] if p["intention"] else []),
            ]
            if p["main"] and p["main"]["fault"] == fault:
                texts.append(p["main"]["why"])
                assert (
                    f"in {units} of {units} {book.unit if units == 1 else book.units}"
                    in p["main"]["why"]
                )
            for text in texts:
                plain(re.sub(r"\([a-z_, .]+\)", "", text))  # keys stand in brackets


@pytest.mark.parametrize("discipline", playbook_ids())
def test_no_number_of_a_playbook_stands_without_what_it_is_counted_in(discipline):
    book = playbook(discipline)
    asked: set[str] = set()
    for when in (
        *(f.when for f in book.faults.values()),
        *(s.when for s in book.strengths.values()),
    ):
        asked |= {c.measure for c in when.leaves() if c.measure}
    assert {m for m in asked if not unit_words(m)} == set()


def test_a_quotient_and_a_difference_are_counted_too():
    early = Condition(measure="time_to_fall_line", over="turn_time", band=(0.35, None), scale=0.15)
    assert early.over and REGISTRY["edge_change_start"].of == "wakes"
    p = judge(parse_sheet({
        "format": "run-sheet/1", "discipline": "slalom_ski", "level": "advanced", "rider": {"name": "A"}, "conditions": {"rope_m": 14.25},
        "segments": [{"n": n, "kind": "crossing"} for n in (1, 2)],
        "measures": [{"id": i, "segment": n, "value": v, "u": 0.05} for n in (1, 2) for i, v in (("edge_change_start", -0.5), ("edge_change_end", 2.5))],
    }))  # fmt: skip
    assert re.search(
        r"edge change ends − edge change starts of crossing 1 is 3\.0\d? ± 0\.1\d? wakes where at most 1\.6 wakes is wanted",
        p["main"]["why"],
    )
