"""Items of the Eye: what is true of them does not come from what is trained."""

from __future__ import annotations

import pytest

from proklisis.core.playbook.schema import Condition
from proklisis.core.review import playbook
from proklisis.simulate import strip
from proklisis.simulate.items import make_item, told_from


@pytest.fixture(autouse=True)
def undrawn(monkeypatch):
    """What is asked does not hang on the drawing, which takes most of the time."""
    drawn = strip.Strip(b"", 1, 1, 300, 1 / 30)
    monkeypatch.setattr(strip.Cells, "strip", lambda *_: drawn)


def test_a_fault_of_several_signs_is_told_only_where_all_of_them_show():
    side, front = (
        Condition(measure=m, band=(0, 1), scale=1.0) for m in ("trunk_pitch", "stance_width")
    )
    assert told_from(side, "side_left", False) and not told_from(side, "front", False)
    both, either = Condition(all=(side, front)), Condition(any=(side, front))
    assert not any(told_from(both, v, False) for v in ("front", "side_left"))
    assert all(told_from(either, v, False) for v in ("front", "side_left"))
    # What only an eye sees is measured from nowhere.
    assert not told_from(Condition(observation="chatter"), "front", False)


@pytest.mark.thorough
@pytest.mark.parametrize("discipline", ["alpine_carve", "snowboard", "double_pole"])
def test_the_wrong_choices_are_wrong(discipline):
    for seed in range(1, 5):
        item = make_item("fault", discipline, seed, size=1.3)
        if item is None:
            continue
        ids = [o["id"] for o in item.question["options"]]
        assert item.truth["answer"] in ids and "" in ids and len(set(ids)) == len(ids)
        # Nothing that follows from the true one is offered as a wrong one.
        links = {x.to for x in playbook(discipline).faults[item.topic].links}
        assert not links & set(ids)
        clean = make_item("fault", discipline, seed, size=0.0)
        assert clean is None or (clean.truth["answer"] == "" and clean.size == 0)


@pytest.mark.thorough
def test_a_chain_is_asked_in_an_order_that_the_playbook_has():
    item = next(i for s in range(1, 9) if (i := make_item("cause", "double_pole", s)) is not None)
    faults = playbook("double_pole").faults
    for first, then in item.truth["before"]:
        assert then in {x.to for x in faults[first].links}
        assert item.truth["order"].index(first) < item.truth["order"].index(then)
    assert sorted(item.truth["order"]) == sorted(o["id"] for o in item.question["options"])
