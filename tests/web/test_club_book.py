"""A club's own playbook: prepared, its effect on past verdicts seen first, switched on, back and off."""

from __future__ import annotations

import pytest

from proklisis.web.clubs.models import Club, Coach, OwnBook, Role
from proklisis.web.runs.models import Run
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db
NONE: dict[str, object] = {"titles": {}, "cues": {}, "drills": {}, "bands": []}
BOOK = "/api/club/book/alpine_carve"


@pytest.fixture
def owner(coach):
    """What an owner's browser sends."""
    Coach.objects.filter(pk=coach.pk).update(role=Role.OWNER)
    return client_of(coach)


def band_of(client, fault: str) -> dict:
    """The first band of a fault, as it can be changed."""
    stands = client.get(BOOK).json()
    b = next(b for b in stands["bands"] if b["fault"] == fault)
    return {"fault": fault, "place": b["place"], "measure": b["measure"]}


def keep(client, version: int, schools: dict | None = None, **draft):
    return client.put(
        f"{BOOK}/draft",
        {"draft": draft, "draft_schools": schools or {}, "version": version},
        format="json",
    )


def main(client, run) -> dict | None:
    return client.get(f"/api/runs/{run.pk}/bench").json()["prescription"]["main"]


def switch(client, to: str):
    version = client.get(BOOK).json()["version"]
    return client.post(f"{BOOK}/switch", {"to": to, "version": version}, format="json")


def test_the_effect_is_seen_before_anything_changes_and_the_switch_does_what_it_said(owner, run):
    assert main(owner, run)["fault"] == "not_level"
    wide = {**band_of(owner, "not_level"), "band": [-60, 60]}
    said = keep(owner, 0, titles={"not_level": "A crooked tray"}, bands=[wide]).json()
    assert said["differs"] and said["on"] == NONE
    effect = owner.get(f"{BOOK}/effect").json()
    assert (effect["looked_at"], effect["next"]) == (1, None)
    [row] = effect["rows"]
    assert (row["run"], row["main_changed"]) == (run.pk, True)
    assert main(owner, run)["fault"] == "not_level"  # nothing has changed yet
    assert switch(owner, "draft").status_code == 200
    now = main(owner, run)
    assert (now["title"] if now else None) == row["main_now"]
    assert now is None or now["fault"] != "not_level"
    # Nothing more would change by it, and the way back is open.
    assert owner.get(f"{BOOK}/effect").json()["rows"] == []
    assert switch(owner, "before").status_code == 200
    assert main(owner, run)["fault"] == "not_level"
    assert switch(owner, "before").status_code == 200
    assert switch(owner, "original").json()["on"] == NONE
    assert main(owner, run)["fault"] == "not_level"


def test_words_cues_and_drills_are_the_clubs_wherever_they_are_said(owner, run):
    steps = [
        {"stage": s, "text": f"Do it {s}", "dose": "5 times"} for s in ("still", "slow", "full")
    ]
    drill = {"title": "The tray", "steps": steps, "sign": "Nothing is spilled."}
    keep(owner, 0, titles={"not_level": "A crooked tray"}, cues={"not_level": ["Level the tray."]}, drills={"not_level": [drill]})  # fmt: skip
    switch(owner, "draft")
    assert (main(owner, run)["title"], main(owner, run)["cue"]) == (
        "A crooked tray",
        "Level the tray.",
    )
    script = owner.get(f"/api/runs/{run.pk}/script").json()
    assert script["titles"]["not_level"] == "A crooked tray"
    assert script["prescription"]["drills"][0]["title"] == "The tray"
    carve = next(d for d in owner.get("/api/disciplines").json() if d["id"] == "alpine_carve")
    assert carve["faults"]["not_level"]["title"] == "A crooked tray"
    notable = owner.get(f"/api/runs/{run.pk}/notable").json()["items"]
    assert "A crooked tray" in {i["title"] for i in notable}
    assert owner.post(f"/api/runs/{run.pk}/script/approve").status_code == 200
    # Another club has the playbook as it is.
    other = client_of(new_coach("Elsewhere", "eve"))
    carve = next(d for d in other.get("/api/disciplines").json() if d["id"] == "alpine_carve")
    assert carve["faults"]["not_level"]["title"] != "A crooked tray"


def test_what_was_approved_says_what_it_said(owner, run):
    assert owner.post(f"/api/runs/{run.pk}/script/approve").status_code == 200
    before = Run.objects.get(pk=run.pk).script.approved
    keep(owner, 0, titles={"not_level": "A crooked tray"})
    switch(owner, "draft")
    main(owner, run)
    assert Run.objects.get(pk=run.pk).script.approved == before


def test_a_draft_that_cannot_be_or_is_older_is_refused_and_the_kept_one_stands(owner, run):
    assert keep(owner, 0, titles={"not_level": "Tray"}).status_code == 200
    for draft in (
        {"titles": {"nothing": "x"}},
        {"bands": [{**band_of(owner, "not_level"), "band": [5, 1]}]},
        {"x": 1},
    ):
        assert keep(owner, 1, **draft).status_code == 400
    assert keep(owner, 0, titles={}).status_code == 409
    assert keep(owner, 1, {"nothing": "x"}).status_code == 400
    assert owner.get(BOOK).json()["draft"] == {**NONE, "titles": {"not_level": "Tray"}}
    assert owner.get("/api/club/book/ballooning").status_code == 404


def test_schools_are_part_of_it_and_a_riders_own_stands_before(owner, run):
    stands = owner.get(BOOK).json()
    school = next(s for s in stands["schools"] if len(s["options"]) > 1)
    option = next(o for o in school["options"] if o != school["default"])
    assert keep(owner, 0, {school["question"]: option}).json()["differs"]
    assert owner.get(f"{BOOK}/effect").status_code == 200
    switch(owner, "draft")
    assert Club.objects.get(pk=run.club_id).schools["alpine_carve"] == {school["question"]: option}
    switch(owner, "before")
    assert Club.objects.get(pk=run.club_id).schools["alpine_carve"] == {}


def test_a_book_that_the_playbook_has_outgrown_judges_nothing_and_says_so(owner, run):
    keep(owner, 0, titles={"not_level": "Tray"})
    switch(owner, "draft")
    OwnBook.objects.update(on={"titles": {"a_fault_of_old": "x"}})
    owner.patch(f"/api/runs/{run.pk}", {"level": "advanced"}, format="json")
    assert main(owner, run) is not None
    assert "a_fault_of_old" in owner.get(BOOK).json()["lapsed"]


def test_the_effect_comes_in_parts_and_a_coach_may_look_but_not_switch(
    owner, run, simulated, monkeypatch
):
    monkeypatch.setattr("proklisis.web.clubbook.effect.AT_ONCE", 2)
    for _ in range(2):
        measured_run(
            run.rider, simulated({"not_level": 1.6}, seed=103, units=2, view="front").tracks
        )
    keep(owner, 0, bands=[{**band_of(owner, "not_level"), "band": [-60, 60]}])
    first = owner.get(f"{BOOK}/effect").json()
    rest = owner.get(f"{BOOK}/effect", {"below": first["next"]}).json()
    assert (first["looked_at"], rest["looked_at"], rest["next"]) == (2, 1, None)
    assert len({r["run"] for r in (*first["rows"], *rest["rows"])}) == 3
    coach = client_of(new_coach("Lanternfell", "ben"))
    assert coach.get(f"{BOOK}/effect").status_code == 200
    assert keep(coach, 1).status_code == switch(coach, "draft").status_code == 403


def test_what_stands_now_is_told_of_runs_that_nobody_has_looked_at_since(owner, run):
    wide = {**band_of(owner, "not_level"), "band": [-60, 60]}
    keep(owner, 0, bands=[wide])
    switch(owner, "draft")  # the run is judged anew only when it is next looked at
    assert owner.get(f"{BOOK}/effect").json()["rows"] == []
    keep(owner, owner.get(BOOK).json()["version"])
    [row] = owner.get(f"{BOOK}/effect").json()["rows"]
    assert row["main_before"] != row["main_now"] == "The inside shoulder drops"


def test_a_school_chosen_for_the_club_on_a_bench_is_nothing_prepared(owner, run):
    school = next(s for s in owner.get(BOOK).json()["schools"] if len(s["options"]) > 1)
    option = next(o for o in school["options"] if o != school["default"])
    said = {"question": school["question"], "option": option, "whose": "club"}
    assert owner.post(f"/api/runs/{run.pk}/school", said, format="json").status_code == 200
    stands = owner.get(BOOK).json()
    assert not stands["differs"] and stands["on_schools"] == {school["question"]: option}
