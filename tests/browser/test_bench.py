"""The Bench in a browser: exact frames, corrections by hand, keys."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import expect

from proklisis.web.runs.models import packed

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


def renderer_mb() -> float:
    """What the largest process that shows a page holds of its own, without the browser's program."""
    most = 0
    for process in Path("/proc").iterdir():
        try:
            if b"--type=renderer" in (process / "cmdline").read_bytes():
                status = (process / "status").read_text()
                own = re.findall(r"Rss(?:Anon|Shmem):\s+(\d+)", status)
                most = max(most, sum(map(int, own)))
        except OSError:
            continue  # gone meanwhile
    return most / 1024


@pytest.mark.slow
def test_memory_stays_bounded_over_many_steps(window, measured):
    """Of every frame that was drawn a browser may keep a copy: some 650 MB after 200 steps."""
    window.open_bench(measured.pk)
    last = measured.clip.frames - 1
    for k in range(400):
        window.page.keyboard.press("ArrowRight" if (k // last) % 2 == 0 else "ArrowLeft")
        window.page.wait_for_timeout(40)
    assert 50 < renderer_mb() < 400


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
    return (
        window.page.get_by_role("row")
        .filter(has=window.page.get_by_role("button", name="Shoulder tilt"))
        .first.inner_text()
    )


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
    page.wait_for_function(
        "(old) => !document.body.innerText.includes(old)", arg=before.split("\t")[1]
    )
    assert tilt(window) != before
    page.get_by_role("button", name="Undo").click()
    page.wait_for_function(
        "(old) => document.body.innerText.includes(old)", arg=before.split("\t")[1]
    )
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
    page.wait_for_function(
        "(n) => document.querySelectorAll('[data-knot]').length === n", arg=count + 1
    )
    expect(page.get_by_test_id("where")).to_contain_text("of 3", use_inner_text=True)
    with page.expect_response("**/edits"):
        page.keyboard.press("x")
    page.wait_for_function(
        "(n) => document.querySelectorAll('[data-knot]').length === n", arg=count
    )
    knot = knots.nth(1).bounding_box()
    x, y = knot["x"] + knot["width"] / 2, knot["y"] + knot["height"] / 2
    old = knots.nth(1).get_attribute("data-knot")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 14, y, steps=3)
    with page.expect_response("**/edits"):
        page.mouse.up()
    page.wait_for_function(
        "(old) => document.querySelectorAll('[data-knot]')[1].dataset.knot !== old", arg=old
    )
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


def test_a_wrong_view_is_asked_before_anything_is_judged_and_one_press_settles_it(window, measured):
    from proklisis.web.analysis.reviewing import refresh

    measured.view = "rear"
    measured.save()
    refresh(measured)
    window.open_bench(measured.pk)
    page = window.page
    question = page.get_by_role("alert", name="From where was it filmed?")
    question.wait_for()
    expect(question).to_contain_text(
        "right shoulder is on the left of the picture", use_inner_text=True
    )
    expect(page.get_by_text("Nothing could be judged on this run.")).to_be_visible()
    assert window.axe() == []
    question.get_by_role("button", name="From the front").click()
    question.wait_for(state="detached")
    page.get_by_text("main cause").wait_for()


def test_one_press_is_one_mark_and_none_is_swallowed_or_held_up(window, measured):
    """A press used to mark the joint beside it too, and three of four quick ones were lost."""
    from proklisis.web.runs.blobs import pack, unpack
    from tests.web.test_clip_page import body_only

    measured.track_sets.create(file=packed(pack(body_only(unpack(measured.track_sets.get().data)))))
    window.open_bench(measured.pk)
    page = window.page
    joint = page.locator("[data-landmark=l_ankle]").bounding_box()
    on_it = joint["x"] + joint["width"] / 2, joint["y"] + joint["height"] / 2
    # A press on a joint that does not move it is no mark.
    page.mouse.click(*on_it)
    page.wait_for_timeout(300)
    assert not measured.edits.exists()
    # While gear is placed a press marks the gear, right beside a joint too, and the next frame is there at once.
    page.get_by_label("Mark gear").select_option("l_ski_tip")
    for frame in (0, 1, 2):
        window.shown(frame)
        page.mouse.click(*on_it)
        page.keyboard.press("ArrowRight")
    expect(page.get_by_text(re.compile("being worked out|Working a correction out"))).to_have_count(
        0, timeout=60_000
    )
    marks = list(measured.edits.values_list("values__landmark", "values__frame"))
    assert marks == [("l_ski_tip", 0), ("l_ski_tip", 1), ("l_ski_tip", 2)]


def test_a_joint_and_a_cut_are_moved_by_keyboard(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    before = page.locator("[data-knot]").nth(1).get_attribute("data-knot")
    joint = page.get_by_role("button", name=re.compile("left knee: arrows move it"))
    joint.focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowUp")
    with page.expect_response("**/edits") as answer:
        page.keyboard.press("Enter")
    assert answer.value.status == 200
    (mark,) = measured.edits.all()
    assert (mark.kind, mark.values["landmark"], mark.values["frame"]) == ("mark", "l_knee", 0)
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    knot = page.get_by_role(
        "button", name=re.compile("arrows move it, Enter keeps it there, Delete")
    ).nth(1)
    knot.focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    with page.expect_response("**/edits") as answer:
        page.keyboard.press("Enter")
    assert answer.value.status == 200
    expect(page.locator("[data-knot]").nth(1)).not_to_have_attribute("data-knot", before or "")


def test_a_measures_name_opens_its_explanation_by_a_press(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    page.keyboard.press("ArrowDown")
    page.keyboard.press("3")
    page.get_by_role("button", name="What is Angulation?").click()
    expect(page.get_by_text("Shows from the front or from behind.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("Shows from the front or from behind.")).to_have_count(0)


@pytest.mark.parametrize("width", [390, 768])
def test_the_bench_is_used_on_a_small_screen(window, measured, width):
    page = window.page
    page.set_viewport_size({"width": width, "height": 844})
    window.open_bench(measured.pk)
    picture = page.locator("canvas[data-frame]").bounding_box()
    assert picture["width"] > 0.93 * width
    assert page.evaluate("document.documentElement.scrollWidth") <= width
    page.get_by_role("button", name="One frame on").click()
    window.shown(1)
    small = page.evaluate(
        "[...document.querySelectorAll('button, a, select, summary')].filter(e => e.offsetParent && !e.closest('.sr-only') && !e.classList.contains('sr-only'))"
        ".map(e => [e.textContent.trim() || e.ariaLabel, e.getBoundingClientRect()]).filter(([, r]) => r.height > 0 && (r.height < 22 || r.width < 22)).map(([t]) => t)"
    )
    assert small == []
