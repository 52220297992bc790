"""The Desk: where each run stands, in what order, how long it takes, who is drawn."""

from __future__ import annotations

from datetime import timedelta

import pytest
import vobject
from django.utils import timezone
from rest_framework.test import APIClient

from proklisis.web.clubs.entries import put_down
from proklisis.web.desk.draws import again
from proklisis.web.desk.models import Draw
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from proklisis.web.scripts.models import Script
from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db
DAY = timedelta(days=1)


def listed(client, **asked) -> list[dict]:
    answer = client.get("/api/runs", asked)
    assert answer.status_code == 200, answer.json()
    return answer.json()["results"]


@pytest.fixture
def people(coach) -> list[Rider]:
    return [Rider.objects.create(club=coach.club, name=f"Rider {k}", born=1980) for k in range(6)]


def waiting(rider: Rider, **more) -> Run:
    """A run whose clip cannot be read: it waits for a coach, and costs no measuring."""
    return Run.objects.create(club=rider.club, rider=rider, level="novice", view="front", state="failed", **more)  # fmt: skip


class TestStanding:
    def stands(self, client, run) -> str:
        return next(r["stands"] for r in listed(client) if r["id"] == run.pk)

    def test_goes_from_the_clips_arrival_to_the_next_one_after_the_answer(self, client, run):
        for state, stands in (("waiting", "arriving"), ("working", "followed"), ("failed", "unreadable"), ("ready", "judge")):  # fmt: skip
            Run.objects.filter(pk=run.pk).update(state=state)
            assert self.stands(client, run) == stands
        main = run.result.main_title
        run.result.main_title = None
        run.result.save()
        assert self.stands(client, run) == "look"
        run.result.main_title = main
        run.result.save()
        client.get(f"/api/runs/{run.pk}/script")
        assert self.stands(client, run) == "judge"
        client.patch(f"/api/runs/{run.pk}/script", {"message": "Well done"}, format="json")
        assert self.stands(client, run) == "writing"
        client.post(f"/api/runs/{run.pk}/script/approve")
        assert self.stands(client, run) == "rider"
        Script.objects.update(retest_on=timezone.localdate())
        assert self.stands(client, run) == "again"
        Run.objects.create(club=run.club, rider=run.rider, discipline=run.discipline, level="novice", view="front")  # fmt: skip
        assert self.stands(client, run) == "done"
        assert [r["id"] for r in listed(client, stands="done")] == [run.pk]
        assert listed(client, stands="judge") == []

    def test_what_is_due_comes_first_then_the_oldest(self, client, people, run):
        client.post(f"/api/runs/{run.pk}/script/approve")
        today = timezone.localdate()
        old, late, soon, new = (waiting(people[k], due=due) for k, due in enumerate((None, today + DAY, today, None)))  # fmt: skip
        assert [r["id"] for r in listed(client, order="due")] == [soon.pk, late.pk, old.pk, new.pk, run.pk]  # fmt: skip
        # Without asking it is the newest first, as before.
        assert listed(client)[0]["id"] == new.pk


class TestMinutes:
    def test_are_learnt_from_this_coachs_own_reviews(self, client, coach, people):
        now = timezone.now()
        for k, minutes in enumerate((4, 6, 8, 10, 300)):
            run = waiting(people[k])
            entry = put_down(coach.club, coach.user, "opened", run)
            type(entry).objects.filter(pk=entry.pk).update(
                timestamp=now - timedelta(minutes=minutes)
            )
            Script.objects.create(run=run, approved={}, approved_at=now, approved_by=coach.user)
        waiting(people[5])
        said = client.get("/api/desk").json()
        learnt = said["minutes"]["alpine_carve"]
        # The one that was left lying for hours says nothing.
        assert (learnt["each"], learnt["n"]) == (7, 4)
        assert said["waiting"] == 1 and said["needed_min"] == 7
        assert said["needed_low_min"] < 7 < said["needed_high_min"]
        other = client_of(new_coach("Lanternfell", "ben")).get("/api/desk").json()
        assert other["minutes"]["alpine_carve"]["n"] == 0

    def test_against_the_week_say_what_will_be_late(self, client, people):
        today = timezone.localdate()
        runs = [waiting(people[k], due=today + DAY) for k in range(4)]
        said = client.get("/api/desk").json()
        assert said["week_said"] is False and said["counts"]["unreadable"] == 4
        week = {"minutes": [0.0] * 7}
        week["minutes"][today.weekday()] = 24
        said = client.put("/api/desk/week", week, format="json").json()
        # Two of twelve minutes each fit into today; the others wait a week.
        assert [x["run"] for x in said["late"]] == [r.pk for r in runs[2:]]
        assert {x["on"] for x in said["late"]} == {str(today + 7 * DAY)}
        assert said["done_on"] == str(today + 7 * DAY) and said["next_on"] == str(today + 14 * DAY)
        assert client.put("/api/desk/week", {"minutes": [1] * 6}, format="json").status_code == 400
        nothing = client.put("/api/desk/week", {"minutes": [0] * 7}, format="json").json()
        assert nothing["next_on"] is None and nothing["late_count"] == 4


class TestDraws:
    def draw(self, client, places: int, expect: int = 201, **more) -> dict:
        answer = client.post("/api/draws", {"places": places, **more}, format="json")
        assert answer.status_code == expect, answer.json()
        return answer.json()

    def drawn(self, made: dict) -> set[int]:
        return {e["rider"] for e in made["entries"] if e["drawn"]}

    def test_are_kept_can_be_worked_out_again_and_raise_who_was_not_drawn(self, client, people):
        for r in people:
            waiting(r)
        first = self.draw(client, 2)
        assert len(first["entries"]) == 6 and [e["drawn"] for e in first["entries"]][:3] == [1, 2, None]  # fmt: skip
        second = self.draw(client, 4)
        assert self.drawn(second) == {r.pk for r in people} - self.drawn(first)
        missed = {e["rider"]: e["missed"] for e in second["entries"]}
        assert all(missed[r] == (r not in self.drawn(first)) for r in missed)
        kept = client.get("/api/draws").json()
        assert [d["id"] for d in kept] == [second["id"], first["id"]]
        for draw in Draw.objects.all():
            assert again(draw) == draw.drawn

    def test_give_each_rider_one_place_with_their_oldest_run(self, client, people):
        old, _ = waiting(people[0]), waiting(people[0])
        (entry,) = self.draw(client, 3)["entries"]
        assert (entry["run"], entry["drawn"], entry["name"]) == (old.pk, 1, "Rider 0")

    def test_can_be_of_chosen_runs_and_of_nobody_elses(self, client, people):
        runs = [waiting(r) for r in people]
        made = self.draw(client, 1, runs=[runs[0].pk, runs[3].pk])
        assert {e["run"] for e in made["entries"]} == {runs[0].pk, runs[3].pk}
        eve = client_of(new_coach("Elsewhere", "eve"))
        assert "Nobody waits" in self.draw(eve, 1, 409, runs=[runs[0].pk])["problem"]
        assert eve.get("/api/draws").json() == []
        self.draw(client, 0, 400)


class TestMany:
    def many(self, client, runs, expect: int = 200, **what) -> dict:
        answer = client.post("/api/desk/many", {"runs": [r.pk for r in runs], **what}, format="json")  # fmt: skip
        assert answer.status_code == expect, answer.json()
        return answer.json()

    def test_are_due_together_removed_and_brought_back(self, client, people):
        runs = [waiting(r) for r in people]
        self.many(client, runs[:2], due="2030-01-02")
        assert [r["due"] for r in listed(client, order="due")][:3] == ["2030-01-02", "2030-01-02", None]  # fmt: skip
        assert self.many(client, runs[:3], removed=True)["runs"] == [r.pk for r in runs[:3]]
        assert len(listed(client)) == 3
        self.many(client, runs[:3], removed=False)
        assert len(listed(client)) == 6
        self.many(client, runs, 400)
        self.many(client, runs, 400, due="2030-01-02", removed=True)

    def test_are_never_another_clubs(self, client, people):
        run = waiting(people[0])
        eve = client_of(new_coach("Elsewhere", "eve"))
        assert self.many(eve, [run], removed=True)["runs"] == []
        run.refresh_from_db()
        assert run.removed_at is None


def test_news_change_when_something_comes_and_not_before(client, people):
    def news() -> str:
        return client.get("/api/desk/news").json()["version"]

    empty = news()
    assert news() == empty
    run = waiting(people[0])
    came = news()
    assert came != empty
    Run.objects.filter(pk=run.pk).update(state="ready")
    assert news() != came


class TestCalendar:
    def events(self, path: str) -> dict[str, str]:
        answer = APIClient().get(path)
        assert answer.status_code == 200 and answer["Content-Type"].startswith("text/calendar")
        # Read back by another library than the one that wrote it.
        found = vobject.readOne(answer.content.decode())
        return {e.summary.value: str(e.dtstart.value) for e in getattr(found, "vevent_list", [])}

    def test_holds_what_is_due_and_who_films_again(self, client, people, run):
        assert client.get("/api/desk/calendar").json() == {"path": None}
        path = client.post("/api/desk/calendar").json()["path"]
        today = timezone.localdate()
        waiting(people[0], due=today + DAY)
        waiting(people[1])
        waiting(people[2], due=today - 100 * DAY)
        client.patch(
            f"/api/runs/{run.pk}/script", {"retest_on": str(today + 5 * DAY)}, format="json"
        )
        assert client.post(f"/api/runs/{run.pk}/script/approve").status_code == 200
        assert self.events(path) == {
            "Answer due: Rider 0": str(today + DAY), f"Film again: {run.rider.name}": str(today + 5 * DAY),
        }  # fmt: skip

    def test_works_no_more_once_withdrawn_made_anew_or_its_coach_left(self, client, coach):
        first = client.post("/api/desk/calendar").json()["path"]
        second = client.post("/api/desk/calendar").json()["path"]
        assert first != second and APIClient().get(first).status_code == 404
        assert self.events(second) == {}
        client.delete("/api/desk/calendar")
        assert APIClient().get(second).status_code == 404
        third = client.post("/api/desk/calendar").json()["path"]
        coach.left_at = timezone.now()
        coach.save()
        assert APIClient().get(third).status_code == 404
