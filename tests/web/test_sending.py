"""What a rider gets with an approved Script: the told film, paper, a calendar; and what comes back."""

from __future__ import annotations

import io
import json
import zipfile
from datetime import date, timedelta

import av
import numpy as np
import pypdf
import pytest
import vobject
from PIL import Image
from rest_framework.test import APIClient

from proklisis.core.review import playbook, playbook_ids
from proklisis.footage.probe import probe
from proklisis.simulate.fiducial import read
from proklisis.web.clips import filming, told_films
from proklisis.web.runs.models import Recording, Run, ToldFilm
from proklisis.web.scripts.lesson import lesson
from proklisis.web.scripts.models import Script, Share
from tests.footage.test_told import recording
from tests.web.conftest import client_of, measured_run, new_coach


@pytest.fixture
def plain(rider, simulated) -> Run:
    """A judged run without its pictures."""
    return measured_run(rider, simulated({"hip_out": 1.8}, seed=31, units=6, view="front").tracks)


def approve(client, run) -> dict:
    answer = client.post(f"/api/runs/{run.pk}/script/approve")
    assert answer.status_code == 200, answer.json()
    return answer.json()


def share(client, run) -> str:
    approve(client, run)
    return client.post(f"/api/runs/{run.pk}/script/share").json()["share"]["token"]


def text_of(data: bytes) -> tuple[str, pypdf.PdfReader]:
    reader = pypdf.PdfReader(io.BytesIO(data))
    return " ".join(" ".join(page.extract_text() for page in reader.pages).split()), reader


@pytest.mark.parametrize(("paper", "size"), [("a4", (595, 842)), ("letter", (612, 792))])
def test_the_script_on_paper_holds_its_words_and_pictures(client, plain, paper, size):
    body = approve(client, plain)
    answer = client.get(f"/api/runs/{plain.pk}/script/paper?paper={paper}")
    assert answer["Content-Type"] == "application/pdf"
    text, reader = text_of(answer.content)
    main, [drill, *_] = body["prescription"]["main"], body["prescription"]["drills"]
    for words in ("Wren", main["cue"], drill["title"], drill["sign"], body["targets"][0], body["prescription"]["cautions"][0]):  # fmt: skip
        assert " ".join(words.split()) in text, words
    assert tuple(round(float(x)) for x in reader.pages[0].mediabox[2:]) == size
    assert len(reader.pages) <= 2
    assert len(reader.pages[0].images) >= 1  # the figure of the fault


def test_a_novice_reads_larger_type(client, rider, plain):
    def tall(level: str) -> float:
        Run.objects.filter(pk=plain.pk).update(level=level)
        client.patch(f"/api/runs/{plain.pk}", {"level": level}, format="json")
        approve(client, plain)
        _, reader = text_of(client.get(f"/api/runs/{plain.pk}/script/paper").content)
        sizes: list[float] = []
        reader.pages[0].extract_text(visitor_text=lambda t, cm, tm, f, s: sizes.append(s * abs(cm[0])) if t.strip() else None)  # fmt: skip
        client.delete(f"/api/runs/{plain.pk}/script/approve")
        return sorted(sizes)[len(sizes) // 2]

    assert tall("novice") > 1.15 * tall("intermediate")


def test_nothing_leaves_unapproved(client, plain):
    for what in ("paper", "calendar"):
        refused = client.get(f"/api/runs/{plain.pk}/script/{what}")
        assert refused.status_code == 409 and "Approve" in refused.json()["problem"]
    approve(client, plain)
    assert client.get(f"/api/runs/{plain.pk}/script/paper?paper=a0").status_code == 400


def test_the_calendar_is_read_back_by_another_library(client, plain):
    again = date.today() + timedelta(days=21)
    client.patch(f"/api/runs/{plain.pk}/script", {"retest_on": again.isoformat()}, format="json")
    body = approve(client, plain)
    answer = client.get(f"/api/runs/{plain.pk}/script/calendar")
    events = vobject.readOne(answer.content.decode()).vevent_list
    main = body["prescription"]["main"]
    steps = [s for d in body["prescription"]["drills"] if d["fault"] == main["fault"] for s in d["steps"]]  # fmt: skip
    assert len(events) == len(steps) + 1
    days = [e.dtstart.value for e in events]
    assert days == sorted(days)
    assert events[-1].summary.value == "Film again" and days[-1] == again
    assert date.today() < days[0] and days[-2] < again
    assert steps[0]["text"] in events[0].description.value
    assert len({e.uid.value for e in events}) == len(events)


def test_what_the_coach_sees_is_what_the_rider_will_see(client, plain):
    client.patch(f"/api/runs/{plain.pk}/script", {"message": "Well done."}, format="json")
    before = client.get(f"/api/runs/{plain.pk}/script/preview").json()
    page = APIClient().get(f"/api/shared/{share(client, plain)}").json()
    same = ("message", "titles", "targets", "figure", "rider", "coach", "club", "discipline")
    assert {k: before[k] for k in same} == {k: page[k] for k in same}
    assert before["prescription"]["main"] == page["prescription"]["main"]


def test_the_coach_sees_whether_it_was_read(client, plain):
    token = share(client, plain)
    assert client.get(f"/api/runs/{plain.pk}/script").json()["share"]["seen"] == 0
    for _ in range(2):
        assert APIClient().get(f"/api/shared/{token}").status_code == 200
    # A page that waits for its film asks again by itself.
    assert APIClient().get(f"/api/shared/{token}", headers={"X-Again": "1"}).status_code == 200
    seen = client.get(f"/api/runs/{plain.pk}/script").json()["share"]
    assert seen["seen"] == 2 and seen["seen_at"]


def test_a_rider_ticks_steps_and_writes_a_line(client, plain):
    token = share(client, plain)
    page = APIClient().get(f"/api/shared/{token}").json()
    drill = page["prescription"]["drills"][0]["id"]
    tick = {"drill": drill, "step": 0, "done": True}
    for _ in range(2):
        ticks = APIClient().post(f"/api/shared/{token}/ticks", tick, format="json")
        assert [t["step"] for t in ticks.json()] == [0]
    line = APIClient().post(f"/api/shared/{token}/lines", {"text": "It clicked!"}, format="json")
    assert line.status_code == 200
    script = client.get(f"/api/runs/{plain.pk}/script").json()
    assert [(t["drill"], t["step"]) for t in script["ticks"]] == [(drill, 0)]
    assert [x["text"] for x in script["lines"]] == ["It clicked!"]
    off = APIClient().post(f"/api/shared/{token}/ticks", {**tick, "done": False}, format="json")
    assert off.json() == []


@pytest.mark.parametrize(
    ("what", "body", "status"),
    [
        ("ticks", {"drill": "nonsense", "step": 0, "done": True}, 400),
        ("ticks", {"drill": "x", "step": -1, "done": True}, 400),
        ("lines", {"text": ""}, 400),
        ("lines", {"text": "x" * 501}, 400),
        ("lines", {}, 400),
    ],
)
def test_what_a_rider_cannot_send(client, plain, what, body, status):
    token = share(client, plain)
    assert (
        APIClient().post(f"/api/shared/{token}/{what}", body, format="json").status_code == status
    )


def test_a_page_is_not_written_full(client, plain):
    token = share(client, plain)
    for k in range(20):
        APIClient().post(f"/api/shared/{token}/lines", {"text": str(k)}, format="json")
    assert APIClient().post(f"/api/shared/{token}/lines", {"text": "more"}, format="json").status_code == 409  # fmt: skip


def test_a_link_that_ended_gives_nothing_away(client, plain):
    token = share(client, plain)
    client.delete(f"/api/runs/{plain.pk}/script/share")
    for path in ("", "/film", "/captions", "/paper", "/calendar", "/pictures/0"):
        assert APIClient().get(f"/api/shared/{token}{path}").status_code == 404, path
    for path, body in (("ticks", {"drill": "x", "step": 0, "done": True}), ("lines", {"text": "x"})):  # fmt: skip
        assert (
            APIClient().post(f"/api/shared/{token}/{path}", body, format="json").status_code == 404
        )


def test_a_change_after_sending_is_a_new_version(client, plain):
    token = share(client, plain)
    assert APIClient().get(f"/api/shared/{token}").json()["version"] == 1
    client.delete(f"/api/runs/{plain.pk}/script/approve")
    assert APIClient().get(f"/api/shared/{share(client, plain)}").json()["version"] == 2


@pytest.mark.slow
def test_the_told_film_goes_with_it(client, run, tmp_path):
    run.clip.original.save("run.mp4", run.clip.working.file)
    token = share(client, run)
    page = APIClient().get(f"/api/shared/{token}").json()
    assert page["film"]["url"] is None and page["film"]["state"] == "queued"
    told_films.make(ToldFilm.objects.get().pk)
    page = APIClient().get(f"/api/shared/{token}").json()
    part = APIClient().get(page["film"]["url"], headers={"Range": "bytes=0-99"})
    assert part.status_code == 206
    film = tmp_path / "film.mp4"
    film.write_bytes(b"".join(APIClient().get(page["film"]["url"]).streaming_content))
    assert len(probe(film).t) > 60
    captions = APIClient().get(page["film"]["captions"]).content
    with av.open(io.BytesIO(captions), format="webvtt") as box:
        assert any(p.pts is not None for p in box.demux())
    # What is sent stays, however long ago it was made.
    ToldFilm.objects.update(added="2020-01-01T00:00:00Z")
    told_films.purge()
    assert ToldFilm.objects.count() == 1
    client.delete(f"/api/runs/{run.pk}/script/approve")
    told_films.purge()
    assert ToldFilm.objects.count() == 0


def test_a_script_without_its_telling(client, run):
    changed = client.patch(f"/api/runs/{run.pk}/script", {"with_telling": False}, format="json")
    assert changed.json()["with_telling"] is False
    page = APIClient().get(f"/api/shared/{share(client, run)}").json()
    assert page["film"] is None and ToldFilm.objects.count() == 0


def test_other_clubs_get_nothing(client, plain):
    approve(client, plain)
    stranger = client_of(new_coach("Elsewhere", "eve"))
    for what in ("preview", "paper", "calendar", "film", "captions"):
        assert stranger.get(f"/api/runs/{plain.pk}/script/{what}").status_code == 404
    assert Script.objects.count() == 1 and Share.objects.count() == 0


ARROW = {"kind": "arrow", "points": [[600, 300], [640, 380]], "words": "here", "tone": "coach"}


def choose(client, run, **more):
    given = {"frame": 30, "marks": [ARROW], "caption": "Look at the hand", "close": False, **more}
    return client.post(f"/api/runs/{run.pk}/script/chosen", given, format="json")


def picture(client, address) -> np.ndarray:
    data = b"".join(client.get(address).streaming_content)
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(int)


def test_the_coach_chooses_a_frame_and_what_is_drawn_on_it(client, run):
    assert choose(client, run).status_code == 200
    assert choose(client, run, marks=[], caption="bare").status_code == 200
    offered = client.get(f"/api/runs/{run.pk}/script/offered").json()
    assert [x["caption"] for x in offered if x["chosen"]] == ["Look at the hand", "bare"]
    client.patch(f"/api/runs/{run.pk}/script", {"with_offered": False}, format="json")
    kept = approve(client, run)["pictures"]
    assert [x["caption"] for x in kept] == ["Look at the hand", "bare"]
    drawn, bare = (picture(client, x["url"]) for x in kept)
    assert read(drawn) == read(bare) == 30
    assert np.abs(drawn - bare)[280:400, 580:660].max() > 100
    assert choose(client, run).status_code == 409  # approved


def test_a_chosen_picture_is_taken_out_again_and_cut_to_the_rider(client, run):
    choose(client, run, caption="first")
    choose(client, run, caption="second", close=True, marks=[])
    client.delete(f"/api/runs/{run.pk}/script/chosen?place=0")
    kept = approve(client, run)["pictures"]
    assert next(x["caption"] for x in kept) == "second"
    assert len(kept) > 1  # the offered ones go with it
    cut = picture(client, kept[0]["url"])
    assert cut.shape[1] < 1280 and cut.shape[0] == cut.shape[1]


@pytest.mark.parametrize("marks", ["x", [{"kind": "line"}], [{**ARROW, "points": [[1e300, 2]]}], [{**ARROW, "points": [[1]]}], [ARROW] * 61])  # fmt: skip
def test_what_cannot_be_drawn_is_refused(client, plain, marks):
    refused = choose(client, plain, marks=marks)
    assert refused.status_code == 400 and "marks" in refused.json()["problem"]


def test_no_more_pictures_than_anybody_looks_at(client, plain):
    for _ in range(8):
        assert choose(client, plain, marks=[]).status_code == 200
    assert choose(client, plain, marks=[]).status_code == 409


def test_a_still_of_a_telling_is_its_frame_with_its_lines(client, run):
    lay = client.get(f"/api/runs/{run.pk}/telling").json()["played"]
    over = next(o for o in lay["overlays"] if any(m["tone"] == "measure" for r in o["marks"].values() for m in r))  # fmt: skip
    at = (over["from_s"] + over["to_s"]) / 2
    answer = client.get(f"/api/runs/{run.pk}/telling/still?t={at}")
    assert answer["Content-Type"] == "image/png"
    shown = np.asarray(Image.open(io.BytesIO(answer.content)))
    assert str(read(shown)) in over["marks"]
    yellow = (shown == (255, 225, 77)).all(axis=2).mean()
    assert yellow > 0.0005
    for t in ("", "-1", "x", "nan", "1e9"):
        assert client.get(f"/api/runs/{run.pk}/telling/still?t={t}").status_code == 400, t


@pytest.mark.parametrize("discipline", playbook_ids())
def test_every_fault_is_a_lesson_sheet(client, discipline):
    for fault in list(playbook(discipline).faults)[:3]:
        words = lesson(playbook(discipline), fault, "Lanternfell", False)
        assert words["cues"] and words["ladders"] and words["cautions"]
    fault, f = next(iter(playbook(discipline).faults.items()))
    answer = client.get(f"/api/lessons/{discipline}/{fault}?paper=letter")
    assert answer.status_code == 200
    text, _ = text_of(answer.content)
    assert f.title in text and " ".join(f.cues[0].split()) in text
    assert client.get(f"/api/lessons/{discipline}/nonsense").status_code == 404


def test_a_lesson_sheet_is_for_coaches(client):
    assert APIClient().get("/api/lessons/alpine_carve/hip_out").status_code == 403


def mail(client, run, to="wren@example.org"):
    return client.post(f"/api/runs/{run.pk}/script/mail", {"to": to}, format="json")


def test_without_a_mail_server_the_stand_in_shows_what_would_be_sent(client, plain, mailoutbox):
    approve(client, plain)
    sent = mail(client, plain).json()["mails"]
    assert [(m["to"], m["left"]) for m in sent] == [("wren@example.org", False)]
    token = sent[0]["text"].split("/s/")[1].split()[0]
    assert APIClient().get(f"/api/shared/{token}").status_code == 200
    assert mailoutbox == []


def test_a_mail_server_sends_the_link(client, plain, mailoutbox, settings):
    settings.EMAIL_HOST = "mail.example.org"
    approve(client, plain)
    assert mail(client, plain).json()["mails"][0]["left"] is True
    [letter] = mailoutbox
    assert letter.to == ["wren@example.org"] and "Wren" in letter.body and "/s/" in letter.body


def test_a_mail_that_is_not_taken_says_so_and_is_not_called_sent(client, plain, settings):
    settings.EMAIL_HOST, settings.EMAIL_PORT, settings.EMAIL_TIMEOUT = "127.0.0.1", 9, 2
    settings.EMAIL_BACKEND = "django.core.mail.backends.smtp.EmailBackend"
    approve(client, plain)
    refused = mail(client, plain)
    assert refused.status_code == 409 and "still there to copy" in refused.json()["problem"]
    assert client.get(f"/api/runs/{plain.pk}/script").json()["mails"] == []


def test_no_mail_leaves_unapproved_to_nobody_or_of_a_minor(client, plain, rider, mailoutbox):
    assert mail(client, plain).status_code == 409
    approve(client, plain)
    assert mail(client, plain, "not an address").status_code == 400
    rider.born = date.today().year - 12
    rider.save()
    assert mail(client, plain).status_code == 409
    assert Share.objects.count() == 0


def test_everything_a_rider_got_and_said_is_in_their_export(client, plain, tmp_path):
    token = share(client, plain)
    mail(client, plain)
    APIClient().post(f"/api/shared/{token}/lines", {"text": "It clicked!"}, format="json")
    number = send_recording(client, plain, tmp_path)
    bag = zipfile.ZipFile(io.BytesIO(b"".join(client.get(f"/api/riders/{plain.rider_id}/export").streaming_content)))  # fmt: skip
    kept = json.loads(bag.read("rider.json"))["runs"][0]
    assert [x["text"] for x in kept["lines"]] == ["It clicked!"]
    assert kept["prescribed"]["fault"] == "hip_out" and kept["mails"][0]["to"] == "wren@example.org"
    assert bag.read(f"runs/{plain.pk}/recording-{number}.webm")


def send_recording(client, run, tmp_path) -> int:
    data = recording(tmp_path / "voice.webm", 1.0, [0.5]).read_bytes()
    path = f"/api/runs/{run.pk}/telling/recordings"
    return client.post(path, data, content_type="audio/webm").json()["id"]


def test_what_is_spoken_and_in_no_telling_is_let_go_after_a_month(client, plain, tmp_path):
    used, unused = (send_recording(client, plain, tmp_path) for _ in range(2))
    now = client.get(f"/api/runs/{plain.pk}/telling").json()["telling"]
    now["passages"][0]["sound"] = {"recording": used, "from_s": 0.0, "to_s": 1.0}
    body = {"telling": now, "version": 0}
    assert client.put(f"/api/runs/{plain.pk}/telling", body, format="json").status_code == 200
    told_films.purge()
    assert Recording.objects.count() == 2  # it may still be undone
    Recording.objects.update(added="2020-01-01T00:00:00Z")
    told_films.purge()
    assert [r.pk for r in Recording.objects.all()] == [used]
    assert unused not in {used}


def test_a_film_whose_worker_is_lost_again_and_again_says_so(client, plain):
    film = ToldFilm.objects.create(run=plain, burnt=True, plan={}, state="working")
    filming.give_up(ToldFilm, film.pk)
    said = client.get(f"/api/runs/{plain.pk}/telling/films/{film.pk}").json()
    assert said["state"] == "failed" and "Try again" in said["problem"]


def test_a_telling_of_older_numbers_does_not_leave(client, run):
    now = client.get(f"/api/runs/{run.pk}/telling").json()["telling"]
    client.put(f"/api/runs/{run.pk}/telling", {"telling": now, "version": 0}, format="json")
    drop = {"kind": "drop", "faults": ["not_level"], "reason": "not there"}
    assert client.post(f"/api/runs/{run.pk}/edits", drop, format="json").status_code == 200
    refused = client.post(f"/api/runs/{run.pk}/script/approve")
    assert refused.status_code == 409 and "after the Telling was told" in refused.json()["problem"]
    client.patch(f"/api/runs/{run.pk}/script", {"with_telling": False}, format="json")
    assert approve(client, run)["film"] is None
