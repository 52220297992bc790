"""What was said wrongly of a clip is asked before anything is judged; what was said rightly is not asked."""

from __future__ import annotations

import pytest

from proklisis.core.clock_doubts import clock_doubt, course_doubt
from proklisis.core.doubts import Doubtful, look
from proklisis.core.errors import Lacking
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.review import judge, playbook_ids, review, run_sheet
from proklisis.simulate.riders import RIDERS
from proklisis.simulate.run import simulate

pytestmark = pytest.mark.thorough

#: Runs here are of seeds on which nothing was set.
SEED = 73
FACING = (
    "alpine_carve",
    "double_pole",
    "inline_start",
    "moto_stance",
    "trail_stance",
    "speed_skate",
    "slalom_ski",
    "drop_boof",
)


def main_of(tracks, discipline: str, level: str = "intermediate"):
    return judge(run_sheet(review(tracks, discipline), discipline, {"level": level}))["main"]


def asked(tracks, discipline: str):
    with pytest.raises(Doubtful) as e:
        review(tracks, discipline)
    assert "\n" not in str(e.value) and "say --" in str(e.value)
    return e.value.doubt


@pytest.mark.parametrize("discipline", FACING)
@pytest.mark.parametrize(
    ("true", "said"),
    [
        ("front", "rear"),
        ("rear", "front"),
        ("side_left", "side_right"),
        ("side_right", "front"),
        ("front", "side_left"),
    ],
)
def test_a_view_that_is_said_wrongly_is_asked_and_the_true_one_is_offered(discipline, true, said):
    doubt = asked(
        simulate(discipline, seed=SEED, units=4, view=true).tracks.with_facts(view=said), discipline
    )
    assert doubt.kind == "view"
    assert true in [c.value for c in doubt.choices]
    assert doubt.choices[-1].value is None  # as it was said


@pytest.mark.thorough
@pytest.mark.parametrize("discipline", playbook_ids())
def test_what_is_said_rightly_is_not_asked_and_a_clean_run_stays_clean(discipline):
    views = [RIDERS[discipline].view] if discipline in RIDERS else ["front", "rear", "side_left"]
    for view in views:
        run = simulate(discipline, seed=SEED, units=5, view=view)
        main = main_of(run.tracks, discipline)
        assert main is None or main["verdict"] != "clear"


@pytest.mark.parametrize(
    ("view", "off"), [("side_right", 12.0), ("side_left", -12.0), ("side_right", 20.0)]
)
def test_a_camera_well_off_the_side_that_nobody_said_is_asked_with_how_far(view, off):
    doubt = asked(
        simulate("double_pole", seed=SEED, units=4, view=view, offset_deg=off).tracks.with_facts(
            view_offset_deg=0.0
        ),
        "double_pole",
    )
    value = float(doubt.choices[0].value.removeprefix("offset:"))
    assert value == pytest.approx(off, abs=5)


@pytest.mark.parametrize("view", ["front", "rear"])
@pytest.mark.parametrize("off", [20.0, -20.0])
def test_a_wave_whose_lip_stands_beside_its_trough_questions_the_cameras_line(view, off):
    """From off the line a surfer's way down the face looked like speed along the wave, and speed as lost."""
    run = simulate("surf_turn", seed=SEED, units=4, view=view, offset_deg=off)
    doubt = asked(run.tracks.with_facts(view_offset_deg=0.0), "surf_turn")
    assert float(doubt.choices[0].value.removeprefix("offset:")) == pytest.approx(off, abs=5)
    straight = simulate("surf_turn", seed=SEED, units=4, view=view)
    assert review(straight.tracks, "surf_turn").units


def test_from_above_a_foot_may_point_anywhere():
    run = simulate("figure_jump", seed=SEED, units=3, view="above")
    assert review(run.tracks, "figure_jump").doubt is None


def test_off_the_line_the_stated_doubt_grows_and_past_it_nothing_is_read():
    straight, off, far = (
        review(simulate("alpine_carve", seed=SEED, units=4, offset_deg=o).tracks, "alpine_carve")
        for o in (0.0, 12.0, 22.0)
    )
    u = [next(r.u for r in done.readings if r.id == "angulation") for done in (straight, off)]
    assert u[1] > 2 * u[0]
    assert "angulation" in {r.id for r in far.refusals}
    assert (
        main_of(
            simulate("alpine_carve", seed=SEED, units=4, offset_deg=22.0).tracks, "alpine_carve"
        )
        is None
    )


@pytest.mark.parametrize("view", ["front", "rear"])
def test_a_front_foot_that_is_said_wrongly_is_asked_with_the_view(view):
    tracks = simulate("snowboard", seed=SEED, units=4, view=view).tracks
    doubt = asked(tracks.with_facts(stance="goofy"), "snowboard")
    assert doubt.kind == "front_foot"
    assert [c.value for c in doubt.choices] == [
        "regular",
        "view:rear" if view == "front" else "view:front",
        None,
    ]
    assert review(tracks.with_facts(stance="goofy", sure=["front_foot"]), "snowboard").units


def test_a_front_foot_that_nobody_said_is_asked_first():
    doubt = asked(
        simulate("snowboard", seed=SEED, units=4).tracks.with_facts(stance=None), "snowboard"
    )
    assert [c.value for c in doubt.choices] == ["regular", "goofy"]


@pytest.mark.parametrize("slower", [2, 4])
@pytest.mark.parametrize("level", ["novice", "advanced"])
def test_turns_that_do_not_go_with_the_lean_question_the_clock(slower, level):
    tracks = simulate("alpine_carve", seed=SEED, units=6, level=level, view="front").tracks
    doubt = asked(tracks.filmed_at(tracks.facts.fps / slower), "alpine_carve")
    assert doubt.kind == "rate" and doubt.choices[0].value == str(round(tracks.facts.fps))
    assert review(tracks, "alpine_carve").rate_sure


@pytest.mark.parametrize(
    ("told", "words"), [(0.5, "2 times faster"), (2, "2 times slower"), (4, "4 times slower")]
)
def test_the_fall_in_the_air_questions_the_clock_of_a_jump(told, words):
    tracks = simulate("figure_jump", seed=SEED, units=6, view="front").tracks
    doubt = asked(tracks.filmed_at(tracks.facts.fps / told), "figure_jump")
    assert doubt.kind == "rate" and words in doubt.says


def test_a_jump_whose_clock_is_right_is_not_asked_about():
    assert (
        main_of(simulate("figure_jump", seed=SEED, units=6, view="front").tracks, "figure_jump")
        is None
    )


def test_the_boats_speed_questions_the_clock():
    tracks = simulate("slalom_ski", seed=SEED, units=4, view="front").tracks
    assert asked(tracks.filmed_at(15.0), "slalom_ski").kind == "rate"
    # 41 m from buoy to buoy (tournament rules) at 55 km/h take 2.68 s.
    assert course_doubt(2.7, 55.0, 60.0) is None
    assert course_doubt(5.4, 55.0, 60.0) is not None


def test_what_the_rate_alone_rests_on_is_never_clear_until_it_is_sure():
    tracks = simulate(
        "inline_start", {"slow_motion_steps": 2.5}, seed=SEED, units=6, view="front"
    ).tracks
    assert main_of(tracks, "inline_start")["verdict"] == "likely"
    assert main_of(tracks.with_facts(sure=["rate"]), "inline_start")["verdict"] == "clear"


def test_a_clock_within_what_bodies_do_is_not_questioned():
    assert all(clock_doubt(x, 60.0) is None for x in (0.6, 1.0, 1.25, 2.5, float("nan")))
    assert "slower" in clock_doubt(0.3, 60.0).says and "faster" in clock_doubt(5.0, 60.0).says


def test_tracks_that_show_nothing_are_not_questioned():
    tracks = simulate("double_pole", seed=SEED, units=2).tracks
    bare = type(tracks)(
        tracks.frames,
        tracks.t,
        ("nose",),
        tracks.xy[:, :1],
        tracks.u[:, :1],
        tracks.source[:, :1],
        tracks.facts,
    )
    assert all(x != x for x in vars(look(bare)).values())


@pytest.mark.parametrize("value", [-48.0, 140.0])
def test_a_weight_that_nobody_can_have_is_refused_with_all_that_share_its_error(value):
    data = {
        "format": "run-sheet/1", "discipline": "alpine_carve", "rider": {"name": "A"}, "level": "intermediate",
        "segments": [{"n": n, "kind": "turn", "side": "left"} for n in (1, 2)],
        "measures": [{"id": "weight_outside", "segment": n, "phase": "belly", "value": v, "u": 6.5} for n, v in ((1, value), (2, 30.0))],
    }  # fmt: skip
    p = judge(parse_sheet(data))
    assert p["main"] is None
    assert "nobody reaches" in next(
        c["film_next"] for c in p["cannot_tell"] if c["fault"] == "inside_weight"
    )


@pytest.mark.thorough
@pytest.mark.parametrize("discipline", playbook_ids())
def test_bench_and_script_say_the_same_of_what_cannot_be_told(discipline):
    """Every reason that the Bench gives for a measure is the very sentence of the Script, from every view."""
    for view in ("front", "side_right", "above", "oblique"):
        run = simulate(discipline, seed=SEED, units=3, view=view)
        try:
            done = review(run.tracks.with_facts(sure=["view", "front_foot", "rate"]), discipline)
        except Lacking:
            continue  # a view that cannot be cut says so itself
        bench = {r.words for r in done.refusals}
        script = judge(run_sheet(done, discipline, run.about()))["cannot_tell"]
        for c in script:
            if c["reason"] == "view":
                assert c["film_next"] in bench
            assert not any(
                p.endswith(("_hip", "_knee", "_ankle", "_shoulder")) for p in c["unlock"]["points"]
            )
            assert c["unlock"]["presses"] == 0 or c["unlock"]["points"]


@pytest.mark.parametrize(
    ("discipline", "view", "slower"),
    [
        ("double_pole", "side_right", 4),
        ("double_pole", "side_right", 0.5),
    ],
)
def test_a_pace_that_nobody_goes_at_questions_the_clock(discipline, view, slower):
    run = simulate(discipline, {}, seed=21, units=6, view=view)
    with pytest.raises(Doubtful) as e:
        review(run.tracks.filmed_at(run.tracks.facts.fps / slower), discipline)
    assert e.value.doubt.kind == "rate" and "than anybody goes" in e.value.doubt.says
    # Sixty frames a second were filmed, and the file plays another number of them.
    assert "60" in [c.value for c in e.value.doubt.choices]
    # The coach has the last word.
    sure = run.tracks.filmed_at(run.tracks.facts.fps / slower).with_facts(sure=("rate", "view"))
    assert review(sure, discipline).units
