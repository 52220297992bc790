"""Consent by kind: said by somebody, taken back at any time, with effect at once on whatever rests on it."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone

from proklisis.web.goes.models import SessionFilm
from proklisis.web.intake.looking import let_in, make_run, note_consent
from proklisis.web.intake.models import Intake, Sent
from proklisis.web.references.models import Reference
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Film, PairFilm, Run, ToldFilm
from proklisis.web.scripts.models import Script, Share
from proklisis.web.telling.others import may_be_beside, may_be_shown
from tests.web.conftest import measured_run
from tests.web.test_runs import new_run, send

pytestmark = pytest.mark.django_db


def say(client, rider, kind: str, given: bool, person: str = "Wren, by word"):
    return client.post(
        f"/api/riders/{rider.pk}/agreed", {"kind": kind, "given": given, "person": person}, format="json"
    )  # fmt: skip


@pytest.fixture
def link(run) -> Share:
    script = Script.objects.get_or_create(run=run)[0]
    return Share.objects.create(
        script=script, token="a" * 32, expires=timezone.now() + timedelta(days=5)
    )


@pytest.fixture
def other(rider, simulated) -> Run:
    friend = Rider.objects.create(club=rider.club, name="Rook", number=8, born=1991)
    return measured_run(friend, simulated({}, seed=103, units=2, view="front").tracks)


def test_each_kind_is_said_for_itself_and_every_word_is_kept(client, rider):
    assert client.get(f"/api/riders/{rider.pk}").json()["agreed"] == {}
    assert say(client, rider, "group", True).json()["agreed"] == {"group": True}
    told = say(client, rider, "group", False, "their mother, on the phone").json()
    assert told["agreed"] == {"group": False}
    assert [(c["kind"], c["given"], c["person"], c["by"]) for c in told["consents"]] == [
        ("group", True, "Wren, by word", "ada"), ("group", False, "their mother, on the phone", "ada"),
    ]  # fmt: skip
    assert say(client, rider, "group", True, "  ").status_code == 400
    assert say(client, rider, "all", True).status_code == 400


def test_a_grown_up_who_says_no_is_shared_no_more(client, run, link):
    assert run.rider.may_be_shared(timezone.now().year)
    say(client, run.rider, "share", False)
    link.refresh_from_db()
    assert link.withdrawn
    run.rider.refresh_from_db()
    assert not run.rider.may_be_shared(timezone.now().year)
    assert client.post(f"/api/runs/{run.pk}/script/share").status_code == 409
    # A yes that comes later does not open the old link again.
    say(client, run.rider, "share", True)
    link.refresh_from_db()
    assert link.withdrawn


def test_a_reference_is_kept_with_a_word_and_goes_with_it(client, run):
    until = (timezone.localdate() + timedelta(days=30)).isoformat()
    body = {"run": run.pk, "fault": "", "consent": "Wren, in writing", "until": until}
    assert client.post("/api/references", body, format="json").status_code == 201
    run.rider.refresh_from_db()
    assert run.rider.agreed == {"reference": True}
    assert run.rider.consents.get().person == "Wren, in writing"
    say(client, run.rider, "reference", False)
    assert not Reference.objects.exists()
    more = {**body, "others_too": True}
    assert client.post("/api/references", more, format="json").status_code == 201
    run.rider.refresh_from_db()
    assert run.rider.agreed == {"reference": True, "group": True}


def test_others_see_a_run_only_while_its_rider_agrees(client, coach, run, other):
    Reference.objects.create(
        club=coach.club, run=other, consent="Rook", until=timezone.localdate() + timedelta(days=9)
    )
    assert not may_be_beside(run, other)
    say(client, other.rider, "group", True)
    other.refresh_from_db()
    assert may_be_beside(run, Run.objects.get(pk=other.pk))
    film = ToldFilm.objects.create(run=run, burnt=True, plan={"others": {str(other.pk): [1]}})
    assert may_be_shown(film)
    say(client, other.rider, "group", False)
    assert not may_be_shown(ToldFilm.objects.get(pk=film.pk))
    # Whatever they say, a rider sees their own runs.
    assert may_be_beside(other, other)


def test_a_film_of_two_riders_needs_the_word_of_both(client, run, other):
    asked = {"a": run.pk, "b": other.pk}
    refused = client.post("/api/pair/films", asked, format="json")
    assert refused.status_code == 409 and "Wren agrees" in refused.json()["problem"]
    say(client, run.rider, "group", True)
    refused = client.post("/api/pair/films", asked, format="json")
    assert refused.status_code == 409 and "Rook agrees" in refused.json()["problem"]
    say(client, other.rider, "group", True)
    refused = client.post("/api/pair/films", asked, format="json")
    assert "agrees" not in refused.json().get("problem", "")
    both = PairFilm.objects.create(club=run.club, a=run, b=other, fps=30, halves={})
    own = PairFilm.objects.create(club=run.club, a=run, b=run, fps=30, halves={})
    say(client, other.rider, "group", False)
    left = set(PairFilm.objects.values_list("pk", flat=True))
    assert both.pk not in left and own.pk in left


def test_who_is_judged_no_more_has_nothing_out_and_sends_nothing_in(
    client, run, link, rider, short_clip
):
    Reference.objects.create(
        club=run.club, run=run, consent="Wren", until=timezone.localdate() + timedelta(days=9)
    )
    waiting = new_run(client, rider)
    busy = Run.objects.create(
        club=run.club, rider=rider, level="novice", view="front", state=Run.State.QUEUED
    )
    say(client, rider, "analyse", False, "Wren")
    link.refresh_from_db()
    busy.refresh_from_db()
    assert link.withdrawn and not Reference.objects.exists()
    assert busy.state == Run.State.CANCELLED
    sent = send(client, waiting, short_clip.read_bytes())
    assert sent.status_code == 409 and "withdrawn" in sent.json()["problem"]
    Run.objects.filter(pk=run.pk).update(state=Run.State.FAILED)
    again = client.post(f"/api/runs/{run.pk}/retry")
    assert again.status_code == 409 and "withdrawn" in again.json()["problem"]
    body = {"run": run.pk, "consent": "x", "until": timezone.localdate().isoformat()}
    assert client.post("/api/references", body, format="json").status_code == 409
    say(client, rider, "analyse", True, "Wren")
    assert send(client, waiting, short_clip.read_bytes()).status_code == 202


def test_a_link_alone_opens_nothing_that_was_withdrawn(client, coach, rider):
    say(client, rider, "analyse", False, "their father")
    asked = Intake.objects.create(
        club=coach.club, title="x", discipline="alpine_carve", expires=timezone.now() + timedelta(days=1)
    )  # fmt: skip
    sender = asked.senders.create(name="Wren", level="novice", agreed="Wren", text="1", rider=rider)
    film = Film.objects.create(club=coach.club, name="f.mp4")
    sent = Sent.objects.create(sender=sender, name="f.mp4", film=film, state=Sent.State.HELD)
    note_consent(sender, rider, None)
    rider.refresh_from_db()
    assert rider.agreed == {"analyse": False}
    assert make_run(sent.pk) is None
    # A coach who lets them in has asked.
    assert len(let_in(sender, rider, coach.user)) == 1
    rider.refresh_from_db()
    assert rider.agreed == {"analyse": True}
    assert SessionFilm.objects.count() == 0
