"""Each measure alone, on poses whose answer is plain to see."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.core.measures import library
from proklisis.core.measures.registry import REGISTRY, declare
from proklisis.core.readings.readings import refusal
from proklisis.core.rider.figure import build
from proklisis.core.tracks.gap_filling import fill_short_gaps
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import ClipFacts, Tracks
from proklisis.core.uncertainty import digits

N = 30
#: A rider standing straight, metres: across, along, up.
STANDING = {
    "nose": (0.0, 0.12, 1.60), "l_ear": (-0.07, 0.0, 1.62), "r_ear": (0.07, 0.0, 1.62),
    "l_shoulder": (-0.2, 0.0, 1.42), "r_shoulder": (0.2, 0.0, 1.42), "l_elbow": (-0.25, 0.05, 1.12), "r_elbow": (0.25, 0.05, 1.12),
    "l_wrist": (-0.25, 0.30, 1.12), "r_wrist": (0.25, 0.30, 1.12), "l_hip": (-0.14, 0.0, 0.95), "r_hip": (0.14, 0.0, 0.95),
    "l_knee": (-0.14, 0.0, 0.52), "r_knee": (0.14, 0.0, 0.52), "l_ankle": (-0.14, 0.0, 0.10), "r_ankle": (0.14, 0.0, 0.10),
    "l_heel": (-0.14, -0.08, 0.03), "r_heel": (0.14, -0.08, 0.03), "l_toe": (-0.14, 0.2, 0.03), "r_toe": (0.14, 0.2, 0.03),
    "l_ski_tip": (-0.14, 0.95, 0.0), "r_ski_tip": (0.14, 0.95, 0.0), "l_ski_tail": (-0.14, -0.75, 0.0), "r_ski_tail": (0.14, -0.75, 0.0),
}  # fmt: skip


def pose(**moved: tuple[float, float, float]) -> dict[str, np.ndarray]:
    return {k: np.array(v, float) for k, v in {**STANDING, **moved}.items()}


def tilted(angle_deg: float, above: float = 0.0, around: str = "across") -> dict[str, np.ndarray]:
    """The standing rider tilted about the feet: ``across`` leans to the right, ``along`` bends forward."""
    a = np.radians(angle_deg)
    out = {}
    for name, p in pose().items():
        q = p.copy()
        if p[2] > above:
            h = p[2] - above
            k = 0 if around == "across" else 1
            q[k], q[2] = p[k] * np.cos(a) + h * np.sin(a), above + h * np.cos(a) - p[k] * np.sin(a)
        out[name] = q
    return out


def figure(points: dict[str, np.ndarray], side: float = 1.0, slope: float = 0.0):
    names = tuple(points)
    xyz = np.repeat(np.stack([points[n] for n in names])[None], N, axis=0)
    xy = np.stack([640 + 150 * xyz[..., 0], 600 - 150 * xyz[..., 2]], axis=-1)
    shape = (N, len(names))
    facts = ClipFacts(fps=60, slope_deg=slope)
    tracks = Tracks(
        np.arange(N),
        np.arange(N) / 60,
        names,
        xy,
        np.zeros(shape),
        np.zeros(shape, np.uint8),
        facts,
        xyz,
    )
    return build(tracks, 6.0, np.full(N, side))


def value(
    measure_id: str, points: dict[str, np.ndarray], limb: str | None = None, **options
) -> float:
    m = REGISTRY[measure_id]
    f = figure(points, **options)
    out = m.read(f, limb) if limb else m.read(f)
    series = out[0] if isinstance(out, tuple) else out
    return float((series * (f.side if m.signed else 1.0))[N // 2])


@pytest.mark.parametrize("angle", [0, 12, 35])
def test_a_straight_body_leans_as_a_whole(angle):
    points = tilted(angle)
    for measure_id in ("leg_lean", "trunk_lean"):
        assert value(measure_id, points) == pytest.approx(angle, abs=0.1)
    assert value("angulation", points) == pytest.approx(0, abs=0.1)


def test_lean_is_signed_to_the_inside_of_the_turn():
    points = tilted(20)
    assert value("leg_lean", points, side=1.0) == pytest.approx(20, abs=0.1)
    assert value("leg_lean", points, side=-1.0) == pytest.approx(-20, abs=0.1)


def test_angulation_is_the_legs_lean_less_the_trunks():
    legs = tilted(25)
    hips = (legs["l_hip"] + legs["r_hip"]) / 2
    straight = pose()
    for name in BODY:
        if straight[name][2] > 1.0:  # the trunk stands upright on the leaning legs
            legs[name] = straight[name] - [0, 0, 0.95] + hips
    assert value("trunk_lean", legs) == pytest.approx(0, abs=0.1)
    assert value("angulation", legs) == pytest.approx(25, abs=0.2)


def test_shoulder_tilt_is_a_drop_to_the_inside():
    points = pose(r_shoulder=(0.2, 0.0, 1.32))
    expected = np.degrees(np.arctan2(0.1, 0.4))
    assert value("shoulder_tilt", points, side=1.0) == pytest.approx(expected, abs=0.1)
    assert value("shoulder_tilt", points, side=-1.0) == pytest.approx(-expected, abs=0.1)


def test_edge_is_the_outside_shins_tilt_over_the_snow():
    points = pose(l_knee=(-0.14 + 0.42 * np.tan(np.radians(18)), 0.0, 0.52))
    assert value("edge", points, side=1.0) == pytest.approx(
        18, abs=0.1
    )  # the left foot is outside in a right turn
    assert value("edge", points, side=-1.0) == pytest.approx(0, abs=0.1)


def test_joint_flexion_is_zero_when_straight():
    assert value("knee_flex", pose(), "outside") == pytest.approx(0, abs=0.1)
    assert value("hip_flex", pose(), "inside") == pytest.approx(
        7, abs=8
    )  # shoulder and hip width differ
    bent = pose(l_knee=(-0.14, 0.425, 0.525))
    assert value("knee_flex", bent, "outside") == pytest.approx(90, abs=1.5)
    assert value("knee_flex", bent, "inside") == pytest.approx(0, abs=0.1)
    assert value("elbow_flex", pose(), "l") == pytest.approx(80, abs=3)


def test_pitches_and_their_gap():
    bent = tilted(30, above=0.95, around="along")
    assert value("trunk_pitch", bent) == pytest.approx(30, abs=0.1)
    assert value("trunk_shin_gap", bent) == pytest.approx(30, abs=0.1)
    shin = pose(l_knee=(-0.14, 0.42 * np.tan(np.radians(15)), 0.52))
    assert value("shin_pitch", shin) == pytest.approx(15, abs=0.1)
    # On a slope of 10° a shin square to the world stands 10° back from the surface's normal.
    assert value("shin_pitch", pose(), slope=10.0) == pytest.approx(-10, abs=0.1)


def test_fore_and_aft_in_leg_lengths():
    ahead = {k: (v + [0, 0.17, 0] if v[2] > 0.6 else v) for k, v in pose().items()}
    assert value("hip_fore_aft", pose()) == pytest.approx(0, abs=0.01)
    assert value("hip_fore_aft", ahead) == pytest.approx(
        0.17 / (0.42 + np.hypot(0.43, 0.17)), abs=0.01
    )
    assert value("com_fore_aft", ahead) > value("com_fore_aft", pose()) + 0.1
    assert value("head_fore", ahead) > value("head_fore", pose())


def test_hands_and_elbows_ahead_of_the_trunk_take_the_lesser():
    trunk = 1.42 - 0.95
    assert value("hand_fore", pose()) == pytest.approx(0.30 / (0.646 * trunk), abs=0.01)
    one_back = pose(r_wrist=(0.25, -0.20, 1.12))
    assert value("hand_fore", one_back) == pytest.approx(-0.20 / (0.646 * trunk), abs=0.01)
    assert value("elbow_fore", pose()) == pytest.approx(0.05 / (0.646 * trunk), abs=0.01)


def test_feet_and_knees_against_hips():
    assert value("stance_width", pose()) == pytest.approx(1.0)
    wide = pose(l_ankle=(-0.28, 0, 0.1), r_ankle=(0.28, 0, 0.1))
    assert value("stance_width", wide) == pytest.approx(2.0)
    assert value("knee_gap", wide) == pytest.approx(0.5)


def turned(
    points: dict[str, np.ndarray], names: tuple[str, ...], angle_deg: float
) -> dict[str, np.ndarray]:
    """Turn some points about the vertical, + to the rider's right."""
    a = np.radians(angle_deg)
    out = dict(points)
    for name in names:
        x, y, z = points[name]
        out[name] = np.array([x * np.cos(a) + y * np.sin(a), y * np.cos(a) - x * np.sin(a), z])
    return out


SKIS = ("l_ski_tip", "r_ski_tip", "l_ski_tail", "r_ski_tail")


def test_heading_scissor_and_separation():
    right = turned(pose(), SKIS, 20)
    assert value("heading", right, side=1.0) == pytest.approx(20, abs=0.1)
    # Skis 20° to the right under shoulders that look ahead: facing outside in a right turn.
    assert value("separation", right, side=1.0) == pytest.approx(20, abs=0.1)
    assert value("separation", right, side=-1.0) == pytest.approx(-20, abs=0.1)
    assert value("hip_separation", right, side=1.0) == pytest.approx(20, abs=0.1)
    open_tips = turned(pose(), ("r_ski_tip", "r_ski_tail"), 9)
    assert value("scissor", open_tips, side=1.0) == pytest.approx(9, abs=0.1)


def test_gaze_drop():
    level = pose(nose=(0.0, 0.12, 1.62))
    assert value("gaze_drop", level) == pytest.approx(0, abs=0.1)
    down = pose(nose=(0.0, 0.10, 1.52))
    assert value("gaze_drop", down) == pytest.approx(45, abs=0.1)


#: These need a path over the ground, a board or a machine.
NEED_MORE = ("weight_outside", "skid_angle", "hinge", "shin_to_boot", "hands_height")


def test_every_series_is_finite_on_a_whole_pose_and_says_what_it_is():
    for m in library.ALL:
        assert m.doc.endswith(".")
        assert m.title[0].isupper()
        assert m.formula
        if (
            not m.each_frame
            or not set(m.points) <= {*tilted(10), *("mid_hip", "mid_shoulder", "mid_ankle")}
            or m.id in NEED_MORE
        ):
            continue
        for limb in m.limbs or (None,):
            assert np.isfinite(value(m.id, tilted(10), limb)), m.id


def test_a_measure_is_declared_once():
    with pytest.raises(ValueError, match="twice"):
        declare(id="lean", unit="deg", title="Lean", doc="Again.", formula="x", views=())


def test_what_a_view_cannot_show_is_refused_with_a_reason(simulated):
    from proklisis.core.review import review

    front = {r.id: r for r in review(simulated(view="front").tracks, "alpine_carve").refusals}
    assert "side" in front["knee_flex"].words
    side = {r.id: r for r in review(simulated(view="side_left").tracks, "alpine_carve").refusals}
    assert side["lean"].reason == "view"
    far_off = simulated(view="front").tracks.with_facts(view_offset_deg=45.0, sure=["view"])
    refused = {r.id: r for r in review(far_off, "alpine_carve").refusals}
    assert "45° off" in refused["lean"].words


def test_a_load_needs_a_scale(simulated):
    tracks = simulated(view="front").tracks
    from proklisis.core.review import review

    done = review(
        replace(tracks, facts=tracks.facts.model_copy(update={"px_per_m": None})), "alpine_carve"
    )
    refused = {r.id: r for r in done.refusals}
    assert "height" in refused["weight_outside"].words
    assert refusal(REGISTRY["lean"], figure(pose())) is None


def test_short_gaps_are_bridged_and_say_so_long_ones_stay_empty(simulated):
    tracks = simulated(view="front").tracks
    xy = tracks.xy.copy()
    xy[100:105, 4] = np.nan
    xy[200:260, 4] = np.nan
    bridged = fill_short_gaps(replace(tracks, xy=xy))
    assert np.isfinite(bridged.xy[100:105, 4]).all()
    assert (bridged.source[100:105, 4] == 2).all()
    assert (bridged.u[100:105, 4] > tracks.u[100:105, 4]).all()
    assert np.isnan(bridged.xy[200:260, 4]).all()


def test_too_few_frames_are_told(simulated):
    from proklisis.core.review import review

    tracks = simulated(view="front").tracks
    short = replace(
        tracks,
        frames=tracks.frames[:5],
        t=tracks.t[:5],
        xy=tracks.xy[:5],
        u=tracks.u[:5],
        source=tracks.source[:5],
    )
    with pytest.raises(InputError, match="5 frame"):
        review(short, "alpine_carve")


@pytest.mark.parametrize(
    ("value_", "u", "words"), [(23.456, 2.0, "23"), (23.456, 0.2, "23.5"), (1.23456, 0.004, "1.235"), (-0.3, 3.0, "0"), (-7.6, 1.0, "−8")]
)  # fmt: skip
def test_no_more_digits_than_the_uncertainty_bears(value_, u, words):
    assert digits(value_, u) == words
