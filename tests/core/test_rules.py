"""The rules of judging, one by one, on a small invented playbook where every number is easy to follow."""

from __future__ import annotations

from typing import Any

import pytest
import yaml

from proklisis.core.playbook.bands import wanted_bands
from proklisis.core.playbook.check import load_playbook
from proklisis.core.playbook.prescription import prescribe
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.playbook.words import target_words

STEPS = [{"stage": s, "text": "Do it.", "dose": "10"} for s in ("still", "slow", "full")]


def book(faults: dict[str, dict[str, Any]], **more: Any) -> Playbook:
    full = {
        name: {
            "title": name.title(),
            "seen": "Seen.",
            "cues": [f"Cue for {name}.", "Another."],
            "drills": ["d"],
            **fault,
        }
        for name, fault in faults.items()
    }
    raw = {
        "format": "playbook/1", "discipline": "toy", "title": "Toy", "family": "turns", "unit": "turn", "units": "turns",
        "phases": ["transition", "entry", "belly", "finish"],
        "measures": ["lean", "edge", "knee_flex", "hip_flex", "turn_time", "shoulder_tilt", "angulation"], "faults": full,
        "drills": {"d": {"title": "D", "sign": "It works.", "steps": STEPS}}, "cautions": ["Stop on pain."], **more,
    }  # fmt: skip
    return load_playbook(yaml.safe_dump(raw))


def run(rows: list[dict[str, Any]], turns: int = 4, **more: Any):
    return parse_sheet(
        {
            "format": "run-sheet/1", "discipline": "toy", "rider": {}, "measures": rows,
            "segments": [{"n": n, "kind": "turn", "side": "left" if n % 2 else "right"} for n in range(1, turns + 1)], **more,
        }
    )  # fmt: skip


def values(
    measure: str, *each: float, u: float = 0.1, phase: str | None = "belly", **more: Any
) -> list[dict[str, Any]]:
    extra = {**more, **({"phase": phase} if phase else {})}
    return [
        {"id": measure, "segment": n, "value": v, "u": u, **extra} for n, v in enumerate(each, 1)
    ]


LEAN = {"when": {"measure": "lean", "phase": "belly", "band": [10, 20], "scale": 5}}
EDGE = {"when": {"measure": "edge", "phase": "belly", "band": [30, None], "scale": 10}}
TILT = {"when": {"measure": "shoulder_tilt", "phase": "entry", "band": [None, 5], "scale": 5}}


def finding(found: dict[str, Any], fault: str) -> dict[str, Any]:
    return next(f for f in found["findings"] if f["fault"] == fault)


@pytest.mark.parametrize(
    ("value", "u", "verdict"),
    [
        (20.0 + 1.7, 1.0, "clear"),
        (20.0 + 1.0, 1.0, "likely"),
        (20.0 + 0.2, 1.0, "unclear"),
        (20.0 - 2.0, 1.0, None),
    ],
)
def test_verdicts_follow_the_probability(value, u, verdict):
    found = prescribe(run(values("lean", *[value] * 4, u=u)), book({"wild": LEAN}))
    assert [f["verdict"] for f in found["findings"]] == ([verdict] if verdict else [])


def test_a_value_wider_than_its_band_settles_nothing():
    found = prescribe(run(values("lean", 40, 40, 40, 40, u=6.0)), book({"wild": LEAN}))
    assert found["main"] is None
    assert found["cannot_tell"][0]["fault"] == "wild"


def test_half_of_the_units_and_two_at_least_make_a_fault():
    one_of_four = prescribe(run(values("lean", 30, 15, 15, 15)), book({"wild": LEAN}))
    two_of_four = prescribe(run(values("lean", 30, 30, 15, 15)), book({"wild": LEAN}))
    assert finding(one_of_four, "wild")["status"] == "episode"
    assert finding(two_of_four, "wild")["status"] == "root"


def test_a_run_of_one_or_two_units_needs_only_one():
    found = prescribe(run(values("lean", 30, 15), turns=2), book({"wild": LEAN}))
    assert found["main"]["fault"] == "wild"


def test_severity_is_counted_in_scales_and_capped():
    mild = prescribe(run(values("lean", *[25.0] * 4)), book({"wild": LEAN}))
    huge = prescribe(run(values("lean", *[90.0] * 4)), book({"wild": LEAN}))
    assert finding(mild, "wild")["severity"] == pytest.approx(1.0)
    assert finding(huge, "wild")["severity"] == 3.0


def test_the_default_scale_is_half_the_bands_width():
    found = prescribe(
        run(values("lean", *[30.0] * 4)),
        book({"wild": {"when": {"measure": "lean", "phase": "belly", "band": [10, 20]}}}),
    )
    assert finding(found, "wild")["severity"] == pytest.approx(2.0)


def test_explaining_more_weighs_more():
    faults = {"big": EDGE, "cause": {**LEAN, "leads_to": ["sign"]}, "sign": TILT}
    rows = [
        *values("edge", *[12.0] * 4),
        *values("lean", *[25.0] * 4),
        *values("shoulder_tilt", *[9.0] * 4, phase="entry"),
    ]
    found = prescribe(run(rows), book(faults))
    # big: severity 1.8; cause: severity 1.0, doubled for the one fault that it explains.
    assert found["main"]["fault"] == "cause"
    assert finding(found, "sign")["because_of"] == ["cause"]
    assert "explains: sign" in found["main"]["why"]


def test_the_weight_of_a_level_counts():
    faults = {"big": EDGE, "dear": {**LEAN, "weight": {"intermediate": 3.0}}}
    rows = [*values("edge", *[12.0] * 4), *values("lean", *[25.0] * 4)]
    assert prescribe(run(rows), book(faults))["main"]["fault"] == "dear"
    assert prescribe(run(rows, level="elite"), book(faults))["main"]["fault"] == "big"


def test_the_earlier_phase_breaks_a_tie():
    faults = {
        "late": {"when": {"measure": "lean", "phase": "finish", "band": [10, 20], "scale": 5}},
        "early": TILT,
    }
    rows = [
        *values("lean", *[25.0] * 4, phase="finish"),
        *values("shoulder_tilt", *[10.0] * 4, phase="entry"),
    ]
    assert prescribe(run(rows), book(faults))["main"]["fault"] == "early"


def test_at_most_two_more_are_given():
    names = ("lean", "edge", "knee_flex", "hip_flex", "angulation")
    faults = {
        n: {"when": {"measure": n, "phase": "belly", "band": [None, 5], "scale": 5}} for n in names
    }
    found = prescribe(run([r for n in names for r in values(n, *[12.0] * 4)]), book(faults))
    assert len(found["cues"]) == 3
    assert len([f for f in found["findings"] if f["status"] == "root"]) == 5


def test_the_worst_limb_speaks_for_the_unit_and_is_named():
    fault = {"when": {"measure": "knee_flex", "phase": "belly", "band": [30, None], "scale": 10}}
    rows = [
        *values("knee_flex", *[40.0] * 4, limb="outside"),
        *values("knee_flex", *[12.0] * 4, limb="inside"),
    ]
    found = prescribe(run(rows), book({"stiff": fault}))
    assert {e["limb"] for e in finding(found, "stiff")["evidence"]} == {"inside"}
    assert finding(found, "stiff")["share"] == 1.0


def test_all_needs_every_part_and_any_needs_one():
    both = [LEAN["when"], EDGE["when"]]
    rows = [*values("lean", *[30.0] * 4), *values("edge", *[40.0] * 4)]
    assert prescribe(run(rows), book({"x": {"when": {"any": both}}}))["main"]["fault"] == "x"
    assert prescribe(run(rows), book({"x": {"when": {"all": both}}}))["main"] is None


def test_all_with_a_part_unknown_cannot_be_told_unless_another_part_rules_it_out():
    both = {"x": {"when": {"all": [LEAN["when"], EDGE["when"]]}}}
    assert prescribe(run(values("lean", *[30.0] * 4)), book(both))["cannot_tell"][0]["fault"] == "x"
    ruled_out = prescribe(run(values("lean", *[15.0] * 4)), book(both))
    assert ruled_out["cannot_tell"] == []
    assert ruled_out["main"] is None


@pytest.mark.parametrize(
    ("value", "u", "verdict"),
    [(2.0, 2.0, "clear"), (4.0, 0.3, "clear"), (-2.0, 2.0, None), (9.4, 0.5, "likely")],
)
def test_a_border_between_two_faults_on_one_scale_takes_no_doubt_from_either(value, u, verdict):
    # Too little bend, while above zero: below zero it is the neighbouring fault.
    too_little = {"measure": "angulation", "phase": "belly", "band": [10, None], "scale": 5}
    above_zero = {"measure": "angulation", "phase": "belly", "band": [0, None], "inside": True}
    found = prescribe(
        run(values("angulation", *[value] * 4, u=u)),
        book({"x": {"when": {"all": [too_little, above_zero]}}}),
    )
    assert [f["verdict"] for f in found["findings"] if f["status"] == "root"] == (
        [verdict] if verdict else []
    )


def test_a_quotient_carries_both_uncertainties():
    fault = {
        "when": {
            "measure": "lean",
            "over": "edge",
            "phase": "belly",
            "band": [None, 0.5],
            "scale": 0.2,
        }
    }
    sure = prescribe(
        run([*values("lean", *[18.0] * 4), *values("edge", *[30.0] * 4)]), book({"x": fault})
    )
    assert finding(sure, "x")["evidence"][0]["value"] == pytest.approx(0.6)
    vague = prescribe(
        run([*values("lean", *[18.0] * 4), *values("edge", *[30.0] * 4, u=8.0)]), book({"x": fault})
    )
    assert finding(vague, "x")["status"] == "unclear"


def test_a_value_for_the_whole_run_stands_for_all_units():
    fault = {"when": {"measure": "turn_time", "band": [None, 1.0], "scale": 0.5}}
    rows = [{"id": "turn_time", "value": 2.0, "u": 0.05}]
    assert prescribe(run(rows), book({"slow": fault}))["main"]["fault"] == "slow"


def test_a_maybe_is_likely_and_a_sure_look_is_clear():
    faults = {"x": {"when": {"observation": "o"}}}
    toy = book(faults, observations={"o": {"title": "O"}})
    sure, maybe = (
        prescribe(run([], observations=[{"id": "o", "sure": s}]), toy) for s in (True, False)
    )
    assert finding(sure, "x")["verdict"] == "clear"
    assert finding(maybe, "x")["verdict"] == "likely"


def test_a_safety_fault_goes_before_everything():
    faults = {"big": EDGE, "danger": {**LEAN, "safety": True}}
    rows = [*values("edge", *[0.0] * 4), *values("lean", *[21.0] * 4)]
    assert prescribe(run(rows), book(faults))["main"]["fault"] == "danger"


def test_bands_are_listed_for_the_screen_with_their_level():
    levels = {
        "when": {"measure": "edge", "phase": "belly", "band": {"advanced": [40, None]}, "scale": 10}
    }
    toy = book({"x": levels, "y": LEAN})
    assert [b.measure for b in wanted_bands(toy, "intermediate")] == ["lean"]
    assert {(b.measure, b.band) for b in wanted_bands(toy, "advanced")} == {
        ("edge", (40, None)),
        ("lean", (10, 20)),
    }


def test_targets_are_said_in_words():
    found = prescribe(run(values("lean", *[30.0] * 4)), book({"wild": LEAN}))
    assert [target_words(t) for t in found["retest"]] == ["Lean at the belly: 10 to 20°"]


def test_nothing_at_all_is_a_clean_answer():
    found = prescribe(run(values("lean", *[15.0] * 4)), book({"wild": LEAN}))
    assert found["main"] is None
    assert found["cues"] == found["drills"] == found["retest"] == found["findings"] == []
    assert found["cautions"] == ["Stop on pain."]


def test_a_band_on_a_difference_is_no_band_of_its_first_part():
    from proklisis.core.review import playbook

    bands = wanted_bands(playbook("snowboard"), "intermediate")
    assert "lean" not in {b.measure for b in bands}
    assert "time_to_fall_line" not in {b.measure for b in bands}
    assert "hinge" in {b.measure for b in bands}
