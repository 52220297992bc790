"""Clips that riders send by a link: looked at while they are there, held until a coach says who it is, answered on their page."""

from __future__ import annotations

from datetime import timedelta
from itertools import count

import pytest
from django.utils import timezone
from rest_framework.test import APIClient

from proklisis.web.clips.removing import erase_rider
from proklisis.web.intake import looking
from proklisis.web.intake.models import Intake, Sender, Sent
from proklisis.web.intake.words import advice
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Film, Run, Upload
from proklisis.web.scripts.models import Share
from tests.web.conftest import client_of, new_coach, work_off
from tests.web.test_uploads import TUS, piece, told

pytestmark = pytest.mark.django_db
NUMBERS = count(1)


@pytest.fixture
def asked(client) -> dict:
    """A link for a call to send clips until the day after tomorrow."""
    answer = client.post(
        "/api/intakes",
        {
            "title": "Send me your Friday run", "discipline": "alpine_carve", "most_clips": 2,
            "expires": (timezone.now() + timedelta(days=2)).isoformat(), "answer_by": "2030-01-07",
        },
        format="json",
    )  # fmt: skip
    assert answer.status_code == 201, answer.json()
    return answer.json()


def sender(asked: dict, expect: int = 201, **said) -> str:
    """Somebody says who they are; the token of their own page, or what was refused."""
    given = {"name": "Ysolde Farrow", "born": 1990, "level": "advanced", "agrees": True, **said}
    token = asked["path"].rpartition("/")[2]
    answer = APIClient().post(f"/api/asked/{token}", given, format="json")
    assert answer.status_code == expect, answer.json()
    return answer.json()["token"] if expect == 201 else str(answer.json())


def begun(token: str, data: bytes, name: str = "friday.mp4", **more):
    return APIClient().post(
        f"/api/sent/{token}/clips", HTTP_UPLOAD_LENGTH=str(len(data)), HTTP_UPLOAD_METADATA=told(filename=name, **more),
        content_type="application/offset+octet-stream", **TUS,
    )  # fmt: skip


def send(token: str, data: bytes, **more):
    made = begun(token, data, **more)
    assert made.status_code == 201, made.json()
    return piece(APIClient(), made["Location"], 0, data)


def page(token: str, expect: int = 200) -> dict:
    answer = APIClient().get(f"/api/sent/{token}")
    assert answer.status_code == expect
    return answer.json()


@pytest.fixture
def another(short_clip):
    """Clips that nobody has sent yet: the same pictures, told apart by their last bytes."""
    return lambda: short_clip.read_bytes() + b"\0\0\0\x0cfree" + next(NUMBERS).to_bytes(4, "big")


class TestTheLink:
    def test_says_what_is_asked_for_to_whoever_holds_it(self, asked):
        token = asked["path"].rpartition("/")[2]
        said = APIClient().get(f"/api/asked/{token}").json()
        assert (said["title"], said["discipline"]) == ("Send me your Friday run", "Turns on piste")
        assert said["club"] in said["agree"] and said["answer_by"] == "2030-01-07"
        assert said["rider"] == ""

    def test_takes_nothing_once_it_ended_or_was_withdrawn(self, client, asked):
        token, mine = asked["path"].rpartition("/")[2], sender(asked)
        client.patch(f"/api/intakes/{asked['id']}", {"withdrawn": True}, format="json")
        assert APIClient().get(f"/api/asked/{token}").status_code == 404
        assert "new one" in sender(asked, 404)
        refused = begun(mine, b"x" * 10)
        assert refused.status_code == 400 and "any more" in refused.json()["problem"]
        # Whoever has sent already keeps their page.
        assert page(mine)["open"] is False
        Intake.objects.update(withdrawn=False, expires=timezone.now() - timedelta(minutes=1))
        assert APIClient().get(f"/api/asked/{token}").status_code == 404

    def test_asks_a_guardian_for_a_minor_and_everybody_to_agree(self, asked):
        assert "may not be looked at" in sender(asked, 400, agrees=False)
        assert "guardian" in sender(asked, 400, born=timezone.now().year - 12)
        token = sender(asked, born=timezone.now().year - 12, guardian="Orla Farrow")
        who = Sender.objects.get(token=token)
        assert (who.agreed, who.guardian, who.text) == ("Orla Farrow", True, "sending/1")

    @pytest.mark.parametrize(
        ("wrong", "words"),
        [
            ({"expires": "2001-01-01T00:00:00Z"}, "from now on"), ({"expires": "2999-01-01T00:00:00Z"}, "within a year"),
            ({"discipline": "curling"}, "curling"), ({"most_clips": 0}, "1"), ({"title": ""}, "blank"), ({"rider_id": 10**6}, "object does not exist"),
        ],
    )  # fmt: skip
    def test_is_refused_with_a_reason(self, client, wrong, words):
        good = {"title": "x", "discipline": "alpine_carve", "expires": (timezone.now() + timedelta(days=2)).isoformat()}  # fmt: skip
        answer = client.post("/api/intakes", {**good, **wrong}, format="json")
        assert answer.status_code == 400 and words in str(answer.json())

    def test_is_one_clubs_and_helpers_make_none(self, client, asked):
        stranger = client_of(new_coach("Elsewhere", "eve"))
        assert stranger.get("/api/intakes").json() == []
        assert stranger.patch(f"/api/intakes/{asked['id']}", {"withdrawn": True}, format="json").status_code == 404  # fmt: skip
        token = sender(asked)
        held = Sent.objects.create(sender=Sender.objects.get(token=token), state="held")
        assert stranger.get("/api/senders").json()["results"] == []
        assert stranger.post(f"/api/senders/{held.sender_id}/let_in", {"rider": None}, format="json").status_code == 404  # fmt: skip

    def test_of_one_rider_notes_who_agreed_and_opens_no_link_on_their_word_alone(
        self, client, asked, rider
    ):
        """Whoever holds the link says they are the guardian: that is kept, and a coach decides whether answers leave."""
        rider.born, rider.guardian_consent = timezone.now().year - 12, False
        rider.save()
        Intake.objects.update(rider=rider)
        sender(asked, born=rider.born, guardian="Orla Farrow")
        rider.refresh_from_db()
        assert rider.guardian_consent is False
        (said,) = client.get(f"/api/riders/{rider.pk}").json()["consents"]
        assert (said["person"], said["by"]) == ("Orla Farrow", "the link they sent by")

    def test_is_a_picture_that_a_phone_reads(self, client, asked):
        image = client.get(f"/api/intakes/{asked['id']}/picture").json()["image"]
        assert image.startswith("data:image/svg+xml;base64,")


@pytest.mark.django_db(transaction=True)
class TestAClip:
    def test_of_somebody_unknown_waits_until_a_coach_says_who_it_is(
        self, client, asked, another, rider
    ):
        rider.name = "Farrow Ysolde"
        rider.save()
        mine = sender(asked)
        last = send(mine, another(), intention="hips in, not down", conditions='{"snow": "ice"}')
        assert last.status_code == 204
        assert page(mine)["clips"][0]["state"] == "looking"
        work_off()
        (clip,) = page(mine)["clips"]
        assert clip["state"] == "held" and clip["problem"] == ""
        # They are told what to film better while they are there.
        assert any("pixels tall" in a for a in clip["advice"]), clip["advice"]
        assert not Run.objects.exists()
        (held,) = client.get("/api/senders").json()["results"]
        assert held["name"] == "Ysolde Farrow" and held["clips"][0]["intention_text"] == "hips in, not down"  # fmt: skip
        assert [r["id"] for r in held["alike"]] == [rider.pk]
        done = client.post(f"/api/senders/{held['id']}/let_in", {"rider": rider.pk}, format="json").json()  # fmt: skip
        (run,) = Run.objects.all()
        assert done["runs"] == [run.pk] and (run.rider, run.level) == (rider, "advanced")
        assert (run.intention_text, run.conditions) == ("hips in, not down", {"snow": "ice"})
        assert run.state == Run.State.QUEUED and str(run.due) == "2030-01-07"
        assert [(c.person, c.text) for c in rider.consents.all()] == [
            ("Ysolde Farrow", "sending/1")
        ]
        assert client.get("/api/senders").json()["results"] == []
        # They are known now: the next clip goes on by itself.
        assert send(mine, another()).status_code == 204
        looking.look(Sent.objects.get(state="looking").pk)
        assert Run.objects.count() == 2 and page(mine)["known"]
        # And no third one, which is more than the link takes.
        assert "all that it takes" in begun(mine, b"x" * 10).json()["problem"]

    def test_becomes_a_new_rider_with_a_guardians_word(self, client, asked, another):
        mine = sender(asked, born=timezone.now().year - 12, guardian="Orla Farrow", stance="goofy")
        send(mine, another())
        work_off()
        held = client.get("/api/senders").json()["results"][0]
        client.post(f"/api/senders/{held['id']}/let_in", {"rider": None}, format="json")
        who = Rider.objects.get(name="Ysolde Farrow")
        assert who.guardian_consent and who.stance == "goofy" and who.runs.count() == 1
        said = client.get(f"/api/riders/{who.pk}").json()["consents"]
        assert said[0]["person"] == "Orla Farrow"

    def test_of_another_front_foot_than_the_club_knows_waits_until_a_coach_says_which(
        self, client, asked, another, rider
    ):
        rider.stance = "regular"
        rider.save()
        mine = sender(asked, stance="goofy")
        send(mine, another())
        work_off()
        held = client.get("/api/senders").json()["results"][0]
        path = f"/api/senders/{held['id']}/let_in"
        refused = client.post(path, {"rider": rider.pk}, format="json")
        assert refused.status_code == 409 and "which foot" in refused.json()["problem"]
        assert not Run.objects.exists() and not rider.consents.exists()
        body = {"rider": rider.pk, "stance": "regular"}
        assert client.post(path, body, format="json").status_code == 200
        rider.refresh_from_db()
        assert rider.stance == "regular" and Run.objects.count() == 1
        # It is settled: the next clip goes on by itself. Until the club's word changes.
        send(mine, another())
        looking.look(Sent.objects.get(state="looking").pk)
        assert Run.objects.count() == 2
        Sender.objects.update(stance="goofy")
        Intake.objects.update(most_clips=9)
        send(mine, another())
        looking.look(Sent.objects.get(state="looking").pk)
        assert Run.objects.count() == 2
        (waits,) = client.get("/api/senders").json()["results"]
        assert "say goofy" in waits["why"] and [r["id"] for r in waits["alike"]] == [rider.pk]
        assert client.post(path, {**body, "stance": "goofy"}, format="json").status_code == 200
        rider.refresh_from_db()
        assert rider.stance == "goofy" and Run.objects.count() == 3

    def test_that_is_no_film_or_shows_nobody_is_said_at_once(self, asked, tmp_path):
        mine = sender(asked)
        refused = send(mine, b"no film" * 20)
        assert refused.status_code == 400 and "video" in refused.json()["problem"]
        assert page(mine)["clips"][0]["state"] == "refused"
        assert "video" in page(mine)["clips"][0]["problem"]
        # Whole and a film, but there is nobody in it.
        send(mine, empty_film(tmp_path))
        # One whose end is missing.
        send(mine, empty_film(tmp_path)[:-900] + b"\0" * 900)
        work_off()
        (_, nobody, broken) = page(mine)["clips"]
        assert nobody["state"] == broken["state"] == "unreadable"
        assert "Nobody can be found" in nobody["problem"] and "friday.mp4" in broken["problem"]
        assert not Film.objects.filter(sent_in=None).exists() and not Run.objects.exists()
        # None of these counts against what may be sent.
        assert begun(mine, b"x" * 10).status_code == 201

    def test_goes_on_where_the_line_broke_and_can_be_stopped(self, asked, another):
        mine, data = sender(asked), another()
        where, cut = begun(mine, data)["Location"], 1000
        assert piece(APIClient(), where, 0, data[:cut]).status_code == 204
        assert APIClient().head(where, **TUS)["Upload-Offset"] == str(cut)
        assert page(mine)["clips"][0]["state"] == "arriving"
        assert APIClient().delete(where, **TUS).status_code == 204
        assert page(mine)["clips"] == [] and not Film.objects.exists()
        # Another sender's clip is not to be touched.
        theirs = begun(mine, data)["Location"].rpartition("/")[2]
        assert (
            APIClient().head(f"/api/sent/{sender(asked)}/clips/{theirs}", **TUS).status_code == 404
        )

    def test_twice_the_same_is_refused_without_saying_whose_it_is(
        self, client, asked, another, rider
    ):
        mine, data = sender(asked), another()
        assert send(mine, data).status_code == 204
        again = send(sender(asked, name="Bram"), data)
        assert again.status_code == 400 and "already" in again.json()["problem"]
        assert "Ysolde" not in again.json()["problem"]

    def test_is_taken_back_with_all_that_was_made_of_it(self, client, asked, another, rider):
        mine = sender(asked)
        send(mine, another())
        work_off()
        client.post(f"/api/senders/{Sender.objects.get().pk}/let_in", {"rider": rider.pk}, format="json")  # fmt: skip
        (clip,) = page(mine)["clips"]
        assert APIClient().delete(f"/api/sent/{mine}/taken-back/{clip['id']}").status_code == 204
        assert page(mine)["clips"] == [] and not Run.objects.exists() and not Film.objects.exists()

    def test_is_answered_on_the_senders_page_once_it_is_approved(self, client, asked, run):
        who = Sender.objects.get(token=(mine := sender(asked)))
        who.rider = run.rider
        who.save()
        sent = Sent.objects.create(sender=who, run=run, name="a.mp4", state="in")
        assert client.get(f"/api/runs/{run.pk}").json()["sent_in"] is True
        assert page(mine)["clips"][0]["answer"] is None
        assert client.post(f"/api/runs/{run.pk}/script/approve").status_code == 200
        answer = page(mine)["clips"][0]["answer"]
        assert APIClient().get(f"/api/shared/{answer.rpartition('/')[2]}").status_code == 200
        assert page(mine)["clips"][0]["answer"] == answer and Share.objects.count() == 1
        assert APIClient().delete(f"/api/sent/{mine}/taken-back/{sent.pk}").status_code == 409
        # Withdrawn stays withdrawn, whoever looks again.
        client.delete(f"/api/runs/{run.pk}/script/share")
        assert page(mine)["clips"][0]["answer"] is None and Share.objects.count() == 1

    def test_goes_with_its_rider(self, client, asked, another, rider):
        mine = sender(asked)
        send(mine, another())
        Sender.objects.update(rider=rider)
        erase_rider(rider)
        assert (
            not Film.objects.exists()
            and not Sender.objects.exists()
            and not Upload.objects.exists()
        )
        page(mine, 404)

    def test_that_nobody_lets_in_goes_a_month_after_the_links_end(self, asked, another):
        mine = sender(asked)
        send(mine, another())
        looking.purge()
        assert Film.objects.count() == 1
        Intake.objects.update(expires=timezone.now() - timedelta(days=31))
        looking.purge()
        assert not Film.objects.exists() and not Sender.objects.exists()
        page(mine, 404)

    def test_that_never_came_whole_goes_after_some_days(self, asked):
        mine = sender(asked)
        begun(mine, b"x" * 10)
        Upload.objects.all().delete()
        looking.purge()
        assert Sent.objects.count() == 1
        Sent.objects.update(at=timezone.now() - timedelta(days=4))
        looking.purge()
        assert not Sent.objects.exists() and not Film.objects.exists()

    def test_of_somebody_turned_away_says_so(self, client, asked, another):
        mine = sender(asked)
        send(mine, another())
        client.post(f"/api/senders/{Sender.objects.get().pk}/turn_away")
        (clip,) = page(mine)["clips"]
        assert clip["state"] == "refused" and "did not take" in clip["problem"]
        assert not Film.objects.exists()


class TestAdvice:
    def test_is_nothing_where_the_clip_is_well_filmed(self):
        assert advice(60, 12.0, [320.0, 340.0], 1) == []

    def test_says_what_to_change_the_weightiest_first(self):
        said = advice(25, 1.5, [90.0], 3)
        assert [a.split()[0] for a in said] == ["You", "It", "It", "3"]
        assert "90 pixels" in said[0] and "25 pictures" in said[1] and "1.5 s" in said[2]


def empty_film(folder) -> bytes:
    """A short film of plain grey."""
    import av
    import numpy as np

    path = folder / f"grey{next(NUMBERS)}.mp4"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=30)
        stream.width, stream.height, stream.pix_fmt = 320, 240, "yuv420p"
        for k in range(40):
            grey = np.full((240, 320, 3), 90 + k, np.uint8)
            out.mux(stream.encode(av.VideoFrame.from_ndarray(grey, "rgb24")))
        out.mux(stream.encode())
    return path.read_bytes()
