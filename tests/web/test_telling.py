"""The Telling over the API: what stands ready, what a coach keeps, their voice, the film."""

from __future__ import annotations

import io

import av
import pytest
from django.db import OperationalError
from django.utils import timezone
from rest_framework.test import APIClient

from proklisis.footage.frames import frames
from proklisis.footage.probe import probe
from proklisis.simulate.fiducial import read
from proklisis.web.clips import told_films
from proklisis.web.references.models import Reference
from proklisis.web.riders.agreeing import note
from proklisis.web.riders.models import Agreed, Rider
from proklisis.web.runs.models import Recording, RecordingPiece, ToldFilm
from proklisis.web.telling.models import Telling
from tests.footage.test_told import recording
from tests.web.conftest import client_of, measured_run, new_coach


@pytest.fixture
def told(rider, simulated):
    """A judged run without its pictures."""
    return measured_run(rider, simulated({"hip_out": 1.8}, seed=31, units=6, view="front").tracks)


def got(client, run):
    answer = client.get(f"/api/runs/{run.pk}/telling")
    assert answer.status_code == 200, answer.json()
    return answer.json()


def put(client, run, telling, version):
    body = {"telling": telling, "version": version}
    return client.put(f"/api/runs/{run.pk}/telling", body, format="json")


def voice(tmp_path, length_s=3.0, clicks=(1.0, 1.5)) -> bytes:
    return recording(tmp_path / "voice.webm", length_s, list(clicks)).read_bytes()


def send(client, run, data: bytes, size: int = 2000) -> int:
    """A recording in pieces, as a browser sends it."""
    path = f"/api/runs/{run.pk}/telling/recordings"
    made = client.post(path, data[:size], content_type="audio/webm;codecs=opus").json()
    for begin in range(size, len(data), size):
        piece = data[begin : begin + size]
        answer = client.patch(f"{path}/{made['id']}?begin={begin}", piece, content_type="audio/webm")  # fmt: skip
        assert answer.status_code == 200, answer.json()
    return made["id"]


def test_a_telling_stands_ready_for_every_judged_run(client, told):
    now = got(client, told)
    assert (now["own"], now["version"]) == (False, 0)
    said = " ".join(p["caption"] for p in now["telling"]["passages"])
    assert told.result.prescription["main"]["cue"] in said
    assert now["played"]["length_s"] == pytest.approx(sum(p["length_s"] for p in now["telling"]["passages"]))  # fmt: skip


def test_what_a_coach_changes_is_kept_and_goes_back(client, told):
    now = got(client, told)
    now["telling"]["passages"][0]["caption"] = "Look how early you start this one."
    kept = put(client, told, now["telling"], 0).json()
    assert (kept["own"], kept["version"], kept["stale"]) == (True, 1, False)
    assert kept["played"]["captions"][0]["text"] == "Look how early you start this one."
    assert got(client, told)["version"] == 1
    client.delete(f"/api/runs/{told.pk}/telling")
    assert got(client, told)["own"] is False


def test_two_who_tell_at_once_are_both_shown(client, told):
    now = got(client, told)["telling"]
    assert put(client, told, now, 0).status_code == 200
    now["passages"][0]["caption"] = "Mine"
    refused = put(client, told, now, 0)
    assert refused.status_code == 409
    assert refused.json()["theirs"]["telling"]["passages"]
    assert put(client, told, now, 1).json()["version"] == 2


@pytest.mark.parametrize(
    ("change", "where"),
    [
        (lambda t: t["passages"][0]["acts"].append({"act": "stop", "at_s": 0.0, "frame": 10_000}), "passages.0.acts"),
        (lambda t: t["passages"][0].update(length_s=-1.0), "length_s"),
        (lambda t: t["passages"][0]["acts"].append({"act": "sing", "at_s": 0.0}), "passages.0.acts"),
        (lambda t: t.update(format="telling/9"), "format"),
    ],
)  # fmt: skip
def test_what_cannot_be_told_is_refused_by_its_place(client, told, change, where):
    now = got(client, told)["telling"]
    change(now)
    refused = put(client, told, now, 0)
    assert refused.status_code == 400
    assert where in refused.json()["problem"] + str(refused.json().get("where", ""))
    assert got(client, told)["own"] is False


def test_a_telling_of_older_numbers_says_so(client, told):
    put(client, told, got(client, told)["telling"], 0)
    edit = {"kind": "drop", "faults": ["hip_out"], "reason": "not there"}
    assert client.post(f"/api/runs/{told.pk}/edits", edit, format="json").status_code == 200
    assert got(client, told)["stale"] is True


def test_captions_are_read_by_a_player_of_films(client, told, tmp_path):
    text = client.get(f"/api/runs/{told.pk}/telling/captions").content
    now = got(client, told)["played"]
    with av.open(io.BytesIO(text), format="webvtt") as box:
        packets = [p for p in box.demux() if p.pts is not None]
    assert len(packets) == len(now["captions"])
    begins = [float(p.pts * p.time_base) for p in packets]
    assert begins == pytest.approx([c["from_s"] for c in now["captions"]], abs=0.001)


def test_a_recording_comes_in_pieces_and_goes_on_where_it_broke_off(client, told, tmp_path):
    data = voice(tmp_path)
    path = f"/api/runs/{told.pk}/telling/recordings"
    made = client.post(path, data[:3000], content_type="audio/webm").json()
    assert made["size"] == 3000
    # The answer was lost: the same piece comes again, and changes nothing.
    again = client.patch(f"{path}/{made['id']}?begin=0", data[:3000], content_type="audio/webm")
    assert again.json()["size"] == 3000
    hole = client.patch(f"{path}/{made['id']}?begin=4000", data[4000:], content_type="audio/webm")
    assert hole.status_code == 409 and "3000" in hole.json()["problem"]
    rest = client.patch(f"{path}/{made['id']}?begin=3000", data[3000:], content_type="audio/webm")
    assert rest.json()["size"] == len(data)
    sound = client.get(f"{path}/{made['id']}", headers={"Range": "bytes=0-9"})
    assert sound.status_code == 206
    whole = client.get(f"{path}/{made['id']}")
    assert b"".join(whole.streaming_content) == data


def test_what_is_no_sound_is_refused(client, told):
    path = f"/api/runs/{told.pk}/telling/recordings"
    assert client.post(path, b"x", content_type="image/png").status_code == 400
    assert client.post(path, b"x", content_type="audio/midi").status_code == 400
    assert Recording.objects.count() == 0


def test_silence_before_and_after_speech_is_found(client, told, tmp_path):
    number = send(client, told, voice(tmp_path, 4.0, (1.5, 2.0)))
    span = client.get(f"/api/runs/{told.pk}/telling/recordings/{number}/speech").json()
    assert "from_s" in span, span
    assert span["from_s"] == pytest.approx(1.25, abs=0.15)
    assert span["to_s"] == pytest.approx(2.35, abs=0.2)
    assert span["length_s"] == pytest.approx(4.0, abs=0.1)
    bad = send(client, told, b"no sound at all")
    assert client.get(f"/api/runs/{told.pk}/telling/recordings/{bad}/speech").status_code == 400


def test_a_drawn_angle_comes_with_its_doubt(client, told):
    path = f"/api/runs/{told.pk}/telling/angle"
    right = {"points": [[100, 100], [100, 300], [300, 300]]}
    said = client.post(path, right, format="json").json()
    assert said["value"] == pytest.approx(90, abs=1e-6) and "±" in said["says"]
    together = {"points": [[1, 1], [2, 2]]}
    assert client.post(path, together, format="json").status_code == 400


@pytest.mark.slow
def test_a_film_is_made_of_it_with_the_voice(client, run, tmp_path):
    run.clip.original.save("run.mp4", run.clip.working.file)
    number = send(client, run, voice(tmp_path))
    now = got(client, run)
    first = now["telling"]["passages"][0]
    first["length_s"] = max(3.0, first["length_s"])
    first["sound"] = {"recording": number, "from_s": 0.0, "to_s": 3.0}
    kept = put(client, run, now["telling"], 0).json()
    asked = client.post(f"/api/runs/{run.pk}/telling/films", {"burnt": True}, format="json")
    assert asked.status_code == 202 and asked.json()["state"] == "queued"
    path = f"/api/runs/{run.pk}/telling/films/{asked.json()['id']}"
    assert client.get(f"{path}/file").status_code == 404
    told_films.make(asked.json()["id"])
    made = client.get(path).json()
    assert (made["state"], made["problem"]) == ("ready", "")
    film = tmp_path / "film.mp4"
    film.write_bytes(b"".join(client.get(made["url"]).streaming_content))
    clip = probe(film)
    assert clip.t[-1] == pytest.approx(kept["played"]["length_s"], abs=0.1)
    stretches = kept["played"]["stretches"]
    stop = next(s for s in stretches if s["speed"] == 0 and s["to_s"] - s["from_s"] > 0.5)
    at = round(30 * (stop["from_s"] + stop["to_s"]) / 2)
    [shown] = frames(clip, at, at + 1)
    assert read(shown.picture) == stop["frame"]
    with av.open(str(film)) as box:
        assert [s.codec_context.name for s in box.streams.audio] == ["aac"]


@pytest.mark.slow
def test_a_film_that_is_not_wanted_any_more_is_not_made(client, run):
    run.clip.original.save("run.mp4", run.clip.working.file)
    asked = client.post(f"/api/runs/{run.pk}/telling/films", {}, format="json").json()
    path = f"/api/runs/{run.pk}/telling/films/{asked['id']}"
    assert client.delete(path).status_code == 204
    told_films.make(asked["id"])
    assert client.get(path).json()["state"] == "cancelled"
    assert client.delete(path).status_code == 204
    assert ToldFilm.objects.count() == 0


def test_a_run_without_its_clip_makes_no_film_and_says_why(client, told):
    refused = client.post(f"/api/runs/{told.pk}/telling/films", {}, format="json")
    assert refused.status_code == 400 and "no clip" in refused.json()["problem"]


def test_other_clubs_hear_and_see_nothing(client, told, tmp_path):
    number = send(client, told, voice(tmp_path))
    film = ToldFilm.objects.create(run=told, burnt=True, plan={})
    stranger = client_of(new_coach("Elsewhere", "eve"))
    base = f"/api/runs/{told.pk}/telling"
    for path in ("", "/captions", f"/recordings/{number}", f"/recordings/{number}/speech", f"/films/{film.pk}", f"/films/{film.pk}/file"):  # fmt: skip
        assert stranger.get(base + path).status_code == 404, path
    assert put(stranger, told, {}, 0).status_code == 404
    assert stranger.post(f"{base}/recordings", b"x", content_type="audio/webm").status_code == 404
    assert stranger.delete(f"{base}/films/{film.pk}").status_code == 404


def test_what_was_said_goes_with_the_run(client, told, tmp_path):
    send(client, told, voice(tmp_path))
    client.delete(f"/api/runs/{told.pk}?for_good=true")
    assert Recording.objects.count() == 0


def test_what_is_seen_is_what_is_sent(client, run):
    """The day of the next clip, and feet, stand in the captions that the coach saw before."""
    run.clip.original.save("run.mp4", run.clip.working.file)
    again = {"retest_on": "2027-02-03"}
    assert client.patch(f"/api/runs/{run.pk}/script", again, format="json").status_code == 200
    seen = client.get(f"/api/runs/{run.pk}/telling/captions").content.decode()
    assert "3 February" in seen
    assert client.post(f"/api/runs/{run.pk}/script/approve").status_code == 200
    assert client.get(f"/api/runs/{run.pk}/script/captions").content.decode() == seen


def test_a_telling_of_a_clip_that_was_cut_since_keeps_its_words_and_says_that_it_is_old(client, told):  # fmt: skip
    now = got(client, told)["telling"]
    now["passages"][0]["caption"] = "My own words"
    put(client, told, now, 0)
    row = Telling.objects.get()
    row.body["passages"][0]["acts"] = [{"act": "stop", "at_s": 0.0, "frame": 100_000}]
    row.made_on = "2020-01-01T00:00:00Z"
    row.save()
    after = got(client, told)
    assert (after["own"], after["stale"]) == (True, True)
    assert after["telling"]["passages"][0]["caption"] == "My own words"


def test_a_coach_who_reads_feet_gets_them(client, coach, told, monkeypatch):
    heights = [{"id": "a", "caption": "You were 2.0 ± 0.1 m up", "length_s": 3.0, "acts": []}]
    made = {"format": "telling/1", "discipline": "alpine_carve", "passages": heights}
    monkeypatch.setattr("proklisis.web.telling.telling.propose", lambda *_: made)
    assert "2.0 ± 0.1 m" in got(client, told)["played"]["captions"][0]["text"]
    coach.units = "imperial"
    coach.save()
    assert "ft" in got(client, told)["played"]["captions"][0]["text"]


class TestBeside:
    @pytest.fixture
    def two(self, rider, simulated, short_clip):
        sims = [simulated({"hip_out": 1.8}, seed=s, units=2, view="front") for s in (31, 33)]
        runs = [measured_run(rider, s.tracks, short_clip) for s in sims]
        for r in runs:
            r.clip.original.save("run.mp4", r.clip.working.file)
        return runs

    def ask(self, client, run, other, **more):
        body = {"b": other.pk, "unit": 1, **more}
        return client.post(f"/api/runs/{run.pk}/telling/pair", body, format="json")

    def test_a_unit_of_the_last_run_goes_into_the_film(self, client, two):
        earlier, run = two
        asked = self.ask(client, run, earlier)
        assert asked.status_code == 200, asked.json()
        passage = asked.json()["passage"]
        pair = next(a for a in passage["acts"] if a["act"] == "pair")
        assert pair["run"] == earlier.pk and len(pair["rows"]) > 10
        assert [w.split(",")[0] for w in pair["words"]] == ["7 Wren", "7 Wren"]
        now = got(client, run)
        now["telling"]["passages"] = [passage]
        kept = put(client, run, now["telling"], 0)
        assert kept.status_code == 200, kept.json()
        film = client.post(
            f"/api/runs/{run.pk}/telling/films", {"burnt": False}, format="json"
        ).json()
        told_films.make(film["id"])
        made = client.get(f"/api/runs/{run.pk}/telling/films/{film['id']}").json()
        assert (made["state"], made["problem"]) == ("ready", "")
        still = client.get(f"/api/runs/{run.pk}/telling/still?t=0.5")
        assert still.status_code == 200

    def test_a_unit_of_the_same_run_mirrored(self, client, two):
        _, run = two
        passage = self.ask(client, run, run, unit_b=2, mirror=True).json()["passage"]
        assert next(a for a in passage["acts"] if a["act"] == "pair")["mirror"] is True
        assert "unit" not in passage["caption"].lower() and passage["caption"]

    def test_another_rider_is_shown_only_as_a_reference(
        self, client, coach, two, simulated, short_clip
    ):
        _, run = two
        bram = Rider.objects.create(
            club=coach.club, name="Bram", number=8, born=1980, height_cm=180
        )
        sim = simulated({}, seed=35, units=2, view="front")
        other = measured_run(bram, sim.tracks, short_clip)
        other.clip.original.save("run.mp4", other.clip.working.file)
        refused = self.ask(client, run, other)
        assert refused.status_code == 409 and "may not be shown" in refused.json()["problem"]
        kept = Reference.objects.create(
            club=coach.club, run=other, consent="Bram", until=timezone.localdate()
        )
        assert self.ask(client, run, other).status_code == 409
        note(bram, Agreed.GROUP, True, coach.user, "Bram")
        passage = self.ask(client, run, other).json()["passage"]
        now = got(client, run)
        now["telling"]["passages"] = [passage]
        put(client, run, now["telling"], 0)
        assert client.post(f"/api/runs/{run.pk}/script/approve").status_code == 200
        told_films.make(ToldFilm.objects.get().pk)
        token = client.post(f"/api/runs/{run.pk}/script/share").json()["share"]["token"]
        reader = APIClient()
        assert reader.get(f"/api/shared/{token}").json()["film"]["url"]
        assert reader.get(f"/api/shared/{token}/film").status_code == 200
        # The consent ends: from that moment the film shows nothing of Bram any more.
        kept.delete()
        assert reader.get(f"/api/shared/{token}").json()["film"] is None
        assert reader.get(f"/api/shared/{token}/film").status_code == 404
        assert reader.get(f"/api/shared/{token}/captions").status_code == 404
        client.delete(f"/api/runs/{run.pk}/script/approve")
        again = client.post(f"/api/runs/{run.pk}/script/approve")
        assert again.status_code == 409 and "may not be shown" in again.json()["problem"]

    def test_what_was_changed_after_it_was_put_beside_does_not_leave(self, client, two):
        """Its frames and numbers may be others now: the pair would show the wrong moment and say the old number."""
        earlier, run = two
        now = got(client, run)
        now["telling"]["passages"] = [self.ask(client, run, earlier).json()["passage"]]
        assert put(client, run, now["telling"], 0).json()["stale"] is False
        earlier.result.made = timezone.now()
        earlier.result.save()
        assert got(client, run)["stale"] is True
        for path in ("telling/films", "script/approve"):
            refused = client.post(f"/api/runs/{run.pk}/{path}", {}, format="json")
            assert refused.status_code == 409 and "changed after" in refused.json()["problem"], path
        again = got(client, run)
        again["telling"]["passages"] = [self.ask(client, run, earlier).json()["passage"]]
        put(client, run, again["telling"], 1)
        assert client.post(f"/api/runs/{run.pk}/script/approve").status_code == 200

    def test_erasing_the_other_run_erases_the_film(self, client, two):
        earlier, run = two
        now = got(client, run)
        now["telling"]["passages"] = [self.ask(client, run, earlier).json()["passage"]]
        put(client, run, now["telling"], 0)
        client.post(f"/api/runs/{run.pk}/telling/films", {}, format="json")
        assert client.delete(f"/api/runs/{earlier.pk}?for_good=true").status_code == 204
        assert ToldFilm.objects.count() == 0


class TestToldToMany:
    def test_each_keeps_their_own_frames_and_hears_what_is_said_to_all(
        self, client, coach, told, simulated, tmp_path
    ):
        bram = Rider.objects.create(
            club=coach.club, name="Bram", number=8, born=1980, height_cm=180
        )
        other = measured_run(
            bram, simulated({"hip_out": 1.8}, seed=33, units=6, view="front").tracks
        )
        before = got(client, other)["telling"]
        assert (
            client.post(
                f"/api/runs/{other.pk}/telling/from", {"run": told.pk}, format="json"
            ).status_code
            == 400
        )
        number = send(client, told, voice(tmp_path))
        now = got(client, told)["telling"]
        cue = next(p for p in now["passages"] if p["id"] == "cue")
        cue.update(
            sound={"recording": number, "from_s": 0.0, "to_s": 3.0}, caption="To all of you."
        )
        put(client, told, now, 0)
        taken = client.post(f"/api/runs/{other.pk}/telling/from", {"run": told.pk}, format="json")
        assert taken.status_code == 200, taken.json()
        after = got(client, other)
        assert after["own"] and not after["stale"]
        passages = {p["id"]: p for p in after["telling"]["passages"]}
        assert passages["cue"]["caption"] == "To all of you."
        mine = passages["cue"]["sound"]["recording"]
        assert mine != number and Recording.objects.get(pk=mine).run == other
        for p in before["passages"]:
            if p["id"].startswith(("good", "evidence")):
                assert passages[p["id"]]["acts"] == p["acts"]
        # Its voice is its own: it stays where the first run goes.
        client.delete(f"/api/runs/{told.pk}?for_good=true")
        assert Recording.objects.get().pk == mine
        # What was told already is not told over.
        assert (
            client.post(
                f"/api/runs/{other.pk}/telling/from", {"run": other.pk}, format="json"
            ).status_code
            == 409
        )

    def test_of_another_discipline_it_is_refused(self, client, rider, told, simulated):
        put(client, told, got(client, told)["telling"], 0)
        sim = simulated({}, seed=35, units=2, view="front")
        other = measured_run(rider, sim.tracks, discipline="alpine_gates")
        refused = client.post(f"/api/runs/{other.pk}/telling/from", {"run": told.pk}, format="json")
        assert refused.status_code == 400


def test_a_full_disk_while_recording_loses_nothing_that_was_said(
    client, told, tmp_path, monkeypatch
):
    """The database has no room for a piece: it says so in a way that the page sends the piece again, and goes on where it was."""
    data = voice(tmp_path)
    path = f"/api/runs/{told.pk}/telling/recordings"
    made = client.post(path, data[:2000], content_type="audio/webm;codecs=opus").json()

    def full(*_: object, **__: object) -> None:
        raise OperationalError("could not extend file: No space left on device")

    with monkeypatch.context() as broken:
        broken.setattr(RecordingPiece.objects, "create", full)
        refused = client.patch(
            f"{path}/{made['id']}?begin=2000", data[2000:4000], content_type="audio/webm"
        )
        # From 500 on the page tries again until it arrives.
        assert refused.status_code >= 500
        assert "try again" in refused.json()["problem"].lower()
    for begin in range(2000, len(data), 2000):
        kept = client.patch(f"{path}/{made['id']}?begin={begin}", data[begin : begin + 2000], content_type="audio/webm")  # fmt: skip
        assert kept.status_code == 200
    assert Recording.objects.get().content() == data
