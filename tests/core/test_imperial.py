"""Feet and miles: what is said in them is as exact as it was, and nothing else changes."""

from __future__ import annotations

import pytest

from proklisis.core.imperial import (
    bench_in_feet,
    factor_of,
    in_feet,
    prescription_in_feet,
    text_in_feet,
)


# Factors: the international yard and pound agreement of 1959.
@pytest.mark.parametrize(
    ("metric", "imperial"),
    [
        ("Stand 22 m away, ahead of the run.", "Stand 72 ft away, ahead of the run."),
        ("Speed gained 0.4 ± 0.1 m/s.", "Speed gained 0.9 ± 0.2 mph."),
        ("Turn start: −1.2 to 3.0 m", "Turn start: −3.9 to 9.8 ft"),
        ("A rectangle of 5 × 3.5 m is marked", "A rectangle of 16 × 11 ft is marked"),
        ("Set the stance 2 cm narrower: 58 cm", "Set the stance 0.79 in narrower: 23 in"),
        ("the boat at 55 km/h", "the boat at 34 mph"),
        ("gives 183 ± 9 pixels a metre", "gives 56 ± 3 pixels a foot"),
        ("about a metre above", "about 3 ft above"),
        ("on a rope of 14.25 m (28 off)", "on a rope of 14.25 m (28 off)"),
        (
            "Knee flexion 31 ± 4° at 0.42 s, frame 12, in 3 of 5 turns",
            "Knee flexion 31 ± 4° at 0.42 s, frame 12, in 3 of 5 turns",
        ),
        ("9.81 m/s² and 4 m² of sail", "9.81 m/s² and 4 m² of sail"),
    ],
)
def test_sentences_are_said_in_feet(metric, imperial):
    assert text_in_feet(metric) == imperial


def test_ids_and_what_the_coach_wrote_are_left_alone():
    said = {"cue": "jump 2 m", "why": ["2.0 m short"], "n": 3}
    assert in_feet(said, frozenset({"cue"})) == {"cue": "jump 2 m", "why": ["6.6 ft short"], "n": 3}


def test_the_benchs_numbers_of_lengths_change_and_no_others():
    bench = {
        "measures": {"gate_gap": {"unit": " m"}, "edge": {"unit": "°"}},
        "readings": [{"measure": "gate_gap", "value": 0.5, "u": 0.05, "words": "0.5", "pm": "0.1"}, {"measure": "edge", "value": 40.0, "u": 1.0, "words": "40", "pm": "2"}],
        "sides": [{"measure": "gate_gap", "value": 0.5, "words": "0.5", "pm": "0.1"}],
        "gaps": [{"measure": "gate_gap", "words": "−0.2", "pm": "0.1", "first": {"side": "left", "words": "0.4"}, "second": {"side": "right", "words": "0.6"}}],
        "bands": [{"measure": "gate_gap", "lo": None, "hi": 0.6}, {"measure": "edge", "lo": 20, "hi": None}],
        "notes": [], "doubt": None, "refusals": [],
    }  # fmt: skip
    feet = bench_in_feet(bench)
    assert feet["measures"] == {"gate_gap": {"unit": " ft"}, "edge": {"unit": "°"}}
    assert (feet["readings"][0]["words"], feet["readings"][0]["pm"]) == ("1.6", "0.3") and feet[
        "readings"
    ][1] == bench["readings"][1]
    assert (
        feet["sides"][0]["words"],
        feet["gaps"][0]["words"],
        feet["gaps"][0]["first"]["words"],
    ) == ("1.6", "−0.7", "1.3")
    assert feet["bands"][0]["hi"] == pytest.approx(1.9685) and feet["bands"][1] == bench["bands"][1]
    assert (factor_of("°"), round(factor_of(" m/s"), 3)) == (1.0, 2.237)


def test_the_riders_own_words_stay_as_they_were_said():
    p = {"intention": {"text": "jump 2 m", "why": "2.0 m short"}, "main": {"why": "1.5 m/s more"}}
    feet = prescription_in_feet(p)
    assert feet["intention"] == {"text": "jump 2 m", "why": "6.6 ft short"}
    assert feet["main"]["why"] == "3.4 mph more"
    assert prescription_in_feet({"intention": None})["intention"] is None
