"""One file for several riders and runs, and what a new run is guessed to be."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import pytest
from django.core.files import File

from proklisis.web.clips import removing, sharing
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Film, Run
from tests.web.conftest import client_of, new_coach, work_off

pytestmark = [pytest.mark.django_db, pytest.mark.slow]


@pytest.fixture
def filmed(run, short_clip) -> Run:
    with short_clip.open("rb") as f:
        run.clip.original.save("run.mp4", File(f), save=True)
    return run


@pytest.fixture
def other(coach) -> Run:
    bram = Rider.objects.create(club=coach.club, name="Bram", number=23, born=1979)
    return Run.objects.create(club=coach.club, rider=bram, level="advanced")


def kept(settings) -> list[Path]:
    return sorted(p for p in (Path(settings.MEDIA_ROOT) / "originals").rglob("*") if p.is_file())


def test_a_clip_serves_another_riders_run_and_is_kept_once(
    client, filmed, other, settings, django_capture_on_commit_callbacks
):
    assert len(kept(settings)) == 1
    answer = client.post(f"/api/runs/{other.pk}/same_clip", {"run": filmed.pk}, format="json")
    assert answer.status_code == 202, answer.json()
    work_off()
    done = client.get(f"/api/runs/{other.pk}").json()
    assert done["state"] == "ready", done["problem"]
    # Nobody said from where: the picture showed it.
    shown = client.get(f"/api/runs/{other.pk}/bench").json()
    assert shown["run"]["view"] == "" and shown["view"] == "front"
    assert any(n.startswith("Nobody said from where") for n in shown["notes"])
    assert len(kept(settings)) == 1 and removing.strays() == []
    with django_capture_on_commit_callbacks(execute=True):
        removing.erase(Run.objects.get(pk=filmed.pk))
    assert len(kept(settings)) == 1
    with django_capture_on_commit_callbacks(execute=True):
        removing.erase(Run.objects.get(pk=other.pk))
    assert kept(settings) == [] and not Film.objects.exists()


def test_a_run_of_a_part_of_a_film_has_only_that_part(client, filmed, other, settings):
    film = sharing.as_film(filmed.clip)
    sharing.use(film, other, 0.5, 2.5)
    work_off()
    shown = client.get(f"/api/runs/{other.pk}/bench").json()
    assert shown["t"][0] == 0.0 and shown["t"][-1] == pytest.approx(2.0, abs=0.03)
    # Another rider's film does not leave with this one's data.
    bag = zipfile.ZipFile(
        io.BytesIO(b"".join(client.get(f"/api/riders/{other.rider_id}/export").streaming_content))
    )
    video = next(i for i in bag.infolist() if i.filename.endswith("run.mp4"))
    copy = Run.objects.get(pk=other.pk).clip.working
    assert video.file_size == copy.size
    assert client.get(f"/api/runs/{filmed.pk}/bench").status_code == 200


def test_a_clip_of_another_club_or_of_nobody_is_not_used(client, filmed, other):
    stranger = client_of(new_coach("Other", "eve"))
    assert (
        stranger.post(
            f"/api/runs/{other.pk}/same_clip", {"run": filmed.pk}, format="json"
        ).status_code
        == 404
    )
    assert (
        client.post(f"/api/runs/{other.pk}/same_clip", {"run": 99999}, format="json").status_code
        == 404
    )
    assert (
        client.post(f"/api/runs/{other.pk}/same_clip", {"run": other.pk}, format="json").status_code
        == 409
    )
    assert (
        client.post(
            f"/api/runs/{filmed.pk}/same_clip", {"run": filmed.pk}, format="json"
        ).status_code
        == 409
    )


def test_a_new_run_is_guessed_from_the_riders_last_else_from_the_clubs(client, other, rider):
    first = client.get(f"/api/riders/{rider.pk}/usual").json()
    assert (first["discipline"], first["level"], first["as_on"]) == (
        "alpine_carve",
        "intermediate",
        None,
    )
    Run.objects.create(
        club=rider.club,
        rider=rider,
        discipline="slalom_ski",
        level="novice",
        conditions={"rope_off_ft": 28.0},
        intention_text="hold the edge",
    )
    again = client.get(f"/api/riders/{rider.pk}/usual").json()
    assert (again["discipline"], again["level"]) == ("slalom_ski", "novice")
    assert (
        again["conditions"] == {"rope_off_ft": 28.0}
        and again["intention_text"] == "hold the edge"
        and again["as_on"]
    )
    # A rider without a run rides what the club rides.
    assert client.get(f"/api/riders/{other.rider_id}/usual").json()["level"] == "advanced"
    eve = client_of(new_coach("Other", "eve"))
    assert eve.get(f"/api/riders/{rider.pk}/usual").status_code == 404
