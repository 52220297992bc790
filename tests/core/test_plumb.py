"""A picture that nobody has levelled is levelled by how the rider balances, or by the way over level ground."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.review import judge, review, run_sheet
from proklisis.core.tracks.tracks import UNLEVELLED_U_DEG
from proklisis.simulate.run import simulate

pytestmark = pytest.mark.thorough

SURE = ("view", "rate", "front_foot")


def askew(discipline, view, roll, faults=None, seed=31, **facts):
    """A run filmed askew, as of a phone that nobody has levelled."""
    sim = simulate(discipline, faults or {}, seed=seed, units=6, view=view, roll_deg=roll)
    facts = {"roll_deg": 0.0, "roll_u_deg": UNLEVELLED_U_DEG, "sure": SURE, **facts}
    return sim, sim.tracks.with_facts(**facts)


def judged(sim, tracks, discipline):
    done = review(tracks, discipline)
    return done, judge(run_sheet(done, discipline, sim.about()))


@pytest.mark.parametrize("roll", [-5.0, 3.0])
@pytest.mark.parametrize(
    ("discipline", "view"),
    [("alpine_carve", "front"), ("alpine_gates", "rear"), ("speed_skate", "side_right")],
)
def test_a_picture_filmed_askew_is_levelled_and_says_so(discipline, view, roll):
    sim, tracks = askew(discipline, view, roll)
    done, told = judged(sim, tracks, discipline)
    facts = done.tracks.facts
    assert facts.roll_deg == pytest.approx(roll, abs=2 * facts.roll_u_deg)
    assert facts.roll_u_deg < UNLEVELLED_U_DEG
    _, level = judged(sim, sim.tracks.with_facts(sure=SURE), discipline)
    # What is the matter is what would be the matter on a picture that stands upright.
    assert (told["main"] or {}).get("fault") == (level["main"] or {}).get("fault")
    assert done.level_by_ride
    assert "levelled so" in done.notes[0] and "clip's page" in done.notes[0]


def test_without_it_a_clean_run_filmed_askew_reads_otherwise():
    sim, tracks = askew("alpine_carve", "front", 5.0)
    upright = review(sim.tracks.with_facts(sure=SURE), "alpine_carve")
    believed = review(tracks.with_facts(roll_u_deg=0.2), "alpine_carve")  # said to be level
    levelled = review(tracks, "alpine_carve")

    def lean(done):
        return np.array([r.value for r in done.readings if (r.id, r.phase) == ("lean", "belly")])

    assert np.abs(lean(believed) - lean(upright)).mean() > 4
    assert np.abs(lean(levelled) - lean(upright)).mean() < 1.5


def test_what_a_coach_has_levelled_is_left_alone():
    _, tracks = askew("alpine_carve", "front", 5.0, roll_deg=2.0)
    assert review(tracks, "alpine_carve").tracks.facts.roll_deg == 2.0
    _, tracks = askew("alpine_carve", "front", 5.0, sure=[*SURE, "level"])
    assert review(tracks, "alpine_carve").tracks.facts.roll_deg == 0.0
    _, tracks = askew("alpine_carve", "front", 5.0, roll_u_deg=0.3)
    assert review(tracks, "alpine_carve").tracks.facts.roll_deg == 0.0


def test_a_fault_of_one_side_is_not_taken_for_a_camera_held_askew():
    sim, tracks = askew("alpine_carve", "front", 0.0, {"not_level": 1.5})
    done, told = judged(sim, tracks, "alpine_carve")
    assert abs(done.tracks.facts.roll_deg) < 1.5 and told["main"]["fault"] == "not_level"


def test_ground_that_may_slope_makes_the_level_doubtful_and_not_another():
    sim, tracks = askew("moto_stance", "side_right", 5.0)
    done, told = judged(sim, tracks, "moto_stance")
    assert done.tracks.facts.roll_deg == 0.0 and done.tracks.facts.roll_u_deg > 4.5
    assert told["main"] is None or told["main"]["verdict"] != "clear"
    assert not done.level_by_ride
    assert "whether the ground does or the camera leant" in done.notes[0]


def test_a_way_that_does_not_show_tells_nothing():
    _, tracks = askew("speed_skate", "front", 5.0)
    facts = review(tracks, "speed_skate").tracks.facts
    assert (facts.roll_deg, facts.roll_u_deg) == (0.0, UNLEVELLED_U_DEG)
