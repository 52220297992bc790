"""Films are kept as long as the club says: what goes, what stays, and what says so."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.core.files.storage import default_storage
from django.test import TestCase
from django.utils import timezone

from proklisis.web.analysis.reviewing import refresh
from proklisis.web.clips.letting_go import let_films_go
from proklisis.web.clubs.models import Club, Coach, Role
from proklisis.web.references.models import Reference
from proklisis.web.runs.models import Run
from tests.web.conftest import client_of

pytestmark = pytest.mark.django_db


@pytest.fixture
def owner(coach):
    """What an owner's browser sends."""
    Coach.objects.filter(pk=coach.pk).update(role=Role.OWNER)
    return client_of(coach)


def go() -> int:
    with TestCase.captureOnCommitCallbacks(execute=True):
        return let_films_go()


def test_films_go_in_their_time_and_what_was_measured_stays(owner, run):
    owner.post(f"/api/runs/{run.pk}/script/approve")
    owner.get(f"/api/runs/{run.pk}/portrait")
    run.clip.refresh_from_db()
    kept = [f.name for f in (run.clip.working, run.clip.portrait) if f]
    assert kept and all(default_storage.exists(n) for n in kept)
    bench = owner.get(f"/api/runs/{run.pk}/bench").json()
    Run.objects.filter(pk=run.pk).update(added=timezone.now() - timedelta(days=100))
    assert go() == 0  # nobody has said so
    assert owner.get("/api/club/films", {"days": 90}).json() == {"count": 1}
    assert owner.get("/api/club/films", {"days": 120}).json() == {"count": 0}
    said = owner.patch("/api/club/settings", {"keeps_films_days": 90}, format="json")
    assert said.json()["keeps_films_days"] == 90
    assert (go(), go()) == (1, 0)
    assert not any(default_storage.exists(n) for n in kept)
    now = owner.get(f"/api/runs/{run.pk}/bench").json()
    assert (now["units"], now["readings"]) == (bench["units"], bench["readings"])
    assert now["run"]["clip"]["film_gone_at"] and not now["run"]["clip"]["playable"]
    gone = owner.get(f"/api/runs/{run.pk}/video")
    assert gone.status_code == 404 and "let go of" in gone.json()["problem"]
    assert owner.get(f"/api/runs/{run.pk}/script").json()["approved_at"]
    # It can be judged again without its film, and nobody can be followed on it.
    assert (
        owner.patch(f"/api/runs/{run.pk}", {"level": "advanced"}, format="json").status_code == 200
    )
    mark = {"mark": {"frame": 1, "head": [10, 10], "feet": [10, 60]}}
    refused = owner.post(f"/api/runs/{run.pk}/person", mark, format="json")
    assert refused.status_code == 409 and "let go of" in refused.json()["problem"]


def test_references_and_what_is_worked_on_keep_theirs(owner, run):
    Club.objects.update(keeps_films_days=30)
    Run.objects.filter(pk=run.pk).update(added=timezone.now() - timedelta(days=31))
    held = Reference.objects.create(club=run.club, run=run, consent="x", until=timezone.localdate())
    assert go() == 0
    held.delete()
    Run.objects.filter(pk=run.pk).update(state="working")
    assert go() == 0
    Run.objects.filter(pk=run.pk).update(state="ready")
    assert go() == 1


@pytest.mark.parametrize("days", [0, -1, 5, 99999, "x"])
def test_a_span_that_cannot_be_is_refused(owner, run, days):
    assert (
        owner.patch("/api/club/settings", {"keeps_films_days": days}, format="json").status_code
        == 400
    )


def test_a_run_that_was_judged_by_eye_is_judged_again_without_its_film(owner, run):
    run.track_sets.all().delete()
    owner.post(
        f"/api/runs/{run.pk}/edits",
        {"kind": "note", "fault": "not_level", "scope": "run"},
        format="json",
    )
    Club.objects.update(keeps_films_days=30)
    Run.objects.filter(pk=run.pk).update(added=timezone.now() - timedelta(days=31))
    assert go() == 1
    refresh(Run.objects.get(pk=run.pk))
    now = owner.get(f"/api/runs/{run.pk}/bench")
    assert now.status_code == 200 and now.json()["prescription"]["main"]["fault"] == "not_level"
