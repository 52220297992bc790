"""Where nobody said from where a clip was filmed, the picture shows it or it is asked for."""

from __future__ import annotations

import pytest

from proklisis.core.doubts import Doubtful, view_guessed
from proklisis.core.review import playbook, review
from proklisis.simulate.run import simulate

pytestmark = pytest.mark.thorough

VIEWS = ("front", "rear", "side_left", "side_right")
#: Riders who face the way they go.
SHOWN = (
    "alpine_carve",
    "double_pole",
    "inline_start",
    "moto_stance",
    "slalom_ski",
    "speed_skate",
    "trail_stance",
    "windsurf_gybe",
)
#: Riders who face about, sit, or turn over.
ASKED = ("drop_boof", "figure_loop", "snowboard", "surf_turn")


def guessed(discipline: str, view: str, seed: int = 31):
    run = simulate(discipline, {}, view=view, seed=seed, units=3, offset_deg=8)
    found = view_guessed(run.tracks.with_facts(view=None), playbook(discipline))
    return found and found[0]


@pytest.mark.parametrize("discipline", SHOWN)
def test_the_view_is_told_by_the_body(discipline):
    found = [guessed(discipline, v) for v in VIEWS]
    # A skater bent over the ice may look, from behind, as from above.
    told = [v for v in VIEWS if not (discipline == "speed_skate" and v == "rear")]
    assert [f for v, f in zip(VIEWS, found, strict=True) if v in told] == told
    assert found[1] in ("rear", None)
    assert guessed(discipline, "above") is None


@pytest.mark.parametrize("discipline", ASKED)
def test_what_the_body_does_not_tell_is_not_guessed(discipline):
    assert {guessed(discipline, v) for v in VIEWS} == {None}


def test_a_run_without_a_said_view_is_judged_as_one_with_it_and_says_so():
    run = simulate("trail_stance", {"heels_up": 1.6}, view="side_left", seed=32, units=4)
    told = review(run.tracks, "trail_stance")
    shown = review(run.tracks.with_facts(view=None), "trail_stance")
    assert shown.tracks.facts.view == "side_left"
    assert any(n.startswith("Nobody said from where it was filmed") for n in shown.notes)
    assert [(r.id, r.value) for r in shown.readings] == [(r.id, r.value) for r in told.readings]


def test_it_is_asked_before_anything_is_judged_with_every_view_to_choose_from():
    run = simulate("surf_turn", {}, seed=33, units=2)
    with pytest.raises(Doubtful) as asked:
        review(run.tracks.with_facts(view=None), "surf_turn")
    assert {c.value for c in asked.value.doubt.choices} == {*VIEWS, "above"}


@pytest.mark.parametrize("view", VIEWS)
def test_a_front_foot_said_wrongly_makes_no_wrong_view_on_a_board(view):
    tracks = simulate("snowboard", {}, view=view, seed=71, units=3).tracks
    for stance in ("regular", "goofy"):
        with pytest.raises(Doubtful) as asked:
            review(tracks.with_facts(view=None, stance=stance), "snowboard")
        assert asked.value.doubt.kind == "view"
        likely = asked.value.doubt.choices[0].value
        assert (likely == view) == (stance == tracks.facts.stance)
