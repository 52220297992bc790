"""Several clips of a run become one sheet: matched by their clocks, refused where that would be a guess."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from proklisis.core.playbook.passes import one_run
from proklisis.core.playbook.together import Offset, Part, offsets_by_units, same_units, together
from proklisis.core.review import judge, parse_sheet, playbook, review, run_sheet
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.simulate.run import simulate

#: Times at which turns begin, uneven as turns are when the ground is; and as even as a clock.
UNEVEN = [0.0, 1.4, 2.3, 4.1, 5.2, 6.9]
EVEN = [0.0, 1.5, 3.0, 4.5, 6.0, 7.5]


def sheet(
    begins: list[float], late: float = 0.0, view: str = "front", first: str = "left", **more
) -> RunSheet:
    sides = ["left", "right"] if first == "left" else ["right", "left"]
    return parse_sheet(
        {
            "format": "run-sheet/1", "discipline": "alpine_carve", "rider": {"name": "Wren"}, "clip": {"fps": 60, "view": view},
            "segments": [
                {"n": k + 1, "kind": "turn", "side": sides[k % 2], "start_s": a - late, "end_s": b - late}
                for k, (a, b) in enumerate(pairwise(begins))
            ],
            **more,
        }
    )  # fmt: skip


def both(parts):
    made = together(parts)
    return made.sheet, made.unused


def test_uneven_turns_tell_the_offset_and_even_ones_do_not():
    a, b = sheet(UNEVEN), sheet(UNEVEN, late=2.5, view="side_left")
    (found,) = offsets_by_units(a.segments, b.segments)
    assert found.s == pytest.approx(2.5, abs=0.05) and found.u < 0.1
    # Two turns on everything looks the same: nobody can say which it is.
    even = offsets_by_units(sheet(EVEN).segments, sheet(EVEN, late=2.5).segments)
    assert len(even) > 1
    # The files' clocks, a second wrong at most, leave one of them.
    known = offsets_by_units(
        sheet(EVEN).segments, sheet(EVEN, late=2.5).segments, Offset(2.0, 0.5, "clock")
    )
    assert [o.s for o in known] == [pytest.approx(2.5, abs=0.05)]
    assert offsets_by_units(a.segments, b.segments, Offset(9.0, 0.5, "clock")) == []


def test_the_same_units_are_those_that_lie_over_each_other():
    a, b = sheet(UNEVEN), sheet(UNEVEN[1:4], late=2.0, first="right")
    assert same_units(a.segments, b.segments, Offset(2.0, 0.02, "sound")) == {1: 2, 2: 3}
    assert same_units(a.segments, b.segments, Offset(90.0, 0.02, "sound")) == {}


def test_what_one_view_shows_is_taken_from_it_and_what_both_show_from_both():
    def rows(**values):
        return [
            {"id": i, "segment": 1, "phase": "belly", "value": v, "u": u}
            for i, (v, u) in values.items()
        ]

    a = sheet(UNEVEN, measures=rows(lean=(40.0, 2.0), angulation=(30.0, 2.0)), refused=[
        {"measure": "hip_fore_aft", "reason": "view", "words": "from the side"}, {"measure": "pole_angle", "reason": "view", "words": "no"},
    ])  # fmt: skip
    b = sheet(UNEVEN, late=1.0, view="side_left", measures=rows(hip_fore_aft=(-5.0, 1.0), lean=(44.0, 4.0)), refused=[
        {"measure": "pole_angle", "reason": "view", "words": "no"},
    ])  # fmt: skip
    one, said = both([Part(a), Part(b, offset=Offset(1.0, 0.02, "sound"))])
    assert said == [] and [c.id for c in one.clips] == ["a", "b"]
    assert {(m.id, m.clip, m.segment) for m in one.measures} == {
        ("lean", "a", 1), ("angulation", "a", 1), ("hip_fore_aft", "b", 1), ("lean", "b", 1),
    }  # fmt: skip
    assert [r.measure for r in one.refused] == ["pole_angle"]
    judge(one)


def test_a_clip_that_cannot_be_matched_is_left_out_and_said():
    a, b = sheet(UNEVEN), sheet(UNEVEN, late=1.0, view="side_left", first="right")
    one, said = both([Part(a), Part(b)])
    assert [c.id for c in one.clips] == ["a"] and "not matched yet" in said[0]
    # common practice: a picture taken for its mirror swaps the sides.
    one, said = both([Part(a), Part(b, offset=Offset(1.0, 0.02, "hand"))])
    assert [c.id for c in one.clips] == ["a"] and "left and right agree in only 0 of 5" in said[0]
    # Another pass needs no matching: its units are further ones.
    one, said = both([Part(a), Part(b, pass_=2)])
    assert said == [] and len(one.segments) == 10
    judge(one)


def test_notes_go_with_their_clip():
    note = {"id": "arms_drop", "segment": 2, "sure": True}
    a = sheet(UNEVEN)
    b = sheet(UNEVEN[1:4], late=2.0, first="right", observations=[note | {"id": "hip_inside"}])
    one, _ = both([Part(a), Part(b, offset=Offset(2.0, 0.02, "sound"))])
    assert [(o.clip, o.segments) for o in one.observations] == [("b", [3])]


@pytest.mark.thorough
def test_two_views_of_one_simulated_pass_are_closer_to_truth_than_the_better_one_alone():
    """Three simulated passes, seeds 905 to 907; truth by the simulator's exact poses."""
    off: dict[str, dict] = {"front": {}, "side_left": {}, "both": {}}
    held = []
    for seed in (905, 906, 907):
        runs = {
            v: simulate("alpine_carve", {}, view=v, seed=seed, units=6)
            for v in ("front", "side_left")
        }
        own = {
            v: run_sheet(review(r.tracks, "alpine_carve"), "alpine_carve") for v, r in runs.items()
        }
        parts = [Part(own["front"]), Part(own["side_left"], offset=Offset(0.0, 0.02, "hand"))]
        one, said = both(parts)
        assert said == []
        fused, _ = one_run(one, playbook("alpine_carve"))
        truth = {_key(m): m.value for m in parse_sheet(runs["front"].truth_sheet()).measures}
        for name, read in {**own, "both": fused}.items():
            for m in read.measures:
                if _key(m) in truth and m.segment is not None:
                    off[name][seed, _key(m)] = (m.value - truth[_key(m)]) ** 2
                    if name == "both" and m.u > 0:
                        held.append(abs(m.value - truth[_key(m)]) <= 2 * m.u)
    shared = set(off["front"]) & set(off["side_left"]) & set(off["both"])
    by_measure: dict[str, list] = {}
    for k in shared:
        by_measure.setdefault(k[1][0], []).append([off[v][k] for v in off])
    rms = {i: np.sqrt(np.mean(rows, axis=0)) for i, rows in by_measure.items()}
    assert len(held) > 2000 and np.mean(held) > 0.93
    assert set(rms) == {"hip_rise", "turn_time"}
    for front, side, fused_off in rms.values():
        assert fused_off < min(front, side)


def _key(m) -> tuple:
    return m.id, m.limb, m.segment, m.phase
