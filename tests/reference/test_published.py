"""Checks against the outside world. Each names its source; values from memory say so."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest
from scipy import signal
from scipy.spatial.transform import Rotation

from proklisis.core import anthropometry
from proklisis.core.camera import projection
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.physics.carve import balanced_lean, carving_radius, load
from proklisis.core.physics.flight import air_time, flight_height
from proklisis.core.review import review
from proklisis.core.rider.mass import WINTER, centre_of_mass, com_weights
from proklisis.core.signals import TWO_PASS, lowpass, residual_cutoff
from proklisis.core.uncertainty import frame_time_u, interval_u, propagate
from proklisis.simulate.run import simulate

RNG = np.random.default_rng(4)


def test_winter_segment_fractions_sum_to_the_whole_body():
    # Winter, Biomechanics and Motor Control of Human Movement, table 4.1.
    assert sum(s.mass for s in WINTER) == pytest.approx(1.0, abs=1e-9)
    assert sum(com_weights().values()) == pytest.approx(1.0, abs=1e-9)


def test_winter_leg_centre_of_mass():
    # Table 4.1 gives the whole leg (thigh, shank, foot) 0.161 of the body, its centre 0.447 of the way from hip to ankle.
    # The parts of our table on a straight, hanging leg must agree. (Value from memory; the foot counts at ankle height.)
    leg = tuple(s for s in WINTER if s.proximal in ("l_hip", "l_knee", "l_heel"))
    assert sum(s.mass for s in leg) == pytest.approx(0.161, abs=0.001)
    hip, knee, ankle = 0.0, anthropometry.THIGH, anthropometry.THIGH + anthropometry.SHANK
    heights = {"l_hip": hip, "l_knee": knee, "l_ankle": ankle, "l_heel": ankle, "l_toe": ankle}
    points = {n: np.array([[0.0, 0.0, h]]) for n, h in heights.items()}
    centre = centre_of_mass(points, leg)[0, 2] / sum(s.mass for s in leg)
    assert centre / ankle == pytest.approx(0.447, abs=0.02)


def test_centre_of_mass_of_a_standing_body_is_a_little_above_the_hips():
    # common practice: 0.53–0.58 of stature, arms hanging.
    heights = {
        "ear": 0.936, "shoulder": 0.818, "elbow": 0.63, "wrist": 0.485, "hip": 0.53, "knee": 0.285, "ankle": 0.039,
        "heel": 0.01, "toe": 0.01,
    }  # fmt: skip
    points = {f"{s}_{n}": np.array([[0.0, 0.0, h]]) for s in "lr" for n, h in heights.items()}
    assert 0.53 < centre_of_mass(points)[0, 2] < 0.60


def test_gum_annex_h1_end_gauge():
    # JCGM 100:2008, H.1: l = 50 000 838 nm with u_c = 32 nm to first order. Lengths in nm, temperatures in °C.
    def length(ls, d, d_alpha, theta, alpha, d_theta):
        return ls + d - ls * (d_alpha * theta + alpha * d_theta)

    values = [50_000_623, 215, 0.0, -0.1, 11.5e-6, 0.0]
    us = [25, 9.7, 0.58e-6, 0.41, 1.2e-6, 0.029]
    found = propagate(length, values, us)
    assert found.value == pytest.approx(50_000_838, abs=1)
    assert found.u == pytest.approx(32, abs=1)


def test_gum_annex_h2_impedance_with_correlation():
    # JCGM 100:2008, H.2: V = 4.999 V, I = 19.661 mA, φ = 1.04446 rad, correlated; R = 127.732(71) Ω.
    v, i, phi = 4.9990, 19.6610e-3, 1.04446
    u = [0.0032, 0.0095e-3, 0.00075]
    r = [[1, -0.36, 0.86], [-0.36, 1, -0.65], [0.86, -0.65, 1]]
    found = propagate(lambda v, i, phi: v / i * np.cos(phi), [v, i, phi], u, r)
    assert found.value == pytest.approx(127.732, abs=0.01)
    assert found.u == pytest.approx(0.071, abs=0.003)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("discipline", "view", "measure", "phase"),
    [
        ("alpine_carve", "front", "lean", "belly"),
        ("alpine_carve", "front", "trunk_lean", "belly"),
        ("alpine_carve", "side_left", "shin_pitch", "belly"),
    ],
)
def test_the_stated_noise_of_a_reading_is_that_of_repeated_trials(discipline, view, measure, phase):
    # JCGM 101:2008, clause 7: the model is evaluated for many draws of its inputs. Here the whole pipeline is, from raw
    # landmarks: what it states for a reading, less the clip's facts and its own model, must be the spread that comes out.
    sim = simulate(discipline, {}, units=4, seed=71, view=view, noise_px=0.0)
    sigma, trials = 2.0, 60
    sure = {f"{fact}_u_deg": 0.0 for fact in ("roll", "pitch", "slope", "view_offset")}
    exact = sim.tracks.with_facts(**sure, px_per_m_rel_u=0.0, sure=("view", "rate"))
    exact = replace(exact, u=np.full_like(exact.u, sigma))
    cuts = review(exact, discipline).boundaries
    rng = np.random.default_rng(8)
    values: dict[int, list[float]] = {}
    stated: dict[int, list[float]] = {}
    for _ in range(trials):
        noisy = replace(exact, xy=exact.xy + sigma * rng.standard_normal(exact.xy.shape))
        for r in review(noisy, discipline, lambda _: cuts).readings:
            if (r.id, r.phase) == (measure, phase) and r.limb in (None, "outside"):
                values.setdefault(r.segment or 0, []).append(r.value)
                model = REGISTRY[measure].model_u
                stated.setdefault(r.segment or 0, []).append(max(r.u**2 - model**2, 0.0) ** 0.5)
    assert len(values) == 4
    spread = np.sqrt(np.mean([np.var(v, ddof=1) for v in values.values()]))
    said = np.sqrt(np.mean([np.mean(np.square(v)) for v in stated.values()]))
    # 4 × 59 degrees of freedom: the spread itself is known to about 5 %.
    assert 0.8 < said / spread < 1.6, (said, spread)


def test_flight_of_0_86_seconds_rises_0_907_metres():
    # Check value of docs/trade.md; g = 9.80665 m/s² is the standard value (3rd CGPM).
    assert flight_height(0.86) == pytest.approx(0.907, abs=0.0005)
    assert air_time(flight_height(0.5)) == pytest.approx(0.5)


def test_balanced_lean_and_load():
    # tan φ = v²/(g·r): at 10 m/s on 10.197 m the resultant stands at 45°, and 1/cos 45° = 1.414 body weights.
    assert balanced_lean(10.0, 100 / 9.80665) == pytest.approx(45.0)
    assert load(60.0) == pytest.approx(2.0)
    assert carving_radius(18.0, 60.0) == pytest.approx(9.0)


def test_time_resolution_of_frames():
    # One edge is uniform over a frame (1/√12), an interval has two (1/√6): JCGM 100:2008, 4.3.7.
    edges = RNG.uniform(-0.5, 0.5, (200_000, 2)) / 120
    assert edges[:, 0].std() == pytest.approx(frame_time_u(120), rel=0.01)
    assert (edges[:, 1] - edges[:, 0]).std() == pytest.approx(interval_u(120), rel=0.01)


def test_radial_lens_is_opencvs():
    centre, focal, k1, k2 = np.array([640.0, 360.0]), 900.0, -0.21, 0.04
    xy = RNG.uniform([60, 40], [1220, 680], (200, 2))
    matrix = np.array([[focal, 0, centre[0]], [0, focal, centre[1]], [0, 0, 1]])
    normal = np.c_[(xy - centre) / focal, np.ones(len(xy))]
    theirs, _ = cv2.projectPoints(
        normal, np.zeros(3), np.zeros(3), matrix, np.array([k1, k2, 0, 0])
    )
    ours = projection.distort_radial(xy, focal, centre, k1, k2)
    np.testing.assert_allclose(ours, theirs.reshape(-1, 2), atol=1e-6)
    np.testing.assert_allclose(
        projection.undistort_radial(ours, focal, centre, k1, k2), xy, atol=1e-6
    )


def test_projection_is_opencvs():
    position, target = np.array([3.0, -20.0, 4.0]), np.array([0.5, 1.0, 1.2])
    rotation = projection.look_at(position, target, roll_deg=7.0)
    assert Rotation.from_matrix(rotation).as_matrix() == pytest.approx(
        rotation
    )  # a proper rotation
    points = RNG.uniform(-2, 2, (50, 3))
    matrix = np.array([[1500.0, 0, 640], [0, 1500.0, 360], [0, 0, 1]])
    theirs, _ = cv2.projectPoints(
        points, cv2.Rodrigues(rotation)[0], -rotation @ position, matrix, None
    )
    ours = projection.project(points, rotation, position, 1500.0, np.array([640.0, 360.0]))
    np.testing.assert_allclose(ours, theirs.reshape(-1, 2), atol=1e-6)


def test_levelling_is_a_rotation_of_the_picture():
    xy = RNG.uniform(0, 700, (30, 2))
    centre = np.array([640.0, 360.0])
    theirs = (
        Rotation.from_euler("z", -12, degrees=True).apply(np.c_[xy - centre, np.zeros(30)])[:, :2]
        + centre
    )
    np.testing.assert_allclose(projection.level(xy, 12.0, centre), theirs, atol=1e-9)


def test_lowpass_halves_power_at_its_cutoff_and_has_no_lag():
    # Winter: two passes of a second-order Butterworth need the cut-off raised by 1/0.802. SciPy's freqz is the witness.
    assert pytest.approx(0.802, abs=0.0005) == TWO_PASS
    fps, cut = 120.0, 6.0
    sos = signal.butter(2, cut / TWO_PASS / (fps / 2), output="sos")
    _, h = signal.sosfreqz(sos, worN=[2 * np.pi * cut / fps])
    # The bilinear transform bends frequency a little: −3 dB to within a tenth of a decibel.
    assert 20 * np.log10(abs(h[0]) ** 2) == pytest.approx(-3.0, abs=0.1)
    t = np.arange(1200) / fps
    wave = np.sin(2 * np.pi * 1.0 * t)
    np.testing.assert_allclose(lowpass(wave, fps, cut)[120:-120], wave[120:-120], atol=0.01)


def test_residual_analysis_finds_a_cutoff_between_signal_and_noise():
    fps = 120.0
    t = np.arange(1800) / fps
    clean = 10 * np.sin(2 * np.pi * 0.7 * t) + 2 * np.sin(2 * np.pi * 2.1 * t)
    noisy = clean + 0.4 * RNG.standard_normal(len(t))
    cut = residual_cutoff(noisy, fps)
    assert 2.1 < cut <= 8.0
    raw, smooth = np.std(noisy - clean), np.std(lowpass(noisy, fps, cut) - clean)
    assert smooth < 0.6 * raw


@pytest.mark.parametrize(
    ("n", "columns", "fps", "cutoff"),
    [(1300, 19, 60.0, 4.0), (40, 1, 30.0, 6.0), (12, 2, 60.0, 2.0)],
)
def test_the_low_pass_is_that_of_a_signal_library(n, columns, fps, cutoff):
    # Reference: scipy.signal.butter and sosfiltfilt, with the cut-off raised for two passes (Winter, ch. 3).
    x = np.cumsum(np.random.default_rng(n).normal(size=(n, columns)), axis=0)
    sos = signal.butter(2, cutoff / (2**0.5 - 1) ** 0.25 / (fps / 2), output="sos")
    wanted = signal.sosfiltfilt(sos, x, axis=0, padlen=min(n - 1, max(9, int(fps / cutoff))))
    np.testing.assert_allclose(lowpass(x, fps, cutoff), wanted, rtol=0, atol=1e-12)


def test_the_parts_of_a_body_add_up_to_its_heights():
    # Drillis & Contini, as drawn by Winter (fig. 4.1): hip at 0.530, shoulder at 0.818 and ankle at
    # 0.039 of the stature; elbow and wrist 0.186 and 0.332 from the shoulder (values from memory).
    assert pytest.approx(0.530 - 0.039) == anthropometry.THIGH + anthropometry.SHANK
    assert pytest.approx(0.818 - 0.530) == anthropometry.TRUNK
    assert pytest.approx(0.332) == anthropometry.UPPER_ARM + anthropometry.FOREARM
    assert pytest.approx(0.818 - 0.039) == anthropometry.CHAIN
