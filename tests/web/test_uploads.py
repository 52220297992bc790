"""Clips sent in pieces by the tus protocol: what has arrived is kept, what cannot be a clip is refused."""

from __future__ import annotations

import base64
import errno
import io
from collections import namedtuple

import pytest
from django.utils import timezone

from proklisis.web.clips import uploading
from proklisis.web.runs.models import Run, Upload
from tests.web.conftest import client_of, new_coach
from tests.web.test_runs import NO_FILM, new_run

pytestmark = pytest.mark.django_db
TUS = {"HTTP_TUS_RESUMABLE": "1.0.0"}


def told(**values: object) -> str:
    return ",".join(f"{k} {base64.b64encode(str(v).encode()).decode()}" for k, v in values.items())


def begin(client, run: int, size: int, name: str = "clip.mp4"):
    return client.post(
        "/api/uploads", HTTP_UPLOAD_LENGTH=str(size), HTTP_UPLOAD_METADATA=told(run=run, filename=name),
        content_type="application/offset+octet-stream", **TUS,
    )  # fmt: skip


def piece(client, url: str, offset: int, data: bytes):
    return client.patch(
        url,
        data,
        content_type="application/offset+octet-stream",
        HTTP_UPLOAD_OFFSET=str(offset),
        **TUS,
    )


def test_a_clip_comes_in_pieces_and_goes_on_after_a_break(client, rider, short_clip):
    data, run = short_clip.read_bytes(), new_run(client, rider)
    made = begin(client, run, len(data))
    assert made.status_code == 201
    url, cut = made["Location"], len(data) // 3
    assert piece(client, url, 0, data[:cut])["Upload-Offset"] == str(cut)
    # The connection broke; the browser asks how far it got, and a wrong guess is refused.
    assert client.head(url, **TUS)["Upload-Offset"] == str(cut)
    assert piece(client, url, cut + 5, data[cut + 5 :]).status_code == 409
    assert Run.objects.get(pk=run).state == Run.State.WAITING
    assert piece(client, url, cut, data[cut:]).status_code == 204
    clip = Run.objects.get(pk=run).clip
    with clip.original.open("rb") as f:
        assert f.read() == data
    assert Run.objects.get(pk=run).state == Run.State.QUEUED
    assert client.head(url, **TUS).status_code == 404
    assert not list((uploading.place(Upload(pk="x")).parent).iterdir())


def test_the_same_clip_sent_twice_is_recognised(client, rider, short_clip):
    data = short_clip.read_bytes()
    for status in (204, 400):
        url = begin(client, new_run(client, rider), len(data))["Location"]
        answer = piece(client, url, 0, data)
        assert answer.status_code == status
    assert "already in run" in answer.json()["problem"]
    assert not Upload.objects.exists()


def test_a_file_whose_last_piece_met_a_dead_database_becomes_the_clip_when_the_client_asks_again(
    client, rider, short_clip
):
    data, run = short_clip.read_bytes(), new_run(client, rider)
    url = begin(client, run, len(data))["Location"]
    # All bytes are on the disk; the request ended before they were made the run's clip.
    uploading.append(Upload.objects.get(), 0, io.BytesIO(data), len(data))
    assert Run.objects.get(pk=run).state == Run.State.WAITING
    assert client.head(url, **TUS)["Upload-Offset"] == str(len(data))
    assert Run.objects.get(pk=run).state == Run.State.QUEUED
    assert Run.objects.get(pk=run).clip.size == len(data)


@pytest.mark.parametrize(
    ("name", "size", "words"),
    [
        ("clip.exe", 10, "not a video file"),
        ("clip.mp4", 0, "empty"),
        ("clip.mkv", 10**13, "larger than"),
    ],
)
def test_name_and_size_are_checked_before_anything_is_sent(client, rider, name, size, words):
    answer = begin(client, new_run(client, rider), size, name)
    assert answer.status_code == 400
    assert words in answer.json()["problem"]


def test_the_first_bytes_tell_what_it_is_before_the_rest_is_sent(client, rider):
    url = begin(client, new_run(client, rider), 10**8)["Location"]
    answer = piece(client, url, 0, b"PK\x03\x04" + bytes(1000))
    assert answer.status_code == 400
    assert "ZIP archive" in answer.json()["problem"]
    assert client.head(url, **TUS).status_code == 404


def test_a_full_disk_is_told_and_what_came_is_kept(client, rider, monkeypatch):
    run = new_run(client, rider)
    url = begin(client, run, 10**6)["Location"]
    piece(client, url, 0, NO_FILM)

    class Full:
        def read(self, n):
            raise OSError(errno.ENOSPC, "No space left on device")

    upload = Upload.objects.get()
    with pytest.raises(uploading.DiskFull):
        uploading.append(upload, len(NO_FILM), Full(), 500)
    assert client.head(url, **TUS)["Upload-Offset"] == str(len(NO_FILM))
    usage = namedtuple("usage", "total used free")
    monkeypatch.setattr(uploading.shutil, "disk_usage", lambda path: usage(1, 1, 1000))
    answer = begin(client, run, 10**6)
    assert answer.status_code == 507
    assert "no room" in answer.json()["problem"]


def test_uploads_of_another_club_are_not_there(client, rider):
    run = new_run(client, rider)
    url = begin(client, run, 100)["Location"]
    stranger = client_of(new_coach("Elsewhere", "zoe"))
    assert stranger.head(url, **TUS).status_code == 404
    assert begin(stranger, run, 100).status_code == 404
    assert stranger.delete(url, **TUS).status_code == 404
    assert client.delete(url, **TUS).status_code == 204


def test_bad_requests_are_refused_in_words(client, rider):
    run = new_run(client, rider)
    assert client.post("/api/uploads", HTTP_UPLOAD_LENGTH="5").status_code == 412
    assert begin(client, 10**6, 5).status_code == 404
    answer = client.post(
        "/api/uploads",
        HTTP_UPLOAD_LENGTH="-5",
        HTTP_UPLOAD_METADATA=told(run=run, filename="a.mp4"),
        **TUS,
    )
    assert answer.status_code == 400
    assert "whole number" in answer.json()["problem"]
    assert client.head("/api/uploads/not-an-id", **TUS).status_code == 404
    assert client.options("/api/uploads")["Tus-Extension"].startswith("creation")


def test_what_nobody_goes_on_with_is_cleared_away(client, rider):
    run = new_run(client, rider)
    for _ in range(2):
        begin(client, run, 100)
    old = Upload.objects.first()
    Upload.objects.filter(pk=old.pk).update(changed=timezone.now() - 2 * uploading.KEPT)
    uploading.clear_old()
    assert Upload.objects.exclude(pk=old.pk).count() == 1
    assert not uploading.place(old).exists()


def test_a_piece_that_does_not_say_how_long_it_is_is_refused_and_nothing_of_it_taken(client, rider):
    url = begin(client, new_run(client, rider), 1000)["Location"]
    answer = client.generic(
        "PATCH",
        url,
        b"",
        content_type="application/offset+octet-stream",
        HTTP_UPLOAD_OFFSET="0",
        CONTENT_LENGTH="",
        **TUS,
    )
    assert answer.status_code == 411
    assert "Content-Length" in answer.json()["problem"]
    assert client.head(url, **TUS)["Upload-Offset"] == "0"


def test_a_club_has_so_much_room_and_so_many_uploads_at_once(client, rider, settings):
    run = new_run(client, rider)
    settings.MOST_UPLOADS = 1
    assert begin(client, run, 1000).status_code == 201
    many = begin(client, run, 1000)
    assert (many.status_code, "on their way" in many.json()["problem"]) == (409, True)
    settings.MOST_UPLOADS, settings.CLUB_ROOM = 5, 1500
    full = begin(client, run, 1000)
    assert (full.status_code, "Erase runs" in full.json()["problem"]) == (507, True)


def test_a_full_disk_while_approving_is_said_and_nothing_is_approved(client, run, monkeypatch):
    from django.core.files.storage import FileSystemStorage

    def full(*_args, **_kwargs):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(FileSystemStorage, "_save", full)
    answer = client.post(f"/api/runs/{run.pk}/script/approve")
    assert answer.status_code == 507
    assert "disk is full" in answer.json()["problem"]
    assert client.get(f"/api/runs/{run.pk}/script").json()["approved_at"] is None
