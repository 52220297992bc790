"""A session film: sent, cut into goes, put right in a table, made into runs that share its file."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from django.core.files import File

from proklisis.web.analysis.reviewing import main_title
from proklisis.web.clips import people, removing
from proklisis.web.goes import finding
from proklisis.web.goes import removing as session_films
from proklisis.web.goes.models import Go, SessionFilm
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Clip, Film, Run
from tests.web.conftest import JOBS, TWO, client_of, new_coach, work_off
from tests.web.test_uploads import TUS, piece, told

pytestmark = pytest.mark.django_db
FILMS = "/api/session-films"


@pytest.fixture
def bram(coach) -> Rider:
    return Rider.objects.create(
        club=coach.club, name="Bram", number=23, born=1979, level="advanced"
    )


@pytest.fixture
def session(coach, short_clip) -> SessionFilm:
    """A film of 3 s with three goes of two people, as the search leaves it."""
    film = Film.objects.create(club=coach.club, name="hall.mp4", size=1, sha256="a" * 64)
    with short_clip.open("rb") as f:
        film.file.save("hall.mp4", File(f))
    made = SessionFilm.objects.create(
        club=coach.club, film=film, discipline="alpine_carve", state="ready", length_s=3.0, searched=True,
        width=1280, height=720, fps=60, version=1,
    )  # fmt: skip
    for a, b, who in ((0.0, 1.0, 1), (1.0, 2.0, 2), (2.0, 3.0, 1)):
        Go.objects.create(
            session=made, from_s=a, to_s=b, who=who, at_s=a + 0.5, box=[100, 100, 200, 300]
        )
    return made


def rows(table: dict) -> list[dict]:
    return [
        {k: g[k] for k in ("id", "from_s", "to_s", "who", "rider", "left_out")}
        for g in table["goes"]
    ]


def put(client, session, goes, version=None):
    table = client.get(f"{FILMS}/{session.pk}").json()
    body = {"goes": goes, "version": table["version"] if version is None else version}
    return client.put(f"{FILMS}/{session.pk}/goes", body, format="json")


@pytest.mark.slow
def test_a_film_is_sent_in_pieces_cut_by_itself_and_shown(client, short_clip, rider, monkeypatch):
    monkeypatch.setitem(JOBS, "film_is_here", finding.film_is_here)
    monkeypatch.setitem(
        JOBS, "find_goes", lambda session_id, of_attempt: finding.find_goes(session_id, of_attempt)
    )
    made = client.post(FILMS, {"discipline": "alpine_carve", "title": "Hall"}, format="json").json()
    assert made["state"] == "waiting"
    data = short_clip.read_bytes()
    answer = client.post(
        "/api/uploads", content_type="application/offset+octet-stream", **TUS, HTTP_UPLOAD_LENGTH=str(len(data)), HTTP_UPLOAD_METADATA=told(film=str(made["film"]), filename="hall.mp4")
    )  # fmt: skip
    assert answer.status_code == 201, answer.content
    assert piece(client, answer["Location"], 0, data).status_code == 204
    work_off()
    table = client.get(f"{FILMS}/{made['id']}").json()
    assert table["state"] == "ready", table["problem"]
    assert table["name"] == "hall.mp4" and table["playable"] and len(table["goes"]) == 1
    go = table["goes"][0]
    box = ",".join(str(v) for v in go["box"])
    picture = client.get(f"{FILMS}/{made['id']}/picture?at={go['at_s']}&box={box}")
    assert picture.status_code == 200 and b"".join(picture.streaming_content)[:2] == b"\xff\xd8"
    video = client.get(f"{FILMS}/{made['id']}/video", HTTP_RANGE="bytes=0-99")
    assert video.status_code == 206
    for bad in ("at=99", "at=1&box=1,2", "at=x"):
        assert client.get(f"{FILMS}/{made['id']}/picture?{bad}").status_code in (400, 404)
    # The same file again is said, not taken twice.
    again = client.post(FILMS, {"discipline": "alpine_carve"}, format="json").json()
    answer = client.post(
        "/api/uploads", content_type="application/offset+octet-stream", **TUS, HTTP_UPLOAD_LENGTH=str(len(data)), HTTP_UPLOAD_METADATA=told(film=str(again["film"]), filename="b.mp4")
    )  # fmt: skip
    answer = piece(client, answer["Location"], 0, data)
    assert answer.status_code == 400 and "already, as session film" in answer.json()["problem"]


@pytest.mark.slow
def test_goes_become_runs_of_their_riders_from_one_file(client, session, rider, bram, settings):
    Run.objects.create(
        club=rider.club,
        rider=rider,
        discipline="alpine_carve",
        level="novice",
        conditions={"slope_deg": 14},
    )
    goes = rows(client.get(f"{FILMS}/{session.pk}").json())
    for g in goes:
        g["rider"] = rider.pk if g["who"] == 1 else bram.pk
    # One stretch of the three is one ride; the other two stay as they are.
    goes[0]["to_s"] = 1.8
    assert put(client, session, [goes[0], goes[2] | {"left_out": True}]).status_code == 200
    answer = client.post(f"{FILMS}/{session.pk}/judge")
    assert answer.status_code == 202
    work_off()
    table = client.get(f"{FILMS}/{session.pk}").json()
    run = table["goes"][0]["run"]
    assert run["state"] == "ready", run
    assert run["main_title"] is not None and table["goes"][1]["run"] is None
    made = Run.objects.get(pk=run["id"])
    # Level and slope are as on the rider's last run of this discipline.
    assert (made.rider, made.level, made.conditions) == (rider, "novice", {"slope_deg": 14})
    assert (made.clip.from_s, made.clip.to_s) == (0.0, pytest.approx(2.1))
    originals = [p for p in (Path(settings.MEDIA_ROOT) / "originals").rglob("*") if p.is_file()]
    assert len(originals) == 1
    # Who it is can be put right afterwards; its times stay.
    fixed = rows(table)
    fixed[0]["rider"] = bram.pk
    assert put(client, session, fixed).status_code == 200
    made.refresh_from_db()
    assert (made.rider, made.level, made.result.stale) == (bram, "advanced", True)
    fixed[0]["from_s"] = 0.2
    assert "keeps its times" in put(client, session, fixed).json()["problem"]
    assert "Remove that run first" in put(client, session, fixed[1:]).json()["problem"]
    # Without the session film the run has its clip still; without both the file is gone.
    session_films.erase(session)
    assert Film.objects.exists()
    removing.erase(made)
    assert not Film.objects.exists()


def test_the_table_is_put_right_as_a_whole(client, session, rider):
    goes = rows(client.get(f"{FILMS}/{session.pk}").json())
    # Joined with the next, and the last one split in two.
    joined = [
        goes[0] | {"to_s": 2.0}, goes[2] | {"to_s": 2.5}, goes[2] | {"id": None, "from_s": 2.5, "rider": rider.pk},
    ]  # fmt: skip
    table = put(client, session, joined).json()
    assert [(g["from_s"], g["to_s"], g["rider"]) for g in table["goes"]] == [
        (0.0, 2.0, None), (2.0, 2.5, None), (2.5, 3.0, rider.pk),
    ]  # fmt: skip
    # Undone: the table of before is put again; what was joined is a new row.
    back = put(client, session, [goes[0], goes[1] | {"id": None}, goes[2]]).json()
    assert [(g["from_s"], g["to_s"]) for g in back["goes"]] == [(0, 1), (1, 2), (2, 3)]


def test_what_cannot_be_is_refused_by_name_and_nothing_changes(client, session, rider):
    before = client.get(f"{FILMS}/{session.pk}").json()
    goes = rows(before)
    stranger = Rider.objects.create(club=new_coach("Other", "eve").club, name="Eve", born=1990)
    for wrong, words in (
        ({"to_s": 99.0}, "does not lie in the film"),
        ({"from_s": 0.8}, "0.5 s at the least"),
        ({"from_s": 1.0, "to_s": 0.0}, "does not lie in the film"),
        ({"id": 99999}, "no go 99999"),
        ({"id": goes[1]["id"]}, "twice"),
        ({"rider": stranger.pk}, "does not exist"),
        ({"who": 0}, "greater than or equal to 1"),
    ):
        answer = put(client, session, [goes[0] | wrong, *goes[1:]])
        assert answer.status_code == 400 and words in str(answer.json()), answer.json()
    assert put(client, session, goes, version=0).status_code == 409
    assert client.get(f"{FILMS}/{session.pk}").json() == before
    assert "Say who rides" in client.post(f"{FILMS}/{session.pk}/judge").json()["problem"]
    assert client.post(FILMS, {"discipline": "chess"}, format="json").status_code == 400


def test_a_session_film_is_its_clubs_alone(client, session):
    eve = client_of(new_coach("Other", "eve"))
    here = f"{FILMS}/{session.pk}"
    assert eve.get(FILMS).json()["count"] == 0
    for answer in (
        eve.get(here), eve.patch(here, {"title": "x"}, format="json"), eve.delete(here), eve.post(f"{here}/judge"),
        eve.put(f"{here}/goes", {"goes": [], "version": 1}, format="json"), eve.get(f"{here}/video"),
        eve.get(f"{here}/picture?at=1"), eve.post(f"{here}/retry"), eve.post(f"{here}/cancel"),
    ):  # fmt: skip
        assert answer.status_code == 404
    size = {
        "HTTP_UPLOAD_LENGTH": "10",
        "HTTP_UPLOAD_METADATA": told(film=str(session.film_id), filename="a.mp4"),
    }
    assert (
        eve.post(
            "/api/uploads", content_type="application/offset+octet-stream", **TUS, **size
        ).status_code
        == 404
    )


def test_a_clip_that_is_here_is_cut_where_it_lies_and_removed_films_come_back(
    client, run, short_clip
):
    with short_clip.open("rb") as f:
        run.clip.original.save("run.mp4", File(f), save=True)
    made = client.post(FILMS, {"discipline": "alpine_carve", "run": run.pk}, format="json")
    assert made.status_code == 201 and made.json()["state"] == "queued"
    here = f"{FILMS}/{made.json()['id']}"
    assert (
        client.post(FILMS, {"discipline": "alpine_carve", "run": run.pk}, format="json").status_code
        == 409
    )
    assert client.post(f"{here}/cancel").json()["state"] == "cancelled"
    assert client.post(f"{here}/retry").json()["state"] == "queued"
    assert client.delete(here).status_code == 204
    assert (
        client.get(here).status_code == 404
        and client.get(f"{FILMS}?removed=1").json()["count"] == 1
    )
    assert client.post(f"{here}/restore").status_code == 200
    assert client.delete(f"{here}?for_good=1").status_code == 204
    assert Film.objects.count() == 1 and Clip.objects.get(run=run).film is not None


def test_of_several_in_the_picture_the_go_is_the_one_it_was_cut_for(run):
    clip = run.clip
    clip.people = TWO
    t = np.arange(31) / 30.0
    assert people.aimed_at(clip, t) == 0
    clip.from_s, clip.aim = 10.0, {"s": 10.5, "box": [830, 225, 980, 375]}
    assert people.aimed_at(clip, t) == 1
    # Whom the search has missed is pointed at by the go itself.
    clip.aim = {"s": 10.5, "box": [0, 600, 20, 700]}
    assert people.aimed_at(clip, t) == 2
    assert clip.people[2]["by_hand"] and clip.people[2]["numbers"] == [15]


def test_a_run_of_which_little_could_be_judged_is_not_said_to_be_well(client, run):
    """Seen from the front, most of what a skier may do wrong cannot be told: the Desk says of how much nothing was found."""
    p = run.result.prescription
    clean = {**p, "main": None, "findings": []}
    said = main_title(clean, False)
    assert said.startswith("Nothing found, ") and said.endswith(" judged")
    assert main_title({**clean, "cannot_tell": []}, False) == ""


def test_a_go_whose_run_was_removed_can_be_put_right_and_judged_again(client, session, rider):
    goes = rows(client.get(f"{FILMS}/{session.pk}").json())
    goes[0]["rider"] = rider.pk
    put(client, session, goes)
    made = client.post(f"{FILMS}/{session.pk}/judge").json()["goes"][0]["run"]["id"]
    client.delete(f"/api/runs/{made}")
    goes[0]["to_s"] = 0.9
    assert put(client, session, goes).status_code == 200
    again = client.post(f"{FILMS}/{session.pk}/judge")
    assert again.status_code == 202 and again.json()["goes"][0]["run"]["id"] != made
