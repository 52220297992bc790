"""The coach's eye and word: notes by unit and side against the numbers, and the coach's own choice."""

from __future__ import annotations

import pytest

from proklisis.core.errors import InputError
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.review import judge, playbook, playbook_ids


def turns(discipline: str = "alpine_carve", n: int = 10, **more):
    book = playbook(discipline)
    segments = [
        {"n": k, "kind": book.unit, "side": "left" if k % 2 else "right"} for k in range(1, n + 1)
    ]
    return {
        "format": "run-sheet/1",
        "discipline": discipline,
        "level": "intermediate",
        "rider": {"name": "A"},
        "segments": segments,
        **more,
    }


def rows(measure: str, *values: float, phase: str | None = "belly", u: float = 1.0):
    return [
        {"id": measure, "segment": n, "value": v, "u": u, **({"phase": phase} if phase else {})}
        for n, v in enumerate(values, 1)
    ]


def found(data, fault: str):
    p = judge(parse_sheet(data))
    return next((f for f in p["findings"] if f["fault"] == fault), None), p


def test_a_note_on_two_of_ten_turns_is_an_episode_and_not_coached():
    # common practice: a coach who points out two turns has looked at the others too.
    f, p = found(turns(observations=[{"id": "spray_long", "segments": [3, 4]}]), "skid")
    assert f["status"] == "episode"
    assert p["main"] is None
    assert [e for e in p["cannot_tell"] if e["fault"] == "skid"] == []


def test_a_note_with_no_unit_holds_for_the_whole_run():
    f, p = found(turns(observations=[{"id": "spray_long"}]), "skid")
    assert (f["status"], f["share"], p["main"]["fault"], p["main"]["verdict"]) == (
        "root",
        1.0,
        "skid",
        "clear",
    )


def test_a_note_on_one_side_speaks_for_that_side_and_not_for_the_other():
    f, p = found(turns(observations=[{"id": "spray_long", "side": "left"}]), "skid")
    assert (f["status"], f["side"], p["main"]["side"]) == ("root", "left", "left")
    f, _ = found(
        turns(observations=[{"id": "spray_long", "segments": [1, 3, 5], "side": "left"}]), "skid"
    )
    assert (f["side"], f["share"]) == ("left", 0.6)


def test_a_maybe_is_likely_and_never_clear():
    _, p = found(turns(observations=[{"id": "spray_long", "sure": False}]), "skid")
    assert p["main"]["verdict"] == "likely"


@pytest.mark.parametrize("discipline", playbook_ids())
def test_every_fault_can_be_noted_by_eye_whatever_the_camera_shows(discipline):
    book = playbook(discipline)
    for fault, f in book.faults.items():
        level = "intermediate" if "intermediate" in f.levels else f.levels[0]
        conditions = {
            k: _value(v)
            for leaf in f.when.leaves()
            for k, v in leaf.given.items()
            if not k.startswith("noted.")
        }
        schools = {k: v for leaf in f.when.leaves() for k, v in leaf.school.items()}
        clip = {"view": "oblique", "fps": 25}
        sheet = turns(discipline, 4, observations=[{"id": fault}], level=level, clip=clip, schools=schools,
                      conditions={k: v for k, v in conditions.items() if v is not None})  # fmt: skip
        seen, p = found(sheet, fault)
        assert seen is not None and seen["status"] in ("root", "symptom"), fault
        if f.role == "cause" and not f.tolerated:
            assert p["main"]["fault"] == fault
            assert "seen by eye" in p["main"]["why"] or "on this run" in p["main"]["why"]
        elif f.role != "cause":
            assert p["main"] is None or p["main"]["fault"] != fault


def _value(wanted):
    if isinstance(wanted, tuple):
        return next((x for x in wanted if x is not None), None)
    # A rope is one of the loops.
    ropes = {(15.9, None): 18.25, (13.5, 15.9): 14.25, (None, 13.5): 13.0}
    if (wanted.min, wanted.max) in ropes:
        return ropes[wanted.min, wanted.max]
    return wanted.min if wanted.min is not None else wanted.max * 0.95


def test_the_eye_decides_against_the_numbers_and_both_are_told():
    level = rows("shoulder_tilt", *[2.0] * 10)
    f, p = found(turns(measures=level, observations=[{"id": "not_level"}]), "not_level")
    assert f["status"] == "root"
    assert f["eye"] == {"seen": True, "segments": list(range(1, 11))}
    assert f["measured"]["there"] is False and f["measured"]["evidence"][0]["value"] == 2.0
    dropped = rows("shoulder_tilt", *[30.0] * 10)
    f, p = found(
        turns(measures=dropped, observations=[{"id": "not_level", "seen": False}]), "not_level"
    )
    assert f is None and p["main"] is None
    assert p["disagreements"][0]["measured"]["there"] is True


def test_where_eye_and_numbers_agree_the_numbers_stay_as_evidence():
    f, _ = found(
        turns(measures=rows("shoulder_tilt", *[30.0] * 10), observations=[{"id": "not_level"}]),
        "not_level",
    )
    assert "eye" not in f
    assert f["evidence"][0]["value"] == 30.0


def test_what_shows_mildly_weighs_half():
    f, _ = found(turns(observations=[{"id": "two_footed"}]), "inside_weight")
    strong, _ = found(turns(observations=[{"id": "outside_ski_drifts"}]), "inside_weight")
    assert (f["severity"], strong["severity"]) == (0.5, 1.0)


def test_the_coach_may_choose_another_finding_a_cue_and_a_drill_and_what_would_have_been_is_kept():
    measures = rows("shoulder_tilt", *[30.0] * 10) + rows("scissor", *[9.0] * 10)
    own = judge(parse_sheet(turns(measures=measures)))["main"]["fault"]
    assert own == "not_level"
    chosen = {"main": "scissor_open", "cue": "Two rails.", "drill": "level_shoulders"}
    p = judge(parse_sheet(turns(measures=measures, chosen=chosen)))
    assert (p["main"]["fault"], p["main"]["cue"], p["main"]["by"]) == (
        "scissor_open",
        "Two rails.",
        "coach",
    )
    assert p["main"]["would_be"]["fault"] == own and p["main"]["would_be"]["why"]
    assert p["drills"][0]["id"] == "level_shoulders"
    with pytest.raises(InputError, match=r"chosen\.main: 'hip_out' is not on this run"):
        judge(parse_sheet(turns(measures=measures, chosen={"main": "hip_out"})))


@pytest.mark.parametrize(
    ("values", "answer"),
    [([30.0] * 10, "not_yet"), ([2.0] * 10, "done"), ([30.0, 2.0] * 5, "partly"), ([2.0] * 9 + [30.0], "partly"), ([12.0] * 10, "cannot_tell"), ([], "cannot_tell")],
)  # fmt: skip
def test_the_intention_is_answered_with_its_numbers(values, answer):
    data = turns(
        measures=rows("shoulder_tilt", *values),
        intention={"text": "level shoulders", "faults": ["not_level"]},
    )
    p = judge(parse_sheet(data))
    assert p["intention"]["answer"] == answer
    assert ("±" in p["intention"]["why"]) == bool(values)


def test_what_hinders_the_intention_is_named():
    measures = rows("shoulder_tilt", *[30.0] * 10) + rows("angulation", *[1.0] * 10)
    p = judge(
        parse_sheet(
            turns(measures=measures, intention={"text": "more bend", "faults": ["banking"]})
        )
    )
    assert p["intention"]["answer"] == "not_yet"
    assert "the inside shoulder drops hinders it" in p["intention"]["why"]


@pytest.mark.parametrize(
    ("now", "verdict"), [(70.0, "in_band"), (58.0, "better"), (41.0, "no_change"), (20.0, "worse")]
)  # fmt: skip
def test_the_last_target_is_followed_up(now, verdict):
    previous = [
        {
            "measure": "weight_outside",
            "phase": "belly",
            "side": "both",
            "target": [65, None],
            "before": {"value": 40.0, "u": 3.0},
        }
    ]
    p = judge(
        parse_sheet(turns(measures=rows("weight_outside", *[now] * 10, u=3.0), previous=previous))
    )
    assert [r["verdict"] for r in p["followup"]] == [verdict]
    assert p["followup"][0]["now"] == {"value": now, "u": 3.0}
    untold = judge(parse_sheet(turns(previous=previous)))["followup"][0]
    assert (untold["verdict"], untold["now"]) == ("cannot_tell", None)


@pytest.mark.parametrize(("sure", "verdict"), [(True, "in_band"), (False, "cannot_tell")])
def test_a_time_is_not_followed_up_on_a_clock_that_only_the_file_vouches_for(sure, verdict):
    aim = {"measure": "turn_time", "side": "both", "target": [None, 0.4], "before": {"value": 0.8, "u": 0.02}}  # fmt: skip
    sheet = turns(measures=rows("turn_time", *[0.3] * 10, u=0.02, phase=None), previous=[aim])
    sheet["clip"] = {"rate_sure": sure}
    got = judge(parse_sheet(sheet))["followup"][0]
    assert got["verdict"] == verdict
    assert got["now"] == {"value": 0.3, "u": 0.02}  # the number stands, what it comes to does not


def test_a_target_of_one_side_is_held_against_that_side():
    previous = [
        {
            "measure": "weight_outside",
            "phase": "belly",
            "side": "left",
            "target": [65, None],
            "before": {"value": 40.0, "u": 3.0},
        }
    ]
    p = judge(
        parse_sheet(
            turns(measures=rows("weight_outside", *[70.0, 40.0] * 5, u=3.0), previous=previous)
        )
    )
    assert p["followup"][0]["verdict"] == "in_band"


def noted(discipline: str, fault: str, *observations, **more):
    f, p = found(turns(discipline, 3, observations=list(observations), **more), fault)
    return f is not None, any(c["fault"] == fault for c in p["cannot_tell"]), p


def test_a_note_of_one_phase_speaks_for_that_phase():
    # common practice: a sail let out in the set-up is a rough set-up, let out later it is not.
    rough, _, p = noted("windsurf_gybe", "rough_set_up", {"id": "sheeted_out", "phase": "set_up"})
    assert rough and p["main"]["fault"] == "rough_set_up"
    rough, untold, p = noted(
        "windsurf_gybe", "rough_set_up", {"id": "sheeted_out", "phase": "open"}
    )
    assert not rough and untold and p["main"]["fault"] == "sheets_out"
    rough, _, _ = noted(
        "windsurf_gybe", "rough_set_up", {"id": "sheeted_out", "phase": "set_up", "segment": 2}
    )
    assert rough


def test_looked_for_at_one_phase_says_nothing_of_the_others():
    there, untold, _ = noted(
        "windsurf_gybe", "sheets_out", {"id": "sheeted_out", "phase": "set_up", "seen": False}
    )
    assert not there and untold


def test_a_note_of_a_phase_that_is_not_there_is_refused():
    with pytest.raises(InputError, match=r"observations.0.phase"):
        found(
            turns("windsurf_gybe", 3, observations=[{"id": "sheeted_out", "phase": "setup"}]),
            "sheets_out",
        )
