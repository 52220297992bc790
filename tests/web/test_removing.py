"""What is removed can be brought back; what is erased leaves nothing; and a link closes when it must."""

from __future__ import annotations

import io
import json
import logging
import zipfile
from datetime import timedelta
from pathlib import Path

import pytest
from django.core.management import call_command
from django.utils import timezone

from proklisis.web.clips.removing import purge, strays, sweep
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from proklisis.web.scripts.models import Share
from proklisis.web.watching.logs import logging_of
from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db


def files(settings) -> list[Path]:
    return [p for p in Path(settings.MEDIA_ROOT).rglob("*") if p.is_file()]


def shared(client, run) -> str:
    client.post(f"/api/runs/{run.pk}/script/approve")
    return client.post(f"/api/runs/{run.pk}/script/share").json()["share"]["token"]


def test_a_removed_run_is_on_no_list_and_comes_back_whole(client, run):
    token = shared(client, run)
    assert client.delete(f"/api/runs/{run.pk}").status_code == 204
    assert client.get("/api/runs").json()["count"] == 0
    for path in ("", "/bench", "/script", "/video"):
        assert client.get(f"/api/runs/{run.pk}{path}").status_code == 404
    assert client.get(f"/api/shared/{token}").status_code == 404
    assert [r["id"] for r in client.get("/api/runs?removed=1").json()["results"]] == [run.pk]
    assert client.post(f"/api/runs/{run.pk}/restore").status_code == 200
    assert client.get(f"/api/runs/{run.pk}/bench").status_code == 200
    assert client.get("/api/riders").json()["results"][0]["runs"] == 1


def test_a_removed_rider_takes_their_runs_along_and_brings_them_back(client, run, rider):
    early = Run.objects.create(
        club=run.club,
        rider=rider,
        view="front",
        level="novice",
        removed_at=timezone.now() - timedelta(days=2),
    )
    assert client.delete(f"/api/riders/{rider.pk}").status_code == 204
    assert client.get("/api/runs").json()["count"] == client.get("/api/riders").json()["count"] == 0
    assert client.post(f"/api/runs/{run.pk}/restore").status_code == 409
    # Their number was given to somebody else meanwhile.
    assert (
        client.post(
            "/api/riders", {"name": "Bram", "number": rider.number}, format="json"
        ).status_code
        == 201
    )
    back = client.post(f"/api/riders/{rider.pk}/restore").json()
    assert (back["name"], back["number"], back["removed_at"]) == ("Wren", None, None)
    assert [r["id"] for r in client.get("/api/runs").json()["results"]] == [run.pk]
    early.refresh_from_db()
    assert early.removed_at is not None


def test_another_club_removes_restores_and_exports_nothing(run, rider):
    other = client_of(new_coach("Rivermere", "ben"))
    for path in (
        f"runs/{run.pk}",
        f"runs/{run.pk}?for_good=1",
        f"riders/{rider.pk}",
        f"riders/{rider.pk}?for_good=1",
    ):
        assert other.delete(f"/api/{path}").status_code == 404
    assert other.get(f"/api/riders/{rider.pk}/export").status_code == 404
    Run.objects.update(removed_at=timezone.now())
    assert other.post(f"/api/runs/{run.pk}/restore").status_code == 404


def test_erasing_a_rider_leaves_no_file_on_the_disk(
    client, run, rider, settings, django_capture_on_commit_callbacks
):
    shared(client, run)
    assert len(files(settings)) >= 2
    with django_capture_on_commit_callbacks(execute=True):
        said = client.delete(f"/api/riders/{rider.pk}?for_good=1").json()["removed"]
    assert {(x["what"], x["n"]) for x in said} >= {
        ("runs", 1),
        ("clips", 1),
        ("Scripts", 1),
        ("links", 1),
    }
    assert files(settings) == []
    assert not Run.objects.exists()


def test_a_new_approval_leaves_no_picture_of_the_old_one(
    client, run, settings, django_capture_on_commit_callbacks
):
    for _ in range(2):
        with django_capture_on_commit_callbacks(execute=True):
            client.post(f"/api/runs/{run.pk}/script/approve")
        client.delete(f"/api/runs/{run.pk}/script/approve")
    pictures = [p for p in files(settings) if "pictures" in p.parts]
    assert len(pictures) == run.script.pictures.count()


def test_what_was_removed_a_month_ago_goes_for_good(run, rider):
    Run.objects.update(removed_at=timezone.now() - timedelta(days=29))
    assert purge() == (0, 0)
    Run.objects.update(removed_at=timezone.now() - timedelta(days=31))
    assert purge() == (1, 0)
    Rider.objects.update(removed_at=timezone.now() - timedelta(days=31))
    assert purge() == (0, 1)


def test_files_that_no_row_knows_of_are_swept_and_no_others(run, settings, capsys):
    import os

    stray, young = (
        Path(settings.MEDIA_ROOT) / "originals" / "9" / n for n in ("old.mp4", "new.mp4")
    )
    for path in (stray, young):
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"x")
    for path in files(settings):
        if path != young:
            os.utime(path, (1, 1))
    assert strays() == ["originals/9/old.mp4"]
    call_command("sweep_files", "--dry-run")
    assert "originals/9/old.mp4" in capsys.readouterr().out and stray.exists()
    assert sweep() == 1
    assert Path(run.clip.working.path).exists() and young.exists()


def test_everything_of_a_rider_is_handed_out_in_one_file(client, run, rider):
    shared(client, run)
    answer = client.get(f"/api/riders/{rider.pk}/export")
    bag = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
    told = json.loads(bag.read("rider.json"))
    assert (told["rider"]["name"], told["runs"][0]["script"]["run"]) == ("Wren", run.pk)
    assert told["runs"][0]["result"]["prescription"]["main"]["fault"] == "not_level"
    assert f"runs/{run.pk}/picture-1.jpg" in bag.namelist()


def test_a_rider_is_written_out_and_erased_by_command(run, rider, tmp_path, capsys, monkeypatch):
    call_command("rider_data", "export", str(rider.pk), "--to", str(tmp_path / "wren.zip"))
    assert "rider.json" in zipfile.ZipFile(tmp_path / "wren.zip").namelist()
    monkeypatch.setattr("builtins.input", lambda _: "Wrong")
    with pytest.raises(Exception, match="nothing was erased"):
        call_command("rider_data", "erase", str(rider.pk))
    call_command("rider_data", "erase", str(rider.pk), "--yes")
    assert not Rider.objects.exists()


def test_consent_that_is_withdrawn_closes_the_link_and_who_gave_it_is_kept(client, run, rider):
    client.patch(
        f"/api/riders/{rider.pk}",
        {"born": timezone.now().year - 12, "guardian_consent": True},
        format="json",
    )
    token = shared(client, run)
    for path in (f"/api/shared/{token}", f"/api/shared/{token}/pictures/0"):
        assert client.get(path).status_code == 200
    told = client.patch(
        f"/api/riders/{rider.pk}", {"guardian_consent": False}, format="json"
    ).json()
    for path in (f"/api/shared/{token}", f"/api/shared/{token}/pictures/0"):
        assert client.get(path).status_code == 404
    assert [(c["given"], c["by"]) for c in told["consents"]] == [(True, "ada"), (False, "ada")]
    # It stays closed when consent comes again: a new link is made on purpose.
    client.patch(f"/api/riders/{rider.pk}", {"guardian_consent": True}, format="json")
    assert client.get(f"/api/shared/{token}").status_code == 404


def test_a_link_closes_at_its_next_reading_whatever_changed_the_row(client, run, rider):
    token = shared(client, run)
    Rider.objects.update(born=timezone.now().year - 12)
    assert client.get(f"/api/shared/{token}").status_code == 404
    assert Share.objects.get().withdrawn is False


def test_shared_answers_are_kept_nowhere_and_found_by_no_search(client, run):
    token = shared(client, run)
    for path in (f"/api/shared/{token}", f"/api/shared/{token}/pictures/0", f"/s/{token}"):
        headers = client.get(path).headers
        assert "noindex" in headers["X-Robots-Tag"]
        assert headers["Referrer-Policy"] == "no-referrer"
    assert client.get(f"/api/shared/{token}/pictures/0").headers["Cache-Control"] == "no-store"
    assert client.get("/api/riders").headers["Cache-Control"] == "no-store"


@pytest.mark.parametrize("path", [
    "/s/a-secret-token", "/api/shared/a-secret-token/pictures/0", "/send/a-secret-token", "/api/asked/a-secret-token",
    "/sent/a-secret-token", "/api/sent/a-secret-token/clips/3", "/join/a-secret-token", "/api/invitations/a-secret-token",
    "/new-password/a-secret-token", "/api/calendar/a-secret-token.ics",
])  # fmt: skip
def test_the_token_of_a_link_is_in_no_log(path):
    said = io.StringIO()
    for as_json in (True, False):
        handler = logging.StreamHandler(said)
        told = dict(logging_of(as_json, "INFO")["formatters"]["event"])
        handler.setFormatter(told.pop("()")(**told))
        log = logging.getLogger("django.request")
        log.addHandler(handler)
        try:
            log.warning("Not Found: %s", path)
            raise ValueError(path)
        except ValueError:
            log.exception("at %s", path)
        finally:
            log.removeHandler(handler)
    assert said.getvalue().replace("\\u2026", "…").count("…") >= 6
    assert "a-secret-token" not in said.getvalue()


def test_a_clip_that_the_club_has_is_refused_with_where_it_is(client, run, rider, short_clip):
    def send(to):
        with short_clip.open("rb") as f:
            return client.post(f"/api/runs/{to.pk}/upload", {"file": f})

    first, second = (
        Run.objects.create(club=rider.club, rider=rider, view="front", level="novice")
        for _ in range(2)
    )
    assert send(first).status_code == 202
    again = send(second)
    assert (again.status_code, again.json()["run"]) == (409, first.pk)
    client.delete(f"/api/runs/{first.pk}")
    assert "removed" in send(second).json()["problem"]
