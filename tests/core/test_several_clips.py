"""Several clips of one run, several passes, and views that change on the way."""

from __future__ import annotations

from math import sqrt

import pytest

from proklisis.core.errors import InputError
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.review import judge


def sheet(clips, segments, measures, **more):
    return {
        "format": "run-sheet/1", "discipline": "alpine_carve", "level": "intermediate", "rider": {"name": "A"}, "clips": clips,
        "segments": [{"kind": "turn", "side": "left" if s["n"] % 2 else "right", **s} for s in segments], "measures": measures, **more,
    }  # fmt: skip


def row(measure: str, clip: str | None, segment: int, value: float, u: float, phase: str = "belly"):
    return {
        "id": measure,
        "segment": segment,
        "phase": phase,
        "value": value,
        "u": u,
        **({"clip": clip} if clip else {}),
    }


FRONT_AND_BACK = [
    {"id": "a", "fps": 60, "view": "front", "pass": 1},
    {"id": "b", "fps": 60, "view": "rear", "pass": 1},
]


def test_a_measure_that_two_clips_of_a_pass_show_is_combined_by_its_uncertainties():
    rows = [
        row("edge", c, n, v, u) for n in (1, 2) for c, v, u in (("a", 10.0, 2.0), ("b", 13.0, 1.0))
    ]
    p = judge(parse_sheet(sheet(FRONT_AND_BACK, [{"n": 1}, {"n": 2}], rows)))
    e = p["findings"][0]["evidence"][0]
    # JCGM 100: the weighted mean of independent estimates, weights 1/u².
    assert e["value"] == pytest.approx((10 / 4 + 13) / (1 / 4 + 1), abs=1e-3)
    assert e["u"] == pytest.approx(sqrt(1 / (1 / 4 + 1)) * max(1.0, 3 / sqrt(5)), abs=1e-3)
    assert e["clip"] == "a"


def test_clips_that_do_not_agree_make_the_mean_less_sure():
    rows = [row("edge", c, n, v, 1.0) for n in (1, 2) for c, v in (("a", 5.0), ("b", 25.0))]
    p = judge(parse_sheet(sheet(FRONT_AND_BACK, [{"n": 1}, {"n": 2}], rows)))
    u = [e["u"] for f in p["findings"] for e in f["evidence"] if e["measure"] == "edge"]
    assert u and min(u) == pytest.approx(10.0, abs=0.01)


def test_what_only_one_clip_shows_comes_from_that_one():
    clips = [{"id": "a", "view": "front", "pass": 1}, {"id": "s", "view": "side_left", "pass": 1}]
    rows = [row("hip_fore_aft", "s", n, -0.3, 0.02, "entry") for n in (1, 2)]
    # A front clip shows no fore and aft: what it is said to have read there is not taken.
    rows += [row("hip_fore_aft", "a", n, 0.2, 0.02, "entry") for n in (1, 2)]
    p = judge(parse_sheet(sheet(clips, [{"n": 1}, {"n": 2}], rows)))
    assert p["main"]["fault"] == "hips_behind"
    assert {e["value"] for e in p["findings"][0]["evidence"]} == {-0.3}


def test_other_passes_are_further_units_and_are_named_by_their_clip():
    clips = [{"id": "a", "view": "front", "pass": 1}, {"id": "b", "view": "front", "pass": 2}]
    segments = [
        {"n": 1, "clip": "a"},
        {"n": 2, "clip": "a"},
        {"n": 1, "clip": "b"},
        {"n": 2, "clip": "b"},
    ]
    rows = [row("edge", c, n, v, 1.0) for c, v in (("a", 10.0), ("b", 40.0)) for n in (1, 2)]
    f = judge(parse_sheet(sheet(clips, segments, rows)))["findings"][0]
    assert f["share"] == 0.5
    assert [(e["clip"], e["segment"]) for e in f["evidence"]] == [("a", 1), ("a", 2)]


def test_with_several_passes_the_clip_must_be_said():
    clips = [{"id": "a", "pass": 1}, {"id": "b", "pass": 2}]
    segments = [{"n": 1, "clip": "a"}, {"n": 1, "clip": "b"}]
    for change in (
        {"measures": [row("edge", None, 1, 10, 1)]},
        {"observations": [{"id": "skid", "segment": 1}]},
        {"segments": [{"n": 1, "kind": "turn"}]},
    ):
        with pytest.raises(InputError, match="is not said"):
            judge(parse_sheet({**sheet(clips, segments, []), **change}))
    with pytest.raises(InputError, match="there is no clip 'c'"):
        judge(parse_sheet(sheet(clips, segments, [row("edge", "c", 1, 10, 1)])))


def test_a_note_on_a_unit_of_one_pass_stays_there():
    clips = [{"id": "a", "pass": 1}, {"id": "b", "pass": 2}]
    segments = [{"n": n, "clip": c} for c in "ab" for n in (1, 2, 3)]
    p = judge(
        parse_sheet(
            sheet(
                clips, segments, [], observations=[{"id": "skid", "segments": [1, 2], "clip": "b"}]
            )
        )
    )
    assert (p["findings"][0]["status"], p["findings"][0]["share"]) == (
        "episode",
        pytest.approx(1 / 3, abs=0.001),
    )


def test_a_measure_is_refused_only_in_the_units_whose_view_hides_it():
    segments = [{"n": n, "view": "front" if n < 3 else "side_left"} for n in (1, 2, 3, 4)]
    rows = [
        row("hip_fore_aft", None, n, 0.2 if n < 3 else -0.3, 0.02, "entry") for n in (1, 2, 3, 4)
    ]
    data = sheet([], segments, rows)
    p = judge(parse_sheet(data))
    assert p["main"]["fault"] == "hips_behind"
    assert [e["segment"] for e in p["findings"][0]["evidence"]] == [3, 4]
