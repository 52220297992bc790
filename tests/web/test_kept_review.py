"""A review is kept beside its result: what reads it does not work the run out again."""

from __future__ import annotations

import numpy as np
import pytest
from django.core.files.storage import default_storage
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import TestCase

from proklisis.core.errors import InputError
from proklisis.core.review import review
from proklisis.simulate.run import simulate
from proklisis.web.analysis import reviewing
from proklisis.web.analysis.kept import pack_review, unpack_review
from proklisis.web.analysis.reviewing import refresh, reviewed
from proklisis.web.runs.models import KeptReview, Run


@pytest.mark.parametrize(
    ("discipline", "view"), [("alpine_carve", "front"), ("figure_jump", "side_right")]
)
def test_a_review_comes_back_as_it_was(discipline, view):
    sim = simulate(discipline, {}, units=3, seed=3, view=view)
    tracks = sim.with_depths() if view == "front" else sim.tracks
    done = review(tracks.with_facts(sure=("view", "rate", "front_foot")), discipline)
    assert (done.strain is not None) == (view == "front")
    back = unpack_review(pack_review(done))
    for what in (
        "units",
        "boundaries",
        "readings",
        "refusals",
        "notes",
        "fallen",
        "rate_sure",
        "level_by_ride",
        "off_line_deg",
        "strain",
    ):
        assert getattr(back, what) == getattr(done, what), what
    np.testing.assert_array_equal(back.signal.values, done.signal.values)
    np.testing.assert_allclose(back.tracks.xy, done.tracks.xy, atol=1e-3)
    assert back.traces.keys() == done.traces.keys()
    for key, series in done.traces.items():
        np.testing.assert_allclose(back.traces[key].value, series.value, rtol=1e-5, atol=1e-5)
        np.testing.assert_allclose(back.traces[key].u, series.u, rtol=1e-5)


def test_traces_questions_and_pictures_read_what_is_kept(client, run, monkeypatch):
    client.get(f"/api/runs/{run.pk}/bench")
    monkeypatch.setattr(reviewing, "review", lambda *_, **__: pytest.fail("worked out again"))
    trace = client.get(f"/api/runs/{run.pk}/trace?measure=edge&limb=outside")
    assert trace.status_code in (200, 404)
    assert client.get(f"/api/runs/{run.pk}/trace?measure=lean").status_code == 200
    assert client.get(f"/api/runs/{run.pk}/questions").json()
    assert client.get(f"/api/runs/{run.pk}/script/offered").json()


def test_a_result_of_before_is_worked_out_once_and_kept(client, run, monkeypatch):
    KeptReview.objects.all().delete()
    first = client.get(f"/api/runs/{run.pk}/trace?measure=lean").json()
    assert KeptReview.objects.filter(result__run=run).count() == 1
    monkeypatch.setattr(reviewing, "review", lambda *_, **__: pytest.fail("worked out again"))
    assert client.get(f"/api/runs/{run.pk}/trace?measure=lean").json() == first


def test_a_result_of_before_that_cannot_be_worked_out_says_why(client, run, monkeypatch):
    KeptReview.objects.all().delete()

    def broken(*_, **__):
        raise InputError("the view is upside down", "clip view", "turn it round")

    monkeypatch.setattr(reviewing, "review", broken)
    refused = client.get(f"/api/runs/{run.pk}/trace?measure=lean")
    assert refused.status_code == 409 and "upside down" in refused.json()["problem"]


@pytest.mark.django_db
def test_tracks_and_reviews_lie_in_the_store_and_an_old_row_still_reads_the_newest(client, run):
    old = KeptReview.objects.get(result__run=run)
    assert default_storage.exists(old.file.name) and default_storage.exists(run.tracks.file.name)
    with TestCase.captureOnCommitCallbacks(execute=True):
        refresh(run)
    new = KeptReview.objects.get(result__run=run)
    assert new.file.name != old.file.name
    # The old file is cleared away; whoever loaded the row before reads what stands now.
    default_storage.delete(old.file.name)
    assert old.data == new.data


@pytest.mark.django_db
def test_a_review_that_is_gone_is_worked_out_again(client, run):
    kept = KeptReview.objects.get(result__run=run)
    default_storage.delete(kept.file.name)
    assert len(reviewed(run).units) == len(run.result.bench["units"])
    assert default_storage.exists(KeptReview.objects.get(result__run=run).file.name)


@pytest.mark.django_db(transaction=True)
def test_an_upgrade_moves_tracks_to_the_store_and_a_roll_back_brings_them_home(run):
    before = bytes(run.tracks.data), bytes(KeptReview.objects.get(result__run=run).data)
    executor = MigrationExecutor(connection)
    newest = [n for n in executor.loader.graph.leaf_nodes() if n[0] == "runs"]
    try:
        executor.migrate([("runs", "0024_presses")])
        old = executor.loader.project_state([("runs", "0024_presses")]).apps
        rows = (
            old.get_model("runs", "TrackSet").objects.get(),
            old.get_model("runs", "KeptReview").objects.get(),
        )
        assert tuple(bytes(r.data) for r in rows) == before
    finally:
        executor = MigrationExecutor(connection)
        executor.migrate(newest)
    assert bytes(Run.objects.get(pk=run.pk).tracks.data) == before[0]
    assert bytes(KeptReview.objects.get(result__run=run).data) == before[1]
