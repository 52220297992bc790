"""Two runs held against each other: what differs, from where on, and what of it can be believed."""

from __future__ import annotations

import json
import time

import numpy as np
import pytest
from pydantic import TypeAdapter

from proklisis.cli import main
from proklisis.core.comparing.pair import Event, Run, curves, of_review, pair
from proklisis.core.comparing.rows import combined_u, real, verdict_of
from proklisis.core.errors import InputError
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.followed import aims_of, parse_prescription
from proklisis.core.review import judge, parse_sheet, review
from proklisis.core.shapes.comparison import Comparison
from proklisis.simulate.filming import tracked
from proklisis.simulate.run import simulate


def filmed(
    faults: dict, seed: int, noise_seed: int, discipline: str = "alpine_carve", **more
) -> Run:
    """A simulated run as a tracker gives it, in noise of its own."""
    sim = simulate(discipline, faults, seed=seed, **{"view": "front", "units": 8, **more})
    tracks = tracked(sim.exact, 2.0, noise_seed)
    return of_review(
        f"{sorted(faults)}{noise_seed}", review(tracks, discipline), discipline, sim.about()
    )


def from_unit(clean: Run, faulty: Run, k: int) -> Run:
    """The clean run before unit ``k``, the faulty one from it on."""
    kept = [m for m in clean.sheet.measures if m.segment is not None and m.segment < k]
    kept += [m for m in faulty.sheet.measures if m.segment is not None and m.segment >= k]
    return Run("spliced", clean.sheet.model_copy(update={"measures": kept}))


@pytest.fixture(scope="module")
def clean() -> Run:
    return filmed({}, 31, 131)


@pytest.fixture(scope="module")
def again() -> Run:
    return filmed({}, 31, 231)


@pytest.fixture(scope="module")
def leaning() -> Run:
    return filmed({"not_level": 1.5}, 31, 331)


def test_equal_runs_have_no_first_difference_and_what_is_compared_is_in_the_open_format(
    clean, again
):
    got = pair(clean, again)
    TypeAdapter(Comparison).validate_python(got)
    assert got["first_difference"] is None
    assert np.mean([r["verdict"] == "differs" for r in got["rows"]]) <= 0.05
    assert got["fairness"] == []


def test_the_first_difference_names_fault_unit_and_what_follows(clean, again, leaning):
    first = pair(clean, from_unit(again, leaning, 5))["first_difference"]
    assert first is not None
    assert (first["measure"], first["phase"], first["chain"][0]) == (
        "shoulder_tilt",
        "belly",
        "not_level",
    )
    assert "Up to here the two are the same" in first["says"] and "turn 5" in first["says"]
    assert first["p"] > 0.95
    # From the first unit on there is nothing before it to be the same.
    assert "From the beginning" in pair(clean, leaning)["first_difference"]["says"]


def test_a_minus_b_and_b_minus_a_are_the_same_but_for_the_sign(clean, leaning):
    one, other = pair(clean, leaning), pair(leaning, clean)
    for x, y in zip(one["rows"], other["rows"], strict=True):
        assert x["difference"] == pytest.approx(-y["difference"], abs=2e-4)
        assert (x["u"], x["verdict"]) == (y["u"], y["verdict"])
    assert one["first_difference"]["measure"] == other["first_difference"]["measure"]


def test_frames_and_curves_of_both_are_handed_out_where_there_are_tracks(clean, leaning):
    first = pair(clean, leaning)["first_difference"]
    assert isinstance(first["frame_a"], int) and isinstance(first["frame_b"], int)
    drawn = curves(clean, leaning, 3, 3, "shoulder_tilt")
    assert len(drawn["at"]) == len(drawn["a"]) == len(drawn["b_u"]) == 100
    units = [next(u for u in r.review.units if u.n == 3) for r in (clean, leaning)]
    for word, u in zip("ab", units, strict=True):
        assert drawn[f"t_{word}"][0] == pytest.approx(u.start.t, abs=1e-4)
        assert drawn[f"t_{word}"][-1] == pytest.approx(u.end.t, abs=1e-4)
    with pytest.raises(InputError, match="not read in every frame"):
        curves(clean, leaning, 3, 99, "shoulder_tilt")


def test_one_unit_against_another_of_the_same_clip_mirrored_or_not(leaning):
    got = pair(leaning, leaning, 2, 3, mirror=True)
    assert (got["a"]["unit"], got["b"]["unit"], got["matched"]["mirror"]) == (2, 3, True)
    assert got["fairness"] == []
    assert "mirror one of them" in pair(leaning, leaning, 2, 3)["fairness"][0]
    # What the body's model is wrong by is in both of one camera.
    row = next(r for r in got["rows"] if REGISTRY[r["measure"]].model_u > 0 and r["a"]["u"] > 0)
    assert row["u"] < np.hypot(row["a"]["u"], row["b"]["u"])


def test_mirroring_swaps_the_limbs_and_the_sides():
    """A mirrored sheet against the one it was made from: nothing differs."""
    rows = [
        {"id": "knee_flex", "limb": limb, "segment": n, "phase": "belly", "value": 20.0 + n + (5.0 if limb == "l" else 0.0), "u": 1.0}
        for n in (1, 2) for limb in "lr"
    ]  # fmt: skip
    swap = {"l": "r", "r": "l", "left": "right", "right": "left"}

    def sheet(rows, first):
        sides = [first, swap[first]]
        return parse_sheet(
            {
                "format": "run-sheet/1", "discipline": "alpine_carve", "rider": {"name": ""}, "measures": rows,
                "segments": [{"n": n, "kind": "turn", "side": sides[n - 1], "start_s": n, "end_s": n + 1} for n in (1, 2)],
            }
        )  # fmt: skip

    one = Run("a", sheet(rows, "left"))
    other = Run("b", sheet([{**m, "limb": swap[m["limb"]]} for m in rows], "right"))
    got = pair(one, other, mirror=True)
    assert [r["difference"] for r in got["rows"]] == [0.0, 0.0] and got["first_difference"] is None
    # Unmirrored, the second left is the first of the other; limbs differ.
    assert pair(one, other)["rows"][0]["difference"] != 0.0


def test_at_an_event_with_an_offset_signals_are_read_at_that_moment(clean, leaning):
    got = pair(clean, leaning, event=Event("belly", 0.1))
    assert got["matched"] == {"by": "event", "event": "belly", "offset_s": 0.1, "mirror": False}
    row = next(r for r in got["rows"] if r["measure"] == "shoulder_tilt")
    when = clean.review.units[0].phases["belly"][0] + 0.1
    at = int(np.abs(clean.review.tracks.t - when).argmin())
    one = pair(clean, leaning, 1, 1, Event("belly", 0.1))["rows"]
    read = next(r for r in one if r["measure"] == "shoulder_tilt")["a"]["value"]
    assert read == pytest.approx(clean.review.traces["shoulder_tilt", ""].value[at], abs=1e-3)
    assert row["verdict"] in ("differs", "may_differ")
    with pytest.raises(InputError, match="no event 'apex'"):
        pair(clean, leaning, event=Event("apex"))
    with pytest.raises(InputError, match="no frames"):
        pair(Run("x", clean.sheet), leaning, event=Event("belly"))


def test_a_difference_is_what_its_doubt_allows():
    # GUM, JCGM 100:2008, table G.2: 1.96 standard uncertainties hold 95 %.
    assert real(1.96, 1.0) == pytest.approx(0.95, abs=1e-3)
    assert [verdict_of(d, 1.0, s) for d, s in ((2.5, 3.0), (1.2, 2.0), (0.5, 3.0))] == [
        "differs",
        "may_differ",
        "same",
    ]
    assert (
        verdict_of(0.5, 1.0, 1.0) == "cannot_tell" and verdict_of(0.5, 1.0, None) == "cannot_tell"
    )
    assert combined_u("lean", 3.0, 4.0, False) == 5.0
    assert combined_u("lean", 3.0, 4.0, True) < 5.0


def test_own_best_units_are_ranked_as_far_as_doubt_allows(clean, leaning):
    def sheet(values, u):
        return parse_sheet(
            {
                "format": "run-sheet/1", "discipline": "alpine_carve", "rider": {"name": ""},
                "segments": [{"n": n, "kind": "turn", "side": "left"} for n in range(1, 4)],
                "measures": [
                    {"id": "shoulder_tilt", "segment": n, "phase": "belly", "value": v, "u": u} for n, v in enumerate(values, 1)
                ],
            }
        )  # fmt: skip

    sharp = pair(Run("a", sheet([30.0, 0.0, 60.0], 0.5)), Run("a", sheet([30.0, 0.0, 60.0], 0.5)))[
        "best_units"
    ]
    assert [(x["segment"], x["rank"]) for x in sharp] == [(2, 1), (1, 2), (3, 3)]
    blunt = pair(
        Run("a", sheet([30.0, 29.0, 31.0], 20.0)), Run("a", sheet([30.0, 29.0, 31.0], 20.0))
    )["best_units"]
    assert {x["rank"] for x in blunt} == {1}


def test_what_makes_it_unfair_is_said(clean):
    other = clean.sheet.model_copy(deep=True)
    other.clip.view, other.clip.fps = "side_left", 240.0
    other.rider.name, other.conditions = "Bram", {**other.conditions, "slope_deg": 30.0}
    said = " ".join(pair(clean, Run("b", other))["fairness"])
    for words in ("from the rider's left", "240", "two riders", "slope"):
        assert words in said


def test_what_cannot_be_compared_is_refused_by_name(clean, leaning):
    jump = parse_sheet(
        {"format": "run-sheet/1", "discipline": "figure_jump", "rider": {"name": ""}}
    )
    for wrong, words in (
        (lambda: pair(clean, Run("j", jump)), "the other figure_jump"),
        (lambda: pair(clean, leaning, 1, None), "of only one run"),
        (lambda: pair(clean, leaning, 1, 40), "no unit 40"),
    ):
        with pytest.raises(InputError, match=words):
            wrong()


def test_sheets_without_units_compare_by_the_run():
    def sheet(v):
        return Run("x" + str(v), parse_sheet(
            {"format": "run-sheet/1", "discipline": "moto_stance", "rider": {"name": ""}, "measures": [{"id": "knee_flex", "value": v, "u": 1.0}]}
        ))  # fmt: skip

    got = pair(sheet(10.0), sheet(40.0))
    assert got["rows"][0]["verdict"] == "differs" and got["rows"][0]["difference"] == -30.0


def test_a_long_run_compares_in_under_a_second(clean):
    """Four hundred turns are ten minutes."""
    many = clean.sheet.model_copy(deep=True)
    base, rows = many.segments, many.measures
    many.segments = [s.model_copy(update={"n": s.n + 8 * k}) for k in range(50) for s in base]
    many.measures = [
        type(m)(id=m.id, limb=m.limb, segment=m.segment + 8 * k, phase=m.phase, value=m.value, u=m.u)
        for k in range(50) for m in rows if m.segment is not None
    ]  # fmt: skip
    began = time.perf_counter()
    pair(Run("a", many), Run("b", many))
    assert time.perf_counter() - began < 3.0


def test_the_command_line_pairs_and_follows(tmp_path, capsys, clean, leaning):
    files = {}
    for name, r in (("a", clean), ("b", leaning)):
        files[name] = tmp_path / f"{name}.json"
        files[name].write_text(r.sheet.model_dump_json(exclude_none=True, by_alias=True))
    assert main(["pair", str(files["a"]), str(files["b"])]) == 0
    assert json.loads(capsys.readouterr().out)["first_difference"]["chain"][0] == "not_level"
    assert main(["pair", str(files["a"]), "--unit-a", "1", "--unit-b", "3"]) == 0
    assert json.loads(capsys.readouterr().out)["b"]["unit"] == 3
    assert main(["pair", str(files["a"]), str(files["b"]), "--event", "belly+x"]) == 2
    assert "no number of seconds" in capsys.readouterr().err
    before = tmp_path / "before.json"
    assert main(["prescribe", str(files["b"]), "--out", str(before)]) == 0
    assert main(["follow", str(before), str(files["a"])]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert rows and {r["verdict"] for r in rows} <= {"in_band", "better"}
    assert main(["follow", str(files["a"]), str(files["a"])]) == 2
    assert "a.json" in capsys.readouterr().err


def test_a_run_that_is_no_better_is_not_called_better(leaning):
    """The same fault again in noise of its own; and a target that only some units missed has no value to be better than."""
    before = judge(leaning.sheet)
    for seed in (431, 531, 631):
        after = filmed({"not_level": 1.5}, 31, seed).sheet
        told = judge(after.model_copy(update={"previous": aims_of(before)}))["followup"]
        assert {r["verdict"] for r in told} <= {"no_change", "cannot_tell"}
    few = json.loads(json.dumps(before))
    for f in few["findings"]:
        f["share"] = 0.4
    assert all(a.before is None for a in aims_of(parse_prescription(json.dumps(few))))


def test_a_clock_that_nobody_bore_out_makes_no_time_sure_to_differ(clean, leaning):
    """Slow motion that nobody said doubles every time: it may differ, and is never the first difference."""
    slow = clean.sheet.model_copy(deep=True)
    slow.clip.rate_sure = False
    timed = [m for m in slow.measures if REGISTRY[m.id].clocked]
    assert timed
    for m in timed:
        m.value *= 2
    sure = clean.sheet.model_copy(deep=True)
    sure.clip.rate_sure = True
    got = pair(Run("a", sure), Run("b", slow))
    assert {r["verdict"] for r in got["rows"] if REGISTRY[r["measure"]].clocked} <= {
        "may_differ",
        "same",
        "cannot_tell",
    }
    assert got["first_difference"] is None
    assert any("how fast one of them plays" in f for f in got["fairness"])
