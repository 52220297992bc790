"""Every endpoint of the API, made from its own list: as nobody, from another club, as a helper, with ids of others.

What is open to whoever holds a link is said here by name; a new endpoint is closed until it is said to be open.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from typing import Any, NamedTuple

import pytest
from django.contrib.auth.models import User
from django.urls import get_resolver
from django.utils import timezone
from rest_framework.test import APIClient

from proklisis.web.clubs.models import Club, Coach, Invitation, Place, Role
from proklisis.web.eye.models import EyeItem
from proklisis.web.goes.models import SessionFilm
from proklisis.web.intake.models import Intake, Sender, Sent
from proklisis.web.reckoner.models import KeptReckoning
from proklisis.web.references.models import Reference
from proklisis.web.riders.models import Rider, RiderAccount, RiderInvitation, Whose
from proklisis.web.runs.models import Film, PairFilm, Recording, Run, ToldFilm, Upload
from proklisis.web.scripts.models import ClipBack, ClubText, Line, Script, Share, Tick
from proklisis.web.watching.models import Failure
from tests.web.conftest import client_of, new_coach

pytestmark = pytest.mark.django_db
WRITES = ("post", "put", "patch", "delete")
#: For whoever is there, logged in or not.
OPEN = (
    "api/session",
    "api/schema",
    "api/invitations/",
    "api/shared/",
    "api/figures/",
    "api/asked/",
    "api/sent/",
    "api/calendar/",
    "api/mine/invitations/",
    "api/new-club",
)
#: For riders and guardians, and for nobody else.
MINE = "api/mine"
#: What a helper may do besides reading.
HELPERS = {
    "api/session post", "api/session patch", "api/session delete", "api/account/secret-picture post",
    "api/runs/<run>/footage patch", "api/runs/<run>/person post", "api/uploads post", "api/uploads/<pk> patch",
    "api/uploads/<pk> delete", "api/runs/<run>/telling/angle post", "api/reckoner/<name> post",
    "api/eye/items/<item>/answer post", "api/riders post", "api/riders/named post", "api/runs post", "api/runs/<pk> patch", "api/reckonings post",
    *(f"api/runs/<pk>/{a} post" for a in (
        "answer", "by_eye", "cancel", "clips", "edits", "match", "redo", "retry", "same_clip", "tracks", "undo", "upload",
    )),
    "api/session-films post", "api/session-films/<pk> patch", "api/session-films/<pk>/goes put",
    *(f"api/session-films/<pk>/{a} post" for a in ("cancel", "judge", "retry")),
}  # fmt: skip
#: What a request needs to say so that it is looked up whose the row is.
BODIES: dict[str, dict[str, Any]] = {
    "api/runs/<run>/script/chosen": {"frame": 1, "marks": [], "caption": "x"},
    "api/runs/<pk>/clips": {"same_pass": True},
    "api/runs/<run>/script/mail": {"to": "wren@example.org"},
    "api/runs/<run>/telling": {"telling": {}, "version": 0},
    "api/runs/<run>/telling/angle": {"points": [[1, 1], [9, 9]]},
    "api/runs/<run>/telling/from": {"run": 1},
    "api/runs/<run>/telling/pair": {"b": 1, "unit": 1},
    "api/senders/<pk>/let_in": {"rider": None},
}
#: What a helper may not even read.
NOT_READ = {
    "api/riders/<pk>/export",
    "api/riders/<rider>/people",
    "api/club/done",
    "api/club/failures",
    "api/club/films",
}
#: What only an owner may do or see.
OWNERS = {
    "api/club/settings patch",
    "api/club/films get",
    "api/club/book/<discipline>/draft put", "api/club/book/<discipline>/switch post",
    "api/club/done get", "api/club/failures get", "api/club/failures/<failure> post", "api/club/failures/<failure> delete",
    "api/club/invitations post", "api/club/invitations/<invitation> delete",
    "api/club/members/<member> patch", "api/club/members/<member>/new-password post",
}  # fmt: skip


class Endpoint(NamedTuple):
    name: str
    method: str

    def path(self, ids: dict[str, Any]) -> str:
        out = self.name
        for part in out.split("/"):
            if part.startswith("<"):
                out = out.replace(
                    part, str(ids.get(f"{self.name}", {}).get(part, ids.get(part, 1)))
                )
        return f"/{out}"


def endpoints() -> Iterator[Endpoint]:
    def walk(patterns: list[Any], before: str = "") -> Iterator[tuple[str, Any]]:
        for p in patterns:
            route = before + plain(str(p.pattern))
            if hasattr(p, "url_patterns"):
                yield from walk(p.url_patterns, route)
            elif p.callback is not None:
                yield route, p.callback

    def plain(route: str) -> str:
        route = route.replace("(?P<pk>[^/.]+)", "<pk>")
        route = route.replace("^", "").replace("$", "").replace("\\.", ".")
        for kind in ("int:", "str:", "slug:"):
            route = route.replace(kind, "")
        return route

    for route, view in walk(get_resolver().url_patterns):
        cls = getattr(view, "cls", None)
        if not route.startswith("api/") or cls is None or "format" in route:
            continue
        actions = getattr(view, "actions", None)
        for m in ("get", "head", *WRITES):
            if (actions and m in actions) or (
                not actions and m in cls.http_method_names and hasattr(cls, m)
            ):
                yield Endpoint(route, m)


ALL = sorted(set(endpoints()))
CLOSED = [e for e in ALL if not e.name.startswith(OPEN)]


@pytest.fixture
def ids(run, coach, rider) -> dict[str, Any]:
    """A row of every kind in the first club, so that each path leads to something of theirs."""
    club: Club = coach.club
    script = Script.objects.get_or_create(run=run)[0]
    film = Film.objects.create(club=club, name="f.mp4")
    session = SessionFilm.objects.create(club=club, film=film, discipline="alpine_carve")
    told = ToldFilm.objects.create(run=run, burnt=True, plan={})
    pair = PairFilm.objects.create(club=club, a=run, b=run, fps=30, halves={})
    upload = Upload.objects.create(club=club, run=run, name="x.mp4", size=10)
    kept = KeptReckoning.objects.create(club=club, run=run, name="g_force", said={}, reckoning={})
    asked = Intake.objects.create(
        club=club, title="x", discipline="alpine_carve", expires=timezone.now() + timedelta(days=1)
    )
    sender = asked.senders.create(name="x", level="novice", agreed="x", text="x")
    sender.sent.create(name="x", state=Sent.State.HELD)
    return {
        "<run>": run.pk, "<rider>": rider.pk, "<pk>": run.pk, "<film>": told.pk, "<recording>": Recording.objects.create(run=run, kind="audio/webm").pk,
        "<order>": 0, "<crop>": 1, "<fault>": "not_level", "<discipline>": "alpine_carve", "<name>": "g_force",
        "<item>": 1, "<number>": 0, "<member>": coach.pk, "<invitation>": Invitation.objects.create(club=club, role="coach").pk,
        "<token>": "nobody",
        "api/places/<pk>": {"<pk>": Place.objects.create(club=club, name="x", week=[[]] * 7).pk},
        "<account>": RiderAccount.objects.create(user=User.objects.create_user("wren"), rider=rider, kind=Whose.RIDER).pk,
        "api/riders/<rider>/invitations/<invitation>": {"<invitation>": RiderInvitation.objects.create(rider=rider, kind=Whose.GUARDIAN).pk},
        "<failure>": Failure.objects.create(club=club, task="follow", given={"run_id": run.pk}).pk,
        **{f"api/riders/<pk>{r}": {"<pk>": rider.pk} for r in ("", "/restore", "/usual", "/export")},
        **{f"api/session-films/<pk>{r}": {"<pk>": session.pk} for r in ("", "/goes", "/judge", "/cancel", "/retry", "/restore", "/video", "/picture")},
        "api/uploads/<pk>": {"<pk>": upload.pk},
        "api/references/<pk>": {"<pk>": Reference.objects.create(club=club, run=run, consent="x", until=timezone.localdate()).pk},
        "api/texts/<pk>": {"<pk>": ClubText.objects.create(club=club, title="t", text="x").pk},
        "api/reckonings/<pk>": {"<pk>": kept.pk},
        "api/intakes/<pk>": {"<pk>": asked.pk}, "api/intakes/<pk>/picture": {"<pk>": asked.pk},
        **{f"api/senders/<pk>/{a}": {"<pk>": sender.pk} for a in ("let_in", "turn_away")},
        "api/pair/films/<film>": {"<film>": pair.pk}, "api/pair/films/<film>/file": {"<film>": pair.pk},
        "script": script.pk,
    }  # fmt: skip


MODELS = (Rider, Run, Script, Share, Tick, Line, ClipBack, ClubText, Film, SessionFilm, ToldFilm, PairFilm, Upload, Recording, Reference, KeptReckoning, Coach, Invitation, Intake, Sender, Sent, RiderAccount, RiderInvitation)  # fmt: skip


def everything() -> dict[str, Any]:
    return {m.__name__: list(m.objects.order_by("pk").values_list("pk", flat=True)) for m in MODELS}


def ask(client: APIClient, e: Endpoint, ids: dict[str, Any]) -> Any:
    more = {"HTTP_TUS_RESUMABLE": "1.0.0"} if "uploads" in e.name else {}
    if e.method in ("get", "head"):
        return getattr(client, e.method)(e.path(ids), **more)
    return getattr(client, e.method)(e.path(ids), BODIES.get(e.name, {}), format="json", **more)


def test_the_list_is_not_empty_and_what_is_named_here_is_there():
    names = {f"{e.name} {e.method}" for e in ALL}
    assert len(names) > 120
    assert names >= HELPERS, HELPERS - names
    assert names >= OWNERS, OWNERS - names


@pytest.mark.parametrize("role", ["nobody", "left"])
def test_who_is_not_in_a_club_gets_nowhere(ids, coach, role):
    client = APIClient()
    if role == "left":
        gone = new_coach("Lanternfell", "gone")
        client = client_of(gone)
        Coach.objects.filter(pk=gone.pk).update(left_at=timezone.now())
    before = everything()
    wrong = {
        f"{e.name} {e.method}": s
        for e in CLOSED
        if (s := ask(client, e, ids).status_code) not in (401, 403)
    }
    assert wrong == {}
    assert everything() == before


def test_from_another_club_nothing_is_there(ids):
    """Every path leads to a row of the first club: it is answered as if there were none."""
    stranger = new_coach("Elsewhere", "eve")
    stranger.role = Role.OWNER
    stranger.save()
    client, before = client_of(stranger), everything()
    of_all = {"<name>", "<discipline>", "<fault>", "<item>", "<number>"}
    wrong = {}
    for e in CLOSED:
        parts = {p for p in e.name.split("/") if p.startswith("<")}
        if not parts - of_all:
            continue
        code = ask(client, e, ids).status_code
        if e.name.startswith(MINE):
            assert code == 403, e
            continue
        # 411 to 415 and 405 are said before anything is looked up.
        if code not in (404, 405, 411, 412, 415):
            wrong[f"{e.name} {e.method}"] = code
    assert wrong == {}
    after = everything()
    assert {k: v for k, v in after.items() if v != before[k]} == {}


def test_a_helper_reads_and_marks_and_is_refused_all_else(ids):
    helper = new_coach("Lanternfell", "hal")
    helper.role = Role.HELPER
    helper.save()
    client = client_of(helper)
    for e in CLOSED:
        name = f"{e.name} {e.method}"
        if name in HELPERS or (
            not e.name.startswith(MINE) and e.method in ("get", "head") and e.name not in NOT_READ
        ):
            continue
        answer = ask(client, e, ids)
        assert answer.status_code == 403, name


def test_a_helper_is_not_refused_what_is_theirs(ids):
    helper = new_coach("Lanternfell", "hal")
    helper.role = Role.HELPER
    helper.save()
    client = client_of(helper)
    for e in CLOSED:
        name = f"{e.name} {e.method}"
        if name in HELPERS and not name.endswith("delete"):
            assert ask(client, e, ids).status_code != 403, name


def test_a_coach_is_refused_what_only_owners_may(ids):
    client = client_of(new_coach("Lanternfell", "ben"))
    for e in CLOSED:
        if f"{e.name} {e.method}" in OWNERS:
            assert ask(client, e, ids).status_code == 403, e


@pytest.mark.parametrize("kind", list(Whose))
def test_riders_and_guardians_see_their_own_page_and_nothing_else(ids, rider, kind):
    """Logged in for another rider of the same club: nothing of the club's, and nothing of this rider's."""
    user = User.objects.create_user("ysolde")
    other = Rider.objects.create(club=rider.club, name="Ysolde", born=1990)
    RiderAccount.objects.create(user=user, rider=other, kind=kind)
    client = APIClient()
    client.force_login(user)
    before, wrong = everything(), {}
    for e in CLOSED:
        code = ask(client, e, ids).status_code
        if e.name == MINE:
            assert code == 200
        elif e.name.startswith("api/account/"):
            assert code == 400  # one's own second factor is everybody's
        elif code not in ((404,) if e.name.startswith(MINE) else (401, 403)):
            wrong[f"{e.name} {e.method}"] = code
    assert wrong == {}
    assert everything() == before


def test_a_link_that_nobody_made_opens_nothing(ids):
    client = APIClient()
    for e in ALL:
        if e.name.startswith(
            ("api/shared/", "api/asked/", "api/sent/", "api/calendar/", "api/mine/invitations/")
        ):
            more = {"HTTP_TUS_RESUMABLE": "1.0.0"} if "clips" in e.name else {}
            code = getattr(client, e.method)(e.path(ids), **more).status_code
            assert code in ((401, 403) if e.name.endswith("/take") else (400, 404, 405)), e
    assert not EyeItem.objects.exists()
