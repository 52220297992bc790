"""What goes with a Script beside its one thing: further cues, lessons, the club's texts, ladders that go on, clips that come back."""

from __future__ import annotations

import csv
import html
import io
from datetime import date

import pypdf
import pytest
from django.utils import timezone
from rest_framework.test import APIClient

from proklisis.web.clips import uploading
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from proklisis.web.scripts.approving import set_older
from proklisis.web.scripts.models import Script
from proklisis.web.targets.models import Prescribed
from tests.web.conftest import client_of, measured_run, new_coach
from tests.web.test_scripts import approve, url
from tests.web.test_uploads import TUS, piece, told

pytestmark = pytest.mark.django_db


def change(client, run, expect: int = 200, **what) -> dict:
    answer = client.patch(url(run), what, format="json")
    assert answer.status_code == expect, answer.json()
    return answer.json()


def with_causes(client, run) -> Run:
    """A run on which the coach's eye sees more causes."""
    for fault in ("hands_behind", "wide_feet", "late_pole"):
        note = {"kind": "note", "fault": fault, "scope": "run"}
        answer = client.post(f"/api/runs/{run.pk}/edits", note, format="json")
        assert answer.status_code == 200, answer.json()
    return run


def link(client, run) -> str:
    approve(client, run)
    return client.post(url(run, "/share")).json()["share"]["token"]


def page(token: str) -> dict:

    answer = APIClient().get(f"/api/shared/{token}")
    assert answer.status_code == 200, answer.json()
    return answer.json()


class TestOtherCues:
    def test_go_in_the_coachs_order_and_only_when_wanted(self, client, ridden):
        run = with_causes(client, ridden({"hip_out": 1.8}, 41))
        p = client.get(url(run)).json()["prescription"]
        cues = {c["fault"]: c["cue"] for c in p["cues"] if c["fault"] != p["main"]["fault"]}
        assert len(cues) == 2, "a run with three causes of its own is needed"
        assert client.get(url(run)).json()["others"] == []  # the software's own stay at home
        order = [*cues][::-1]
        assert change(client, run, others=order)["others"] == order
        shown = page(link(client, run))["others"]
        assert [x["fault"] for x in shown] == order
        assert [x["cue"] for x in shown] == [cues[i] for i in order]
        text = pdf_text(client.get(url(run, "/paper")))
        assert "After that" in text and all(x["cue"][:20] in text for x in shown)

    def test_what_the_coach_brought_up_goes_by_itself(self, client, ridden):
        run = with_causes(client, ridden({"hip_out": 1.8}, 41))
        p = client.get(url(run)).json()["prescription"]
        other = next(c["fault"] for c in p["cues"] if c["fault"] != p["main"]["fault"])
        client.post(
            f"/api/runs/{run.pk}/edits", {"kind": "also", "fault": other, "on": True}, format="json"
        )
        assert client.get(url(run)).json()["others"] == [other]

    def test_a_fault_that_has_no_cue_here_is_refused_by_name(self, client, run):
        said = change(client, run, 400, others=["not_level"])
        assert "not_level" in said["problem"]
        assert "lessons" in change(client, run, 400, lessons=["no_such_fault"])["problem"]
        assert "begins" in change(client, run, 400, begins={"nothing": 1})["problem"]


def pdf_text(answer) -> str:
    assert answer.status_code == 200
    data = answer.content
    return " ".join(
        " ".join(p.extract_text().split()) for p in pypdf.PdfReader(io.BytesIO(data)).pages
    )


class TestLessons:
    def test_go_with_the_page_and_no_other_can_be_fetched(self, client, run):
        change(client, run, lessons=["hands_behind"])
        token = link(client, run)
        (sheet,) = page(token)["lessons"]
        assert sheet["fault"] == "hands_behind"

        assert sheet["title"] in pdf_text(APIClient().get(sheet["url"]))
        assert APIClient().get(f"/api/shared/{token}/lessons/not_level").status_code == 404

    def test_say_what_the_club_says(self, client, run):
        own = {"kind": "cue", "fault": "not_level", "cue": "Carry the tray to the finish."}
        client.post(f"/api/runs/{run.pk}/edits", own, format="json")
        assert own["cue"] in pdf_text(client.get("/api/lessons/alpine_carve/not_level"))
        stranger = client_of(new_coach("Elsewhere", "eve"))
        assert own["cue"] not in pdf_text(stranger.get("/api/lessons/alpine_carve/not_level"))


class TestClubTexts:
    def test_are_filled_in_and_put_after_what_is_written(self, client, run):
        made = client.post("/api/texts", {"title": "Greeting", "text": "Dear {rider}, {coach} of {club}."}, format="json")  # fmt: skip
        assert made.status_code == 201
        (row,) = client.get(f"/api/texts?run={run.pk}").json()
        assert row["filled"] == "Dear Wren, Ada of Lanternfell."
        change(client, run, message="Own words.")
        said = change(client, run, add_text=row["text"])
        assert said["message"] == "Own words.\n\nDear Wren, Ada of Lanternfell."
        # Put in twice by mistake it stands once.
        assert change(client, run, add_text=row["text"])["message"] == said["message"]

    def test_a_closing_one_stands_at_the_end_of_every_script(self, client, run):
        client.post(
            "/api/texts",
            {"title": "End", "text": "See you on the hill.", "closing": True},
            format="json",
        )
        assert page(link(client, run))["closing"] == ["See you on the hill."]
        assert "See you on the hill." in pdf_text(client.get(url(run, "/paper")))

    def test_are_the_clubs_own(self, client, run):
        made = client.post("/api/texts", {"title": "A", "text": "B"}, format="json").json()
        stranger = client_of(new_coach("Elsewhere", "eve"))
        assert stranger.get("/api/texts").json() == []
        assert stranger.delete(f"/api/texts/{made['id']}").status_code == 404
        assert stranger.get(f"/api/texts?run={run.pk}").status_code == 404


class TestLadders:
    def test_go_on_where_they_worked(self, client, ridden):
        first = ridden({"hip_out": 2.2}, 31)
        token = link(client, first)
        script = client.get(url(first)).json()
        drill = next(d for d in script["prescription"]["drills"] if d["fault"] == "hip_out")
        assert script["begins"].get(drill["id"], 0) == 0

        APIClient().post(
            f"/api/shared/{token}/ticks",
            {"drill": drill["id"], "step": 0, "done": True},
            format="json",
        )
        later = ridden({"hip_out": 1.2}, 32)
        now = client.get(url(later)).json()
        assert now["prescription"]["main"]["fault"] == "hip_out"
        assert {r["verdict"] for r in now["prescription"]["followup"]} & {"better", "in_band"}
        assert now["begins"] == {drill["id"]: 1}
        assert "step 2" in now["stepped"]
        assert (
            "step 2" in client.get(f"/api/runs/{later.pk}/following").json()["following"]["stepped"]
        )
        # The calendar leaves out what is done, and the next prescription knows where this one began.
        approve(client, later)
        text = client.get(url(later, "/calendar")).content.decode().replace("\r\n ", "")
        first_step = drill["steps"][0]["text"][:30].replace(",", "\\,")
        assert first_step not in text and drill["steps"][1]["text"][:20].replace(",", "\\,") in text
        assert Prescribed.objects.get(run=later).step == 1

    def test_stay_where_the_number_did_not_move(self, client, ridden):
        first = ridden({"hip_out": 1.8}, 31)
        drill = next(d["id"] for d in client.get(url(first)).json()["prescription"]["drills"] if d["fault"] == "hip_out")  # fmt: skip
        assert change(client, first, begins={drill: 1})["begins"] == {drill: 1}
        approve(client, first)
        again = client.get(url(ridden({"hip_out": 1.8}, 31))).json()
        assert again["begins"] == {drill: 1}
        assert "no change of the number can be told" in again["stepped"]

    def test_say_what_is_not_known_where_it_cannot_be_told(self, client, ridden):
        """What came of it hangs on what the clip shows: where that is nothing, the number is not said to stand still."""
        first = ridden({"hip_out": 1.8}, 31)
        (drill,) = [
            d["id"]
            for d in client.get(url(first)).json()["prescription"]["drills"]
            if d["fault"] == "hip_out"
        ]
        change(client, first, begins={drill: 1})
        approve(client, first)
        Prescribed.objects.filter(run=first).update(aims=[])
        again = client.get(url(ridden({"hip_out": 1.8}, 33))).json()
        assert again["prescription"]["followup"] == []
        assert "cannot be told" in again["stepped"]
        assert again["begins"] == {drill: 1}

    def test_do_not_say_that_a_step_was_done_which_nobody_ticked(self, client, ridden):
        approve(client, ridden({"hip_out": 2.2}, 31))
        said = client.get(url(ridden({"hip_out": 1.2}, 32))).json()["stepped"]
        assert "was given from step 1" in said and "number moved" in said and "ticked" not in said

    def test_a_coach_says_otherwise(self, client, ridden):
        first = ridden({"hip_out": 2.2}, 31)
        approve(client, first)
        later = ridden({"hip_out": 1.2}, 32)
        (drill,) = client.get(url(later)).json()["begins"]
        assert change(client, later, begins={drill: 0})["begins"] == {drill: 0}


class TestApproving:
    def test_what_somebody_else_wrote_meanwhile_is_not_approved_unread(self, client, coach, run):
        read = client.get(url(run)).json()
        was = {
            "message": read["message"],
            "retest_on": read["retest_on"],
            "others": [],
            "lessons": [],
        }
        colleague = client_of(new_coach("Lanternfell", "ben"))
        change(colleague, run, message="Your stance is dreadful.")
        refused = client.post(url(run, "/approve"), {"was": was}, format="json")
        assert refused.status_code == 409
        assert refused.json()["theirs"] == {"message": "Your stance is dreadful."}
        assert client.get(url(run)).json()["approved_at"] is None
        seen = {**was, "message": "Your stance is dreadful."}
        assert client.post(url(run, "/approve"), {"was": seen}, format="json").status_code == 200


class TestNumbers:
    def test_are_taken_away_as_a_table_and_as_json(self, client, run):
        assert client.get(url(run, "/numbers")).status_code == 409  # nothing leaves unapproved
        approve(client, run)
        rows = list(csv.DictReader(io.StringIO(client.get(url(run, "/numbers")).content.decode())))
        sheet = run.result.sheet
        assert len(rows) == len(sheet["measures"]) > 10
        for row, m in zip(rows, sheet["measures"], strict=True):
            assert row["measure"] == m["id"]
            assert float(row["value"]) == pytest.approx(m["value"], rel=1e-3)
            assert float(row["U"]) == pytest.approx(2 * m["u"], rel=0.1)
        kept = client.get(url(run, "/numbers?form=json")).json()
        assert kept["prescription"]["main"]["fault"] == "not_level"
        assert client.get(url(run, "/numbers?form=xls")).status_code == 400
        # As they were approved, whatever is corrected afterwards.
        run.result.sheet = {**sheet, "measures": []}
        run.result.save()
        again = list(csv.DictReader(io.StringIO(client.get(url(run, "/numbers")).content.decode())))
        assert again == rows


class TestClipsBack:
    def send(self, token: str, data: bytes, name: str = "again.mp4"):

        rider = APIClient()
        made = rider.post(
            f"/api/shared/{token}/clips", HTTP_UPLOAD_LENGTH=str(len(data)), HTTP_UPLOAD_METADATA=told(filename=name),
            content_type="application/offset+octet-stream", **TUS,
        )  # fmt: skip
        return rider, made

    def test_come_in_pieces_and_become_a_run(self, client, run, short_clip):
        token, data = link(client, run), short_clip.read_bytes()
        rider, made = self.send(token, data)
        assert made.status_code == 201, made.json()
        where, cut = made["Location"], len(data) // 2
        assert page(token)["clips_back"][0]["state"] == "arriving"
        assert piece(rider, where, 0, data[:cut]).status_code == 204
        assert rider.head(where, **TUS)["Upload-Offset"] == str(cut)
        assert piece(rider, where, cut, data[cut:]).status_code == 204
        (back,) = page(token)["clips_back"]
        assert (back["name"], back["state"]) == ("again.mp4", "waits")
        new = Run.objects.get(pk=back["run"])
        assert (new.rider, new.club, new.discipline) == (run.rider, run.club, run.discipline)
        assert new.state == Run.State.QUEUED
        # Another slope, another rope, another set-up: what nobody said of this clip is not judged by.
        assert run.conditions and (new.conditions, new.gear) == ({}, {})
        # The coach sees it on the Script that it answers, and on the Desk.
        assert client.get(url(run)).json()["clips_back"][0]["run"] == new.pk
        assert new.pk in {r["id"] for r in client.get("/api/runs").json()["results"]}

    def test_what_cannot_be_opened_is_said_to_the_sender(self, client, run, short_clip):
        token = link(client, run)
        rider, made = self.send(token, b"no film" * 20)
        refused = piece(rider, made["Location"], 0, b"no film" * 20)
        assert refused.status_code == 400 and "video" in refused.json()["problem"]
        assert not Run.objects.exclude(pk=run.pk).exists()
        _, text = self.send(token, b"x", "words.txt")
        assert text.status_code == 400

    def test_the_very_clip_again_is_refused_without_saying_whose_it_is(
        self, client, run, rider, short_clip
    ):
        token, data = link(client, run), short_clip.read_bytes()
        for name in ("a.mp4", "b.mp4"):
            sender, made = self.send(token, data, name)
            last = piece(sender, made["Location"], 0, data)
        assert last.status_code == 400
        assert "already" in last.json()["problem"] and "Wren" not in last.json()["problem"]
        assert len(page(token)["clips_back"]) == 1

    def test_no_more_than_three_and_none_on_a_withdrawn_link(self, client, run):
        token = link(client, run)
        for _ in range(3):
            assert self.send(token, b"x" * 10)[1].status_code == 201
        fourth = self.send(token, b"x" * 10)[1]
        assert fourth.status_code == 400 and "new link" in fourth.json()["problem"]
        under_way = self.send(token, b"x" * 10)
        client.delete(url(run, "/share"))
        assert under_way[1].status_code == 400
        assert self.send(token, b"x" * 10)[1].status_code == 404

    def test_one_that_nobody_goes_on_with_leaves_no_run(self, client, run):
        token = link(client, run)
        self.send(token, b"x" * 10)
        run.club.upload_set.update(changed=timezone.now() - uploading.KEPT * 2)
        uploading.clear_old()
        assert list(Run.objects.all()) == [run]

    def test_another_links_clip_cannot_be_touched(self, client, run, rider, simulated, short_clip):
        sim = simulated({"not_level": 1.6}, seed=104, units=2, view="front")
        other = measured_run(rider, sim.tracks, short_clip)
        mine, theirs = link(client, run), link(client, other)
        _, made = self.send(theirs, b"x" * 10)
        name = made["Location"].rpartition("/")[2]
        sender, _ = self.send(mine, b"x" * 10)
        assert sender.delete(f"/api/shared/{mine}/clips/{name}", **TUS).status_code == 404


class TestTogether:
    def test_runs_with_one_main_cause_at_one_level_stand_together(self, client, coach, ridden):
        other = Rider.objects.create(
            club=coach.club, name="Bram", number=8, born=1980, height_cm=180
        )
        a, b, c = (
            ridden({"hip_out": 1.8}, 31),
            ridden({"hip_out": 1.8}, 33, other),
            ridden({"not_level": 1.6}, 35),
        )
        (group,) = client.get("/api/together").json()
        assert group["fault"] == "hip_out" and group["level"] == "intermediate"
        assert {r["run"] for r in group["runs"]} == {a.pk, b.pk}
        own = {r["rider"]: r["says"] for r in group["runs"]}
        assert own["Wren"] and own["Bram"] and own["Wren"] != own["Bram"]
        assert c.pk not in {r["run"] for r in group["runs"]}
        # Who is answered stands in no group any more.
        approve(client, a)
        assert client.get("/api/together").json() == []
        assert client_of(new_coach("Elsewhere", "eve")).get("/api/together").json() == []

    def test_what_was_changed_since_is_looked_at_first(self, client, coach, ridden):
        other = Rider.objects.create(
            club=coach.club, name="Bram", number=8, born=1980, height_cm=180
        )
        a, _ = ridden({"hip_out": 1.8}, 31), ridden({"hip_out": 1.8}, 33, other)
        a.result.stale = True
        a.result.save()
        (group,) = client.get("/api/together").json()
        trouble = {r["run"]: r["trouble"] for r in group["runs"]}
        assert "changed since" in trouble.pop(a.pk)
        assert set(trouble.values()) == {""}


def test_scripts_approved_before_targets_were_kept_get_theirs(client, run):
    approve(client, run)
    was = Prescribed.objects.get(run=run)
    was.delete()
    assert set_older() == 1
    now = Prescribed.objects.get(run=run)
    assert (now.fault, now.cue, now.aims) == (was.fault, was.cue, was.aims)
    assert set_older() == 0
    Script.objects.filter(run=run).update(approved_at=None)
    now.delete()
    assert set_older() == 0


def test_the_book_shows_what_was_ticked_and_the_pictures(client, run):
    token = link(client, run)
    script = client.get(url(run)).json()
    drill = next(d for d in script["prescription"]["drills"] if d["fault"] == "not_level")

    APIClient().post(
        f"/api/shared/{token}/ticks", {"drill": drill["id"], "step": 1, "done": True}, format="json"
    )
    (given,) = client.get(f"/api/riders/{run.rider_id}/book").json()["prescribed"]
    assert given["drill"] == drill["title"] and given["steps"] == len(drill["steps"])
    assert [t["step"] for t in given["ticked"]] == [drill["steps"][1]["text"]]
    assert date.fromisoformat(given["ticked"][0]["at"][:10]) == timezone.now().date()
    assert len(given["pictures"]) == len(script["pictures"]) > 0
    for p in given["pictures"]:
        assert p["run"] == run.pk and 0 <= p["t"] < run.clip.frames / run.clip.fps
        assert client.get(p["url"]).status_code == 200


def test_how_gear_felt_stands_in_the_book(client, run):
    gear = {"notes": "stance 2 cm wider", "felt": "surer in the belly"}
    assert client.patch(f"/api/runs/{run.pk}", {"gear": gear}, format="json").status_code == 200
    (row,) = client.get(f"/api/riders/{run.rider_id}/book").json()["runs"]
    assert row["gear"] == ["stance 2 cm wider"] and row["felt"] == "surer in the belly"


def test_the_page_itself_says_first_what_to_do_and_to_take_care(client, run):
    change(client, run, message="Well ridden, <Wren> & all.")
    token = link(client, run)
    text = APIClient().get(f"/s/{token}").content.decode()
    body = client.get(url(run)).json()["prescription"]
    assert html.escape(body["main"]["cue"]) in text
    assert all(html.escape(c) in text for c in body["cautions"])
    assert "&lt;Wren&gt; &amp; all." in text
    client.delete(url(run, "/share"))
    assert body["main"]["cue"] not in APIClient().get(f"/s/{token}").content.decode()
