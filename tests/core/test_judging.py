"""From a sheet of numbers to one cue."""

from __future__ import annotations

from typing import Any

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from proklisis.core.camera.views import ONLY_3D, in_views
from proklisis.core.errors import InputError
from proklisis.core.playbook.bands import wanted_bands
from proklisis.core.playbook.check import find_cycle, load_playbook, problems
from proklisis.core.playbook.prescription import prescribe
from proklisis.core.playbook.schema import Condition
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.playbook.sheet_check import check_sheet
from proklisis.core.review import judge, judged_of, nothing_found, playbook
from proklisis.core.tracks.landmarks import in_words
from proklisis.formats.schemas import schemas

PRESCRIPTION = jsonschema.Draft202012Validator(schemas()["prescription"])
BOOK = playbook("alpine_carve")


def sheet(measures: list[dict[str, Any]], turns: int = 4, **more: Any) -> dict[str, Any]:
    return {
        "format": "run-sheet/1", "discipline": "alpine_carve", "level": "intermediate", "rider": {"name": "A"},
        "clip": {"fps": 60, "view": "front"},
        "segments": [{"n": n, "kind": "turn", "side": "right" if n % 2 else "left"} for n in range(1, turns + 1)],
        "measures": measures, **more,
    }  # fmt: skip


def each(
    id: str,
    value: float,
    u: float = 1.0,
    phase: str | None = "belly",
    turns: tuple[int, ...] = (1, 2, 3, 4),
):
    return [
        {"id": id, "segment": n, "value": value, "u": u, **({"phase": phase} if phase else {})}
        for n in turns
    ]


def prescribed(data: dict[str, Any]) -> dict[str, Any]:
    out = judge(parse_sheet(data))
    PRESCRIPTION.validate(out)
    return out


def test_the_cause_is_chosen_and_its_symptoms_hang_from_it():
    found = prescribed(
        sheet(
            [
                *each("shoulder_tilt", 25),
                *each("angulation", 1.5, 0.3),
                *each("weight_outside", 40, 3),
            ]
        )
    )
    assert found["main"]["fault"] == "not_level"
    status = {f["fault"]: f["status"] for f in found["findings"]}
    assert status["banking"] == status["inside_weight"] == "symptom"
    assert {"banking", "inside_weight"} <= set(
        next(f for f in found["findings"] if f["fault"] == "not_level")["explains"]
    )


def test_a_main_thing_that_is_only_likely_is_worded_so():
    clear = prescribed(sheet(each("shoulder_tilt", 25)))["main"]
    assert clear["verdict"] == "clear" and clear["why"].startswith("The inside shoulder drops")
    # One standard uncertainty beyond what is wanted: the interval lies across the band's edge.
    edge = next(
        b
        for b in wanted_bands(playbook("alpine_carve"), "intermediate")
        if b.measure == "shoulder_tilt"
    ).band[1]
    likely = prescribed(sheet(each("shoulder_tilt", edge + 2.2, 2.0)))["main"]
    assert likely["verdict"] == "likely"
    assert likely["why"].startswith(
        "Likely, not certain: the inside shoulder drops in 4 of 4 turns"
    )


def test_two_causes_that_weigh_the_same_within_their_uncertainty_are_both_named():
    near = prescribed(
        sheet([*each("shoulder_tilt", 25, 4.0), *each("hip_fore_aft", -0.27, 0.06, "entry")])
    )
    first = near["main"]["fault"]
    others = {c["fault"] for c in near["cues"]} - {first}
    heavy = [r for r in near["main"]["rivals"] if r["kind"] == "as_heavy"]
    assert {r["fault"] for r in heavy} <= others and heavy
    assert "±" in heavy[0]["parts"] and "would part the two" in heavy[0]["parts"]
    # Read ten times as well, the heavier of the two stands alone.
    sharp = prescribed(
        sheet([*each("shoulder_tilt", 25, 0.4), *each("hip_fore_aft", -0.27, 0.006, "entry")])
    )
    assert sharp["main"]["fault"] == first
    assert [r for r in sharp["main"].get("rivals", []) if r["kind"] == "as_heavy"] == []


def test_a_cause_that_nobody_read_is_named_behind_the_main_thing():
    # Too little weight on the outside ski can come from an inside shoulder that drops.
    found = prescribed(sheet(each("weight_outside", 40, 3)))
    behind = [r for r in found["main"]["rivals"] if r["kind"] == "behind"]
    assert behind and all("not read" in r["says"] and r["parts"] for r in behind)
    # Where each of them was read and is well, none is named.
    read = prescribed(
        sheet([*each("weight_outside", 40, 3), *each("shoulder_tilt", 3), *each("angulation", 20)])
    )
    assert not {r["fault"] for r in read["main"].get("rivals", [])} & {"not_level", "banking"}


def test_one_side_only_is_said():
    found = prescribed(
        sheet([*each("shoulder_tilt", 25, turns=(2, 4)), *each("shoulder_tilt", 3, turns=(1, 3))])
    )
    assert found["main"]["side"] == "left"
    assert "left" in found["main"]["why"]
    assert {t["side"] for t in found["retest"]} == {"both", "left"}


def test_a_one_off_is_named_and_not_coached():
    found = prescribed(
        sheet([*each("shoulder_tilt", 25, turns=(3,)), *each("shoulder_tilt", 3, turns=(1, 2, 4))])
    )
    assert found["main"] is None
    assert [(f["fault"], f["status"]) for f in found["findings"]] == [("not_level", "episode")]


def test_what_the_view_hides_cannot_be_told_and_says_where_to_film():
    found = prescribed(sheet(each("shoulder_tilt", 3)))
    hidden = {c["fault"]: c for c in found["cannot_tell"]}
    assert hidden["hips_behind"]["reason"] == "view"
    assert "side" in hidden["hips_behind"]["film_next"]


@pytest.mark.parametrize(("fps", "measure", "u", "reason", "words"), [
    (30, "time_to_fall_line", 0.8, "frame_rate", "Film at 120 frames a second or more: 30 a second"), (240, "time_to_fall_line", 0.8, "blur", "short shutter"),
    (30, "shoulder_tilt", 30.0, "blur", "the ± is wider"),
])  # fmt: skip
def test_what_was_read_too_roughly_says_what_to_film_better(fps, measure, u, reason, words):
    """A ± wider than the band settles nothing: it is not "not measured"."""
    book = BOOK.model_copy(update={"faults": {"x": BOOK.faults["not_level"].model_copy(update={
        "leads_to": (), "when": Condition(measure=measure, phase="belly", band=(0.0, 1.0))})}})  # fmt: skip
    data = sheet(each(measure, 5.0, u), clip={"fps": fps, "view": "front"})
    (told,) = prescribe(parse_sheet(data), book)["cannot_tell"]
    assert told["reason"] == reason
    assert words in told["film_next"]


def test_a_part_that_was_read_well_is_not_called_blurred_for_the_one_that_was_not_read():
    # Standing tall is told by the rise and by the hip: only the rise is here, and it is sharp.
    data = sheet(each("hip_rise", 0.35, 0.01, None), clip={"fps": 60, "view": "side_left"})
    told = {c["fault"]: c for c in prescribed(data)["cannot_tell"]}
    assert told["stands_tall"]["reason"] == "not_measured"
    assert "hip" in told["stands_tall"]["film_next"]


def test_a_band_with_one_end_is_never_too_narrow_for_a_reading():
    """However wide its ±, a reading far beyond a single limit is judged by its probability."""
    far = prescribed(sheet(each("shoulder_tilt", 60, 20)))
    assert "not_level" not in {c["fault"] for c in far["cannot_tell"]}
    assert far["main"]["fault"] == "not_level"


@pytest.mark.parametrize(("views", "words"), [
    (["front", "rear"], "from the front or from behind"), (["side_left", "side_right"], "from the side"), (["above"], "from above"),
    (["front", "side_left", "side_right"], "from the front or from the side"), (["side_left"], "from the rider's left"),
    (["front", "rear", "above"], "from the front, from behind or from above"), ([ONLY_3D], "in 3-D tracks"),
])  # fmt: skip
def test_where_to_film_from_ends_a_sentence(views, words):
    assert in_views(views) == words


def test_views_are_named_as_a_coach_would():
    found = prescribed(sheet(each("shoulder_tilt", 3)))
    hidden = {c["fault"]: c["film_next"] for c in found["cannot_tell"]}
    assert hidden["hips_behind"] == "Film it from the side."
    assert hidden["upper_body_leads"] == "Film it from above."


def test_the_riders_intention_comes_first():
    both = [*each("shoulder_tilt", 22), *each("turn_shape", 0.75, 0.01, None)]
    assert prescribed(sheet(both))["main"]["fault"] == "hooked_finish"
    wanted = prescribed(sheet(both, intention={"text": "level shoulders", "faults": ["not_level"]}))
    assert wanted["main"]["fault"] == "not_level"
    assert [c["fault"] for c in wanted["cues"]] == ["not_level", "hooked_finish"]


def test_levels_set_the_band():
    assert prescribed(sheet(each("edge", 30), level="intermediate"))["main"] is None
    assert prescribed(sheet(each("edge", 30), level="elite"))["main"]["fault"] == "low_edge"
    assert all(
        f["fault"] != "low_edge"
        for f in prescribed(sheet(each("edge", 5), level="novice"))["findings"]
    )


def test_the_school_moves_the_band():
    run = sheet(each("angulation", 2.0, 0.3))
    assert prescribed({**run, "schools": {"crossing": "level"}})["main"]["fault"] == "banking"
    assert prescribed({**run, "schools": {"crossing": "topple"}})["main"] is None


def test_an_observation_counts_as_the_coachs_eye():
    found = prescribed(
        sheet(
            [],
            observations=[{"id": "spray_long", "segment": n, "sure": n > 1} for n in (1, 2, 3, 4)],
        )
    )
    assert found["main"]["fault"] == "skid"


def test_strengths_are_named_first_and_need_most_units():
    found = prescribed(sheet(each("shoulder_tilt", 2)))
    assert [s["id"] for s in found["strengths"]] == ["shoulders_level"]
    assert not prescribed(sheet(each("shoulder_tilt", 2, turns=(1, 2))))["strengths"]


def test_why_speaks_of_the_missed_band_and_not_of_a_side_condition():
    assert "at least 5°" in prescribed(sheet(each("angulation", 2.0, 0.3)))["main"]["why"]


def test_a_dropped_fault_is_judged_as_absent():
    run = parse_sheet(sheet([*each("shoulder_tilt", 25), *each("angulation", 1.5, 0.3)]))
    assert judge(run)["main"]["fault"] == "not_level"
    assert judge(run, dropped={"not_level"})["main"]["fault"] == "banking"


def test_always_says_take_care():
    cautions = " ".join(prescribed(sheet(each("shoulder_tilt", 25)))["cautions"]).lower()
    for word in ("pain", "licensed", "rules", "helmet"):
        assert word in cautions


@given(value=st.floats(-40, 60), u=st.floats(0.05, 8), more=st.floats(1.0, 10))
def test_wider_uncertainty_never_makes_a_verdict_surer(value, u, more):
    def p(width: float) -> float | None:
        found = judge(parse_sheet(sheet(each("shoulder_tilt", value, width))))
        hit = [f for f in found["findings"] if f["fault"] == "not_level" and f["status"] == "root"]
        return hit[0]["evidence"][0]["p"] if hit else None

    narrow, wide = p(u), p(u * more)
    if wide is not None:
        assert narrow is not None
        assert narrow >= wide - 1e-3


@given(order=st.permutations(range(1, 7)))
def test_the_order_of_units_does_not_matter(order):
    values = {1: 25, 2: 4, 3: 22, 4: 5, 5: 27, 6: 3}
    rows = [
        {"id": "shoulder_tilt", "phase": "belly", "segment": n, "value": values[n], "u": 1.0}
        for n in order
    ]
    assert judge(parse_sheet(sheet(rows, 6)))["main"]["side"] == "right"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"measures": [{"id": "shoulder_tlt", "value": 1}]}, ["shoulder_tilt", "measures.0.id"]),
        ({"measures": [{"id": "lean", "value": float("nan")}]}, ["measures.0.value", "finite"]),
        ({"rider": None}, ["rider"]),
        ({"colour": 3}, ["colour", "not known"]),
        ({"measures": [{"id": "lean", "segment": 9, "value": 1}]}, ["segment 9"]),
        ({"observations": [{"id": "spray"}]}, ["spray_long"]),
        ({"schools": {"crossing": "sideways"}}, ["sideways"]),
        ({"measures": [{"id": "lean", "phase": "bely", "value": 1}]}, ["belly"]),
    ],
)
def test_bad_sheets_are_refused_in_one_sentence(change, words):
    with pytest.raises(InputError) as error:
        check_sheet(parse_sheet({**sheet([]), **change}), BOOK)
    assert all(w in str(error.value) for w in words)
    assert "\n" not in str(error.value)


def test_a_missing_rider_is_named():
    data = sheet([])
    del data["rider"]
    with pytest.raises(InputError, match="rider"):
        parse_sheet(data)


def test_the_playbook_is_whole():
    assert problems(BOOK) == []
    assert len(BOOK.faults) == 23
    for fault in BOOK.faults.values():
        for drill in fault.drills:
            assert len(BOOK.drills[drill].steps) >= 3
            assert BOOK.drills[drill].sign


@pytest.mark.parametrize("fault", [i for i, f in BOOK.faults.items() if "intermediate" in f.levels])
def test_every_fault_can_fire(fault):
    leaves = BOOK.faults[fault].when.leaves()
    rows, seen = [], []
    for leaf in leaves:
        if leaf.observation:
            seen.append({"id": leaf.observation, "sure": True})
        elif leaf.over:
            rows += each(leaf.over, 1.0, 0.01, None) + each(
                leaf.measure, leaf.band[0] - 1, 0.01, None
            )
        elif not leaf.inside:
            lo, hi = leaf.band_for("intermediate")
            scale = leaf.scale_for("intermediate")
            bad = lo - 0.6 * scale if lo is not None else hi + 1.5 * scale
            # "While above zero" leaves room for what fires.
            if any(x.inside and (x.measure, x.phase) == (leaf.measure, leaf.phase) for x in leaves):
                bad = max(bad, 0.5)
            rows += each(leaf.measure, bad, 0.01, leaf.phase)
    unique = {(r["id"], r["segment"], r.get("phase")): r for r in rows}
    found = prescribed(sheet(list(unique.values()), observations=seen))
    assert fault in {f["fault"] for f in found["findings"] if f["status"] in ("root", "symptom")}


def test_a_cycle_of_causes_is_found_and_refused():
    assert find_cycle({"a": ("b",), "b": ("c",), "c": ("a",)})[0] == "a"
    text = """
format: playbook/1
discipline: x
title: X
family: turns
unit: turn
units: turns
phases: [belly]
measures: [lean]
faults:
  a: {title: A, seen: s, when: {measure: lean, band: [0, 1]}, leads_to: [b], cues: [c], drills: [d]}
  b: {title: B, seen: s, when: {measure: leen, band: [0, 1]}, leads_to: [a], cues: [c], drills: [d]}
drills:
  d: {title: D, sign: s, steps: [{stage: still, text: t, dose: d}, {stage: slow, text: t, dose: d}, {stage: full, text: t, dose: d}]}
cautions: [care]
"""
    with pytest.raises(InputError, match="lean"):
        load_playbook(text)
    with pytest.raises(InputError, match="circle"):
        load_playbook(text.replace("leen", "lean"))


def test_a_run_of_which_nothing_was_read_is_not_called_well():
    empty = prescribed(sheet([], turns=0))
    assert nothing_found(empty) == "Nothing could be judged on this run."
    assert judged_of(empty)[0] == 0 < judged_of(empty)[1]
    some = prescribed(sheet(each("hip_rise", 0.0, 0.01, None)))
    seen, of = judged_of(some)
    if some["main"] is None:
        assert f"in the {seen} of {of} things" in nothing_found(some)
    assert 0 < seen < of


def test_where_one_thing_is_the_main_one_nothing_else_is_said():
    assert nothing_found(prescribed(sheet(each("angulation", -25.0)))) == ""


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("l_pole_tip", "left pole tip"),
        ("r_knee", "right knee"),
        ("board_nose", "board nose"),
        ("bar_l", "bar l"),
        ("nose", "nose"),
    ],
)
def test_landmarks_are_told_in_a_coachs_words(name, words):
    assert in_words(name) == words


def test_what_cannot_be_told_names_no_ids():
    for c in prescribed(sheet([], turns=0))["cannot_tell"]:
        assert "_" not in c["film_next"]


@pytest.mark.parametrize(
    ("intention", "faults"),
    [(None, {"v_too_wide"}), ({"text": "more speed", "faults": ["no_push"]}, set())],
)
def test_who_wants_more_speed_may_open_the_feet_wide(intention, faults):
    steps = {
        "format": "run-sheet/1", "discipline": "inline_start", "level": "novice", "rider": {"name": "A"}, "clip": {"fps": 60, "view": "front"},
        "segments": [{"n": n, "kind": "step", "side": "lr"[n % 2]} for n in range(1, 7)],
        "measures": [{"id": "v_angle", "segment": n, "value": 90, "u": 2} for n in range(1, 7)], **({"intention": intention} if intention else {}),
    }  # fmt: skip
    found = {f["fault"] for f in prescribed(steps)["findings"] if f["verdict"] != "unclear"}
    assert found & {"v_too_wide"} == faults
