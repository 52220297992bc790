"""The other pages in a browser: the Desk, riders, the Script, the rider's phone; and nothing axe finds."""

from __future__ import annotations

import pytest
from django.contrib.sessions.models import Session
from playwright.sync_api import expect

from proklisis.web.runs.models import Run
from tests.web.conftest import work_off
from tests.web.test_runs import NO_FILM

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_wrong_password_is_told(chromium, live_server, measured):
    page = chromium.new_page()
    page.goto(live_server.url)  # strangers are shown the way in
    page.get_by_label("Name").fill("ada")
    page.get_by_label("Password").fill("wrong")
    page.get_by_role("button", name="Log in").click()
    expect(page.get_by_role("alert")).to_contain_text("do not match", use_inner_text=True)
    page.close()


def test_axe_finds_nothing_by_day_or_night(window, measured):
    found = {}
    for look in ("day", "night"):
        window.page.evaluate("(look) => localStorage.setItem('proklisis-look', look)", look)
        for path, ready in (
            ("/", "Waiting for you"), ("/riders", "Riders"), (f"/runs/{measured.pk}", "Found on this run"),
            (f"/runs/{measured.pk}/script", "Drill ladder"),
        ):  # fmt: skip
            window.page.goto(window.base + path)
            window.page.get_by_role("heading", name=ready).first.wait_for()
            found[look, path] = window.axe()
    assert not any(found.values()), found


def test_a_rider_is_added_and_a_taken_number_is_told(window):
    page = window.page
    page.get_by_role("link", name="Riders").click()
    page.get_by_role("button", name="New rider").click()
    page.get_by_label("Name", exact=True).fill("Isolde Fenwick")
    page.get_by_label("Number", exact=True).fill("23")
    page.get_by_role("button", name="Save").click()
    page.get_by_text("Number 23 is Bram Oldacre's").wait_for()
    expect(page.get_by_label("Name", exact=True)).to_have_value("Isolde Fenwick")
    page.get_by_label("Number", exact=True).fill("41")
    page.get_by_role("button", name="Save").click()
    page.get_by_role("cell", name="Isolde Fenwick", exact=True).wait_for()
    window.troubles = [t for t in window.troubles if "400" not in t]


def test_a_broken_clip_is_told_on_the_desk_and_nothing_typed_is_lost(window, measured, tmp_path):
    page = window.page
    bad = tmp_path / "holiday.mp4"
    bad.write_bytes(NO_FILM)
    page.get_by_role("button", name="New run").click()
    page.get_by_label("Rider", exact=True).select_option(label="Bram Oldacre · 23")
    page.get_by_label("What they are trying to do").fill("quieter shoulders")
    page.get_by_label("Clip").set_input_files(bad)
    page.get_by_role("button", name="Save and send").click()
    page.get_by_text("In the queue").wait_for()
    work_off()
    page.get_by_text("holiday.mp4: this is not a video that can be opened").wait_for()
    expect(page.get_by_text("Trying to: quieter shoulders")).to_have_count(1)
    expect(page.get_by_role("button", name="Send another clip")).to_be_visible()


def test_cancel_from_the_desk(window, measured, short_clip):
    page = window.page
    page.get_by_role("button", name="New run").click()
    page.get_by_label("Rider", exact=True).select_option(label="Bram Oldacre · 23")
    page.get_by_label("Clip").set_input_files(short_clip)
    page.get_by_role("button", name="Save and send").click()
    page.get_by_text("In the queue").wait_for()
    page.get_by_role("button", name="Cancel", exact=True).click()
    page.get_by_text("Cancelled; the clip is kept.").wait_for()
    page.get_by_role("button", name="Try again").click()
    page.get_by_text("In the queue").wait_for()


def test_from_the_script_to_the_riders_phone(window, measured, chromium):
    page = window.page
    page.goto(f"{window.base}/runs/{measured.pk}/script")
    page.get_by_label("Cue").fill("Carry a full tray on level shoulders.")
    page.get_by_label("Message to the rider").fill("Lovely rhythm today!")
    page.get_by_role("heading", name="Script").click()
    page.get_by_text("Cannot be told").first.wait_for()
    page.wait_for_load_state("networkidle")
    page.get_by_role("button", name="Approve").click()
    page.get_by_role("button", name="Make a link for the rider").click()
    link = page.get_by_role("link", name="/s/").get_attribute("href")
    expect(page.get_by_role("img").first).to_be_attached()

    phone = chromium.new_context(
        viewport={"width": 390, "height": 844},
        is_mobile=True,
        has_touch=True,
        reduced_motion="reduce",
    )
    theirs = phone.new_page()
    theirs.goto(link)
    theirs.get_by_role("heading", name="Bram Oldacre").wait_for()
    for words in (
        "Carry a full tray on level shoulders.",
        "Lovely rhythm today!",
        "How to practise",
        "Take care",
    ):
        expect(theirs.get_by_text(words).first).to_be_attached()
    assert theirs.evaluate("document.documentElement.scrollWidth") <= 390
    theirs.wait_for_function(
        "() => [...document.images].every((i) => i.complete && i.naturalWidth > 100)"
    )
    page.get_by_role("button", name="Withdraw").click()
    page.get_by_role("dialog", name="Withdraw the link?").get_by_role(
        "button", name="Withdraw"
    ).click()
    page.get_by_role("button", name="Make a link for the rider").wait_for()
    theirs.reload()
    theirs.get_by_text("does not work any more").wait_for()
    phone.close()


def test_a_finding_is_dropped_with_a_reason(window, measured):
    page = window.page
    page.goto(f"{window.base}/runs/{measured.pk}/script")
    page.get_by_role("button", name="Your word on: The inside shoulder drops").click()
    page.get_by_role("menuitem", name="Drop…").click()
    page.get_by_label("Reason").select_option("The camera makes it look so")
    page.get_by_role("button", name="Drop it").click()
    page.get_by_text("The camera makes it look so").wait_for()
    page.get_by_role("button", name="Take back").click()
    page.get_by_role("button", name="Your word on: The inside shoulder drops").wait_for()


def test_an_address_that_leads_nowhere(window):
    window.page.goto(f"{window.base}/nowhere")
    window.page.get_by_text("There is no page at this address").wait_for()
    window.page.goto(f"{window.base}/runs/99999")
    window.page.get_by_role("alert").wait_for()
    window.troubles = [t for t in window.troubles if "404" not in t]


def test_what_is_typed_outlives_a_refresh_and_an_ended_session(window, measured):
    page = window.page
    page.goto(f"{window.base}/runs/{measured.pk}/script")
    page.get_by_label("Message to the rider").fill("Half a thought")
    expect(page.get_by_text("Not saved yet; it is kept in this browser.")).to_be_visible()
    page.on("dialog", lambda d: d.accept())
    page.reload()
    expect(page.get_by_label("Message to the rider")).to_have_value("Half a thought")
    # The session ends elsewhere; the log-in opens in place and the text is saved after it.
    Session.objects.all().delete()
    page.get_by_label("Message to the rider").press("End")
    page.get_by_label("Message to the rider").blur()
    dialog = page.get_by_role("dialog", name="Log in to go on")
    dialog.get_by_label("Name").fill("ada")
    dialog.get_by_label("Password").fill("a-long-password-1")
    dialog.get_by_role("button", name="Log in").click()
    expect(dialog).to_have_count(0)
    page.get_by_label("Message to the rider").focus()
    with page.expect_response(lambda r: r.request.method == "PATCH") as answer:
        page.get_by_label("Message to the rider").blur()
    assert answer.value.status == 200
    assert Run.objects.get(pk=measured.pk).script.message == "Half a thought"
    window.troubles.clear()  # the refusal while nobody was logged in


def test_the_address_that_was_asked_for_opens_after_the_log_in(chromium, live_server, measured):
    page = chromium.new_page()
    page.goto(f"{live_server.url}/runs/{measured.pk}/script")
    page.get_by_label("Name").fill("ada")
    page.get_by_label("Password").fill("a-long-password-1")
    page.get_by_role("button", name="Log in").click()
    expect(page.get_by_role("heading", name="Script")).to_be_visible()
    page.goto(f"{live_server.url}/nowhere")
    expect(page.get_by_role("heading", name="There is no page at this address")).to_be_visible()
    page.goto(f"{live_server.url}/runs/99999")
    expect(page.get_by_role("link", name="Go to the Desk")).to_be_visible()
    page.close()


def test_a_run_is_changed_removed_and_brought_back_on_the_desk(window, measured):
    page = window.page
    page.reload()
    page.get_by_role("button", name="More for Bram Oldacre’s run").click()
    page.get_by_role("menuitem", name="Change…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name of the run").fill("Lane 3, run 2")
    page.mouse.click(5, 5)  # a press beside it closes nothing
    dialog.get_by_role("button", name="Save").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_text("Lane 3, run 2")).to_be_visible()
    page.get_by_role("button", name="More for Bram Oldacre’s run").click()
    page.get_by_role("menuitem", name="Remove").click()
    expect(page.get_by_text("It is kept for 30 days.")).to_be_visible()
    page.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_role("link", name="Bram Oldacre", exact=True)).to_be_visible()
    assert Run.objects.get(pk=measured.pk).title == "Lane 3, run 2"
    assert window.axe() == []
