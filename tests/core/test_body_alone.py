"""Runs are split by the body alone where no gear is marked, and what needs gear is not read of something else."""

from __future__ import annotations

from dataclasses import replace

import pytest

from proklisis.core.errors import InputError
from proklisis.core.review import judge, review, run_sheet
from proklisis.core.tracks.landmarks import GEAR, SCENE, is_scene
from proklisis.core.tracks.tracks import Tracks
from proklisis.simulate.run import simulate

KEPT = {"scene_drift"}


def without_gear(tracks: Tracks, *also_kept: str) -> Tracks:
    keep = [
        k for k, n in enumerate(tracks.names)
        if n in KEPT or n in also_kept or not (n in GEAR or n in SCENE or is_scene(n))
    ]  # fmt: skip
    return replace(
        tracks, names=tuple(tracks.names[k] for k in keep), xy=tracks.xy[:, keep], u=tracks.u[:, keep],
        source=tracks.source[:, keep],
    )  # fmt: skip


#: Discipline, view, and within how many seconds its boundaries are found from the body alone.
ALONE = (
    ("alpine_carve", "front", 0.07), ("snowboard", "front", 0.1), ("snowboard", "rear", 0.1), ("drop_boof", "front", 0.07),
    ("drop_boof", "side_right", 0.07), ("slalom_ski", "rear", 0.15), ("surf_turn", "front", 0.1), ("surf_turn", "rear", 0.1),
    ("moto_stance", "side_left", 0.07), ("inline_start", "front", 0.07),
)  # fmt: skip


@pytest.mark.thorough
@pytest.mark.parametrize(("discipline", "view", "within"), ALONE)
@pytest.mark.parametrize("seed", [951, 952])
def test_a_clean_run_without_gear_has_its_units_and_no_clear_main_thing(
    discipline, view, within, seed
):
    level = "advanced" if discipline == "slalom_ski" else "intermediate"
    sim = simulate(discipline, {}, level=level, view=view, seed=seed, units=4)
    read = review(without_gear(sim.tracks), discipline, draws=8)
    assert len(read.boundaries) == len(sim.motion.boundaries)
    for found, true in zip(read.boundaries, sim.motion.boundaries, strict=True):
        assert abs(found.t - true) < within
    main = judge(run_sheet(read, discipline, sim.about()))["main"]
    assert main is None or main["verdict"] != "clear"


def test_the_edge_of_a_boat_is_not_read_off_the_shins():
    sim = simulate("drop_boof", {}, view="front", seed=951, units=3)
    read = review(without_gear(sim.tracks), "drop_boof", draws=4)
    assert not [r for r in read.readings if r.id == "edge"]
    why = next(r for r in read.refusals if r.id == "edge")
    assert set(why.points) == {"base_in", "base_out"}


def test_one_pole_tip_is_enough_for_the_cycles_and_none_is_said_with_what_to_do():
    sim = simulate("double_pole", {}, view="side_right", seed=951, units=4)
    one = review(
        without_gear(sim.tracks, "r_pole_tip", "surface_a", "surface_b"), "double_pole", draws=4
    )
    assert len(one.units) == 4
    with pytest.raises(
        InputError, match="left pole tip and the right pole tip are not followed"
    ) as e:
        review(without_gear(sim.tracks), "double_pole", draws=4)
    assert "mark them in a few frames" in e.value.mend


def test_places_in_wakes_are_not_read_where_the_lean_alone_tells_how_far_out_the_skier_is():
    sim = simulate("slalom_ski", {}, level="advanced", view="rear", seed=951, units=4)
    read = review(without_gear(sim.tracks), "slalom_ski", draws=4)
    assert not {"edge_change_start", "load_peak_at", "arrival_time"} & {r.id for r in read.readings}
    with_wakes = review(sim.tracks, "slalom_ski", draws=4)
    # What is told by the lean is known less well, and says so.
    assert min(b.u for b in read.boundaries) > 2 * max(b.u for b in with_wakes.boundaries)


def test_a_wave_from_the_side_says_what_to_mark():
    sim = simulate("surf_turn", {}, view="side_right", seed=951, units=3)
    with pytest.raises(InputError, match="trough and lip are not marked"):
        review(without_gear(sim.tracks), "surf_turn", draws=4)


def test_a_run_in_which_nothing_is_found_says_so_with_what_to_do():
    sim = simulate("snowboard", {}, view="side_right", seed=951, units=3)
    read = review(without_gear(sim.tracks), "snowboard", draws=4)
    assert read.units or any("Cut the run by hand" in n for n in read.notes)


def test_a_camera_that_goes_along_is_told_from_one_that_the_rider_passes():
    sim = simulate("moto_stance", {}, view="side_right", seed=951, units=3)
    drift = sim.tracks.index["scene_drift"]
    still = sim.tracks.xy.copy()
    still[:, drift, 0] = 0.0
    said = "was not followed: what is far off stands still"
    assert not any(said in n for n in review(sim.tracks, "moto_stance", draws=4).notes)
    held = review(replace(sim.tracks, xy=still), "moto_stance", draws=4)
    assert any(said in n for n in held.notes)
    assert len(held.units) == 3


def test_turns_in_the_air_that_were_not_followed_are_not_called_missing():
    """Hips and shoulders that a tracker holds still through a jump do not make a rotation that stops short."""
    sim = simulate("figure_jump", {}, view="side_right", seed=951, units=3)
    xy = sim.tracks.xy.copy()
    for part in ("shoulder", "hip"):
        left, right = (sim.tracks.index[f"{s}_{part}"] for s in "lr")
        middle = (xy[:, left] + xy[:, right]) / 2
        xy[:, left], xy[:, right] = middle - [8.0, 0.0], middle + [8.0, 0.0]
    read = review(replace(sim.tracks, xy=xy), "figure_jump", draws=8)
    assert not [r for r in read.readings if r.id in ("rotations", "shortfall")]
    main = judge(run_sheet(read, "figure_jump", sim.about()))["main"]
    assert main is None or main["fault"] != "short_rotation"
