"""Every measured fault of every simulated rider, from wish to cue: what is put in is what is found."""

from __future__ import annotations

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.core.review import judge, playbook, review, run_sheet
from proklisis.core.tracks.landmarks import BODY
from proklisis.simulate import inject
from proklisis.simulate.riders import RIDERS
from proklisis.simulate.run import simulate
from proklisis.simulate.style import injectable

pytestmark = pytest.mark.thorough

LEVEL = {"kite_roll": "advanced"}
#: Faults that show best at another level than the usual one.
AT_LEVEL = {
    ("slalom_ski", "rushed_turn_in"): "novice",
    ("slalom_ski", "weight_shift_wrong_side"): "elite",
}
#: Faults that no picture shows of a rider who leans so far, and points in space do.
IN_SPACE = {("speed_skate", "not_ready_at_touch")}
#: A best of a side takes three of that side.
UNITS = {"time_lost_at_gate": 8}
CASES = [(d, f) for d in sorted(RIDERS) for f in inject.measurable(playbook(d), RIDERS[d])]
CASES += [
    ("alpine_gates", f) for f in injectable("alpine_gates") if f not in injectable("alpine_carve")
]


@pytest.mark.slow
@pytest.mark.parametrize(("discipline", "fault"), CASES, ids=lambda x: x)
def test_an_injected_fault_is_the_main_thing_or_explained_by_it(discipline, fault):
    level = AT_LEVEL.get((discipline, fault), LEVEL.get(discipline, "intermediate"))
    run = simulate(discipline, {fault: 1.5}, seed=41, units=UNITS.get(fault, 5), level=level)  # type: ignore[arg-type]
    seen = run.truth() if (discipline, fault) in IN_SPACE else review(run.tracks, discipline)
    found = judge(run_sheet(seen, discipline, run.about()))
    if playbook(discipline).faults[fault].role in ("effect", "reason"):
        # What follows from something else, or only says why, is told and is never the main thing.
        assert next(f["verdict"] for f in found["findings"] if f["fault"] == fault) != "unclear"
        return
    assert found["main"] is not None
    main = found["main"]["fault"]
    assert fault in {main, *next(f["explains"] for f in found["findings"] if f["fault"] == main)}


@pytest.mark.parametrize("discipline", sorted(RIDERS))
def test_no_bone_of_a_rider_stretches(discipline):
    points = simulate(
        discipline, {}, seed=5, units=3, level=LEVEL.get(discipline, "intermediate")
    ).motion.points  # type: ignore[arg-type]
    for a, b in (("l_knee", "l_ankle"), ("r_hip", "r_knee"), ("mid", "trunk")):
        if a == "mid":
            d = (
                points["l_shoulder"] + points["r_shoulder"] - points["l_hip"] - points["r_hip"]
            ) / 2
        else:
            d = points[a] - points[b]
        length = np.linalg.norm(d, axis=1)
        assert length.std() / length.mean() < 0.06, (a, b)


@pytest.mark.parametrize("discipline", sorted(RIDERS))
def test_no_joint_of_a_rider_jumps(discipline):
    """A hand of a throw reaches 20 m/s at the most (common practice); no rider here throws."""
    exact = simulate(
        discipline, {}, seed=5, units=3, level=LEVEL.get(discipline, "intermediate")
    ).exact  # type: ignore[arg-type]
    hips = (exact.xyz[:, exact.index["l_hip"]] + exact.xyz[:, exact.index["r_hip"]]) / 2
    for joint in BODY:
        step = np.diff(exact.xyz[:, exact.index[joint]] - hips, axis=0)
        assert np.linalg.norm(step, axis=1).max() * exact.facts.fps < 20, joint


def test_feet_strapped_to_a_board_tilt_with_it():
    run = simulate("snowboard", {}, seed=5, units=3)
    at, exact = run.exact.index, run.exact.xyz
    base = exact[:, at["base_out"]] - exact[:, at["base_in"]]
    board = exact[:, at["board_nose"]] - exact[:, at["board_tail"]]
    normal = np.cross(base, board)
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    for s in "lr":
        foot = exact[:, at[f"{s}_toe"]] - exact[:, at[f"{s}_heel"]]
        assert np.abs((foot * normal).sum(axis=1)).max() < 0.01


def test_the_same_seed_gives_the_same_run():
    a, b = (simulate("surf_turn", {}, seed=3, units=3) for _ in range(2))
    np.testing.assert_array_equal(a.tracks.xy, b.tracks.xy)


def test_a_stronger_wish_is_a_stronger_fault():
    def drop(strength: float) -> float:
        done = simulate("trail_stance", {"heels_up": strength}, seed=4, units=3).truth()
        return float(
            np.mean(
                [r.value for r in done.readings if r.id == "heel_drop" and r.phase == "roll_in"]
            )
        )

    assert drop(0.5) - drop(2.0) == pytest.approx(1.5 * 8, abs=2)


@pytest.mark.parametrize(
    ("discipline", "fault", "level", "words"),
    [
        ("surf_turn", "no_drive", "intermediate", "coach's eye"), ("surf_turn", "nonsense", "intermediate", "not known"),
        ("inline_start", "hinged", "elite", "not judged at level elite"), ("slalom_ski", "weight_shuffle", "elite", "not judged"),
    ],
)  # fmt: skip
def test_what_cannot_be_put_in_is_told(discipline, fault, level, words):
    with pytest.raises(InputError, match=words):
        simulate(discipline, {fault: 1.5}, seed=1, level=level)


def test_what_a_view_cannot_show_is_filmed_from_another():
    assert simulate("snowboard", {"counter_rotation": 1.5}, seed=1, units=2).shot.view == "above"
    assert simulate("snowboard", {"hinge_over": 1.5}, seed=1, units=2).shot.view == "front"


def test_conditions_come_with_the_tracks():
    run = simulate("slalom_ski", {}, seed=1, units=2, given={"rope_m": 13.0})
    assert run.tracks.facts.conditions["rope_m"] == 13.0
    assert run.tracks.facts.stance == "regular"
