"""What a run is judged under: the trade's own units, conditions unit by unit, and bands that wait for a word."""

from __future__ import annotations

import pytest

from proklisis.core.errors import InputError
from proklisis.core.playbook.conditions import KINDS, ROPES, in_one_unit, read_rope, rope_words
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.review import judge, playbook, playbook_ids


def sheet(discipline: str, measures=(), units: int = 4, segments=None, **more):
    own = segments or [{"n": n} for n in range(1, units + 1)]
    return {
        "format": "run-sheet/1", "discipline": discipline, "level": "intermediate", "rider": {"name": "A"},
        "segments": [{"kind": playbook(discipline).unit, **s} for s in own], "measures": list(measures), **more,
    }  # fmt: skip


def rows(measure: str, *values: float, phase: str | None = None, u: float = 0.01, **more):
    return [
        {
            "id": measure,
            "segment": n,
            "value": v,
            "u": u,
            **({"phase": phase} if phase else {}),
            **more,
        }
        for n, v in enumerate(values, 1)
    ]


def judged(data):
    return judge(parse_sheet(data))


# Rope loops of tournament slalom and their feet off: tournament rules (docs/trade.md).
@pytest.mark.parametrize(
    ("text", "metres"),
    [
        ("15 off", 18.25),
        ("28", 14.25),
        ("14.25", 14.25),
        ("14,25 m", 14.25),
        ("39.5 off", 10.75),
        ("22 ft off", 16.0),
        ("43", 9.75),
    ],
)
def test_a_rope_is_read_as_a_coach_says_it(text, metres):
    assert in_one_unit(read_rope(text))["rope_m"] == metres


@pytest.mark.parametrize("text", ["17 off", "15 m", "20", "rope", "", "1e999", "-15 off"])
def test_what_is_no_rope_is_refused_and_never_guessed(text):
    with pytest.raises(InputError) as e:
        read_rope(text)
    assert "the nearest loops are" in str(e.value) or "write 15 off" in str(e.value)


def test_the_nearest_loops_are_named_in_both_ways_of_counting():
    with pytest.raises(InputError, match=r"18\.25 m \(15 off\) and 16 m \(22 off\)"):
        read_rope("17 off")
    assert [rope_words(m) for m, _ in ROPES][2] == "14.25 m (28 off)"


@pytest.mark.parametrize(
    ("said", "key", "value"), [({"boat_mph": 34.2}, "boat_kmh", 55.04), ({"wind_ms": 9.0}, "wind_kn", 17.49), ({"wave_ft": 6}, "wave_m", 1.829)]
)  # fmt: skip
def test_the_trades_other_units_are_read(said, key, value):
    assert in_one_unit(said)[key] == pytest.approx(value, abs=0.01)


def test_two_ways_of_saying_one_thing_must_agree():
    assert in_one_unit({"boat_kmh": 55, "boat_mph": 34.2}) == {"boat_kmh": 55.0396}
    with pytest.raises(InputError, match="not the same"):
        in_one_unit({"rope_m": 18.25, "rope_off_ft": 28})


def test_an_early_edge_change_is_judged_by_the_rope_in_feet():
    early = rows("edge_change_start", 0.4, 0.4, 0.4, 0.4)
    assert (
        judged(sheet("slalom_ski", early, conditions={"rope_off_ft": 15}))["main"]["fault"]
        == "edge_change_early"
    )
    assert judged(sheet("slalom_ski", early, conditions={"rope_off_ft": 28}))["main"] is None


def test_a_band_that_hangs_on_what_was_not_said_waits_and_names_the_key():
    p = judged(sheet("slalom_ski", rows("edge_change_start", *[-0.4] * 4)))
    assert p["main"] is None
    words = next(c["film_next"] for c in p["cannot_tell"] if c["fault"] == "edge_change_early")
    assert "rope" in words and "rope_m" in words


def test_a_unit_may_have_conditions_of_its_own():
    # common practice: double poling uphill leaves the forearm out; on the flat at speed it finishes.
    segments = [{"n": n, "conditions": {"terrain": "steep"}} for n in (1, 2)] + [
        {"n": n} for n in (3, 4)
    ]
    p = judged(
        sheet(
            "double_pole",
            rows("elbow_flex", 75, 75, 75, 75, phase="release"),
            segments=segments,
            conditions={"speed_ms": 6.5},
        )
    )
    f = next(x for x in p["findings"] if x["fault"] == "no_forward_push")
    assert [e["segment"] for e in f["evidence"]] == [3, 4]
    assert f["share"] == 1.0


def test_a_wanted_angle_is_no_fault_and_the_angle_off_it_is():
    wanted = [
        {"n": 1, "conditions": {"wanted_angle_deg": 30}},
        {"n": 2, "conditions": {"wanted_angle_deg": 30}},
    ]
    straight, turned = (
        rows("boat_angle", 0, 0, phase="lip", u=1),
        rows("boat_angle", 30, 30, phase="lip", u=1),
    )
    assert judged(sheet("drop_boof", turned, segments=wanted))["main"] is None
    p = judged(sheet("drop_boof", straight, segments=wanted))
    assert p["main"]["fault"] == "angled_at_lip"
    assert p["findings"][0]["evidence"][0]["measure"] == "boat_angle-wanted"
    assert judged(sheet("drop_boof", straight))["main"] is None


def test_time_is_held_against_the_riders_own_best_gate_of_that_side_and_is_an_effect():
    segments = [{"n": n, "side": "left" if n % 2 else "right"} for n in range(1, 7)]
    times = rows("gate_time", 1.0, 1.5, 1.3, 1.5, 1.3, 1.5)
    p = judged(sheet("alpine_gates", times, segments=segments, conditions={"set": "slalom"}))
    lost = next(f for f in p["findings"] if f["fault"] == "time_lost_at_gate")
    assert p["main"] is None
    assert (lost["side"], lost["status"]) == ("left", "symptom")
    assert [e["segment"] for e in lost["evidence"]] == [3, 5]
    few = judged(
        sheet("alpine_gates", times[:4], segments=segments[:4], conditions={"set": "slalom"})
    )
    assert "time_lost_at_gate" in {c["fault"] for c in few["cannot_tell"]}


def test_dearest_gates_come_first_with_what_stood_there():
    segments = [{"n": n, "side": "left"} for n in range(1, 5)]
    measures = rows("gate_time", 1.0, 1.2, 1.6, 1.3) + rows(
        "shoulder_tilt", 2, 2, 30, 2, phase="belly"
    )
    p = judged(sheet("alpine_gates", measures, segments=segments, conditions={"set": "slalom"}))
    lost = next(f for f in p["findings"] if f["fault"] == "time_lost_at_gate")
    assert [e["segment"] for e in lost["evidence"]] == [3, 4, 2]
    assert "not_level" in lost["evidence"][0]["with"]


@pytest.mark.parametrize(("fall", "words"), [(25, "Too much fall"), (4, "Too little fall")])
def test_a_band_missed_on_either_side_has_its_own_words_and_cue(fall, words):
    p = judged(
        sheet(
            "double_pole",
            rows("body_fall", *[fall] * 4, phase="plant", u=0.5),
            conditions={"effort": "race"},
        )
    )
    assert words in p["main"]["why"]
    assert ("upright" in p["main"]["cue"]) == (fall == 25)


def test_a_link_holds_only_as_it_says():
    measures = rows("curvature_peak_at", *[0.2] * 4)
    for edge, follows in (("inside", "double_three"), ("outside", "skidded_loop")):
        p = judged(
            sheet(
                "figure_loop",
                measures,
                conditions={"edge": edge},
                observations=[{"id": "toe_turn"}, {"id": "skid_mark"}],
            )
        )
        explains = next(f for f in p["findings"] if f["fault"] == "rushed_edge")["explains"]
        assert explains == [follows]
    tired = judged(
        sheet(
            "double_pole",
            rows("body_fall", *[4.0] * 4, phase="plant", u=0.5),
            conditions={"effort": "race"},
            observations=[{"id": "fades"}],
        )
    )
    assert next(f for f in tired["findings"] if f["fault"] == "tired_early")["because_of"] == []


def test_banking_explains_the_inside_weight_only_where_the_outside_foot_is_lost_in_the_belly():
    segments = [{"n": n, "side": "left" if n % 2 else "right"} for n in range(1, 5)]
    bank = rows("angulation", *[1.0] * 4, phase="belly", u=0.5)
    for more, because in (({"measures": [*bank, *rows("weight_outside", *[45.0] * 4, phase="belly", u=1)]}, ["banking"]),
                          ({"measures": bank, "observations": [{"id": "inside_ski_turns_first"}]}, [])):  # fmt: skip
        data = {**sheet("alpine_carve", segments=segments), **more}
        f = next(x for x in judged(data)["findings"] if x["fault"] == "inside_weight")
        assert f["because_of"] == because


def test_a_pattern_is_right_only_where_all_of_it_was_seen():
    segments = [{"n": n, "side": "left" if n % 2 else "right"} for n in range(1, 5)]
    belly, change = (
        rows("separation", *[15.0] * 4, phase="belly", u=2),
        rows("separation", *[0.0] * 4, phase="transition", u=2),
    )
    part = judged(sheet("alpine_carve", belly, segments=segments))
    assert "no_counter" in {c["fault"] for c in part["cannot_tell"]}
    whole = judged(sheet("alpine_carve", belly + change, segments=segments))
    assert "no_counter" not in {c["fault"] for c in whole["cannot_tell"]}
    broken = judged(
        sheet(
            "alpine_carve",
            rows("separation", *[1.0] * 4, phase="belly", u=0.5) + change,
            segments=segments,
        )
    )
    assert broken["main"]["fault"] == "no_counter"


def test_reasons_and_effects_are_told_and_never_the_main_thing():
    p = judged(
        sheet(
            "slalom_ski",
            rows("lean_reversals", 1, 1, 1, 1),
            conditions={"rope_m": 13},
            schools={"turn_entry": "settle_then_drop"},
            observations=[{"id": "arrives_late"}],
        )
    )
    assert p["main"]["fault"] == "half_committed_drop"
    assert "arrives late" in p["main"]["why"]
    alone = judged(sheet("figure_loop", observations=[{"id": "stop"}]))
    assert alone["main"] is None and alone["findings"][0]["status"] == "symptom"


def test_what_a_build_does_not_allow_is_told_and_never_the_main_thing():
    curl = rows("curl", *[25.0] * 4, u=1)
    assert judged(sheet("speed_skate", curl))["main"]["fault"] == "curl_in"
    p = judged(sheet("speed_skate", curl, conditions={"build_limits_curl": True}))
    assert p["main"] is None and p["findings"][0]["fault"] == "curl_in"


def test_a_wide_lens_makes_places_less_sure_and_the_answer_says_why():
    early = rows("edge_change_start", *[0.4] * 4, u=0.2)
    plain = judged(sheet("slalom_ski", early, conditions={"rope_m": 18.25}))
    wide = judged(
        sheet("slalom_ski", early, conditions={"rope_m": 18.25}, observations=[{"id": "wide_lens"}])
    )
    u = [next(e["u"] for f in p["findings"] for e in f["evidence"]) for p in (plain, wide)]
    assert u == [0.2, 0.4]
    assert "wide lens" in wide["limits"][0]["text"]
    assert (
        plain["main"]["verdict"] == "clear"
        and (wide["main"] or {"verdict": "none"})["verdict"] != "clear"
    )


def test_a_low_wave_is_said_to_be_unfair_to_a_tall_rider():
    low = rows("top_turn_height", *[0.3] * 3)
    p = judged(
        sheet(
            "surf_turn",
            low,
            units=3,
            conditions={"wave_m": 0.9, "power": "weak"},
            rider={"name": "A", "height_cm": 190},
        )
    )
    assert "unfair" in p["fairness"][0]
    assert (
        judged(
            sheet(
                "surf_turn",
                low,
                units=3,
                conditions={"wave_m": 2.0},
                rider={"name": "A", "height_cm": 190},
            )
        )["fairness"]
        == []
    )


def test_a_skier_on_a_short_rope_learns_a_new_movement_on_28_off_in_their_own_count():
    load = rows("load_lean", *[15.0] * 4, u=1)
    p = judged(sheet("slalom_ski", load, conditions={"rope_off_ft": 35}, level="advanced"))
    drill = next(d for d in p["drills"] if d["id"] == "learn_on_28_off")
    assert "35 off" in drill["reason"]
    assert all(
        d["id"] != "learn_on_28_off"
        for d in judged(sheet("slalom_ski", load, conditions={"rope_m": 16}))["drills"]
    )


def test_a_drill_of_the_other_school_is_not_given():
    drop = rows("lean_reversals", 1, 1, 1, 1)
    p = judged(
        sheet(
            "slalom_ski",
            drop,
            conditions={"rope_m": 13},
            schools={"turn_entry": "settle_then_drop"},
        )
    )
    assert {d["id"] for d in p["drills"]} == {"settle_and_commit", "learn_on_28_off"}


def test_gear_comes_first_where_it_explains_the_main_thing():
    p = judged(
        sheet(
            "slalom_ski",
            rows("load_lean", *[15.0] * 4, u=1),
            observations=[{"id": "pull_point_slips"}],
        )
    )
    assert p["gear"][0]["first"] and p["gear"][0]["explains"] == ["weak_load"]
    assert "look at the gear first" in p["main"]["why"]


def test_a_stance_outside_what_suits_the_height_is_advised_one_change_of_2_cm():
    data = sheet(
        "snowboard",
        gear={"stance_cm": 66},
        rider={"name": "A", "height_cm": 183, "stance": "regular"},
        conditions={"snow": "powder"},
    )
    text = judged(data)["gear"][0]["text"]
    # common practice: 58 cm in powder at 183 cm; 2 cm are felt.
    assert "2 cm narrower" in text and "58 cm" in text


def test_the_weaker_half_is_named_where_its_doubt_allows():
    late = rows("preset_share", *[0.2] * 4) + rows("load_lean", *[45.0] * 4, u=1)
    p = judged(sheet("slalom_ski", late, conditions={"rope_m": 14.25}))
    assert p["weaker_half"]["half"] == "turn"
    assert judged(sheet("slalom_ski", conditions={"rope_m": 14.25}))["weaker_half"] is None


def last_strokes(*blades: str, wanted: str | None = "left", **more):
    segments = [{"n": n, "kind": "attempt", "last_stroke": b} for n, b in enumerate(blades, 1)]
    return judged(
        sheet(
            "drop_boof",
            segments=segments,
            conditions={"wanted_last_stroke": wanted} if wanted else {},
            **more,
        )
    )


def test_a_last_stroke_is_held_against_the_wanted_one():
    p = last_strokes("right", "right", "left", "right")
    f = next(f for f in p["findings"] if f["fault"] == "stroke_plan_off")
    assert (p["main"]["fault"], f["share"]) == ("stroke_plan_off", 0.75)
    p = last_strokes("left", "left")
    assert p["main"] is None and not any(c["fault"] == "stroke_plan_off" for c in p["cannot_tell"])
    # Nobody said which was wanted: nothing is held against it.
    p = last_strokes("right", "right", wanted=None)
    assert p["main"] is None and any(c["fault"] == "stroke_plan_off" for c in p["cannot_tell"])


def test_the_coachs_word_on_the_last_stroke_stands_against_the_reading():
    assert (
        last_strokes(
            "right", "right", observations=[{"id": "last_stroke_wrong_side", "seen": False}]
        )["main"]
        is None
    )


def test_a_last_stroke_elsewhere_than_at_a_drop_is_refused():
    with pytest.raises(InputError, match=r"segments.0.last_stroke"):
        judged(sheet("double_pole", segments=[{"n": 1, "kind": "cycle", "last_stroke": "left"}]))


def steps(gains: dict[int, float], *openings: float, u: float = 1.0):
    gained = [{"id": "speed_gain", "segment": n, "value": v, "u": 0.05} for n, v in gains.items()]
    segments = [
        {"n": n, "kind": "step", "side": "left" if n % 2 else "right"}
        for n in range(1, len(openings) + 1)
    ]
    return judged(
        sheet("inline_start", [*rows("v_angle", *openings, u=u), *gained], segments=segments)
    )["beside"]


def test_the_opening_of_the_feet_is_told_beside_the_speed_it_gained():
    assert steps({3: 0.4, 6: 0.8}, 28, 30, 32, 48, 50, 52) == [
        "Steps 1 to 3: V of the feet 30 ± 2°, speed gained 0.4 ± 0.1 m/s.",
        "Steps 4 to 6: V of the feet 50 ± 2°, speed gained 0.8 ± 0.1 m/s.",
        "Where V of the feet was larger, speed gained was more.",
    ]
    # Within its doubt no difference is told, and without the gain nothing is.
    assert len(steps({3: 0.4, 6: 0.45}, 28, 30, 32, 48, 50, 52)) == 2
    assert steps({}, 28, 30) == []


def test_every_condition_of_every_playbook_says_what_it_takes():
    assert {k for i in playbook_ids() for k in playbook(i).conditions} <= set(KINDS)


BAD = [
    ({"observations": [{"id": "skidd"}]}, "observations.0.id", "nearest known"),
    ({"observations": [{"id": "skid", "segment": 9}]}, "observations.0.segment", "list it under segments"),
    ({"observations": [{"id": "skid", "segments": [1, 9]}]}, "observations.0.segments.1", "list it under segments"),
    ({"observations": [{"id": "skid", "side": "heel"}]}, "observations.0.side", "this run's units have no sides"),
    ({"conditions": {"rope_m": 17}}, "conditions.rope_m", "nearest"),
    ({"conditions": {"slope_deg": "steep"}}, "conditions.slope_deg", "is a number"),
    ({"conditions": {"slope_deg": float("nan")}}, "conditions.slope_deg", "not finite"),
    ({"measures": [{"id": "edge", "value": float("nan")}]}, "measures.0", "not finite"),
    ({"measures": [{"id": "edge", "value": 3, "u": -1}]}, "measures.0.u", "greater than or equal"),
    ({"measures": [{"id": "edge", "limb": "third", "value": 3}]}, "measures.0.limb", "'outside'"),
    ({"chosen": {"main": "skidd"}}, "chosen.main", "nearest known"),
    ({"chosen": {"drill": "hopp"}}, "chosen.drill", "proklisis disciplines"),
    ({"previous": [{"measure": "edge", "target": [30, 20]}]}, "previous.0.target", "lowest"),
    ({"previous": [{"measure": "edgy", "target": [30, None]}]}, "previous.0.measure", "nearest known"),
    ({"clip": {"fps": 60}, "clips": [{"id": "a"}]}, "clips", "several under clips"),
    ({"segments": [{"n": 1, "kind": "turn", "start_s": 2, "end_s": 1}]}, "segments.0.end_s", "later time"),
    ({"segments": [{"n": 1, "kind": "turn", "edge_side": "toe"}]}, "segments.0.edge_side", "leave it out"),
    ({"surprise": 1}, "surprise", "not known"),
    ({"schools": {"crossing": "leap"}}, "schools.crossing", "level, topple"),
    ({"gear": {"stance_cm": "wide"}}, "gear.stance_cm", "centimetres"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("change", "place", "mend"), BAD, ids=[b[1] + str(k) for k, b in enumerate(BAD)]
)
def test_a_sheet_with_one_wrong_key_is_refused_with_place_and_mend(change, place, mend):
    discipline = "slalom_ski" if "rope_m" in change.get("conditions", {}) else "alpine_carve"
    with pytest.raises(InputError) as e:
        judged({**sheet(discipline, units=2), **change})
    assert place in str(e.value) and mend in str(e.value)
    assert "\n" not in str(e.value)


def test_a_wanted_angle_as_text_is_refused():
    with pytest.raises(
        InputError, match=r"segments\.0\.conditions\.wanted_angle_deg: 'left' is not a number"
    ):
        judged(sheet("drop_boof", segments=[{"n": 1, "conditions": {"wanted_angle_deg": "left"}}]))


@pytest.mark.parametrize(
    ("forefoot", "share", "fires"),
    [(-0.05, None, True), (-0.05, 60.0, False), (-0.05, 80.0, True), (-0.15, 60.0, True)],
)
def test_heels_at_the_release_weigh_less_while_the_arms_come_back_in_time(forefoot, share, fires):
    measures = rows("forefoot_at_release", *[forefoot] * 4) + (
        rows("reposition_share", *[share] * 4, u=1) if share else []
    )
    p = judged(sheet("double_pole", measures, conditions={"effort": "race"}))
    assert ("heels_at_release" in {f["fault"] for f in p["findings"]}) == fires


def test_a_limbs_own_value_is_not_overruled_by_the_worse_of_both():
    # hand_fore with no limb is the lesser hand: here the outer one, which says nothing of the inside hand.
    measures = rows("hand_fore", *[1.0] * 4, phase="belly", limb="inside") + rows(
        "hand_fore", *[-0.6] * 4, phase="belly"
    )
    p = judged(sheet("alpine_gates", measures, conditions={"set": "slalom"}))
    assert "inside_hand_back" not in {f["fault"] for f in p["findings"]}


def test_knees_of_a_rider_across_a_board_are_not_read_from_ahead():
    closed = rows("knee_gap", *[0.4] * 4)
    ahead = judged(
        sheet("snowboard", closed, rider={"name": "A", "stance": "regular"}, clip={"view": "front"})
    )
    assert ahead["main"] is None
    assert "side" in next(c["film_next"] for c in ahead["cannot_tell"] if c["fault"] == "knees_in")
    beside = judged(
        sheet(
            "snowboard",
            closed,
            rider={"name": "A", "stance": "regular"},
            clip={"view": "side_left"},
        )
    )
    assert beside["main"]["fault"] == "knees_in"


def test_without_the_front_foot_nothing_that_hangs_on_it_is_judged_and_one_sentence_asks():
    measures = (
        rows("knee_flex", *[5.0] * 4, phase="belly", limb="front", u=2)
        + rows("knee_gap", *[0.4] * 4)
        + rows("hinge", *[60.0] * 4, phase="belly", u=2)
    )
    p = judged(sheet("snowboard", measures))
    assert p["main"] is None
    asked = {c["fault"] for c in p["cannot_tell"] if "which foot is in front" in c["film_next"]}
    assert {"straight_legs", "knees_in", "hinge_over", "hips_forward"} <= asked
    assert (
        judged(sheet("snowboard", measures, rider={"name": "A", "stance": "goofy"}))["main"]
        is not None
    )


def test_toe_and_heel_that_do_not_go_with_the_front_foot_are_refused_by_unit():
    wrong = [
        {"n": 1, "side": "right", "edge_side": "toe"},
        {"n": 2, "side": "right", "edge_side": "heel"},
    ]
    with pytest.raises(
        InputError,
        match=r"segments\.1\.edge_side: turn 2 to the right of a regular rider is on the toe edge",
    ):
        judged(sheet("snowboard", segments=wrong, rider={"name": "A", "stance": "regular"}))


def test_a_retest_row_can_be_handed_back_with_the_next_sheet():
    wanted = [{"n": n, "conditions": {"wanted_angle_deg": 30}} for n in (1, 2)]
    first = judged(sheet("drop_boof", rows("boat_angle", 0, 0, phase="lip", u=1), segments=wanted))
    previous = [{**r, "before": {"value": -30.0, "u": 1.0}} for r in first["retest"]]
    after = judged(
        sheet(
            "drop_boof",
            rows("boat_angle", 28, 28, phase="lip", u=1),
            segments=wanted,
            previous=previous,
        )
    )
    assert [r["verdict"] for r in after["followup"]] == ["in_band"]
