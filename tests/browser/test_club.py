"""A club's people in the browser: one is invited, joins, sets up a second factor; an owner sees who did what."""

from __future__ import annotations

import re

import pyotp
import pytest
from playwright.sync_api import expect

from proklisis.web.clubs.models import Coach, Role
from tests.browser.conftest import Window

pytestmark = pytest.mark.django_db(transaction=True)


def test_somebody_is_invited_joins_and_is_asked_for_a_code(window, measured, chromium):
    Coach.objects.update(role=Role.OWNER)
    page = window.page
    page.get_by_role("link", name="Lanternfell").click()
    page.get_by_label("Role of whom you invite").select_option("helper")
    page.get_by_role("button", name="Make a link").click()
    link = page.locator("code", has_text="/join/").inner_text()
    assert window.axe() == []

    context = chromium.new_context(viewport={"width": 390, "height": 844})
    theirs = Window(context.new_page(), window.base)
    new = theirs.page
    new.goto(link)
    expect(new.get_by_text("invites you as a helper")).to_be_visible()
    assert theirs.axe() == []
    new.get_by_label("Your name").fill("Cleo Marsh")
    new.get_by_label("Name for logging in").fill("cleo")
    new.get_by_label("Password").fill("quiet-river-stone")
    new.get_by_role("button", name="Join").click()
    new.get_by_role("link", name="Log in").click()

    def log_in(code: str = "") -> None:
        new.get_by_label("Name").fill("cleo")
        new.get_by_label("Password").fill("quiet-river-stone")
        new.get_by_role("button", name="Log in").click()
        if code:
            new.get_by_label("Code").fill(code)
            new.get_by_role("button", name="Log in").click()
        expect(new.get_by_role("heading", name="Desk")).to_be_visible()

    log_in()
    new.goto(f"{window.base}/account")
    new.get_by_role("button", name="Set it up").click()
    new.get_by_label("Your password, once more").fill("quiet-river-stone")
    new.get_by_role("button", name="Go on").click()
    secret = new.locator("code").inner_text()
    expect(new.get_by_alt_text("The secret for your authenticator")).to_be_visible()
    assert theirs.axe() == []
    new.get_by_label("The code that it shows now").fill(pyotp.TOTP(secret).now())
    new.get_by_role("button", name="Turn it on").click()
    expect(new.get_by_role("button", name="I have them")).to_be_visible()
    recovery = new.locator("section section li").first.inner_text()
    new.get_by_role("button", name="I have them").click()
    new.get_by_role("button", name="Log out").click()
    log_in(recovery)
    # A helper is told, and not just refused.
    new.goto(f"{window.base}/runs/{measured.pk}/script")
    new.get_by_role("button", name="Approve").click()
    expect(new.get_by_role("alert")).to_contain_text("You are here as a helper")
    context.close()

    page.reload()
    expect(page.get_by_text("cleo · second factor")).to_be_visible()
    expect(
        page.get_by_role("listitem").filter(has_text=re.compile("Cleo Marsh logged in"))
    ).to_have_count(2)
    page.get_by_role("button", name="Take out").click()
    page.get_by_role("dialog").get_by_role("button", name="Take out").click()
    expect(page.get_by_role("button", name="Let in again")).to_be_visible()
    assert window.axe() == []


def test_the_clubs_playbook_shows_what_it_changes_before_it_is_switched_on(window, measured):
    Coach.objects.update(role=Role.OWNER)
    page = window.page
    page.goto(f"{window.base}/club/playbook")
    page.locator("summary", has_text="The inside shoulder drops").click()
    row = page.locator("details[open]")
    row.get_by_label("Called").fill("A crooked tray")
    row.get_by_label(re.compile("Shoulder tilt.*: to")).fill("60")
    # What is typed is still there after the page is loaded again.
    page.reload()
    page.get_by_text("A crooked tray").first.wait_for()
    page.get_by_role("button", name="Keep", exact=True).click()
    assert page.get_by_role("button", name="Switch it on").count() == 0
    page.get_by_role("button", name="Look through 1 judged run").click()
    page.get_by_text("1 of 1 runs get another main thing").wait_for()
    assert window.axe() == []
    page.get_by_role("button", name="Switch it on").click()
    page.get_by_text("Runs are judged by the club’s own playbook").wait_for()
    page.goto(f"{window.base}/runs/{measured.pk}")
    expect(page.get_by_text("The inside shoulder drops")).to_have_count(0)
    page.goto(f"{window.base}/club/playbook")
    page.get_by_role("button", name="Switch off").click()
    page.get_by_role("dialog").get_by_role("button", name="Switch off").click()
    page.get_by_text("Runs are judged by the playbook as it is").wait_for()
