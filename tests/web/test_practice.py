"""Ladders on days where the rider can and the place is open, in the calendar too; riders of one step together."""

from __future__ import annotations

from datetime import date, datetime, timedelta

import icalendar
import pytest
import vobject
from django.utils import timezone
from rest_framework.test import APIClient

from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from proklisis.web.scripts.models import Tick
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db
EVENINGS = [[[17 * 60, 19 * 60]] for _ in range(7)]
OPEN = [[[16 * 60, 22 * 60]] if d in (1, 3, 5) else [] for d in range(7)]


def place(client, name: str = "Snow hall", week=OPEN):
    return client.post("/api/places", {"name": name, "week": week}, format="json")


def can(client, rider, **more):
    return client.patch(f"/api/riders/{rider.pk}", more, format="json")


def approve(client, run) -> dict:
    answer = client.post(f"/api/runs/{run.pk}/script/approve")
    assert answer.status_code == 200, answer.json()
    return client.get(f"/api/runs/{run.pk}/script").json()


def test_places_are_one_clubs_and_hours_that_cannot_be_are_refused(client, rider):
    made = place(client).json()
    assert [p["name"] for p in client.get("/api/places").json()] == ["Snow hall"]
    for week in (
        [[]] * 6,
        [[[100, 50]], *[[]] * 6],
        [[[0, 60], [30, 90]], *[[]] * 6],
        [[[0, 2000]], *[[]] * 6],
        "x",
    ):
        assert place(client, "Other", week).status_code == 400
    other = client_of(new_coach("Other", "otto"))
    assert other.get("/api/places").json() == []
    assert other.patch(f"/api/places/{made['id']}", {"name": "x"}, format="json").status_code == 404
    theirs = Rider.objects.create(
        club=other.get("/api/session") and new_coach("Other", "olga").club, name="Ola"
    )
    assert can(other, theirs, practises_at=made["id"]).status_code == 400
    assert can(client, rider, practises_at=made["id"]).json()["practises_at"] == made["id"]
    assert client.delete(f"/api/places/{made['id']}").status_code == 204
    rider.refresh_from_db()
    assert rider.practises_at is None


def test_the_film_again_day_comes_out_of_the_ladder_and_the_calendar_has_its_hours(client, run):
    today = timezone.localdate()
    before = client.get(f"/api/runs/{run.pk}/script").json()["retest_on"]
    assert before == (today + timedelta(days=14)).isoformat()
    hall = place(client).json()["id"]
    can(client, run.rider, free=EVENINGS, practises_at=hall)
    again = date.fromisoformat(client.get(f"/api/runs/{run.pk}/script").json()["retest_on"])
    assert again > today and again.weekday() in (1, 3, 5)
    approve(client, run)
    text = client.get(f"/api/runs/{run.pk}/script/calendar").content
    events = list(icalendar.Calendar.from_ical(text).walk("VEVENT"))
    film = next(e for e in events if e["summary"] == "Film again")
    steps = [e for e in events if e is not film]
    assert film["dtstart"].dt == again and len(steps) >= 3
    days = [e["dtstart"].dt for e in steps]
    assert days == sorted(days) and len({d.date() for d in days}) == len(days)
    assert all(d.hour == 17 and d.date() < again for d in days)
    assert all(e["dtend"].dt - e["dtstart"].dt == timedelta(minutes=45) for e in steps)
    for e in steps:
        home = str(e["summary"]).startswith("Standing")
        assert home == ("location" not in e)
        assert home or e["dtstart"].dt.weekday() in (1, 3, 5)
    # Another library reads the same.
    read = [c for c in vobject.readOne(text.decode()).components() if c.name == "VEVENT"]
    assert sorted(str(c.dtstart.value) for c in read) == sorted(
        str(e["dtstart"].dt) for e in events
    )


def test_a_coachs_own_day_stands(client, run):
    can(client, run.rider, free=EVENINGS)
    own = (timezone.localdate() + timedelta(days=30)).isoformat()
    client.patch(f"/api/runs/{run.pk}/script", {"retest_on": own}, format="json")
    assert client.get(f"/api/runs/{run.pk}/script").json()["retest_on"] == own
    # One that is too soon for the planned hours: no session is put after it.
    soon = timezone.localdate() + timedelta(days=2)
    client.patch(f"/api/runs/{run.pk}/script", {"retest_on": soon.isoformat()}, format="json")
    approve(client, run)
    text = client.get(f"/api/runs/{run.pk}/script/calendar").content
    days = [e["dtstart"].dt for e in icalendar.Calendar.from_ical(text).walk("VEVENT")]
    assert max(days) == soon


def test_a_rider_who_never_can_is_promised_no_session(client, run):
    can(client, run.rider, free=[[] for _ in range(7)])
    got = client.get(f"/api/runs/{run.pk}/script").json()["retest_on"]
    assert got == (timezone.localdate() + timedelta(days=14)).isoformat()


@pytest.fixture
def three(client, coach, simulated) -> list[Run]:
    """Three riders with the same main thing, answered."""
    sim = simulated({"not_level": 1.6}, seed=103, units=2, view="front")
    out = []
    for number, name in enumerate(("Bram", "Wren", "Ysolde"), 20):
        rider = Rider.objects.create(
            club=coach.club, name=name, number=number, born=1990, height_cm=175
        )
        run = measured_run(rider, sim.tracks)
        approve(client, run)
        out.append(run)
    return out


def test_riders_of_one_step_come_together_with_cue_drill_and_gear(client, three):
    # Nobody has said when they can: no hour is promised.
    assert [g["day"] for g in client.get("/api/desk/groups").json()] == [None]
    tuesday = [[] for _ in range(7)]
    tuesday[1] = [[17 * 60, 20 * 60]]
    saturday = [[] for _ in range(7)]
    saturday[5] = [[10 * 60, 12 * 60]]
    for run, free in zip(three, (tuesday, tuesday, saturday), strict=True):
        can(client, run.rider, free=free)
    groups = client.get("/api/desk/groups").json()
    assert [[r["name"] for r in g["riders"]] for g in groups] == [["Bram", "Wren"], ["Ysolde"]]
    first, alone = groups
    assert date.fromisoformat(first["day"]).weekday() == 1 and first["at"] == 17 * 60
    assert alone["day"] is None
    assert first["title"] and first["drill"] and first["dose"] and first["sign"]
    assert all(r["cue"] for r in first["riders"])
    # The place is closed on Tuesdays.
    closed = place(client, "Ice hall", saturday).json()["id"]
    assert [g["day"] for g in client.get("/api/desk/groups", {"place": closed}).json()] == [None]
    # Who is a step further is in no group of this one.
    drill = Run.objects.get(pk=three[0].pk).script.approved["prescription"]["drills"][0]["id"]
    Tick.objects.create(script=three[0].script, drill=drill, step=0)
    assert [[r["name"] for r in g["riders"]] for g in client.get("/api/desk/groups").json()] == [
        ["Wren", "Ysolde"]
    ]
    other = client_of(new_coach("Other", "otto"))
    assert other.get("/api/desk/groups", {"place": closed}).json() == []


def test_the_coachs_calendar_has_the_sessions_and_who_is_in_each(client, three):
    tuesday = [[] for _ in range(7)]
    tuesday[1] = [[17 * 60, 20 * 60]]
    saturday = [[] for _ in range(7)]
    saturday[5] = [[10 * 60, 12 * 60]]
    path = client.post("/api/desk/calendar").json()["path"]
    for run, free in zip(three, (tuesday, tuesday, saturday), strict=True):
        can(client, run.rider, free=free)
    # One evening a week is too few before the day that was set: no hour is said.
    early = icalendar.Calendar.from_ical(APIClient().get(path).content).walk("VEVENT")
    assert not [e for e in early if isinstance(e["dtstart"].dt, datetime)]
    for run in three:
        client.delete(f"/api/runs/{run.pk}/script/approve")
        approve(client, run)
    text = APIClient().get(path).content
    events = list(icalendar.Calendar.from_ical(text).walk("VEVENT"))
    assert len({str(e["uid"]) for e in events}) == len(events)
    timed = [e for e in events if isinstance(e["dtstart"].dt, datetime)]
    pairs = [e for e in timed if str(e["summary"]).startswith("Bram, Wren: ")]
    alone = [e for e in timed if str(e["summary"]).startswith("Ysolde: ")]
    assert len(pairs) >= 3 and len(pairs) + len(alone) == len(timed)
    assert {(e["dtstart"].dt.weekday(), e["dtstart"].dt.hour) for e in pairs} == {(1, 17)}
    assert {(e["dtstart"].dt.weekday(), e["dtstart"].dt.hour) for e in alone} == {(5, 10)}
    read = [c for c in vobject.readOne(text.decode()).components() if c.name == "VEVENT"]
    assert sorted(str(c.summary.value) for c in read) == sorted(str(e["summary"]) for e in events)
