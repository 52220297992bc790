"""A guardian comes by an invitation, on a phone, and their word counts at once; riders who can are put together."""

from __future__ import annotations

import pytest
from django.utils import timezone
from playwright.sync_api import expect

from proklisis.web.riders.models import Rider
from tests.browser.conftest import Window
from tests.web.conftest import measured_run

pytestmark = pytest.mark.django_db(transaction=True)
PASSWORD = "a long ride downhill 7"


def test_a_guardian_joins_says_yes_reads_and_takes_it_back(window, measured, chromium):
    Rider.objects.filter(pk=measured.rider_id).update(born=timezone.now().year - 12)
    page = window.page
    page.goto(f"{window.base}/runs/{measured.pk}/script")
    page.get_by_role("button", name="Approve").click()
    page.get_by_text("Approved").first.wait_for()
    page.goto(f"{window.base}/riders")
    page.get_by_role("button", name="Change Bram Oldacre").click()
    page.get_by_text("Who logs in to").click()
    page.get_by_role("button", name="Invite a guardian").click()
    address = page.locator("code").inner_text()
    assert window.axe() == []

    phone = chromium.new_context(
        viewport={"width": 390, "height": 844}, is_mobile=True, has_touch=True, bypass_csp=True
    )
    theirs = Window(phone.new_page(), window.base)
    own = theirs.page
    own.goto(address)
    own.get_by_role("heading", name="The page of Bram Oldacre").wait_for()
    assert theirs.axe() == []
    own.get_by_label("Your name").fill("Orla Oldacre")
    own.get_by_label("Name for logging in").fill("orla")
    own.get_by_label("Password").fill(PASSWORD)
    own.get_by_role("button", name="Join").click()
    own.get_by_role("heading", name="Orla Oldacre").wait_for()
    own.get_by_text("not shared, ask your coach").wait_for()
    own.get_by_role("button", name="Yes: The answer is shared").click()
    own.get_by_text("Orla Oldacre (guardian, own page)").wait_for()
    own.get_by_role("button", name="Say when").click()
    own.get_by_role("button", name="Hours on Tuesday").click()
    own.get_by_role("button", name="Keep these hours").click()
    expect(own.get_by_role("button", name="Keep these hours")).to_have_count(0)
    assert Rider.objects.get(pk=measured.rider_id).free[1]
    assert theirs.axe() == []
    assert own.evaluate("document.documentElement.scrollWidth") <= 390
    own.reload()
    own.get_by_role("link", name="Read it").click()
    own.get_by_role("heading", name="Take care").wait_for()
    answer = own.url

    own.goto(f"{window.base}/riders")
    own.get_by_role("heading", name="Orla Oldacre").wait_for()
    assert own.url.endswith("/mine")
    own.get_by_role("link", name="Password and log-in").click()
    own.get_by_role("heading", name="Where you are logged in").wait_for()
    own.get_by_role("link", name="Back to your page").click()
    own.get_by_role("button", name="No: The answer is shared").click()
    own.get_by_role("button", name="Say no").click()
    own.get_by_text("· no,").wait_for()
    theirs.troubles.clear()  # the browser itself says that an answer was a 404
    own.goto(answer)
    own.get_by_text("does not work any more").wait_for()
    own.goto(f"{window.base}/mine")
    own.get_by_role("button", name="Log out").click()
    own.get_by_label("Name").fill("orla")
    own.get_by_label("Password").fill(PASSWORD)
    own.get_by_role("button", name="Log in").click()
    own.get_by_role("heading", name="Orla Oldacre").wait_for()
    assert own.url.endswith("/mine")
    phone.close()


def test_places_free_days_and_a_groups_sheet(window, measured, simulated):
    page = window.page
    sim = simulated({"not_level": 1.6}, seed=103, units=2, view="front")
    other = Rider.objects.create(club=measured.club, name="Wren Alder", born=1990, height_cm=175)
    for run in (measured, measured_run(other, sim.tracks)):
        page.goto(f"{window.base}/runs/{run.pk}/script")
        page.get_by_role("button", name="Approve").click()
        page.get_by_text("Approved").first.wait_for()
    page.goto(f"{window.base}/club")
    page.get_by_role("button", name="New place").click()
    page.get_by_label("Name").fill("Snow hall")
    page.get_by_role("button", name="Hours on Tuesday").click()
    page.get_by_role("button", name="Save").click()
    page.get_by_text("Snow hall").first.wait_for()
    for name in ("Bram Oldacre", "Wren Alder"):
        page.goto(f"{window.base}/riders")
        page.get_by_role("button", name=f"Change {name}").click()
        page.get_by_text("nobody has said when they can").click()
        page.get_by_role("button", name="Say when they can").click()
        page.get_by_role("button", name="Hours on Tuesday").click()
        page.get_by_role("button", name="Save").click()
        page.get_by_role("dialog").wait_for(state="detached")
    page.goto(f"{window.base}/groups")
    page.get_by_text("Tuesday").first.wait_for()
    expect(page.get_by_text("Bram Oldacre").first).to_be_visible()
    expect(page.get_by_text("Wren Alder").first).to_be_visible()
    assert window.axe() == []
