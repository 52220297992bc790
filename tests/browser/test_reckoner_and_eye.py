"""The Reckoner dragged and typed into, and a session of the Eye by keyboard alone."""

from __future__ import annotations

import io
import time

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from proklisis.simulate.items import Item
from proklisis.simulate.strip import Strip
from proklisis.web.eye.models import EyeAnswer
from proklisis.web.eye.pool import keep

#: A session of the Eye.
LOOKS = 20
#: An item is there within this, s; tests run beside each other on a loaded machine, where it is given more.
OPENS_S, LOADED = 0.3, 2.5


def strip(count: int, seed: int) -> Strip:
    noise = np.random.default_rng(seed).integers(0, 255, (5 * 60, 8 * 60, 3), np.uint8)
    out = io.BytesIO()
    Image.fromarray(noise).resize((8 * 300, 5 * 300)).save(out, "WEBP", quality=70)
    return Strip(out.getvalue(), count, 8, 300, 1 / 30)


@pytest.fixture
def pool(measured):
    """Thirty items of all exercises, each fault with its truth."""
    options = [{"id": "not_level", "title": "The inside shoulder drops"}, {"id": "", "title": "Nothing"}]  # fmt: skip
    kinds = {
        "frame": ({"ask": "Stop where the skis lie flat."}, {"frames": [12.0], "step_s": 1 / 30}),
        "angle": ({"ask": "Draw the line for trunk lean.", "points": 2}, {"deg": 10.0, "line": [[0.5, 0.7], [0.55, 0.4]]}),
        "fault": ({"ask": "What is wrong here?", "options": options}, {"answer": "not_level"}),
        "cause": (
            {"ask": "Which causes which?", "options": [options[0], {"id": "banking", "title": "Banking"}]},
            {"order": ["not_level", "banking"], "before": [["not_level", "banking"]]},
        ),
        "better": ({"ask": "Which is the better one?", "options": [{"id": "a", "title": "The first"}, {"id": "b", "title": "The second"}]}, {"answer": "b"}),
    }  # fmt: skip
    for k in range(30):
        exercise = list(kinds)[k % len(kinds)]
        question, truth = kinds[exercise]
        strips = [strip(40 if exercise != "angle" else 1, k + n) for n in range(1 + (exercise == "better"))]  # fmt: skip
        keep(Item(exercise, "alpine_carve", "novice", "front", f"topic {k}", 1.3, question, {**truth, "says": "So it is."}, strips), k)  # fmt: skip


def test_a_session_of_twenty_looks_by_keyboard_alone(window, pool):
    page = window.page
    page.goto(f"{window.base}/eye")
    begin = page.get_by_role("button", name="Begin")
    expect(begin).to_be_enabled()
    begin.focus()
    page.keyboard.press("Enter")
    opened = []
    for k in range(LOOKS):
        page.locator("canvas[data-frame]").first.wait_for()
        expect(page.get_by_text(f"{k + 1} of {LOOKS}")).to_be_visible()
        heading = page.get_by_role("heading", level=1).inner_text()
        if heading.startswith("Stop at the moment"):
            for _ in range(12):
                page.keyboard.press("ArrowRight")
            page.keyboard.press("Enter")
        elif heading.startswith("Draw the line"):
            page.get_by_role("button", name="Point 2 of 2").focus()
            page.keyboard.press("Shift+ArrowRight")
            page.keyboard.press("Enter")
        elif heading.startswith("What causes what"):
            page.keyboard.press("1")
            page.keyboard.press("2")
        else:
            page.keyboard.press("2")
        following = page.get_by_role("button", name="Next")
        expect(following).to_be_focused()
        if k in (0, 1):
            assert window.axe() == []
        if k == LOOKS - 1:
            page.keyboard.press("Enter")
            break
        began = time.perf_counter()
        page.keyboard.press("Enter")
        page.get_by_text(f"{k + 2} of {LOOKS}").wait_for()
        page.locator("canvas[data-frame]").first.wait_for()
        opened.append(time.perf_counter() - began)
    expect(page.get_by_role("heading", name=f"of {LOOKS} right")).to_be_visible()
    assert EyeAnswer.objects.count() == LOOKS
    assert EyeAnswer.objects.filter(item__exercise="frame", right=True).exists()
    assert EyeAnswer.objects.values("item").distinct().count() == LOOKS
    assert sorted(opened)[len(opened) // 2] < OPENS_S * LOADED, opened
    assert window.axe() == []
    page.get_by_role("button", name="To the profile").click()
    expect(page.get_by_text("Right, by exercise")).to_be_visible()
    assert window.axe() == []


def test_a_calculator_is_typed_into_dragged_and_asked_backwards(window, measured):
    page = window.page
    page.goto(f"{window.base}/reckoner?calc=rotation")
    expect(page.get_by_text("0.045 s too short for four and a half turns")).to_be_visible()
    assert window.axe() == []
    slider = page.get_by_role("slider")
    slider.focus()
    for _ in range(25):
        page.keyboard.press("ArrowRight")
    expect(page.get_by_text("more than four and a half turns")).to_be_visible()
    page.get_by_role("textbox", name="Time missing").fill("0")
    page.get_by_role("button", name="Ask for time in the air").click()
    expect(page.get_by_text("= 0.855 s").first).to_be_visible()
    page.get_by_role("textbox", name="Planned turns").fill("soon")
    expect(page.get_by_role("alert")).to_contain_text("is no number")
    # The browser tells of each refused request, once for each letter that makes no number yet.
    assert window.troubles and all("400" in t for t in window.troubles)
    window.troubles.clear()
    # Opened from the Bench it takes what was measured.
    page.goto(f"{window.base}/runs/{measured.pk}")
    page.get_by_role("link", name="Reckon", exact=True).click()
    page.get_by_role("button", name="Take from this run").click()
    expect(page.get_by_role("textbox", name="Edge against the snow")).not_to_have_value("")
    page.get_by_role("textbox", name="Sidecut radius").fill("14 m")
    page.get_by_role("button", name="Keep with this run").click()
    expect(page.get_by_role("region", name="Kept").get_by_text("carves")).to_be_visible()
    assert window.axe() == []
