"""The demo club: loaded once, one run open at once, the others for the real jobs."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import User
from django.core.management import call_command
from procrastinate.contrib.django.models import ProcrastinateJob
from rest_framework.test import APIClient

from proklisis.core.review import playbook_ids
from proklisis.footage.probe import probe
from proklisis.web.clubs.models import Club
from proklisis.web.demo.cast import ALIKE, CAST, CLIPS, COACH, SEASON
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run

pytestmark = pytest.mark.django_db


def test_the_demo_is_loaded_once_and_one_run_is_ready():
    call_command("load_demo")
    call_command("load_demo")
    assert Club.objects.count() == 1
    ready = [part for part in CAST if part.ready]
    assert Run.objects.filter(state=Run.State.READY).count() == len(ready) + len(SEASON) + len(
        ALIKE
    )
    # The queue may hold jobs of runs that other tests have left.
    ours = list(Run.objects.values_list("pk", flat=True))
    jobs = ProcrastinateJob.objects.filter(
        task_name="analyse", status="todo", args__run_id__in=ours
    )
    assert jobs.count() == len(CAST) - len(ready)
    client = APIClient()
    client.force_login(User.objects.get(username=COACH[0]))
    ready = Run.objects.get(state=Run.State.READY, rider__name="Wren Hallowell")
    bench = client.get(f"/api/runs/{ready.pk}/bench").json()
    assert len(bench["units"]) == 8
    assert bench["prescription"]["main"]["fault"] == "hip_out"
    assert client.get(f"/api/runs/{ready.pk}/video").status_code == 200


def test_the_shipped_clips_are_whole_small_and_of_different_faults():
    faults = [(part.discipline, next(iter(part.faults), None)) for part in CAST]
    assert len(set(faults)) == len(CAST)
    faults = [fault for _, fault in faults]
    assert None in faults  # one clean run
    for part in CAST:
        path = CLIPS / f"{part.key}.mp4"
        assert path.stat().st_size < 4 * 1024 * 1024
        clip = probe(path)
        assert (clip.width, clip.height) == (1280, 720)
        assert len(clip.gaps) == 0


def test_one_riders_season_has_cues_that_worked_and_one_that_did_not():
    call_command("load_demo")
    client = APIClient()
    client.force_login(User.objects.get(username=COACH[0]))
    rider = Rider.objects.get(name=SEASON[0].part.name)
    book = client.get(f"/api/riders/{rider.pk}/book").json()
    assert len(book["runs"]) == 5
    assert [g["outcome"] for g in reversed(book["prescribed"])] == ["moved", "no_change", "no_change", "moved"]  # fmt: skip
    twice = client.get(f"/api/runs/{book['runs'][3]['run']}/following").json()["following"]
    assert "no change" in twice["instead"]["says"]


@pytest.mark.django_db
def test_every_discipline_is_in_the_demo_and_shows_what_its_rider_does():
    call_command("load_demo")
    assert {part.discipline for part in CAST} == set(playbook_ids())
    client = APIClient()
    client.force_login(User.objects.get(username=COACH[0]))
    for part in CAST:
        if not part.handed_in:
            continue
        run = Run.objects.get(rider__name=part.name)
        bench = client.get(f"/api/runs/{run.pk}/bench")
        assert bench.status_code == 200, part.key
        found = bench.json()["prescription"]
        explained = {
            f
            for x in found["findings"]
            if x["fault"] == (found["main"] or {}).get("fault")
            for f in (x["fault"], *x["explains"])
        }
        assert set(part.faults) <= explained, (part.key, found["main"])
        assert client.get(f"/api/runs/{run.pk}/points").status_code == 200


def test_minors_of_the_demo_have_a_guardians_consent():
    assert all(part.guardian_consent for part in CAST if part.born > 2008)
