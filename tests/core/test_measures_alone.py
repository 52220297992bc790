"""Measures of every family on figures made by hand, where the answer is plain geometry."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.readings.readings import SideMean, side_gaps, side_means
from proklisis.core.review import review
from proklisis.core.rider.figure import Figure
from proklisis.core.splitting.events import at, crossings, onset, peak_time
from proklisis.core.splitting.loops import _crossed
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.simulate.run import simulate

N, FPS = 61, 60.0
T = np.arange(N) / FPS


def figure(view: str | None = None, given=None, front_foot=None, **points) -> Figure:
    """Landmarks as (x, y, z) in metres, standing still or (n, 3) paths."""
    full = {k: np.broadcast_to(np.asarray(v, float), (N, 3)).copy() for k, v in points.items()}
    for name in ("hip", "shoulder", "ankle", "ear"):
        if f"l_{name}" in full and f"r_{name}" in full:
            full[f"mid_{name}"] = (full[f"l_{name}"] + full[f"r_{name}"]) / 2
    facts = {
        "roll": 0.0,
        "pitch": 0.0,
        "offset": 0.0,
        "slope": 0.0,
        "shin_pitch": 20.0,
        "scale": 1.0,
    }
    return Figure(T, FPS, full, {k: np.zeros(N) for k in full}, np.zeros(N), view, facts, dict.fromkeys(facts, 0.0), 6.0, 0.0,
                  front_foot=front_foot, given=given or {})  # fmt: skip


def unit(start=0.2, end=0.8, side=None, phases=None, **events) -> Unit:
    return Unit(1, Boundary(start, 0.0), Boundary(end, 0.0), phases or {}, side=side, events=events)


def both(part: str, at, gap=0.2):
    x, y, z = at
    return {f"l_{part}": (x - gap / 2, y, z), f"r_{part}": (x + gap / 2, y, z)}


STANDING = {
    **both("ankle", (0, 0, 0.1)),
    **both("hip", (0, 0, 0.9)),
    **both("shoulder", (0, 0, 1.4)),
    **both("knee", (0, 0, 0.5)),
}


def value(measure: str, f: Figure, *more) -> float:
    m = REGISTRY[measure]
    if m.at_once:
        return m.read(f, *more)
    out = m.read(f, *more)
    return float(np.mean(out[0] if isinstance(out, tuple) else out))


def test_poles_at_the_plant():
    f = figure(
        **STANDING,
        **both("pole_grip", (0, 0.3, 1.4)),
        **both("pole_tip", (0, 0.3 - np.tan(np.radians(10)) * 1.4, 0)),
        **both("toe", (0, 0.1, 0)),
        **both("heel", (0, -0.1, 0)),
    )
    u = unit(plant=0.5, release=0.7)
    assert value("pole_angle", f, u) == pytest.approx(10)
    assert value("plant_fore", f, u) == pytest.approx((0.3 - 0.2469 - 0.1) / 0.8, abs=0.002)
    assert value("reposition_share", f, u) == pytest.approx(100 * 0.1 / 0.6)


def test_falling_onto_the_poles():
    leaning = {**STANDING, **both("shoulder", (0, 1.3 * np.tan(np.radians(15)), 1.4))}
    assert value("body_fall", figure(**leaning), unit(plant=0.5, release=0.7)) == pytest.approx(15)


def test_a_raised_heel():
    f = figure(
        **STANDING, **both("toe", (0, 0.2, 0)), **both("heel", (0, 0, 0.2 * np.tan(np.radians(20))))
    )
    assert value("heel_at_plant", f, unit(plant=0.5, release=0.7)) == pytest.approx(20)


@pytest.mark.parametrize(("lean", "side"), [(40, "left"), (-25, "right")])
def test_the_blades_lean_is_the_shanks(lean, side):
    s = side[0]
    f = figure(
        **{
            **STANDING,
            f"{s}_ankle": (0, 0, 0),
            f"{s}_knee": (0.4 * np.sin(np.radians(lean)), 0, 0.4 * np.cos(np.radians(lean))),
        }
    )
    assert value("blade_lean", f, unit(side=side, lift=0.8)) == pytest.approx(abs(lean))


def test_steps_and_their_v():
    feet = {"l_heel": (-0.1, 0, 0), "l_toe": (-0.1 - 0.27 * np.sin(np.radians(20)), 0.27 * np.cos(np.radians(20)), 0),
            "r_heel": (0.1, 0, 0), "r_toe": (0.1 + 0.27 * np.sin(np.radians(25)), 0.27 * np.cos(np.radians(25)), 0)}  # fmt: skip
    f = figure(**STANDING, **feet)
    assert value("v_angle", f, unit(side="left")) == pytest.approx(45)
    assert value("single_support", f, unit(side="left", other_lift=0.35)) == pytest.approx(0.45)
    assert value("step_width", f, unit(side="left")) == pytest.approx(1.0)


def test_on_a_machine():
    bike = {"pedal_l": (-0.2, 0, 0.3), "pedal_r": (0.2, 0, 0.3), "bar_end_l": (-0.4, 0.6, 1.1), "bar_end_r": (0.4, 0.6, 1.1),
            "front_axle": (0, 0.7, 0.3), "rear_axle": (0, -0.7, 0.3), "saddle": (0, -0.2, 0.8)}  # fmt: skip
    f = figure(**{**STANDING, **both("hip", (0, 0.08, 0.9))}, **bike, nose=(0, 0.6 + 0.1, 1.5))
    leg = np.hypot(0.08, 0.4) + 0.4
    assert value("seat_fore", f) == pytest.approx(0.08 / leg, abs=0.002)
    assert value("hip_height", f) == pytest.approx(0.1 / leg, abs=0.002)
    assert value("head_over_bars", f) == pytest.approx(
        0.1 / (0.332 / 0.288 * np.hypot(0.08, 0.5)), rel=0.01
    )


@pytest.mark.parametrize("lift", [-30, 0, 20])
def test_an_elbow_over_or_under_the_hanging_line(lift):
    a = np.radians(lift - 45)
    f = figure(
        **STANDING,
        l_elbow=(-0.1 - 0.3 * np.cos(a), 0, 1.4 + 0.3 * np.sin(a)),
        r_elbow=(0.1, 0, 1.1),
    )
    assert value("elbow_lift", f, "l") == pytest.approx(lift)


def test_wide_elbows_and_knees():
    f = figure(**{**STANDING, **both("knee", (0, 0, 0.5), 0.5)}, **both("elbow", (0, 0, 1.2), 0.9), **both("wrist", (0, 0, 1.1), 0.6),
               pedal_l=(-0.2, 0, 0.3), pedal_r=(0.2, 0, 0.3))  # fmt: skip
    assert value("elbow_flare", f) == pytest.approx(1.5)
    assert value("knee_flare", f) == pytest.approx(1.25)


def test_heels_are_dropped_against_the_ground():
    drop = np.tan(np.radians(12)) * 0.25
    f = figure(
        **STANDING,
        l_toe=(0, 0.25, 0.1),
        l_heel=(0, 0, 0.1 - drop),
        r_toe=(0, 0.25, 0),
        r_heel=(0, 0, 0),
        front_axle=(0, 0.7, 0.3),
        rear_axle=(0, -0.7, 0.3),
    )
    assert value("heel_drop", f, "l") == pytest.approx(12)
    assert value("heel_drop", f, "r") == pytest.approx(0)


BOARD = {
    "board_nose": (0, 0.8, 0),
    "board_tail": (0, -0.7, 0),
    "base_in": (-0.12, 0, 0.05),
    "base_out": (0.12, 0, -0.05),
}
SIDEWAYS = {"l_ankle": (0, 0.26, 0.1), "r_ankle": (0, -0.26, 0.1), "l_hip": (0, 0.13, 0.8), "r_hip": (0, -0.13, 0.8),
            "l_shoulder": (0.1, 0.2, 1.25), "r_shoulder": (0.1, -0.2, 1.25)}  # fmt: skip


def test_on_a_board():
    f = figure(front_foot="l", **SIDEWAYS, **BOARD)
    # Regular: the toes point to the right, and a trunk that tips right of upright legs is folded over them.
    assert value("hinge", f) == pytest.approx(np.degrees(np.arctan2(0.1, 0.45)))
    assert value("edge", f) == pytest.approx(np.degrees(np.arctan2(0.05, 0.12)))
    assert value("alignment", f) == pytest.approx(0, abs=1e-9)
    goofy = figure(front_foot="r", **SIDEWAYS, **BOARD)
    assert value("hinge", goofy) == pytest.approx(-np.degrees(np.arctan2(0.1, 0.45)))


@pytest.mark.parametrize("turned", [0, 20, 55])
def test_shoulders_off_the_boards_line(turned):
    a = np.radians(turned)
    f = figure(
        front_foot="l",
        **{
            **SIDEWAYS,
            "l_shoulder": (0.2 * np.sin(a), 0.2 * np.cos(a), 1.3),
            "r_shoulder": (-0.2 * np.sin(a), -0.2 * np.cos(a), 1.3),
        },
        **BOARD,
    )
    assert value("alignment", f) == pytest.approx(turned)


def test_the_axis_in_the_air_leans_to_the_landing_side():
    tilted = {**STANDING, **both("shoulder", (1.3 * np.tan(np.radians(5)), 0, 1.4))}
    u = unit(takeoff=0.3, landing=0.7, phases={"set": (0.3, 0.5), "spin": (0.5, 0.6)})
    assert value(
        "axis_tilt", figure(given={"landing_side": "r"}, **tilted), u, "set"
    ) == pytest.approx(5)
    assert value(
        "axis_tilt", figure(given={"landing_side": "l"}, **tilted), u, "set"
    ) == pytest.approx(-5)


@pytest.mark.parametrize("view", [None, "front"])
def test_turns_are_counted_in_the_air(view):
    # One and three quarters of a turn in half a second, begun at an angle.
    yaw = np.radians(20 + 360 * 1.75 * np.clip((T - 0.25) / 0.5, 0, 1))
    axis = np.stack([np.cos(yaw), -np.sin(yaw), 0 * yaw], axis=1)
    points = {**STANDING, "l_shoulder": -0.2 * axis + [0, 0, 1.4], "r_shoulder": 0.2 * axis + [0, 0, 1.4],
              "l_hip": -0.14 * axis + [0, 0, 0.9], "r_hip": 0.14 * axis + [0, 0, 0.9]}  # fmt: skip
    f = figure(view, given={"planned_rotations": 2.0}, **points)
    u = unit(0.25, 0.75)
    assert value("rotations", f, u) == pytest.approx(1.75, abs=0.05)
    assert value("shortfall", f, u) == pytest.approx(90, abs=16)
    assert value("rotation_period", f, u) == pytest.approx(0.5 / 1.75, abs=0.01)
    assert value("air_time", f, u) == pytest.approx(0.5)
    assert value("flight_height", f, u) == pytest.approx(9.80665 * 0.25 / 8)


def test_a_boat_at_the_lip():
    f = figure(
        **STANDING,
        bow=(0.3, 1.3, 0.4),
        stern=(-0.3, -1.3, -0.1),
        base_in=(-0.3, 0, 0.1),
        base_out=(0.3, 0, -0.1),
    )
    assert value("boat_angle", f) == pytest.approx(np.degrees(np.arctan2(0.6, 2.6)))
    assert value("boat_pitch", f) == pytest.approx(np.degrees(np.arctan2(0.5, np.hypot(0.6, 2.6))))
    assert value("edge", f) == pytest.approx(np.degrees(np.arctan2(0.2, 0.6)))


def test_the_height_on_a_wave():
    from proklisis.core.splitting.waves import face_height

    f = figure(
        **STANDING,
        trough=(0, 2, 0),
        lip_top=(0, 0, 2),
        board_nose=(0.9, 1.5, 0.5),
        board_tail=(-0.9, 1.5, 0.5),
    )
    assert face_height(f)[0] == pytest.approx(0.25)


def test_face_and_chest_on_a_wave():
    # y is toward the beach: a head that looks at the beach shows its face to it.
    f = figure(
        front_foot="l",
        **{**STANDING, "l_ear": (-0.07, 0, 1.6), "r_ear": (0.07, 0, 1.6)},
        board_nose=(0.9, 0, 0),
        board_tail=(-0.9, 0, 0),
    )
    assert value("face_seen", f) > 0.9
    away = figure(
        front_foot="l",
        **{**STANDING, "l_ear": (0.07, 0, 1.6), "r_ear": (-0.07, 0, 1.6)},
        board_nose=(0.9, 0, 0),
        board_tail=(-0.9, 0, 0),
    )
    assert value("face_seen", away) < 0.1


def test_a_loops_trace_by_its_shape():
    # A lobe of an eight: twice as long as wide, crossed at its root.
    s = np.linspace(-0.12, 1.12, N)
    p = np.stack([0.1 * np.sin(2 * np.pi * s), 0.4 * np.sin(np.pi * s)], axis=1)
    (a, b), *_ = _crossed(T, p)
    assert (a, b) == (pytest.approx(0.12 / 1.24, abs=0.01), pytest.approx(1.12 / 1.24, abs=0.01))
    path = np.c_[p, np.zeros(N)]
    ahead = np.gradient(path, axis=0)
    ahead /= np.linalg.norm(ahead, axis=1, keepdims=True)
    f = figure(**{**STANDING, "l_ankle": path + [0, 0, 0.1], "l_blade_front": path + 0.14 * ahead, "l_blade_back": path - 0.14 * ahead,
                  "r_blade_front": path + [0.5, 0, 0.3], "r_blade_back": path + [0.5, -0.28, 0.3], "r_ankle": path + [0.5, 0, 0.4]})  # fmt: skip
    u = unit(a, b, far=0.5)
    assert value("loop_ratio", f, u) == pytest.approx(0.5, abs=0.03)
    assert value("loop_length", f, u) == pytest.approx(0.4 / 0.28, abs=0.06)
    assert value("curvature_peak_at", f, u) == pytest.approx(0.5, abs=0.03)
    assert value("edge_changes", f, u) == 0
    assert value("curvature_jumps", f, u) == 0


def test_a_gybes_course_and_rail():
    h = np.radians(-70 + 140 * T / T[-1])
    ahead = np.stack([np.sin(h), np.cos(h), 0 * h], axis=1)
    right = np.stack([np.cos(h), -np.sin(h), 0 * h], axis=1)
    e = np.radians(12)
    base = right * np.cos(e) - np.array([0, 0, np.sin(e)])
    f = figure(
        **STANDING,
        board_nose=1.2 * ahead,
        board_tail=-1.1 * ahead,
        base_in=-0.3 * base,
        base_out=0.3 * base,
    )
    u = unit(0.1, 0.9, turn=1.0)
    assert value("rail_min", f, u) == pytest.approx(12, abs=0.5)
    assert value(
        "arc",
        figure(**STANDING, board_nose=1.2 * ahead, board_tail=-1.1 * ahead),
        unit(0.45, 0.55, turn=1.0),
    ) == pytest.approx(126, abs=8)


def test_lean_behind_a_boat_and_where_it_is_read():
    x = -8 * np.cos(np.pi * T / T[-1])
    foot = np.stack([x, 0 * x, 0 * x], axis=1)
    lean = np.radians(40 * np.cos(np.pi * np.clip((T / T[-1] - 0.3) / 0.6, 0, 1)))
    top = foot + np.stack([np.sin(lean), 0 * x, np.cos(lean)], axis=1)
    f = figure(
        "front",
        **{k: (foot if "ankle" in k else top) for k in STANDING},
        wake_l=(-2, 0, 0),
        wake_r=(2, 0, 0),
        com=top,
    )
    u = unit(0.0, 1.0, centre=0.5, way=1.0, edge_start=0.55, edge_end=0.68)
    assert value("load_lean", f, u) == pytest.approx(40, abs=1)
    assert value("edge_change_start", f, u) == pytest.approx(-4 * np.cos(np.pi * 0.55), abs=0.05)
    assert value("lean_reversals", f, u) == 0


def test_crossings_need_more_than_noise():
    x = np.sin(2 * np.pi * 2 * T) + 0.05 * np.sin(2 * np.pi * 25 * T)
    found = crossings(T, x, 0.0, 0.2)
    assert [way for _, way in found] == [-1, 1, -1]
    assert [t for t, _ in found] == pytest.approx([0.25, 0.5, 0.75], abs=0.01)


def test_an_onset_is_where_the_movement_starts():
    x = np.clip((T - 0.4) / 0.3, 0, 1) ** 2
    assert 0.4 < onset(figure(**STANDING), x, 0.1, 0.7) < 0.5


def test_a_peak_lies_between_frames():
    assert peak_time(T, -((T - 0.5071) ** 2)) == pytest.approx(0.5071, abs=1e-4)
    assert at(figure(**STANDING), 3 * T, 0.5) == pytest.approx(1.5)


def mean(
    side: str,
    value: float,
    u: float = 1.0,
    measure: str = "lean",
    phase: str | None = "belly",
    limb: str | None = None,
) -> SideMean:
    return SideMean(measure, side, phase, limb, value, u)


def test_a_side_gap_is_left_less_right_with_what_the_camera_could_make_of_nothing():
    # Lean is + to the inside: a camera rolled by 1° adds 1° on one side and takes it from the other.
    (lean,) = side_gaps([mean("right", 40.0), mean("left", 43.0)])
    assert (lean.value, lean.u, lean.sure) == (3.0, 2.0, False)
    (time,) = side_gaps(
        [mean("left", 1.4, 0.03, "turn_time", None), mean("right", 1.6, 0.04, "turn_time", None)]
    )
    assert (round(time.value, 6), round(time.u, 6), time.sure) == (-0.2, 0.05, True)


def test_the_surest_gap_comes_first_and_what_has_no_counterpart_is_left_out():
    gaps = side_gaps([
        mean("toe", 20.0, measure="edge"), mean("heel", 21.0, measure="edge"), mean("heel", 5.0, measure="hinge"), mean("toe", 35.0, measure="hinge"),
        mean("toe", 3.0, measure="slip_angle"), mean("toe", 9.0, measure="knee_flex", limb="l"), mean("heel", 30.0, measure="knee_flex", limb="l"),
    ])  # fmt: skip
    assert [(g.id, g.value) for g in gaps] == [("hinge", 30.0), ("edge", -1.0)]


def test_a_rider_who_turns_alike_to_both_sides_shows_no_gap_and_one_who_does_not_does():
    even = simulate("alpine_carve", {}, seed=5, units=8, view="front")
    done = review(even.tracks, "alpine_carve")
    leans = [
        g
        for g in side_gaps(side_means(done.readings, done.units))
        if g.id in ("lean", "leg_lean", "angulation")
    ]
    assert len(leans) > 6
    assert sum(g.sure for g in leans) <= 1
    # The same run with the picture rolled by 6° and nobody told: now it seems to lean further to one side.
    rolled = replace(even, tracks=even.tracks.with_facts(roll_deg=even.tracks.facts.roll_deg + 6.0))
    askew = review(rolled.tracks, "alpine_carve")
    assert any(
        g.sure
        for g in side_gaps(side_means(askew.readings, askew.units))
        if g.id == "leg_lean" and g.phase == "belly"
    )
