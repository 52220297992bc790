"""What a coach says, by keys: noting by eye, their word, and a card of clips to verdicts."""

from __future__ import annotations

import re
import shutil

import pytest
from playwright.sync_api import expect

from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from tests.web.conftest import work_off

pytestmark = pytest.mark.django_db(transaction=True)


def test_what_is_seen_is_noted_by_keys_alone_and_counts(window, measured):
    window.open_bench(measured.pk)
    page, keys = window.page, window.page.keyboard
    keys.press("ArrowDown")
    keys.press("3")
    expect(page.get_by_test_id("where")).to_contain_text("Turn 1")
    keys.press("e")
    page.get_by_role("combobox", name="Fault, sign or strength").wait_for()
    page.get_by_role("listbox").get_by_role("option").first.wait_for()
    assert window.axe() == []
    keys.type("spray")
    keys.press("Enter")
    seen = page.get_by_role("region", name="Seen by you")
    expect(seen.get_by_role("listitem")).to_have_count(1)
    expect(page.get_by_text("Your eye here: Spray")).to_be_visible()
    # The same in the next turn by one key, and the run is judged by it.
    keys.press("a")
    expect(page.get_by_test_id("where")).to_contain_text("Turn 2")
    expect(seen.get_by_role("listitem")).to_have_count(2)
    expect(
        page.get_by_role("button", name="Your word on: The outside ski slides sideways")
    ).to_be_visible()
    keys.press("Control+z")
    expect(seen.get_by_role("listitem")).to_have_count(1)
    # Words stay with their frame.
    at = window.frame()
    keys.press("e")
    keys.type("weak left pole")
    keys.press("Enter")
    seen.get_by_text("“weak left pole”").wait_for()
    keys.press("Home")
    keys.press("ArrowUp")
    seen.get_by_role("listitem").filter(has_text="weak left pole").get_by_role(
        "button", name="turn 2", exact=True
    ).click()
    window.shown(at)
    # What the phases stand over while it is scrolled is not out of reach.
    page.locator("aside").evaluate("e => e.scrollTo(0, 0)")
    assert window.axe() == []
    page.goto(f"{window.base}/runs/{measured.pk}/script")
    page.get_by_role("button", name="Add “weak left pole”").click()
    expect(page.get_by_label("Message to the rider")).to_have_value("weak left pole")


def test_the_coachs_word_is_given_by_keys_and_undone(window, measured):
    window.open_bench(measured.pk)
    page, keys = window.page, window.page.keyboard
    keys.press("e")
    page.get_by_role("listbox").get_by_role("option").first.wait_for()
    keys.type("spray")
    keys.press("Enter")
    page.get_by_role("button", name="Your word on: The outside ski slides sideways").focus()
    keys.press("Enter")
    page.get_by_role("menuitem", name="Make this the main thing").wait_for()
    keys.press("Enter")
    page.get_by_text("your main thing").wait_for()
    page.get_by_text("The software would have said: The inside shoulder drops").wait_for()
    expect(page.get_by_role("status", name="What the last change did")).to_contain_text(
        "the main thing is now"
    )
    assert window.axe() == []
    page.goto(f"{window.base}/runs/{measured.pk}/script")
    page.get_by_text("You chose this. The software would have said").wait_for()
    assert window.axe() == []
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("You chose this.")).to_have_count(0)


class Presses:
    """Keys and clicks as a hand makes them, counted."""

    def __init__(self, page) -> None:
        self.page, self.n = page, 0

    def key(self, name: str) -> None:
        self.n += 1
        self.page.keyboard.press(name)

    def click(self, what) -> None:
        self.n += 1
        what.click()


@pytest.mark.slow
def test_from_a_card_of_clips_to_verdicts_in_a_few_presses_each(
    window, measured, short_clip, tmp_path
):
    Rider.objects.create(club=measured.club, name="Wren Hallowell", number=7, born=1990)
    page, hand = window.page, Presses(window.page)
    page.reload()
    clips = []
    for k in range(3):
        clips.append(tmp_path / f"clip-{k}.mp4")
        shutil.copy(short_clip, clips[-1])
        with clips[-1].open("ab") as f:  # a file of its own each
            f.write(b"\0\0\0\x10free" + bytes([k] * 8))
    hand.click(page.get_by_role("button", name="New run"))
    page.get_by_label("Clip").set_input_files(clips)
    first = page.get_by_label("Rider of clip-0.mp4")
    first.locator("option", has_text="Wren").wait_for(state="attached")
    first.focus()
    for k in range(3):
        # A letter chooses the rider; Tab goes on over intention, leaving out and what is guessed.
        hand.key("W")
        page.get_by_text(re.compile("view as the picture shows it")).nth(k).wait_for()
        if k < 2:
            while (
                page.evaluate("document.activeElement.getAttribute('aria-label')")
                != f"Rider of clip-{k + 1}.mp4"
            ):
                hand.key("Tab")
    assert window.axe() == []
    page.get_by_role("button", name="Go").focus()
    hand.key("Enter")
    page.get_by_role("dialog").wait_for(state="detached")
    work_off()
    runs = Run.objects.exclude(pk=measured.pk)
    assert [r.state for r in runs] == ["ready"] * 3
    page.reload()
    expect(page.get_by_role("link", name="Open Wren Hallowell's run on the Bench")).to_have_count(3)
    assert {r.result.main_title for r in runs} == {"The inside shoulder drops"}
    assert hand.n <= 10 * 3


def test_a_run_is_judged_by_eye_while_nobody_is_followed(window, measured):
    window.page.goto("about:blank")  # nobody asks for the Desk's pictures meanwhile
    measured.track_sets.all().delete()
    measured.result.delete()
    Run.objects.filter(pk=measured.pk).update(state="failed", problem="nobody can be followed")
    page, keys = window.page, window.page.keyboard
    page.goto(window.base)
    page.get_by_role("button", name=re.compile("by eye")).click()
    window.shown(0)
    page.get_by_text("Nobody is followed on this clip yet").wait_for()
    keys.press("c")
    page.get_by_role("button", name="Boundary").or_(
        page.get_by_label("Change of edges")
    ).first.wait_for(state="attached")
    for k in range(1, 8):
        keys.press("Shift+ArrowRight")
        window.shown(10 * k)
    keys.press("c")
    keys.press("Shift+ArrowLeft")
    expect(page.get_by_test_id("where")).to_contain_text("Turn 1 of 1")
    page.get_by_label("Side of this turn").select_option("left")
    expect(page.get_by_test_id("where")).to_contain_text("left")
    keys.press("e")
    page.get_by_role("listbox").get_by_role("option").first.wait_for()
    keys.type("inside shoulder")
    keys.press("Enter")
    page.get_by_role("button", name="Your word on: The inside shoulder drops").wait_for()
    assert window.axe() == []
