"""The Reckoner's answers against published figures, the trade's check values and libraries of general use."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from scipy import constants, integrate, stats
from statsmodels.stats.weightstats import CompareMeans, DescrStatsW

from proklisis.core.reckoner.reckon import ask

DRAWS = 1_000_000
G = constants.g


def answer(name: str, key: str, **said: object) -> float:
    return float(ask(name, said).known[key])


@pytest.mark.parametrize(
    ("name", "said", "key", "value", "within"),
    [
        # Level flight: 0.86 s → 0.907 m with standard gravity; under a fall of d the time is (v + √(v² + 2gd))/g.
        ("flight", {"air_time_s": 0.86}, "height_m", 0.907, 5e-4),
        ("flight", {"height_m": 0.907}, "air_time_s", 0.86, 5e-4),
        ("flight", {"height_m": 0.5, "drop_m": 1.0}, "air_time_s", (np.sqrt(2 * G * 0.5) + np.sqrt(2 * G * 0.5 + 2 * G)) / G, 1e-9),
        # Common practice: four and a half turns at 0.15 s need about 0.86 s; at 0.81 s 0.045 s and 108° are missing.
        ("rotation", {"rotations": 4.5, "period_s": 0.15}, "needed_s", 0.855, 1e-9),
        ("rotation", {"rotations": 4.5, "period_s": 0.15, "air_time_s": 0.81}, "missing_s", 0.045, 1e-9),
        ("rotation", {"rotations": 4.5, "period_s": 0.15, "air_time_s": 0.81}, "missing_deg", 108, 1e-6),
        ("rotation", {"rotations": 4.5, "period_s": 0.15, "air_time_s": 0.81}, "period_needed_s", 0.14, 1e-9),
        # International tournament rules (values from memory): 259 m at 58, 55, 52, 49 km/h.
        ("rope", {"boat_kmh": 58}, "pass_time_s", 16.08, 5e-3),
        ("rope", {"boat_kmh": 55}, "pass_time_s", 16.95, 5e-3),
        ("rope", {"boat_kmh": 52}, "pass_time_s", 17.93, 5e-3),
        ("rope", {"boat_kmh": 49}, "pass_time_s", 19.03, 5e-3),
        ("rope", {"boat_mph": 34.2}, "boat_kmh", 34.2 * constants.mile / 1000, 1e-9),
        ("rope", {"rope_off_ft": 28}, "rope_m", 14.25, 1e-9),
        ("rope", {"rope_m": 10.25, "angle_deg": 90}, "reach_needed_m", 1.25, 1e-9),
        # Common practice: 58 cm in powder and 60 cm on crust at 183 cm.
        ("stance", {"height_cm": 183, "use": "powder"}, "width_cm", 58, 1e-9),
        ("stance", {"height_cm": 183, "use": "crust"}, "width_cm", 60, 1e-9),
        # Common practice: at 25 kn on flat water a quarter turn between broad reaches is enough; just planing the board slows beyond 100°.
        ("gybe", {"wind_kn": 25, "water": "flat"}, "entry_deg", 135, 1e-9),
        ("gybe", {"wind_kn": 25, "water": "flat"}, "slow_from_deg", 135, 3),
        ("gybe", {"wind_kn": 14.5}, "slow_from_deg", 100, 1),
        # Lind & Sanders: r = R·cos(edge); tan φ = v²/(g·r); load = 1/cos φ.
        ("carve", {"sidecut_m": 16, "edge_deg": 60}, "radius_m", 8, 1e-9),
        ("carve", {"speed_ms": np.sqrt(G * 10), "radius_m": 10}, "lean_deg", 45, 1e-9),
        ("carve", {"speed_ms": np.sqrt(G * 10), "radius_m": 10}, "load_bw", np.sqrt(2), 1e-9),
        # Held: the lean equals the edge, v² = g·R·sin(edge).
        ("carve", {"sidecut_m": 16, "edge_deg": 60}, "speed_held_ms", np.sqrt(G * 16 * np.sin(np.pi / 3)), 1e-9),
        ("poling", {"cadence_hz": 1.1, "cycle_m": 5}, "speed_ms", 5.5, 1e-9),
        ("poling", {"cadence_hz": 1.0, "without_poles_pct": 60}, "push_s", 0.4, 1e-9),
        ("drop", {"height_m": 2, "speed_ms": 3}, "reach_m", 3 * np.sqrt(4 / G), 1e-9),
        ("drop", {"speed_ms": 3, "approach_m": 12, "strokes_hz": 1.25, "last": "left"}, "strokes", 5, 1e-9),
        ("wheels", {"speed_ms": 10, "radius_m": 20}, "lean_deg", np.degrees(np.arctan(100 / G / 20)), 1e-9),
        ("wheels", {"speed_ms": 10, "friction": 0.5, "reaction_s": 1}, "stop_m", 10 + 100 / G, 1e-9),
        ("camera", {"fps": 60}, "interval_u_s", 1 / (60 * np.sqrt(6)), 1e-12),
        ("camera", {"tilt_deg": 40, "off_view_deg": 30}, "tilt_seen_deg", np.degrees(np.arctan(np.tan(np.radians(40)) * np.cos(np.radians(30)))), 1e-9),
        ("camera", {"distance_m": 50, "fov_deg": 90}, "picture_m", 100, 1e-9),
    ],
)  # fmt: skip
def test_check_values(name, said, key, value, within):
    assert answer(name, key, **said) == pytest.approx(value, abs=within)


def test_units_are_those_of_a_library_of_constants():
    for keys, value in (
        (("speed_kmh", "speed_ms"), constants.kmh), (("speed_mph", "speed_ms"), constants.mph), (("speed_kn", "speed_ms"), constants.knot),
        (("length_ft", "length_m"), constants.foot), (("length_in", "length_cm"), 100 * constants.inch), (("length_mi", "length_km"), constants.mile / 1000),
    ):  # fmt: skip
        assert answer("units", keys[1], **{keys[0]: 7.0}) == pytest.approx(7 * value, rel=1e-12)
        assert answer("units", keys[0], **{keys[1]: 7 * value}) == pytest.approx(7, rel=1e-12)
    # World Meteorological Organization: force 4 is 11–16 kn, force 5 is 17–21 kn.
    assert [answer("units", "wind_beaufort", wind_kn=k) for k in (11, 16, 17, 21)] == [4, 4, 5, 5]
    assert answer("units", "slope_pct", slope_deg=45) == pytest.approx(100)


def test_the_line_through_gates_is_the_way_a_point_goes():
    # Numeric integration of a point that goes straight and then round the arc: it ends at the next gate, and its way is the answer.
    for distance, offset, room in ((24.0, 6.0, 7.0), (10.0, 3.0, 1.0), (30.0, 9.0, 15.0)):
        k = ask(
            "line", {"gate_distance_m": distance, "gate_offset_m": offset, "room_m": room}
        ).known
        half = np.arctan2(offset, distance - room)
        straight = np.hypot(offset, distance - room)
        whole = integrate.solve_ivp(
            lambda s, p, h=half, t=straight, r=k["radius_m"]: [np.sin(a := h - max(s - t, 0) / r), np.cos(a)],
            (0, k["path_m"]), [0.0, 0.0], max_step=0.01, rtol=1e-9,
        )  # fmt: skip
        assert whole.y[:, -1] == pytest.approx([offset, distance], abs=5e-3)
        assert k["extra_m"] == pytest.approx(k["path_m"] - np.hypot(distance, offset))


def test_a_lean_on_a_slope_balances_the_forces():
    # Across the slope and square to it, by components: the resultant of gravity and turning lies along the lean.
    k = ask("carve", {"speed_ms": 11, "radius_m": 12, "slope_deg": 15}).known
    b = np.radians(15)
    force = np.array([11**2 / 12 + G * np.sin(b), G * np.cos(b)])
    assert k["lean_deg"] == pytest.approx(np.degrees(np.arctan2(*force)))
    assert k["load_bw"] == pytest.approx(np.linalg.norm(force) / G)


def test_a_difference_is_welchs():
    rng = np.random.default_rng(4)
    for n, m, shift in ((6, 5, 3.0), (12, 4, 0.5), (2, 9, 8.0), (30, 30, 1.0)):
        x, y = rng.normal(50 + shift, 3, n), rng.normal(50, 5, m)
        k = ask("difference", {
            "a": x.mean(), "a_u": x.std(ddof=1), "a_n": n, "b": y.mean(), "b_u": y.std(ddof=1), "b_n": m,
        }).known  # fmt: skip
        # scipy: Welch's test from the numbers; statsmodels: the interval of a difference with unequal spreads.
        test = stats.ttest_ind_from_stats(x.mean(), x.std(ddof=1), n, y.mean(), y.std(ddof=1), m, equal_var=False)  # fmt: skip
        assert k["p"] == pytest.approx(1 - test.pvalue, abs=1e-9)
        low, high = CompareMeans(DescrStatsW(x), DescrStatsW(y)).tconfint_diff(usevar="unequal")
        assert k["smallest_told"] == pytest.approx((high - low) / 2)
    # Values whose ± is known by itself: a normal's.
    plain = ask("difference", {"a": 30, "a_u": 2, "b": 24, "b_u": 2}).known
    assert plain["p"] == pytest.approx(1 - 2 * stats.norm.sf(6 / np.sqrt(8)))


def test_so_many_turns_tell_it_and_one_less_does_not():
    k = ask("difference", {"a": 52, "a_u": 3, "a_n": 6, "b": 48, "b_u": 3.5, "b_n": 5}).known
    n = int(k["turns_needed"])
    p = [stats.ttest_ind_from_stats(52, 3, i, 48, 3.5, i, equal_var=False).pvalue for i in (n - 1, n)]  # fmt: skip
    assert p[1] <= 0.05 < p[0]


def test_the_desks_order_against_every_order():
    rng = np.random.default_rng(9)
    for _ in range(40):
        n = int(rng.integers(2, 7))
        minutes, due = rng.integers(5, 30, n).astype(float), rng.integers(1, 5, n).astype(float)
        k = ask("desk", {"minutes": minutes.tolist(), "due_days": due.tolist(), "minutes_a_day": 20}).known  # fmt: skip

        def delays(order, minutes=minutes, due=due):
            done = np.cumsum(minutes[list(order)]) / 20
            return done - due[list(order)]

        every = [delays(o) for o in itertools.permutations(range(n))]
        ours = delays([i - 1 for i in k["order"]])
        assert ours.max() == pytest.approx(min(d.max() for d in every))
        assert k["in_time"] == max(int((d <= 1e-9).sum()) for d in every)
        assert len(k["late"]) == int((ours > 1e-9).sum())


#: name, given, doubts, and the formula in numpy, written here from its source.
CARRIED = [
    ("flight", {"air_time_s": 0.86}, {"air_time_s": 0.03}, {"height_m": lambda air_time_s: G * air_time_s**2 / 8}),
    ("flight", {"frames": 20, "fps": 25}, {"frames": 1 / np.sqrt(6)}, {"height_m": lambda frames: G * (frames / 25) ** 2 / 8}),
    ("flight", {"height_m": 0.6, "drop_m": 0.8}, {"height_m": 0.05, "drop_m": 0.1},
     {"air_time_s": lambda height_m, drop_m: np.sqrt(2 * height_m / G) + np.sqrt(2 * (height_m + drop_m) / G)}),
    ("rotation", {"rotations": 3, "period_s": 0.2, "air_time_s": 0.6}, {"period_s": 0.012, "air_time_s": 0.02},
     {"missing_s": lambda period_s, air_time_s: 3 * period_s + 0.1 - air_time_s,
      "missing_deg": lambda period_s, air_time_s: (3 * period_s + 0.1 - air_time_s) / period_s * 360}),
    ("rope", {"rope_m": 13, "angle_deg": 62, "boat_kmh": 55}, {"angle_deg": 3, "boat_kmh": 0.5},
     {"reach_needed_m": lambda angle_deg, boat_kmh: 11.5 - 13 * np.sin(np.radians(angle_deg)),
      "pass_time_s": lambda angle_deg, boat_kmh: 259 / (boat_kmh / 3.6)}),
    ("carve", {"sidecut_m": 15, "edge_deg": 50, "speed_ms": 10}, {"sidecut_m": 0.5, "edge_deg": 4, "speed_ms": 0.7},
     {"radius_m": lambda sidecut_m, edge_deg, speed_ms: sidecut_m * np.cos(np.radians(edge_deg)),
      "lean_deg": lambda sidecut_m, edge_deg, speed_ms: np.degrees(np.arctan(speed_ms**2 / (G * sidecut_m * np.cos(np.radians(edge_deg))))),
      "speed_held_ms": lambda sidecut_m, edge_deg, speed_ms: np.sqrt(G * sidecut_m * np.sin(np.radians(edge_deg)))}),
    ("line", {"gate_distance_m": 24, "gate_offset_m": 6, "room_m": 7}, {"room_m": 0.6},
     {"radius_m": lambda room_m: room_m / (2 * np.sin(np.arctan2(6, 24 - room_m)))}),
    ("gybe", {"wind_kn": 20}, {"wind_kn": 1}, {"entry_deg": lambda wind_kn: 180 - (160 - (wind_kn - 15) / 10 * 70) / 2}),
    ("poling", {"cadence_hz": 1.05, "cycle_m": 5}, {"cadence_hz": 0.03, "cycle_m": 0.2}, {"speed_ms": lambda cadence_hz, cycle_m: cadence_hz * cycle_m}),
    ("drop", {"height_m": 2, "speed_ms": 3}, {"height_m": 0.15, "speed_ms": 0.3},
     {"reach_m": lambda height_m, speed_ms: speed_ms * np.sqrt(2 * height_m / G)}),
    ("wheels", {"speed_ms": 8, "radius_m": 12, "friction": 0.5, "reaction_s": 1}, {"speed_ms": 0.5, "radius_m": 1, "friction": 0.04},
     {"lean_deg": lambda speed_ms, radius_m, friction: np.degrees(np.arctan(speed_ms**2 / (G * radius_m))),
      "stop_m": lambda speed_ms, radius_m, friction: speed_ms + speed_ms**2 / (2 * G * friction)}),
    ("camera", {"distance_m": 40, "fov_deg": 60, "width_px": 1920, "rider_m": 1.75, "tilt_deg": 35, "off_view_deg": 20},
     {"distance_m": 3, "tilt_deg": 2, "off_view_deg": 4},
     {"rider_px": lambda distance_m, tilt_deg, off_view_deg: 1.75 * 1920 / (2 * distance_m * np.tan(np.radians(30))),
      "tilt_seen_deg": lambda distance_m, tilt_deg, off_view_deg: np.degrees(np.arctan(np.tan(np.radians(tilt_deg)) * np.cos(np.radians(off_view_deg))))}),
    # Backwards: the inverse, written here by hand.
    ("carve", {"sidecut_m": 15, "speed_held_ms": 10}, {"sidecut_m": 0.6, "speed_held_ms": 0.3},
     {"edge_deg": lambda sidecut_m, speed_held_ms: np.degrees(np.arcsin(speed_held_ms**2 / (G * sidecut_m)))}),
    ("wheels", {"stop_m": 12, "friction": 0.5, "reaction_s": 1}, {"stop_m": 0.8, "friction": 0.03},
     {"speed_ms": lambda stop_m, friction: -G * friction + np.sqrt((G * friction) ** 2 + 2 * G * friction * stop_m)}),
]  # fmt: skip


@pytest.mark.parametrize(("name", "given", "doubts", "formulas"), CARRIED)
def test_doubt_is_carried_as_a_million_draws_carry_it(name, given, doubts, formulas):
    # Monte Carlo of JCGM 101:2008 with 10⁶ draws.
    rng = np.random.default_rng(1)
    drawn = {k: rng.normal(given[k], u, DRAWS) for k, u in doubts.items()}
    asked = ask(name, {**given, **{f"{k}_u": u for k, u in doubts.items()}})
    for key, formula in formulas.items():
        values = formula(**drawn)
        assert asked.known[key] == pytest.approx(float(formula(**{k: given[k] for k in doubts})), rel=1e-9)  # fmt: skip
        assert asked.us[key] == pytest.approx(float(np.nanstd(values)), rel=0.01), key
