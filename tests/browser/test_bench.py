"""The Bench in a browser: exact frames, corrections by hand, keys."""

from __future__ import annotations

import numpy as np
import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.django_db(transaction=True)


def test_the_frame_on_screen_is_the_frame_in_the_numbers(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    assert window.burned_in() == 0
    last = measured.clip.frames - 1
    at = 0
    for key, by in (
        ("ArrowRight", 1),
        ("ArrowRight", 1),
        ("Shift+ArrowRight", 10),
        ("ArrowLeft", -1),
        ("Shift+ArrowRight", 10),
        ("ArrowLeft", -1),
    ):
        page.keyboard.press(key)
        at += by
        window.shown(at)
        assert window.burned_in() == at == window.frame()
    ribbon = page.get_by_role("slider", name="Ribbon")
    box = ribbon.bounding_box()
    rng = np.random.default_rng(5)
    for share in rng.uniform(0.02, 0.98, 14):
        page.mouse.click(box["x"] + share * box["width"], box["y"] + 8)
        at = window.frame()
        assert at == pytest.approx(share * last, abs=2)
        window.shown(at)
        assert window.burned_in() == at
        page.keyboard.press("ArrowRight")
        window.shown(min(at + 1, last))
        assert window.burned_in() == min(at + 1, last)
    ribbon.press("End")
    window.shown(last)
    assert window.burned_in() == last


def test_holding_a_step_key_ends_on_the_right_frame(window, measured):
    window.open_bench(measured.pk)
    for _ in range(35):
        window.page.keyboard.press("ArrowRight")
    window.shown(35)
    window.page.wait_for_timeout(150)
    assert window.burned_in() == 35


def test_dragging_the_ribbon_scrubs(window, measured):
    window.open_bench(measured.pk)
    box = window.page.get_by_role("slider", name="Ribbon").bounding_box()
    mouse = window.page.mouse
    mouse.move(box["x"] + 20, box["y"] + 6)
    mouse.down()
    for k in range(1, 20):
        mouse.move(box["x"] + 20 + k * 25, box["y"] + 6)
    mouse.up()
    at = window.frame()
    assert at > 50
    window.shown(at)
    assert window.burned_in() == at


def test_jumps_by_turn_and_phase_name_where_they_are(window, measured):
    window.open_bench(measured.pk)
    where = window.page.get_by_test_id("where")
    window.page.keyboard.press("ArrowDown")
    expect(where).to_contain_text("Turn 1 of 2", use_inner_text=True)
    for key, phase in (("2", "entry"), ("3", "belly"), ("4", "finish"), ("1", "transition")):
        window.page.keyboard.press(key)
        where.get_by_text(phase, exact=True).wait_for()
        expect(where).to_contain_text(phase, use_inner_text=True)
        expect(where).to_contain_text("outside foot", use_inner_text=True)
    window.page.keyboard.press("3")
    window.page.keyboard.press("ArrowDown")
    expect(where).to_contain_text("Turn 2 of 2", use_inner_text=True)
    expect(where).to_contain_text("belly", use_inner_text=True)


def tilt(window) -> str:
    return window.page.get_by_role("row").filter(has=window.page.get_by_role("button", name="Shoulder tilt")).first.inner_text()


def test_lines_and_the_angle_with_its_uncertainty_are_on_the_picture(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    page.keyboard.press("ArrowDown")
    page.keyboard.press("3")
    for line in ("plumb", "angle"):
        expect(page.locator(f"[data-line={line}]")).to_have_count(1)
    page.get_by_role("button", name="Lean", exact=True).click()
    label = page.locator("output")
    label.filter(has_text="Lean").wait_for()
    expect(label).to_contain_text("±", use_inner_text=True)
    expect(label).to_contain_text("°", use_inner_text=True)
    page.keyboard.press("p")
    expect(page.locator("[data-line=plumb]")).to_have_count(0)


def test_dragging_a_joint_moves_the_numbers_and_undo_takes_it_back(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    page.keyboard.press("ArrowDown")
    page.keyboard.press("3")
    before = tilt(window)
    joint = page.locator("[data-landmark=l_shoulder]").bounding_box()
    x, y = joint["x"] + joint["width"] / 2, joint["y"] + joint["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 2, y - 25, steps=4)
    with page.expect_response("**/edits") as answer:
        page.mouse.up()
    assert answer.value.status == 200
    page.wait_for_function("(old) => !document.body.innerText.includes(old)", arg=before.split("\t")[1])
    assert tilt(window) != before
    page.get_by_role("button", name="Undo").click()
    page.wait_for_function("(old) => document.body.innerText.includes(old)", arg=before.split("\t")[1])
    assert tilt(window) == before
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()


def test_cuts_are_made_moved_and_deleted(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    knots = page.locator("[data-knot]")
    count = knots.count()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("3")
    with page.expect_response("**/edits"):
        page.keyboard.press("c")
    page.wait_for_function("(n) => document.querySelectorAll('[data-knot]').length === n", arg=count + 1)
    expect(page.get_by_test_id("where")).to_contain_text("of 3", use_inner_text=True)
    with page.expect_response("**/edits"):
        page.keyboard.press("x")
    page.wait_for_function("(n) => document.querySelectorAll('[data-knot]').length === n", arg=count)
    knot = knots.nth(1).bounding_box()
    x, y = knot["x"] + knot["width"] / 2, knot["y"] + knot["height"] / 2
    old = knots.nth(1).get_attribute("data-knot")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 14, y, steps=3)
    with page.expect_response("**/edits"):
        page.mouse.up()
    page.wait_for_function("(old) => document.querySelectorAll('[data-knot]')[1].dataset.knot !== old", arg=old)
    assert float(knots.nth(1).get_attribute("data-knot")) > float(old)


def test_an_impossible_cut_is_refused_in_words(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    for _ in range(2):
        page.keyboard.press("c")
        page.wait_for_timeout(600)
    expect(page.get_by_role("alert")).to_contain_text("shorter", use_inner_text=True)
    # The browser itself reports the refused request.
    window.troubles = [t for t in window.troubles if "400" not in t]


def test_playback_and_bounce(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    page.get_by_role("button", name="Play").click()
    page.wait_for_function("() => Number(document.querySelector('canvas').dataset.frame) > 10")
    page.get_by_role("button", name="Pause").click()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("o")
    page.keyboard.press(" ")
    page.wait_for_timeout(1500)
    expect(page.get_by_test_id("where")).to_contain_text("Turn 1", use_inner_text=True)
    page.keyboard.press(" ")


def test_the_coachs_eye_is_judged_at_once(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    page.get_by_text("Seen by you").click()
    page.get_by_role("button", name="Spray for most of the turn").click()
    page.get_by_text("The outside ski slides sideways", exact=True).wait_for()


def test_a_wrong_view_is_asked_before_anything_is_judged_and_one_press_settles_it(window, measured):
    from proklisis.web.runs.reviewing import refresh

    measured.view = "rear"
    measured.save()
    refresh(measured)
    window.open_bench(measured.pk)
    page = window.page
    question = page.get_by_role("alert", name="From where was it filmed?")
    question.wait_for()
    expect(question).to_contain_text("right shoulder is on the left of the picture", use_inner_text=True)
    expect(page.get_by_text("Nothing could be judged on this run.")).to_be_visible()
    assert window.axe() == []
    question.get_by_role("button", name="From the front").click()
    question.wait_for(state="detached")
    page.get_by_text("main cause").wait_for()
