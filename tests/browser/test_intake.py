"""Sending a clip by a link on a phone, as its sender and its coach see it."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone
from playwright.sync_api import expect

from proklisis.web.intake.models import Intake
from proklisis.web.runs.models import Run
from tests.web.conftest import work_off

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_clip_is_sent_from_a_phone_named_by_the_coach_and_answered(
    window, measured, chromium, short_clip, tmp_path
):
    page = window.page
    page.get_by_role("link", name="Sent in").click()
    page.get_by_text("Nobody unknown has sent a clip").wait_for()
    page.get_by_role("button", name="New link").click()
    page.get_by_label("What you ask for").fill("Send me your Friday run")
    page.get_by_label("Discipline").select_option("alpine_carve")
    page.get_by_role("button", name="Make the link").click()
    page.get_by_role("dialog").wait_for(state="detached")
    address = page.locator("code").inner_text()
    page.get_by_role("button", name="Show as a picture").click()
    page.get_by_role("img", name="The link “Send me your Friday run”").wait_for()
    page.keyboard.press("Escape")
    assert window.axe() == []

    phone = chromium.new_context(
        viewport={"width": 390, "height": 844},
        is_mobile=True,
        has_touch=True,
        reduced_motion="reduce",
    )
    theirs = phone.new_page()
    theirs.goto(address)
    theirs.get_by_role("heading", name="Send me your Friday run").wait_for()
    theirs.get_by_label("Your name").fill("Ysolde Farrow")
    theirs.get_by_label("Year of birth").fill(str(timezone.now().year - 12))
    theirs.get_by_label("Level").select_option("advanced")
    # A minor's guardian agrees, and says who they are.
    theirs.get_by_label("Name of the guardian who agrees").fill("Orla Farrow")
    theirs.get_by_label("I am the guardian and agree").check()
    theirs.get_by_role("button", name="Go on to the clip").click()
    theirs.get_by_role("heading", name="Ysolde Farrow").wait_for()
    theirs.get_by_label("What were you trying to do?").fill("hips in, not down")
    words = tmp_path / "words.mp4"
    words.write_bytes(b"no film at all" * 20)
    theirs.get_by_label("Your clip").set_input_files(words)
    theirs.get_by_role("alert").get_by_text("video").wait_for()
    clip = tmp_path / "friday.mp4"
    clip.write_bytes(short_clip.read_bytes() + b"\0\0\0\x08free")
    theirs.get_by_label("Your clip").set_input_files(clip)
    theirs.get_by_text("is being looked at").wait_for()
    work_off()
    theirs.get_by_text("Your coach sees it next").wait_for()

    page.reload()
    page.get_by_role("button", name="A new rider").click()
    page.get_by_text("Nobody unknown has sent a clip").wait_for()
    run = Run.objects.exclude(pk=measured.pk).get()
    assert (run.rider.name, run.rider.guardian_consent, run.intention_text) == (
        "Ysolde Farrow", True, "hips in, not down",
    )  # fmt: skip
    work_off()
    page.goto(f"{window.base}/runs/{run.pk}/script")
    page.get_by_text("appears on their own page at once").wait_for()
    page.get_by_text("Cannot be told").first.wait_for()
    page.wait_for_load_state("networkidle")
    page.get_by_role("button", name="Approve").click()
    page.get_by_role("button", name="Make a link for the rider").wait_for()
    # The link brings whoever has sent by it back to their own page.
    theirs.goto(address)
    theirs.get_by_role("link", name="Open your page").click()
    theirs.get_by_role("link", name="Read the answer").click()
    theirs.get_by_role("heading", name="Ysolde Farrow").wait_for()
    expect(theirs.get_by_role("heading", name="Take care")).to_be_visible()
    phone.close()


def test_a_link_that_ended_says_so_and_a_page_fits_a_phone(window, measured, chromium):
    from tests.browser.conftest import Window

    club = measured.club
    link = Intake.objects.create(
        club=club, title="Friday", discipline="snowboard", expires=timezone.now() + timedelta(days=1)
    )  # fmt: skip
    context = chromium.new_context(
        viewport={"width": 390, "height": 844}, is_mobile=True, has_touch=True, bypass_csp=True
    )
    theirs = Window(context.new_page(), window.base)
    for path in (f"/send/{link.token}", f"/sent/{link.senders.create(name='Ysolde', level='novice', agreed='Ysolde', text='x').token}"):  # fmt: skip
        theirs.page.goto(window.base + path)
        theirs.page.get_by_role("heading").first.wait_for()
        assert theirs.axe() == []
        assert theirs.page.evaluate("document.documentElement.scrollWidth") <= 390
    link.withdrawn = True
    link.save()
    theirs.page.goto(f"{window.base}/send/{link.token}")
    theirs.page.get_by_text("does not take clips any more").wait_for()
    context.close()
