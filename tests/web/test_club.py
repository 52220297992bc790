"""A club and its people: roles, invitations, second factors, passwords, sessions, and who did what."""

from __future__ import annotations

import re
import time

import pyotp
import pytest
from allauth.mfa.models import Authenticator
from auditlog.models import LogEntry
from django.contrib.auth.models import User
from django.core import mail
from rest_framework.test import APIClient

from proklisis.web.clubs.models import Club, Coach, Invitation, Role
from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db
PASSWORD = "a-long-password-1"
ALLAUTH = "/_allauth/browser/v1"


@pytest.fixture
def owner(coach) -> APIClient:
    coach.role = Role.OWNER
    coach.save()
    return client_of(coach)


def member(role: str, name: str = "ben") -> tuple[Coach, APIClient]:
    made = new_coach("Lanternfell", name)
    made.role = role
    made.save()
    return made, client_of(made)


def log_in(name: str, password: str = PASSWORD, **more):
    client = APIClient()
    return client, client.post(
        "/api/session", {"username": name, "password": password, **more}, format="json"
    )


class TestRoles:
    def test_a_helper_looks_and_marks_but_judges_and_answers_nothing(self, run, owner):
        _, helper = member(Role.HELPER)
        assert helper.get(f"/api/runs/{run.pk}/bench").status_code == 200
        note = {"kind": "note", "fault": "hands_behind", "scope": "run"}
        assert helper.post(f"/api/runs/{run.pk}/edits", note, format="json").status_code == 200
        assert helper.post(f"/api/runs/{run.pk}/undo").status_code == 200
        word = {"kind": "choose", "fault": "not_level"}
        for answer in (
            helper.post(f"/api/runs/{run.pk}/edits", word, format="json"),
            helper.patch(f"/api/runs/{run.pk}/script", {"message": "x"}, format="json"),
            helper.post(f"/api/runs/{run.pk}/script/approve"),
            helper.post(f"/api/runs/{run.pk}/script/share"),
            helper.delete(f"/api/runs/{run.pk}"),
            helper.delete(f"/api/riders/{run.rider_id}"),
            helper.get(f"/api/riders/{run.rider_id}/export"),
            helper.patch(f"/api/riders/{run.rider_id}", {"guardian_consent": True}, format="json"),
        ):
            assert answer.status_code == 403
            assert "helper" in answer.json()["problem"]
        run.refresh_from_db()
        assert run.removed_at is None

    def test_only_an_owner_sees_to_people(self, owner, coach):
        other, second = member(Role.COACH)
        for answer in (
            second.post("/api/club/invitations", {"role": "owner"}, format="json"),
            second.patch(f"/api/club/members/{coach.pk}", {"role": "helper"}, format="json"),
            second.post(f"/api/club/members/{coach.pk}/new-password"),
            second.get("/api/club/done"),
        ):
            assert answer.status_code == 403 and "owner" in answer.json()["problem"]
        assert second.get("/api/club").json()["invitations"] == []
        said = owner.patch(
            f"/api/club/members/{other.pk}", {"role": "helper"}, format="json"
        ).json()
        assert {m["name"]: m["role"] for m in said["members"]} == {"Ada": "owner", "Ben": "helper"}

    def test_a_club_keeps_an_owner(self, owner, coach):
        for change in ({"role": "coach"}, {"left": True}):
            refused = owner.patch(f"/api/club/members/{coach.pk}", change, format="json")
            assert refused.status_code == 409 and "needs an owner" in refused.json()["problem"]
        coach.refresh_from_db()
        assert (coach.role, coach.left_at) == (Role.OWNER, None)

    def test_who_is_taken_out_is_out_at_once_and_can_come_back(self, owner, rider):
        gone, _ = member(Role.COACH)
        theirs, answer = log_in("ben")
        assert answer.status_code == 200
        assert theirs.get("/api/riders").json()["count"] == 1
        owner.patch(f"/api/club/members/{gone.pk}", {"left": True}, format="json")
        assert theirs.get("/api/riders").status_code == 403
        assert log_in("ben")[1].status_code == 400
        owner.patch(f"/api/club/members/{gone.pk}", {"left": False}, format="json")
        assert log_in("ben")[1].status_code == 200

    def test_another_clubs_people_cannot_be_touched(self, owner):
        stranger = new_coach("Elsewhere", "eve")
        assert (
            owner.patch(
                f"/api/club/members/{stranger.pk}", {"left": True}, format="json"
            ).status_code
            == 404
        )
        assert owner.post(f"/api/club/members/{stranger.pk}/new-password").status_code == 404


class TestInvitations:
    def invite(self, owner, role="coach") -> str:
        said = owner.post("/api/club/invitations", {"role": role}, format="json")
        assert said.status_code == 201
        return said.json()["invitations"][0]["path"].removeprefix("/join/")

    def join(self, token, **more):
        body = {"username": "cleo", "name": "Cleo Marsh", "password": "quiet-river-stone", **more}
        return APIClient().post(f"/api/invitations/{token}", body, format="json")

    def test_one_person_joins_in_the_role_and_once(self, owner):
        token = self.invite(owner, "helper")
        seen = APIClient().get(f"/api/invitations/{token}").json()
        assert seen == {"club": "Lanternfell", "role": "helper", "by": "Ada"}
        assert self.join(token).status_code == 201
        assert self.join(token, username="dora").status_code == 404
        assert not User.objects.filter(username="dora").exists()
        _, answer = log_in("cleo", "quiet-river-stone")
        assert (answer.json()["coach"], answer.json()["role"]) == ("Cleo Marsh", "helper")
        assert owner.get("/api/club").json()["invitations"] == []

    @pytest.mark.parametrize(
        ("password", "why"),
        [
            ("short", "12"),
            ("password1234", "common"),
            ("cleomarsh1234", "similar"),
            ("918273645546", "numeric"),
        ],
    )
    def test_weak_passwords_are_refused_with_the_reason(self, owner, password, why):
        token = self.invite(owner)
        refused = self.join(token, password=password, username="cleomarsh12")
        assert refused.status_code == 400 and why in refused.json()["fields"]["password"]
        assert self.join(token).status_code == 201  # the link is not used up by it

    def test_a_name_that_is_taken_is_refused_and_the_link_stays(self, owner):
        token = self.invite(owner)
        assert self.join(token, username="ada").status_code == 409
        assert self.join(token).status_code == 201

    def test_withdrawn_and_old_ones_do_not_work(self, owner):
        token = self.invite(owner)
        number = Invitation.objects.get().pk
        assert owner.delete(f"/api/club/invitations/{number}").json()["invitations"] == []
        assert self.join(token).status_code == 404
        other = self.invite(owner)
        Invitation.objects.filter(token=other).update(expires="2020-01-01T00:00Z")
        assert APIClient().get(f"/api/invitations/{other}").status_code == 404


class TestSecondFactor:
    def with_factor(self) -> tuple[APIClient, str]:
        client, _ = log_in("ada")
        said = client.post(f"{ALLAUTH}/auth/reauthenticate", {"password": PASSWORD}, format="json")
        assert said.status_code == 200, said.json()
        begun = client.get(f"{ALLAUTH}/account/authenticators/totp")
        assert begun.status_code == 404
        secret = begun.json()["meta"]["secret"]
        made = client.post(
            f"{ALLAUTH}/account/authenticators/totp",
            {"code": pyotp.TOTP(secret).now()},
            format="json",
        )
        assert made.status_code == 200, made.json()
        return client, secret

    def test_logging_in_then_asks_for_a_code_that_works_once(self, coach):
        _, secret = self.with_factor()
        assert secret not in str(list(Authenticator.objects.values_list("data", flat=True)))
        _, asked = log_in("ada")
        assert asked.status_code == 400 and asked.json()["needs_code"] is True
        assert log_in("ada", code="000000")[1].status_code == 400
        # The next code of the clock: the one that set it up is used.
        code = pyotp.TOTP(secret).at(time.time() + 30)
        _, right = log_in("ada", code=code)
        assert right.status_code == 200 and right.json()["second_factor"] is True
        assert log_in("ada", code=code)[1].status_code == 400

    def test_it_is_turned_off_again(self, coach):
        client, _ = self.with_factor()
        gone = client.delete(f"{ALLAUTH}/account/authenticators/totp")
        assert gone.status_code == 200, gone.json()
        assert log_in("ada")[1].status_code == 200

    def test_a_recovery_code_works_once(self, coach):
        client, _ = self.with_factor()
        codes = client.get(f"{ALLAUTH}/account/authenticators/recovery-codes").json()["data"][
            "unused_codes"
        ]
        assert len(codes) >= 5
        assert log_in("ada", code=codes[0])[1].status_code == 200
        assert log_in("ada", code=codes[0])[1].status_code == 400

    def test_wrong_codes_are_counted_like_wrong_passwords(self, coach, settings):
        settings.REST_FRAMEWORK = {**settings.REST_FRAMEWORK}
        self.with_factor()
        answers = [log_in("ada", code="000000")[1].status_code for _ in range(12)]
        assert 429 in answers

    def test_it_is_not_set_up_without_the_password_being_asked_again(self, coach):
        client, _ = log_in("ada")
        assert client.get(f"{ALLAUTH}/account/authenticators/totp").status_code in (401, 404)
        made = client.post(
            f"{ALLAUTH}/account/authenticators/totp", {"code": "123456"}, format="json"
        )
        assert made.status_code in (400, 401)


class TestPasswords:
    def test_is_changed_with_the_old_one(self, coach):
        client, _ = log_in("ada")
        wrong = {"current_password": "no", "new_password": "quiet-river-stone"}
        assert (
            client.post(f"{ALLAUTH}/account/password/change", wrong, format="json").status_code
            == 400
        )
        right = {**wrong, "current_password": PASSWORD}
        assert (
            client.post(f"{ALLAUTH}/account/password/change", right, format="json").status_code
            == 200
        )
        assert log_in("ada")[1].status_code == 400
        assert log_in("ada", "quiet-river-stone")[1].status_code == 200

    def test_a_forgotten_one_is_set_anew_by_mail(self, coach):
        coach.user.email = "ada@example.org"
        coach.user.save()
        asked = APIClient().post(
            f"{ALLAUTH}/auth/password/request", {"email": "ada@example.org"}, format="json"
        )
        assert asked.status_code == 200
        key = re.search(r"/new-password/([\w-]+)", mail.outbox[0].body)[1]
        self.set_anew(key)
        # Of an address that nobody has nothing is told, and nobody is written to.
        assert (
            APIClient()
            .post(f"{ALLAUTH}/auth/password/request", {"email": "x@example.org"}, format="json")
            .status_code
            == 200
        )
        assert len(mail.outbox) == 1

    def test_an_owner_hands_over_a_link_where_there_is_no_mail(self, owner):
        ben, _ = member(Role.COACH)
        path = owner.post(f"/api/club/members/{ben.pk}/new-password").json()["path"]
        self.set_anew(path.removeprefix("/new-password/"), "ben")
        said = [
            r for r in owner.get("/api/club/done").json()["rows"] if "new password" in r["what"]
        ]
        assert (said[0]["who"], said[0]["about"]) == ("Ada", "Ben")

    def set_anew(self, key: str, name: str = "ada"):
        body = {"key": key, "password": "quiet-river-stone"}
        done = APIClient().post(f"{ALLAUTH}/auth/password/reset", body, format="json")
        assert done.status_code in (200, 401), done.json()
        assert log_in(name, "quiet-river-stone")[1].status_code == 200
        again = APIClient().post(
            f"{ALLAUTH}/auth/password/reset",
            {**body, "password": "another-quiet-one"},
            format="json",
        )
        assert again.status_code == 400


class TestSessions:
    def test_are_seen_and_ended(self, coach):
        one, _ = log_in("ada")
        two, _ = log_in("ada")
        two.get("/api/session")
        one.get("/api/session")
        rows = one.get(f"{ALLAUTH}/auth/sessions").json()["data"]
        assert len(rows) == 2 and sum(r["is_current"] for r in rows) == 1
        others = [r["id"] for r in rows if not r["is_current"]]
        one.delete(f"{ALLAUTH}/auth/sessions", {"sessions": others}, format="json")
        assert two.get("/api/riders").status_code == 403
        assert one.get("/api/riders").status_code == 200


class TestWhoDidWhat:
    def rows(self, owner, **more):
        return owner.get("/api/club/done", more).json()["rows"]

    def test_is_kept_of_what_people_do(self, owner, run, rider):
        log_in("ada")
        log_in("ada", "wrong-password")
        owner.get(f"/api/runs/{run.pk}/bench")
        owner.get(f"/api/runs/{run.pk}/bench")
        owner.patch(f"/api/riders/{rider.pk}", {"name": "Wren Hallowell"}, format="json")
        owner.post(f"/api/runs/{run.pk}/script/approve")
        owner.post(f"/api/runs/{run.pk}/script/share")
        owner.delete(f"/api/runs/{run.pk}/script/share")
        owner.get(f"/api/riders/{rider.pk}/export")
        said = [(r["who"], r["what"]) for r in self.rows(owner)]
        for what in (
            "logged in",
            "withdrew the links of",
            "exported everything of",
            "made",
            "changed",
            "changed rider",
        ):
            assert ("Ada", what) in said, (what, said)
        assert said.count(("Ada", "opened")) == 1
        assert ("", "could not log in") in said
        renamed = next(r for r in self.rows(owner) if r["what"] == "changed rider")
        assert renamed["changes"] == ["name: Wren → Wren Hallowell"]

    def test_names_nobody_who_was_erased(self, owner, run, rider):
        owner.patch(f"/api/riders/{rider.pk}", {"name": "Wren Hallowell"}, format="json")
        owner.post(f"/api/runs/{run.pk}/script/approve")
        owner.post(f"/api/runs/{run.pk}/script/share")
        number = rider.pk
        assert owner.delete(f"/api/riders/{rider.pk}?for_good=true").status_code == 200
        rows = self.rows(owner)
        assert (rows[0]["what"], rows[0]["about"]) == ("erased for good", f"rider {number}")
        assert "Wren" not in str(rows)
        assert "Wren" not in str(list(LogEntry.objects.values()))

    def test_is_each_clubs_own(self, owner, rider):
        stranger = new_coach("Elsewhere", "eve")
        stranger.role = Role.OWNER
        stranger.save()
        owner.patch(f"/api/riders/{rider.pk}", {"name": "Wren H"}, format="json")
        assert "Wren" not in str(client_of(stranger).get("/api/club/done").json())
        assert self.rows(owner, find="wren")
        assert self.rows(owner, find="nobody at all") == []


def test_a_club_asks_all_its_people_for_a_second_factor(client, coach):
    Coach.objects.filter(pk=coach.pk).update(role=Role.OWNER)
    owner = client_of(coach)
    asks = {"asks_second_factor": True}
    refused = owner.patch("/api/club/settings", asks, format="json")
    assert refused.status_code == 409 and "your own" in refused.json()["problem"]
    coach.user.authenticator_set.create(type="totp", data={"secret": "x"})
    assert owner.patch("/api/club/settings", asks, format="json").json()["asks_second_factor"]
    assert owner.get("/api/riders").status_code == 200
    without = client_of(new_coach(coach.club.name, "ben"))
    shut = without.get("/api/riders")
    assert shut.status_code == 403 and "second factor" in shut.json()["problem"]
    assert without.get("/api/session").json()["second_factor_first"]
    # The way to one is open.
    secret = without.post(
        "/api/account/secret-picture", {"address": "otpauth://totp/x?secret=AAAA"}, format="json"
    )
    assert secret.status_code == 200
    owner.patch("/api/club/settings", {"asks_second_factor": False}, format="json")
    assert without.get("/api/riders").status_code == 200


def test_a_session_ends_in_its_time_however_much_it_is_used(client, settings):
    assert client.get("/api/riders").status_code == 200
    session = client.session
    session["began"] -= settings.SESSION_LONGEST.total_seconds() + 1
    session.save()
    assert client.get("/api/riders").status_code in (401, 403)
    assert not client.get("/api/session").json()["logged_in"]


class TestNewClub:
    SAID = {"code": "open water", "club": "Brightmere", "name": "Ilse", "username": "ilse", "password": "quiet-river-stone"}  # fmt: skip

    def make(self, **other):
        return APIClient().post("/api/new-club", {**self.SAID, **other}, format="json")

    def test_whoever_knows_the_word_makes_a_club_and_owns_it(self, settings, coach):
        settings.NEW_CLUBS = "open water"
        assert self.make().status_code == 201
        own = APIClient()
        login = {"username": "ilse", "password": "quiet-river-stone"}
        who = own.post("/api/session", login, format="json").json()
        assert (who["club"], who["role"]) == ("Brightmere", "owner")
        assert own.get("/api/riders").json()["count"] == 0
        assert (
            own.post("/api/club/invitations", {"role": "coach"}, format="json").status_code == 201
        )

    def test_a_wrong_word_a_taken_name_or_a_short_password_makes_nothing(self, settings, coach):
        settings.NEW_CLUBS = "open water"
        assert self.make(code="open sea").status_code == 403
        assert self.make(club=coach.club.name).status_code == 409
        assert self.make(username=coach.user.username).status_code == 409
        assert self.make(password="short").status_code == 400
        assert not Club.objects.filter(name="Brightmere").exists()

    def test_where_there_is_no_word_nobody_makes_one(self, settings, db):
        settings.NEW_CLUBS = ""
        assert self.make(code="").status_code == 404
        assert not Club.objects.exists()
