"""The Reckoner as one asks it: forwards, backwards, in any unit, and wrongly."""

from __future__ import annotations

import pytest

from proklisis.core.errors import InputError
from proklisis.core.reckoner.library import CALCULATORS
from proklisis.core.reckoner.reckon import ask, reckoning


def known(name, **said):
    return ask(name, said).known


@pytest.mark.parametrize("name", CALCULATORS)
def test_every_calculator_answers_its_example_with_words_formula_and_source(name):
    out = reckoning(ask(name, CALCULATORS[name].example))
    assert out["says"].endswith(".") and out["formula"] and out["source"]
    assert out["answers"].keys() >= set() and out["inputs"]
    assert not set(out["answers"]) - set(CALCULATORS[name].keys)


@pytest.mark.parametrize(
    "name", [n for n in CALCULATORS if n not in ("desk", "units", "stance", "difference")]
)
def test_what_was_given_comes_back_when_it_is_asked_for(name):
    # Each number of the example in turn is the unknown, and one answer is given in its place.
    calc = CALCULATORS[name]
    forward = ask(name, calc.example)
    tried = 0
    for unknown in [k for k in forward.given if isinstance(forward.given[k], float) and calc.about(k).span]:  # fmt: skip
        rest = {k: v for k, v in forward.given.items() if k != unknown}
        for given in [k for k in calc.answers if k in forward.known and k not in forward.given]:
            if not isinstance(forward.known[given], float):
                continue
            try:
                back = ask(name, {**rest, given: forward.known[given]}, unknown)
            except InputError:
                continue  # the answer does not hang on this one
            # More than one value may answer; the one that is found answers too.
            again = ask(name, {**rest, unknown: back.known[unknown]})
            assert again.known[given] == pytest.approx(forward.known[given], rel=1e-6, abs=1e-9)
            tried += 1
    assert tried > 0


@pytest.mark.parametrize(
    ("name", "said", "key", "value"),
    [
        ("rope", {"boat_mph": "34.2 mph"}, "boat_kmh", 55.04), ("rope", {"boat_kmh": "34.2 mph"}, "boat_kmh", 55.04),
        ("rope", {"rope_m": "15 off"}, "rope_m", 18.25), ("rope", {"rope_off_ft": "14.25 m"}, "rope_off_ft", 28),
        ("rope", {"rope": "28"}, "rope_m", 14.25),
        ("stance", {"height_cm": "5'11"}, "height_cm", 180.34), ("stance", {"height_cm": "5 ft 11 in"}, "height_cm", 180.34),
        ("stance", {"height_cm": "1.83 m"}, "height_cm", 183), ("stance", {"height_in": 70}, "height_cm", 177.8),
        ("flight", {"air_time_s": "860 ms"}, "air_time_s", 0.86), ("flight", {"air_time_s": "0,86"}, "air_time_s", 0.86),
        ("flight", {"frames": "52 frames at 60"}, "air_time_s", 52 / 60), ("flight", {"height_ft": "3"}, "height_m", 0.9144),
        ("wheels", {"speed_ms": "36 km/h", "radius_m": 20}, "speed_ms", 10), ("wheels", {"speed_kmh": 36, "radius_m": 20}, "speed_ms", 10),
        ("camera", {"shutter_s": "1/1000 s", "fps": 60}, "shutter_s", 0.001), ("rotation", {"rotations": "4½", "period_s": 0.15}, "rotations", 4.5),
        ("gybe", {"wind_kn": "7.7 m/s"}, "wind_kn", 14.97), ("gybe", {"wind_kn": "force 5"}, "wind_kn", 18.5), ("gybe", {"wind_ms": 10}, "wind_kn", 19.44),
        ("carve", {"slope_deg": "20 %", "speed_ms": 10, "radius_m": 12}, "slope_deg", 11.31), ("poling", {"distance_m": "15 km", "speed_ms": 5}, "distance_m", 15000),
    ],
)  # fmt: skip
def test_numbers_are_read_as_they_are_typed(name, said, key, value):
    assert ask(name, said).known[key] == pytest.approx(value, rel=1e-3)


def test_a_plus_minus_is_twice_the_standard_uncertainty():
    asked = ask("flight", {"air_time_s": "0.86 ± 0.02 s"})
    assert asked.us["air_time_s"] == pytest.approx(0.01)
    assert "0.91 ± 0.04 m" in asked.says[0]
    # In another unit it goes along.
    assert ask("wheels", {"speed_ms": "36 ± 3.6 km/h", "radius_m": 9}).us["speed_ms"] == pytest.approx(0.5)  # fmt: skip


def test_a_count_of_frames_has_its_own_doubt():
    # Two edges, each uniform over one frame: 1/(fps·√6).
    assert ask("flight", {"frames": 52, "fps": 60}).us["air_time_s"] == pytest.approx(1 / (60 * 6**0.5))  # fmt: skip
    assert ask("flight", {"frames": 52, "fps": 60, "frames_u": 0}).us["air_time_s"] == 0


def test_the_sentence_of_a_short_jump_names_the_ways_out():
    said = ask("rotation", {"rotations": 4.5, "period_s": 0.15, "air_time_s": 0.81}).says[0]
    assert said.startswith("0.045 s too short for four and a half turns at 0.15 s each")
    assert "9.2 cm more height than now" in said and "0.140 s a turn" in said


def test_what_a_doubt_does_not_decide_is_not_decided():
    said = ask("rotation", {"rotations": 3, "period_s": 0.2, "air_time_s": 0.69, "air_time_s_u": 0.02}).says[0]  # fmt: skip
    assert "cannot be told" in said
    reach = ask("rope", {"rope_m": 14.25, "angle_deg": 54, "angle_deg_u": 3}).says[0]
    assert "cannot be told" in reach


@pytest.mark.parametrize(
    ("name", "said", "words"),
    [
        ("flight", {"air_time_s": -0.2}, "air_time_s: time in the air of -0.2 cannot be"),
        ("flight", {"frames": 10, "fps": 0}, "fps: frame rate of 0 cannot be"),
        ("flight", {"air_time_s": 0.3, "drop_m": 2}, "a fall of 2 m alone takes"),
        ("flight", {"air_time_s": "soon"}, "'soon' is no number"),
        ("flight", {"air_time_s": "0.86 kg"}, "'kg' is no unit of this"),
        ("flight", {"air_time_s": "nan"}, "is no number"),
        ("flight", {"air_time_s": float("inf")}, "of inf cannot be"),
        ("flight", {}, "nothing is given"),
        ("flight", {"airtime_s": 0.86}, "did you mean air_time_s"),
        ("flight", {"air_time_s": 0.86, "height_m": 0.5, "drop_m": 0}, "does not go with"),
        ("rotation", {"rotations": 4.5, "period_s": 0.15, "air_time_s": 0.81, "missing_s": 0.5}, "does not go with the others"),
        ("flight", {"air_time_s": 0.86, "air_time_s_u": -1}, "a doubt of -1 cannot be"),
        ("carve", {"sidecut_m": 13, "edge_deg": 90}, "edge_deg: edge against the snow of 90 cannot be"),
        ("carve", {"sidecut_m": 13, "radius_m": 20}, "wider than the sidecut"),
        ("carve", {"sidecut_m": 13}, "give edge_deg too"),
        ("rope", {"rope_m": 14}, "the nearest loops are 14.25 m (28 off) and 13 m (32 off)"),
        ("rope", {"rope_off_ft": 30}, "the nearest loops are"),
        ("line", {"gate_distance_m": 24, "gate_offset_m": 6, "room_m": 30}, "more than the 24 m between the gates"),
        ("line", {"gate_distance_m": 24, "gate_offset_m": 6, "radius_m": 50}, "makes radius_m 50"),
        ("stance", {"height_cm": 183, "use": "sand"}, "write powder, crust, freestyle"),
        ("drop", {"speed_ms": 5, "approach_m": 1, "strokes_hz": 1}, "leave no time for a stroke"),
        ("desk", {"minutes": "5,6", "due_days": "1"}, "give one for each clip"),
        ("desk", {"minutes": "5,-6", "due_days": "1,2"}, "cannot be"),
        ("difference", {"a": 3, "a_n": 0, "b": 2}, "cannot be"),
    ],
)  # fmt: skip
def test_what_is_impossible_is_refused_by_name(name, said, words):
    with pytest.raises(InputError) as e:
        ask(name, said)
    assert words in str(e.value)


def test_an_unknown_name_is_told_the_nearest():
    with pytest.raises(InputError, match="did you mean flight"):
        ask("fligth", {"air_time_s": 1})


def test_two_ways_of_saying_one_thing_may_not_contradict():
    assert known("rope", boat_kmh=58, boat_mph=36)["pass_time_s"] == pytest.approx(16.08, abs=0.01)
    with pytest.raises(InputError, match="does not go with"):
        ask("rope", {"boat_kmh": 58, "boat_mph": 30})


def test_more_height_asks_for_care():
    assert ask("flight", {"height_m": 3}).cautions
    assert not ask("flight", {"height_m": 0.5}).cautions
    assert any("closed slope" in c for c in ask("line", CALCULATORS["line"].example).cautions)


def test_a_default_steps_back_where_it_is_asked_for():
    # Landing lower by so much makes the time longer than the rise alone would.
    assert known("flight", air_time_s=1.0, height_m=0.9)["drop_m"] == pytest.approx(0.702, abs=1e-3)
    slope = ask("carve", {"speed_ms": 11, "radius_m": 12, "lean_deg": 53}, "slope_deg")
    again = known("carve", speed_ms=11, radius_m=12, slope_deg=slope.known["slope_deg"])
    assert again["lean_deg"] == pytest.approx(53) and slope.known["slope_deg"] > 5
    assert known("difference", difference=4, b=48)["a"] == 52


def test_a_rule_of_thumb_is_no_contradiction():
    assert known("gybe", wind_kn=15, board_speed_kn=20)["board_speed_kn"] == 20
    assert known("rotation", rotations=3, period_s=0.2, overhead_s=0.2)[
        "needed_s"
    ] == pytest.approx(0.8)
    assert known("stance", height_cm=183, landings_cm="52 cm, 53 cm, 54 cm")["width_cm"] == 53
    assert known("stance", height_cm=183, width_cm=50)["low_cm"] == pytest.approx(54.9)


def test_where_two_values_answer_both_are_told():
    # The arc is widest with a good half of the way as room; below that two rooms make one radius.
    line = {"gate_distance_m": 24, "gate_offset_m": 6}
    two = ask("line", {**line, "radius_m": 12.5}, "room_m")
    (said,) = [s for s in two.says if "does it too" in s]
    other = float(said.split()[0])
    assert other > two.known["room_m"] + 5
    for room in (two.known["room_m"], other):
        assert known("line", **line, room_m=room)["radius_m"] == pytest.approx(12.5, abs=0.05)
    one = ask("carve", {"sidecut_m": 20, "speed_held_ms": 9, "slope_deg": 10})
    assert not any("does it too" in s for s in one.says)
