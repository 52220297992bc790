"""Clips and pictures are kept through Django's storage, on whatever it is made of."""

from __future__ import annotations

import io
import json
import zipfile
from datetime import timedelta
from pathlib import Path

import pytest
from django.core.files.base import ContentFile
from django.core.files.storage import InMemoryStorage, Storage, default_storage

from proklisis.footage.probe import probe
from proklisis.web.analysis import work
from proklisis.web.analysis.work import Reporter
from proklisis.web.clips.removing import strays, sweep
from proklisis.web.riders.keeping import export
from proklisis.web.runs.models import Run
from proklisis.web.stored import on_disk
from tests.web.test_runs import new_run, send


class Elsewhere(Storage):
    """Kept in memory behind the few calls that a store of objects answers."""

    def __init__(self):
        self.kept = InMemoryStorage()
        for name in ("delete", "exists", "listdir", "size", "get_modified_time"):
            setattr(self, name, getattr(self.kept, name))

    def _open(self, name, mode="rb"):
        return self.kept.open(name, mode)

    def _save(self, name, content):
        return self.kept.save(name, content)


@pytest.fixture
def nowhere_on_a_disk(settings):
    """As on a store of objects elsewhere: a name gives a stream and nothing gives a path."""
    elsewhere = {"BACKEND": "tests.web.test_storage.Elsewhere"}
    settings.STORAGES = {**settings.STORAGES, "default": elsewhere}


def test_a_clip_goes_its_way_where_no_file_has_a_path(
    nowhere_on_a_disk, client, rider, short_clip, monkeypatch
):
    run = Run.objects.get(pk=new_run(client, rider))
    assert send(client, run.pk, short_clip.read_bytes()).status_code == 202
    run = Run.objects.get(pk=run.pk)
    with pytest.raises(NotImplementedError):
        run.clip.original.path  # noqa: B018
    with on_disk(run.clip.original) as path:
        assert path.read_bytes() == short_clip.read_bytes()
    assert not path.exists()  # the copy is gone with its use

    reporter = Reporter(run.pk, run.attempt)
    work._look(run.clip, reporter)
    assert run.clip.frames == len(probe(short_clip).t)
    work._copy(run.clip, reporter)
    video = client.get(f"/api/runs/{run.pk}/video", headers={"Range": "bytes=0-99"})
    assert video.status_code == 206 and len(b"".join(video.streaming_content)) == 100

    out = io.BytesIO()
    export(rider, out)
    with zipfile.ZipFile(out) as bag:
        assert bag.read(f"runs/{run.pk}/clip.mp4") == short_clip.read_bytes()
        assert json.loads(bag.read("rider.json"))["runs"][0]["id"] == run.pk
    assert strays() == [] and sweep() == 0
    monkeypatch.setattr("proklisis.web.clips.removing.STRAY_AFTER", timedelta(0))
    stray = default_storage.save("originals/9/old.mp4", ContentFile(b"x"))
    assert strays() == [stray] and sweep() == 1 and not default_storage.exists(stray)
    assert default_storage.exists(run.clip.original.name)


def test_a_stored_file_on_a_disk_is_read_where_it_lies(run):
    with on_disk(run.clip.working) as path:
        assert path == Path(run.clip.working.path) and path.exists()
    assert path.exists()
