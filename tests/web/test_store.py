"""Clips on a store of objects (S3's protocol, by a stand-in of moto): several web servers, no disk between them."""

from __future__ import annotations

import io
import urllib.request
from datetime import timedelta
from urllib.parse import unquote, urlsplit

import boto3
import pytest
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from moto.server import ThreadedMotoServer
from storages.backends.s3 import S3File

from proklisis.footage.probe import probe
from proklisis.web.analysis import work
from proklisis.web.analysis.work import Reporter
from proklisis.web.clips import arriving, uploading
from proklisis.web.clips.removing import erase, strays, sweep
from proklisis.web.riders.keeping import export
from proklisis.web.runs.models import Run, Upload, UploadPart
from proklisis.web.stored import on_disk
from tests.web.test_runs import new_run, send
from tests.web.test_uploads import TUS, begin, piece

pytestmark = pytest.mark.django_db


@pytest.fixture(scope="module")
def address():
    server = ThreadedMotoServer("127.0.0.1", 0, verbose=False)
    server.start()
    yield "http://{}:{}".format(*server.get_host_and_port())
    server.stop()


@pytest.fixture
def bucket(address, settings):
    """An empty bucket, which the server keeps its files in."""
    keys = {"aws_access_key_id": "x", "aws_secret_access_key": "y", "region_name": "eu-north-1"}
    client = boto3.resource("s3", endpoint_url=address, **keys)
    made = client.create_bucket(
        Bucket="clips", CreateBucketConfiguration={"LocationConstraint": "eu-north-1"}
    )
    options = settings.STORAGES["default"].get("OPTIONS", {})
    settings.STORAGES = {
        **settings.STORAGES,
        "default": {
            "BACKEND": "storages.backends.s3.S3Storage",
            "OPTIONS": {
                **options, "bucket_name": "clips", "endpoint_url": address, "access_key": "x", "secret_key": "y",
                "region_name": "eu-north-1", "file_overwrite": False, "default_acl": None, "addressing_style": "path",
                "signature_version": "s3v4",
            },
        },
    }  # fmt: skip
    yield made
    made.objects.all().delete()
    made.delete()


class Breaks(io.BytesIO):
    """A line that breaks once all that it holds has come."""

    def read(self, size: int | None = -1, /) -> bytes:
        if not (data := super().read(size)):
            raise ConnectionResetError
        return data


def test_a_clip_comes_in_parts_over_a_line_that_breaks_and_goes_its_way(
    bucket, client, rider, short_clip, monkeypatch, django_capture_on_commit_callbacks
):
    data, run = short_clip.read_bytes(), Run.objects.get(pk=new_run(client, rider))
    monkeypatch.setattr(arriving, "PART", 50_000)
    monkeypatch.setattr(arriving, "CHUNK", 20_000)
    url = begin(client, run.pk, len(data))["Location"]
    upload = Upload.objects.get()
    with pytest.raises(ConnectionResetError):
        uploading.append(upload, 0, Breaks(data[:70_000]), len(data))
    assert client.head(url, **TUS)["Upload-Offset"] == "70000"
    assert [p.size for p in upload.parts.order_by("offset")] == [50_000, 20_000]
    # Another web server goes on with it: nothing of it lies on a disk of the first.
    assert not uploading.place(upload).exists()
    assert piece(client, url, 60_000, data[60_000:]).status_code == 409
    with django_capture_on_commit_callbacks(execute=True):
        assert piece(client, url, 70_000, data[70_000:]).status_code == 204
    run = Run.objects.get(pk=run.pk)
    assert run.state == Run.State.QUEUED
    assert not Upload.objects.exists() and not UploadPart.objects.exists()
    assert [o.key for o in bucket.objects.all()] == [run.clip.original.name]

    reporter = Reporter(run.pk, run.attempt)
    work._look(run.clip, reporter)
    assert run.clip.frames == len(probe(short_clip).t)
    work._copy(run.clip, reporter)
    out = io.BytesIO()
    export(rider, out)
    with on_disk(run.clip.original) as path:
        assert path.read_bytes() == data
    monkeypatch.setattr("proklisis.web.clips.removing.STRAY_AFTER", timedelta(0))
    stray = default_storage.save("arriving/9/0", ContentFile(b"x"))
    assert strays() == [stray] and sweep() == 1
    with django_capture_on_commit_callbacks(execute=True):
        erase(run)
    assert list(bucket.objects.all()) == []


def test_two_servers_that_write_the_same_part_keep_one(bucket, client, rider, short_clip):
    data = short_clip.read_bytes()
    begin(client, new_run(client, rider), len(data))
    upload = Upload.objects.get()

    class AnotherWritesMeanwhile(io.BytesIO):
        asked = False

        def read(self, size: int | None = -1, /) -> bytes:
            if not self.asked:
                self.asked = True
                uploading.append(upload, 0, io.BytesIO(data), 1000)
            return super().read(size)

    with pytest.raises(arriving.Busy):
        uploading.append(upload, 0, AnotherWritesMeanwhile(data), 2000)
    assert uploading.received(upload) == 1000
    assert len(list(bucket.objects.all())) == 1


def test_what_is_no_film_is_told_by_its_first_bytes(
    bucket, client, rider, django_capture_on_commit_callbacks
):
    data = b"This is a letter and no film at all. " * 30
    url = begin(client, new_run(client, rider), len(data))["Location"]
    with django_capture_on_commit_callbacks(execute=True):
        assert piece(client, url, 0, data[:30]).status_code == 204
        assert piece(client, url, 30, data[30:200]).status_code == 400
        assert client.delete(url, **TUS).status_code in (204, 404)
    assert list(bucket.objects.all()) == []


def sent_clip(client, rider, short_clip) -> Run:
    run = Run.objects.get(pk=new_run(client, rider))
    assert send(client, run.pk, short_clip.read_bytes()).status_code == 202
    run = Run.objects.get(pk=run.pk)
    reporter = Reporter(run.pk, run.attempt)
    work._look(run.clip, reporter)
    work._copy(run.clip, reporter)
    return run


def test_a_browser_gets_no_more_than_it_asks_for(bucket, client, rider, short_clip, monkeypatch):
    run = sent_clip(client, rider, short_clip)
    with on_disk(run.clip.working) as path:
        data = path.read_bytes()
    asked, whole = [], []
    monkeypatch.setattr(S3File, "file", property(lambda f: whole.append(f)))
    for said, part in (("bytes=10-99", data[10:100]), ("bytes=-50", data[-50:]), ("", data)):
        headers = {"Range": said} if said else {}
        video = client.get(f"/api/runs/{run.pk}/video", headers=headers)
        assert b"".join(video.streaming_content) == part
        asked.append(video.status_code)
    assert asked == [206, 206, 200] and not whole


def test_a_proxy_is_told_where_a_film_lies_and_we_send_nothing(
    bucket, client, rider, short_clip, settings, address
):
    run = sent_clip(client, rider, short_clip)
    settings.ACCEL = True
    video = client.get(f"/api/runs/{run.pk}/video")
    assert video.status_code == 200 and video.content == b""
    assert video["Cache-Control"] == "private, max-age=86400, immutable"
    inside = video["X-Accel-Redirect"]
    assert inside.startswith("/store/clips/working/") and "X-Amz-Expires=300" in inside
    # What the proxy would fetch is the film, by a link that is signed.
    with (
        on_disk(run.clip.working) as path,
        urllib.request.urlopen(address + inside.removeprefix("/store")) as got,
    ):
        assert got.read() == path.read_bytes()


def test_from_a_disk_a_proxy_is_told_a_place_that_no_browser_reaches(client, run, settings):
    settings.ACCEL = True
    video = client.get(f"/api/runs/{run.pk}/video")
    assert video["X-Accel-Redirect"] == f"/kept/{run.clip.working.name}"
    assert unquote(urlsplit(video["X-Accel-Redirect"]).path).startswith("/kept/working/")
    # A page of that name is no file.
    assert "video" not in client.get(f"/kept/{run.clip.working.name}")["Content-Type"]
