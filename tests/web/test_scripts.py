"""The Script: the coach's words over what was found, approval, and the page for the rider."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone
from rest_framework.test import APIClient

from proklisis.web.scripts.models import Share

pytestmark = pytest.mark.django_db


def url(run, rest: str = "") -> str:
    return f"/api/runs/{run.pk}/script{rest}"


def test_the_script_names_one_thing_with_its_chain_ladder_and_target(client, run):
    script = client.get(url(run)).json()
    p = script["prescription"]
    assert p["main"]["fault"] == "not_level"
    assert len(p["drills"][0]["steps"]) >= 3
    assert "Shoulder tilt at the belly: at most 12°" in script["targets"]
    assert "turn" in script["evidence_words"]["not_level"][0]
    assert script["titles"]["not_level"]
    assert script["approved_at"] is None


def test_cue_message_and_dropping_a_finding(client, run):
    changed = client.patch(
        url(run), {"cue": "Carry a full tray.", "message": "Well done!"}, format="json"
    ).json()
    assert changed["prescription"]["main"]["cue"] == "Carry a full tray."
    assert changed["message"] == "Well done!"
    assert (
        client.patch(url(run), {"dropped": {"not_level": "  "}}, format="json").status_code == 400
    )
    dropped = client.patch(
        url(run), {"dropped": {"not_level": "the camera was tilted"}}, format="json"
    ).json()
    main = dropped["prescription"]["main"]
    assert main is None or main["fault"] != "not_level"
    # The changed cue was written for the dropped fault and is not put on another.
    assert main is None or main["cue"] != "Carry a full tray."
    back = client.patch(url(run), {"dropped": {"not_level": None}}, format="json").json()
    assert back["prescription"]["main"]["cue"] == "Carry a full tray."


def test_nothing_leaves_unapproved(client, run):
    refused = client.post(url(run, "/share"))
    assert refused.status_code == 409
    assert "Approve" in refused.json()["problem"]


def approve(client, run) -> dict:
    answer = client.post(url(run, "/approve"))
    assert answer.status_code == 200, answer.json()
    return answer.json()


def test_approval_freezes_the_words_and_makes_pictures(client, run):
    approved = approve(client, run)
    assert approved["approved_at"]
    assert 1 <= len(approved["pictures"]) <= 3
    picture = client.get(approved["pictures"][0]["url"])
    assert b"".join(picture.streaming_content)[:3] == b"\xff\xd8\xff"
    assert "turn" in approved["pictures"][0]["caption"]
    assert client.patch(url(run), {"cue": "Other"}, format="json").status_code == 409
    seen = {"kind": "note", "fault": "spray_long", "scope": "run"}
    client.post(f"/api/runs/{run.pk}/edits", seen, format="json")
    later = client.get(url(run)).json()
    assert later["stale"] is True
    assert later["prescription"] == approved["prescription"]
    reopened = client.delete(url(run, "/approve")).json()
    assert reopened["approved_at"] is None
    assert "skid" in {f["fault"] for f in reopened["prescription"]["findings"]}


def test_the_riders_page_shows_the_approved_script_to_whoever_holds_the_link(client, run):
    approve(client, run)
    share = client.post(url(run, "/share")).json()["share"]
    assert len(share["token"]) >= 32
    anyone = APIClient()
    page = anyone.get(f"/api/shared/{share['token']}").json()
    assert page["rider"] == "Wren"
    assert page["prescription"]["main"]["cue"]
    assert anyone.get(page["pictures"][0]["url"]).status_code == 200
    assert "dropped" not in page
    assert not {"rivals", "would_be"} & page["prescription"]["main"].keys()
    assert client.delete(url(run, "/share")).status_code == 200
    gone = anyone.get(f"/api/shared/{share['token']}")
    assert gone.status_code == 404
    assert "does not work any more" in gone.json()["problem"]
    assert anyone.get(page["pictures"][0]["url"]).status_code == 404


def test_links_expire_and_reopening_ends_them(client, run):
    approve(client, run)
    token = client.post(url(run, "/share")).json()["share"]["token"]
    Share.objects.update(expires=timezone.now() - timedelta(seconds=1))
    assert APIClient().get(f"/api/shared/{token}").status_code == 404
    token = client.post(url(run, "/share")).json()["share"]["token"]
    assert APIClient().get(f"/api/shared/{token}").status_code == 200
    client.delete(url(run, "/approve"))
    assert APIClient().get(f"/api/shared/{token}").status_code == 404


@pytest.mark.parametrize("age", [12, None], ids=["twelve", "unknown"])
def test_a_minors_script_is_shared_only_with_a_guardians_consent(client, run, rider, age):
    rider.born = timezone.now().year - age if age else None
    rider.save()
    approve(client, run)
    refused = client.post(url(run, "/share"))
    assert refused.status_code == 409
    assert "guardian" in refused.json()["problem"]
    assert client.get(url(run)).json()["may_share"] is False
    rider.guardian_consent = True
    rider.save()
    assert client.post(url(run, "/share")).status_code == 200


def test_a_run_with_nothing_found_can_still_be_sent(client, rider, simulated):
    from tests.web.conftest import measured_run

    clean = measured_run(rider, simulated(view="front", seed=77).tracks)
    script = client.get(url(clean)).json()
    assert script["prescription"]["main"] is None
    assert approve(client, clean)["pictures"] == []


def test_two_changes_at_once_do_not_undo_each_other(client, run, monkeypatch):
    from proklisis.web.scripts import views

    client.get(url(run))
    own, other = views.composed, []

    def slow(found, script):
        # While the cue is being written, a message comes in by another request.
        if not other:
            other.append(True)
            type(script).objects.filter(pk=script.pk).update(message="Well done!")
        return own(found, script)

    monkeypatch.setattr(views, "composed", slow)
    assert client.patch(url(run), {"cue": "Carry a full tray."}, format="json").status_code == 200
    monkeypatch.undo()
    now = client.get(url(run)).json()
    assert (now["prescription"]["main"]["cue"], now["message"]) == (
        "Carry a full tray.",
        "Well done!",
    )


def test_the_pictures_are_offered_while_the_script_is_written(client, run):
    offered = client.get(url(run, "/offered")).json()
    assert 1 <= len(offered) <= 3
    assert all(x["image"].startswith("data:image/jpeg;base64,") and x["caption"] for x in offered)
    kept = approve(client, run)["pictures"]
    assert [x["caption"] for x in kept] == [x["caption"] for x in offered]
