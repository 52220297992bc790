"""A playbook as a club changes it: what is judged by it, what stays, and what is refused."""

from __future__ import annotations

import pytest

from proklisis.core.errors import InputError
from proklisis.core.playbook.club_book import bands_of, parse_club_book, with_club_book, wordings
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.review import judge, playbook, playbook_ids

LADDER = [{"stage": s, "text": f"Do it {s}", "dose": "5 times"} for s in ("still", "slow", "full")]


def sheet(edge: float, **more):
    return parse_sheet({
        "format": "run-sheet/1", "discipline": "alpine_carve", "level": "intermediate", "rider": {},
        "segments": [{"n": n, "kind": "turn", "side": "left" if n % 2 else "right"} for n in range(1, 7)],
        "measures": [{"id": "edge", "segment": n, "phase": "belly", "value": edge, "u": 0.5} for n in range(1, 7)],
        **more,
    })  # fmt: skip


def band(lo, hi, **more):
    return {
        "bands": [{"fault": "low_edge", "place": 0, "measure": "edge", "band": [lo, hi], **more}]
    }


def test_a_run_is_judged_by_the_clubs_band_and_its_target_is_the_clubs():
    assert judge(sheet(30))["main"] is None
    own = judge(sheet(30, club_book=band(40, None)))
    assert own["main"]["fault"] == "low_edge"
    assert [r["target"] for r in own["retest"] if r["measure"] == "edge"] == [[40, None]]
    # The other way round: what the playbook calls too little is enough here.
    assert judge(sheet(20))["main"]["fault"] == "low_edge"
    assert judge(sheet(20, club_book=band(15, None)))["main"] is None


def test_a_band_of_one_level_leaves_the_others():
    own = band(40, None, level="advanced")
    assert judge(sheet(30, club_book=own))["main"] is None
    assert judge(sheet(30, club_book=own, level="advanced"))["main"]["fault"] == "low_edge"
    of = playbook("alpine_carve").faults["low_edge"].when
    got = bands_of(
        with_club_book(playbook("alpine_carve"), parse_club_book(own)).faults["low_edge"]
    )[0]
    assert {k: v for k, v in got.band.items() if k != "advanced"} == {
        k: v for k, v in of.band.items() if k != "advanced"
    }


def test_what_is_said_is_said_in_the_clubs_words():
    own = {
        "titles": {"low_edge": "Flat skis"},
        "cues": {"low_edge": ["More corner under the foot."]},
        "drills": {"low_edge": [{"title": "The bell", "steps": LADDER, "sign": "The bell rings."}]},
    }
    got = judge(sheet(15, club_book=own))
    assert (got["main"]["title"], got["main"]["cue"]) == (
        "Flat skis",
        "More corner under the foot.",
    )
    assert (got["drills"][0]["title"], len(got["drills"][0]["steps"])) == ("The bell", 3)
    plain = judge(sheet(15))
    # Words change no verdict.
    assert [(f["fault"], f["verdict"], f["severity"]) for f in got["findings"]] == [
        (f["fault"], f["verdict"], f["severity"]) for f in plain["findings"]
    ]


def test_every_wording_and_every_band_of_every_discipline_can_be_changed_alone():
    for discipline in playbook_ids():
        book = playbook(discipline)
        for key, *_ in wordings(book):
            with_club_book(book, parse_club_book({"titles": {key: "X"}, "cues": {key: ["Y"]}}))
        for fault, f in book.faults.items():
            for place, leaf in enumerate(bands_of(f)):
                new = (0.125, None) if leaf.scale else (0.125, 0.25)
                row = {"fault": fault, "place": place, "measure": leaf.measure, "band": new}
                changed = with_club_book(book, parse_club_book({"bands": [row]}))
                for n, (was, now) in enumerate(
                    zip(bands_of(f), bands_of(changed.faults[fault]), strict=True)
                ):
                    assert (was == now) == (n != place), (discipline, fault, n)
                others = {i: x for i, x in changed.faults.items() if i != fault}
                assert others == {i: x for i, x in book.faults.items() if i != fault}


@pytest.mark.parametrize(
    ("own", "says"),
    [
        (band(40, 20), "upside down"),
        (band(None, None), "open at both ends"),
        (
            {"bands": [{"fault": "low_edge", "place": 1, "measure": "edge", "band": [1, None]}]},
            "it has: 0 edge",
        ),
        (
            {"bands": [{"fault": "low_edge", "place": 0, "measure": "lean", "band": [1, None]}]},
            "it has: 0 edge",
        ),
        ({"titles": {"lowedge": "x"}}, "nearest"),
        ({"titles": {"low_edge:below": "x"}}, "no words for"),
        ({"titles": {"low_edge": ""}}, "at least 1"),
        ({"cues": {"low_edge": []}}, "at least 1"),
        (
            {"drills": {"low_edge": [{"title": "x", "steps": LADDER[:2], "sign": "y"}]}},
            "at least 3",
        ),
        (
            {
                "bands": [
                    {
                        "fault": "low_edge",
                        "place": 0,
                        "measure": "edge",
                        "band": [float("nan"), None],
                    }
                ]
            },
            "finite",
        ),
        ({"colours": {}}, "not known"),
        ([], "dictionary"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(own, says):
    with pytest.raises(InputError) as e:
        with_club_book(playbook("alpine_carve"), parse_club_book(own))
    assert says in str(e.value)


def test_a_sheet_with_a_wrong_book_names_the_book():
    with pytest.raises(InputError, match="club_book"):
        judge(sheet(20, club_book=band(40, 20)))
