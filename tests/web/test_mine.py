"""Riders and guardians on their own page: how they come there, what they see, and what their word does."""

from __future__ import annotations

import io
import zipfile
from datetime import timedelta

import icalendar
import pytest
from auditlog.models import LogEntry
from axes.models import AccessAttempt
from django.contrib.auth.models import User
from django.utils import timezone
from rest_framework.test import APIClient

from proklisis.web.clubs.models import Coach, Role
from proklisis.web.riders.models import Rider, RiderAccount, RiderInvitation
from proklisis.web.scripts.models import Share
from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db
PASSWORD = "a long ride downhill 7"
NO_WEEK: list[list[list[int]]] = [[] for _ in range(7)]


@pytest.fixture
def minor(rider) -> Rider:
    Rider.objects.filter(pk=rider.pk).update(born=timezone.now().year - 12, guardian_consent=False)
    rider.refresh_from_db()
    return rider


def invite(client, rider, kind: str) -> str:
    said = client.post(f"/api/riders/{rider.pk}/people", {"kind": kind}, format="json")
    assert said.status_code == 201, said.content
    return said.json()["invitations"][0]["path"].rpartition("/")[2]


def join(client, rider, kind: str, username: str, name: str = "Ida") -> APIClient:
    """Come by an invitation and log in, as a browser does."""
    token = invite(client, rider, kind)
    own = APIClient()
    asked = own.get(f"/api/mine/invitations/{token}").json()
    assert (asked["rider"], asked["kind"]) == (rider.name, kind)
    body = {"username": username, "name": name, "password": PASSWORD}
    assert own.post(f"/api/mine/invitations/{token}", body, format="json").status_code == 201
    assert (
        own.post(
            f"/api/mine/invitations/{token}", {**body, "username": "x"}, format="json"
        ).status_code
        == 404
    )
    who = own.post(
        "/api/session", {"username": username, "password": PASSWORD}, format="json"
    ).json()
    assert (who["logged_in"], who["coach"], who["role"], who["name"]) == (True, "", kind, name)
    return own


def mine(own: APIClient) -> dict:
    answer = own.get("/api/mine")
    assert answer.status_code == 200, answer.content
    return answer.json()["riders"][0]


def agree(own: APIClient, rider, kind: str, given: bool):
    return own.post(f"/api/mine/{rider.pk}/agreed", {"kind": kind, "given": given}, format="json")


def test_a_guardian_says_yes_for_a_minor_and_takes_it_back_with_effect_at_once(client, run, minor):
    client.post(f"/api/runs/{run.pk}/script/approve")
    refused = client.post(f"/api/runs/{run.pk}/script/share")
    assert refused.status_code == 409
    own = join(client, minor, "guardian", "ida")
    assert mine(own)["speaks"] and mine(own)["agreed"] == {}
    [answer] = own.get(f"/api/mine/{minor.pk}/answers").json()["rows"]
    assert answer["path"] is None
    said = agree(own, minor, "share", True)
    assert said.status_code == 200 and said.json()["agreed"] == {"share": True}
    word = said.json()["said"][-1]
    assert (word["given"], word["person"]) == (True, "Ida (guardian, own page)")
    [answer] = own.get(f"/api/mine/{minor.pk}/answers").json()["rows"]
    token = answer["path"].rpartition("/")[2]
    assert APIClient().get(f"/api/shared/{token}").status_code == 200
    assert agree(own, minor, "share", False).status_code == 200
    assert APIClient().get(f"/api/shared/{token}").status_code == 404
    assert own.get(f"/api/mine/{minor.pk}/answers").json()["rows"][0]["path"] is None
    # The coach sees who said it, and that it was not a coach.
    consents = client.get(f"/api/riders/{minor.pk}").json()["consents"]
    assert [(c["given"], c["by"]) for c in consents[-2:]] == [(True, "ida"), (False, "ida")]


def test_a_minor_may_say_no_and_not_yes(client, minor):
    own = join(client, minor, "rider", "wren")
    page = mine(own)
    assert not page["speaks"] and "guardian" in page["why_not"]
    refused = agree(own, minor, "group", True)
    assert refused.status_code == 403 and "guardian" in refused.json()["problem"]
    assert agree(own, minor, "analyse", False).json()["agreed"] == {"analyse": False}
    assert not Rider.objects.get(pk=minor.pk).may_be_judged
    assert own.post(f"/api/mine/{minor.pk}/erasing").status_code == 403


def test_a_guardian_of_somebody_who_grew_up_sees_and_says_nothing(client, run, minor):
    own = join(client, minor, "guardian", "ida")
    agree(own, minor, "share", True)
    Rider.objects.filter(pk=minor.pk).update(born=1990)
    page = mine(own)
    assert not page["speaks"] and "grown up" in page["why_not"]
    assert page["said"] == [] and page["free"] is None
    for answer in (
        agree(own, minor, "share", False),
        own.get(f"/api/mine/{minor.pk}/answers"),
        own.get(f"/api/mine/{minor.pk}/file"),
        own.patch(f"/api/mine/{minor.pk}", {"free": None}, format="json"),
        own.post(f"/api/mine/{minor.pk}/erasing"),
    ):
        assert answer.status_code == 403, answer.content


def test_a_rider_says_when_they_can_and_the_plan_goes_by_it(client, run, rider):
    Rider.objects.filter(pk=rider.pk).update(born=1990)
    own = join(client, rider, "rider", "wren")
    thursdays = [[] if d != 3 else [[18 * 60, 20 * 60]] for d in range(7)]
    said = own.patch(f"/api/mine/{rider.pk}", {"free": thursdays}, format="json")
    assert said.json()["free"] == thursdays
    again = client.get(f"/api/runs/{run.pk}/script").json()["retest_on"]
    assert timezone.datetime.fromisoformat(again).weekday() == 3
    wrong = own.patch(f"/api/mine/{rider.pk}", {"free": [[[100, 50]], *NO_WEEK[1:]]}, format="json")
    assert wrong.status_code == 400
    assert Rider.objects.get(pk=rider.pk).free == thursdays


def test_answers_stay_open_where_their_link_has_ended_and_not_where_it_was_withdrawn(
    client, run, rider
):
    Rider.objects.filter(pk=rider.pk).update(born=1990)
    own = join(client, rider, "rider", "wren")
    assert own.get(f"/api/mine/{rider.pk}/answers").json() == {"count": 0, "rows": []}
    client.post(f"/api/runs/{run.pk}/script/approve")

    def path():
        return own.get(f"/api/mine/{rider.pk}/answers").json()["rows"][0]["path"]

    first = path()
    assert first and path() == first
    Share.objects.update(expires=timezone.now() - timedelta(days=1))
    second = path()
    assert second and second != first
    client.delete(f"/api/runs/{run.pk}/script/share")
    assert path() is None


def test_everything_is_taken_away_as_a_file_and_erasing_is_asked_for(client, run, rider):
    Rider.objects.filter(pk=rider.pk).update(born=1990)
    own = join(client, rider, "rider", "wren")
    answer = own.get(f"/api/mine/{rider.pk}/file")
    with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as bag:
        assert "rider.json" in bag.namelist()
    assert own.post(f"/api/mine/{rider.pk}/erasing").json()["asked_to_erase"]
    assert client.get(f"/api/riders/{rider.pk}").json()["asked_to_erase"]
    assert own.delete(f"/api/mine/{rider.pk}/erasing").json()["asked_to_erase"] is None
    said = set(
        LogEntry.objects.filter(actor__username="wren").values_list(
            "additional_data__what", flat=True
        )
    )
    assert {"logged in", "exported everything of"} <= said


def test_one_account_sees_several_riders_and_another_club(client, rider):
    own = join(client, rider, "rider", "wren")
    other = client_of(new_coach("Elsewhere", "eve"))
    child = Rider.objects.create(
        club=new_coach("Elsewhere", "bo").club, name="Ado", born=timezone.now().year - 9
    )
    token = invite(other, child, "guardian")
    assert APIClient().post(f"/api/mine/invitations/{token}/take").status_code in (401, 403)
    assert own.post(f"/api/mine/invitations/{token}/take").status_code == 201
    assert own.post(f"/api/mine/invitations/{token}/take").status_code == 404
    assert [(r["name"], r["club"]) for r in own.get("/api/mine").json()["riders"]] == [
        ("Ado", "Elsewhere"), (rider.name, rider.club.name),
    ]  # fmt: skip
    # A password that opens another club's rider too is nobody's to give away.
    account = RiderAccount.objects.get(rider=rider)
    assert client.post(f"/api/riders/{rider.pk}/people/{account.pk}").status_code == 409
    assert own.delete(f"/api/mine/{child.pk}").status_code == 204
    link = client.post(f"/api/riders/{rider.pk}/people/{account.pk}").json()["path"]
    assert link.startswith("/new-password/")


def test_a_way_that_is_ended_or_an_invitation_that_is_withdrawn_opens_nothing(client, rider):
    own = join(client, rider, "guardian", "ida")
    token = invite(client, rider, "rider")
    invitation = RiderInvitation.objects.get(token=token)
    client.delete(f"/api/riders/{rider.pk}/invitations/{invitation.pk}")
    assert APIClient().get(f"/api/mine/invitations/{token}").status_code == 404
    account = RiderAccount.objects.get(rider=rider)
    left = client.delete(f"/api/riders/{rider.pk}/people/{account.pk}").json()
    assert left == {"accounts": [], "invitations": []}
    assert own.get("/api/mine").status_code in (401, 403)
    again = APIClient().post(
        "/api/session", {"username": "ida", "password": PASSWORD}, format="json"
    )
    assert again.status_code == 400


def test_who_came_for_an_erased_rider_is_erased_too(client, rider, coach):
    join(client, rider, "guardian", "ida")
    wrong = {"username": "ida", "password": "something else"}
    assert APIClient().post("/api/session", wrong, format="json").status_code == 400
    assert LogEntry.objects.filter(additional_data__about="ida").exists()
    gone = client.delete(f"/api/riders/{rider.pk}?for_good=1")
    assert {"what": "log-ins", "n": 1} in gone.json()["removed"]
    assert not LogEntry.objects.filter(additional_data__about="ida").exists()
    assert not AccessAttempt.objects.filter(username="ida").exists()
    assert not User.objects.filter(username="ida").exists()
    assert User.objects.filter(pk=coach.user_id).exists()


def test_invitations_have_an_end_and_a_number(client, rider):
    token = invite(client, rider, "guardian")
    RiderInvitation.objects.update(expires=timezone.now() - timedelta(minutes=1))
    assert APIClient().get(f"/api/mine/invitations/{token}").status_code == 404
    for _ in range(12):
        invite(client, rider, "guardian")
    full = client.post(f"/api/riders/{rider.pk}/people", {"kind": "rider"}, format="json")
    assert full.status_code == 409
    assert (
        client.post(f"/api/riders/{rider.pk}/people", {"kind": "owner"}, format="json").status_code
        == 400
    )


def test_a_riders_calendar_follows_the_answers_and_ends_with_what_it_rests_on(client, run, rider):
    Rider.objects.filter(pk=rider.pk).update(born=1990)
    own = join(client, rider, "rider", "wren")
    assert own.get(f"/api/mine/{rider.pk}/calendar").json() == {"path": None}
    path = own.post(f"/api/mine/{rider.pk}/calendar").json()["path"]
    program = APIClient()

    def events() -> list:
        return icalendar.Calendar.from_ical(program.get(path).content).walk("VEVENT")

    assert events() == []
    own.patch(f"/api/mine/{rider.pk}", {"free": [[[17 * 60, 19 * 60]]] * 7}, format="json")
    client.post(f"/api/runs/{run.pk}/script/approve")
    found = events()
    assert [str(e["summary"]) for e in found].count("Film again") == 1 and len(found) >= 4
    assert {e["dtstart"].dt.hour for e in found if str(e["summary"]) != "Film again"} == {17}
    newer = own.post(f"/api/mine/{rider.pk}/calendar").json()["path"]
    assert program.get(path).status_code == 404 and program.get(newer).status_code == 200
    agree(own, rider, "share", False)
    assert program.get(newer).status_code == 404
    agree(own, rider, "share", True)
    assert program.get(newer).status_code == 200
    own.delete(f"/api/mine/{rider.pk}")
    assert program.get(newer).status_code == 404


def test_a_coach_who_is_a_guardian_elsewhere_keeps_that_and_their_password(client, coach):
    Coach.objects.filter(pk=coach.pk).update(role=Role.OWNER)
    owner, both = client_of(coach), new_coach(coach.club.name, "ben")
    other = client_of(new_coach("Elsewhere", "eve"))
    child = Rider.objects.create(
        club=new_coach("Elsewhere", "bo").club, name="Ado", born=timezone.now().year - 9
    )
    own = client_of(both)
    assert (
        own.post(f"/api/mine/invitations/{invite(other, child, 'guardian')}/take").status_code
        == 201
    )
    # A link for a password would open another club's rider.
    assert owner.post(f"/api/club/members/{both.pk}/new-password").status_code == 409
    owner.patch(f"/api/club/members/{both.pk}", {"left": True}, format="json")
    again = APIClient()
    again.force_login(User.objects.get(pk=both.user_id))
    assert User.objects.get(pk=both.user_id).is_active
    assert [r["name"] for r in again.get("/api/mine").json()["riders"]] == ["Ado"]
    assert again.get("/api/riders").status_code in (401, 403)
