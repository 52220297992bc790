"""From where on two runs part: values of one leg at a time, counts, values with holes, clips whose clock nobody bears out."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from proklisis.core.comparing.pair import Event, Run, curves, of_review, pair
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.review import parse_sheet, review
from proklisis.simulate.filming import tracked
from proklisis.simulate.run import simulate

UNITS = range(1, 9)


def run_of(
    discipline: str, kind: str, values: dict[int, dict[str, Any]], name: str, **clip: Any
) -> Run:
    """A run by its sheet: measure → value of each unit, or (limb, value)."""
    rows = []
    for n, of_unit in values.items():
        for measure, said in of_unit.items():
            limb, value, u = said
            row = {"id": measure, "segment": n, "value": float(value), "u": u}
            rows.append(row if limb is None else {**row, "limb": limb})
    return Run(
        name,
        parse_sheet(
            {
                "format": "run-sheet/1", "discipline": discipline, "rider": {"name": ""}, "measures": rows, "clip": clip,
                "segments": [{"n": n, "kind": kind, "start_s": n, "end_s": n + 1} for n in UNITS],
            }
        ),
    )  # fmt: skip


def strides(knees: list[float], seed: int, **clip: Any) -> Run:
    noise = np.random.default_rng(seed).normal(0, 1.0, 8)
    return run_of(
        "inline_start", "step",
        {n: {"knee_flex": ("lr"[n % 2], knees[n - 1] + noise[n - 1], 2.0)} for n in UNITS}, f"s{seed}", **clip,
    )  # fmt: skip


def test_what_each_stride_has_of_one_leg_alone_is_followed_over_all_strides():
    straight = [35.0] * 4 + [10.0] * 4
    first = pair(strides([35.0] * 8, 1), strides(straight, 2))["first_difference"]
    assert first is not None and first["chain"][0] == "straight_knees"
    assert "step 5" in first["says"] and first["measure"] == "knee_flex"
    assert pair(strides([35.0] * 8, 1), strides([35.0] * 8, 3))["first_difference"] is None


def test_a_value_that_one_unit_lacks_is_followed_over_the_others():
    def jumps(tilt: list[float], missing: int, seed: int) -> Run:
        noise = np.random.default_rng(seed).normal(0, 1.0, 8)
        kept = {
            n: {"axis_tilt": (None, tilt[n - 1] + noise[n - 1], 2.0)} for n in UNITS if n != missing
        }
        return run_of("figure_jump", "jump", kept, f"j{seed}")

    tilted = [2.0] * 3 + [25.0] * 5
    first = pair(jumps([2.0] * 8, 2, 1), jumps(tilted, 2, 2))["first_difference"]
    assert first is not None and first["chain"] == ["axis_off"] and "jump 4" in first["says"]
    # Where the first of the crooked ones is not read, it is seen from the next on.
    first = pair(jumps([2.0] * 8, 4, 1), jumps(tilted, 4, 2))["first_difference"]
    assert first is not None and "jump 5" in first["says"]


def test_counts_that_no_draw_moves_are_compared_as_whole_numbers():
    def drops(missed: list[int], name: str) -> Run:
        return run_of(
            "drop_boof", "attempt", {n: {"missed_strokes": (None, missed[n - 1], 0.0)} for n in UNITS}, name
        )  # fmt: skip

    first = pair(drops([0] * 8, "a"), drops([0, 0, 0, 2, 2, 2, 2, 2], "b"))["first_difference"]
    assert first is not None and "attempt 4" in first["says"] and first["u"] > 0
    assert first["chain"][0] == "missed_lead_strokes"
    assert (
        pair(drops([0] * 8, "a"), drops([0, 0, 1, 0, 0, 0, 0, 0], "b"))["first_difference"] is None
    )


def test_of_clips_whose_clock_nobody_bears_out_only_a_step_on_the_way_is_a_difference():
    def steps(cadence: list[float], seed: int) -> Run:
        noise = np.random.default_rng(seed).normal(0, 0.05, 8)
        return run_of(
            "inline_start", "step",
            {n: {"cadence": (None, cadence[n - 1] + noise[n - 1], 0.1)} for n in UNITS}, f"c{seed}", rate_sure=False,
        )  # fmt: skip

    # A file that plays a quarter slower than life shows all steps a quarter slower.
    assert pair(steps([4.0] * 8, 1), steps([3.0] * 8, 2))["first_difference"] is None
    first = pair(steps([4.0] * 8, 1), steps([4.0] * 4 + [2.0] * 4, 2))["first_difference"]
    assert first is not None and "step 5" in first["says"]


@pytest.mark.thorough
@pytest.mark.parametrize("scatter", [0.5, 1.0, 2.0, 4.0])
def test_riders_who_vary_by_chance_are_told_apart_as_seldom_as_is_said(scatter):
    """Whatever units scatter by beside their u, equal riders part in 5 % of comparisons at the most (here in no more than
    chance makes of 150: a binomial with 5 % passes 14 in one of a hundred)."""
    rng = np.random.default_rng(int(10 * scatter))
    measures = {"knee_flex": 35.0, "trunk_pitch": 8.0, "shoulder_over_hip": 10.0, "v_angle": 40.0}

    def ride(name: str) -> Run:
        of_units = {
            n: {m: (None, v + scatter * rng.normal(), 1.0) for m, v in measures.items()} for n in UNITS
        }  # fmt: skip
        return run_of("inline_start", "step", of_units, name)

    found = [pair(ride("a"), ride("b"))["first_difference"] for _ in range(150)]
    # Riders who vary by more than what they are read by do differ from the first unit on.
    apart = [f for f in found if f and (scatter <= 1.0 or "Up to here" in f["says"])]
    assert len(apart) <= 14


@pytest.mark.thorough
@pytest.mark.parametrize(
    ("discipline", "measure", "limb"),
    [
        ("snowboard", "lean", ""), ("double_pole", "trunk_pitch", ""), ("surf_turn", "compression", ""),
        ("snowboard", "knee_flex", "front"),
    ],
)  # fmt: skip
def test_what_is_read_by_draws_has_curves_with_bands_that_hold_the_exact_ones(
    discipline, measure, limb
):
    sim = simulate(discipline, {}, seed=41, units=4)
    exact = review(tracked(sim.exact, 0.0, 1), discipline)
    seen = review(tracked(sim.exact, 2.0, 1), discipline)
    a, b = (of_review(n, r, discipline, sim.about()) for n, r in (("exact", exact), ("seen", seen)))
    n = seen.units[1].n
    drawn = curves(a, b, n, n, measure, limb)
    rows = [
        (x, y, u)
        for x, y, u in zip(drawn["a"], drawn["b"], drawn["b_u"], strict=True)
        if x is not None and y is not None and u is not None
    ]
    assert len(rows) >= 80
    assert np.mean([abs(x - y) <= 2 * u for x, y, u in rows]) >= 0.9
    # The band is as wide as what is doubtful, not as the whole swing.
    swing = float(np.ptp([x for x, _, _ in rows]))
    assert 0 < float(np.median([u for *_, u in rows])) < max(0.5 * swing, 0.1)


def test_a_camera_off_the_line_makes_curves_and_moments_as_doubtful_as_readings():
    """A tilt before a camera that stands 12 degrees off shows some of the pitch: nothing of it is sure to differ."""
    sim = simulate("alpine_carve", {}, seed=43, units=4, view="front", offset_deg=12.0)
    tracks = tracked(sim.exact, 1.0, 1)
    off = review(tracks.with_facts(view_offset_deg=12.0), "alpine_carve")
    on = review(
        tracked(simulate("alpine_carve", {}, seed=43, units=4, view="front").exact, 1.0, 2),
        "alpine_carve",
    )
    a, b = (of_review(n, r, "alpine_carve", sim.about()) for n, r in (("off", off), ("on", on)))
    read = [r for r in off.readings if r.id == "shoulder_tilt" and r.phase == "belly"]
    series = off.traces["shoulder_tilt", ""]
    assert np.nanmedian(series.u) >= 0.8 * np.median([r.u for r in read])
    for moment in ("entry", "belly"):
        rows = pair(a, b, 1, 1, Event(moment, 0.05))["rows"]
        tilts = [r for r in rows if REGISTRY[r["measure"]].unit == "deg"]
        assert tilts and not [r["measure"] for r in tilts if r["verdict"] == "differs"]


def test_units_are_matched_by_the_phases_that_both_went_through():
    sim = simulate("alpine_carve", {}, seed=44, units=4, view="front")
    done = review(tracked(sim.exact, 1.0, 1), "alpine_carve")
    whole, short = done.units[0], done.units[2]
    lacking = replace(short, phases={k: v for k, v in short.phases.items() if k != "entry"})
    cut = replace(done, units=[*done.units[:2], lacking, *done.units[3:]])
    a, b = (of_review(n, r, "alpine_carve", sim.about()) for n, r in (("a", done), ("b", cut)))
    drawn = curves(a, b, whole.n, short.n, "lean")
    # The begin of the belly of both lies at one place, whatever else one of them lacks.
    at = {w: np.interp(u.phases["belly"][0], drawn[f"t_{w}"], drawn["at"]) for w, u in (("a", whole), ("b", short))}  # fmt: skip
    assert at["a"] == pytest.approx(at["b"], abs=0.01)
    rows = pair(a, b, whole.n, short.n, Event("entry"))["rows"]
    assert rows == []
