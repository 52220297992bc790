"""The clip's page and what the Bench asks first, in a browser; and an upload over a connection that breaks."""

from __future__ import annotations

import re

import pytest
from django.contrib.auth.models import User
from playwright.sync_api import expect

from proklisis.web.analysis.carrying import carry_now
from proklisis.web.analysis.reviewing import refresh
from proklisis.web.runs.blobs import pack, unpack
from proklisis.web.runs.models import Run, packed
from tests.web.conftest import TWO
from tests.web.test_clip_page import body_only

pytestmark = pytest.mark.django_db(transaction=True)


def open_clip(window, run):
    window.page.goto(f"{window.base}/runs/{run.pk}/footage")
    window.page.get_by_role("heading", name="What these pictures can bear").wait_for()


def press_picture(page, *shares):
    box = page.get_by_label("Picture to mark on").bounding_box()
    for x, y in shares:
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])


def test_the_camera_is_levelled_by_two_presses_and_taken_back(window, measured):
    open_clip(window, measured)
    page = window.page
    page.get_by_role("button", name="Something plumb").click()
    press_picture(page, (0.50, 0.95), (0.52, 0.15))
    page.get_by_role("button", name="Save the mark").click()
    page.get_by_text("The picture is turned by 2.5").wait_for()
    expect(page.get_by_text("Levelled by a mark")).to_have_count(1)
    page.get_by_role("button", name="Take back: Level").click()
    page.get_by_text("The camera is taken as level").wait_for()
    assert window.axe() == []


def test_a_line_that_is_no_horizon_is_refused_in_words(window, measured):
    open_clip(window, measured)
    page = window.page
    press_picture(page, (0.3, 0.2), (0.5, 0.9))
    page.get_by_role("button", name="Save the mark").click()
    expect(page.get_by_role("alert")).to_contain_text("mark the horizon", use_inner_text=True)
    # The browser itself reports the refused request.
    window.troubles = [t for t in window.troubles if "400" not in t]


def test_the_plan_follows_the_wanted_measures_and_tracks_can_be_saved(window, measured):
    open_clip(window, measured)
    page = window.page
    page.get_by_text("For everything this discipline is judged by").click()
    page.get_by_role("button", name="Shoulder tilt", exact=True).click()
    page.get_by_text("For 1 chosen measures").wait_for()
    page.get_by_text("Shows shoulder tilt.").first.wait_for()
    with page.expect_download() as download:
        page.get_by_role("link", name="COCO keypoints").click()
    assert download.value.suggested_filename == f"run-{measured.pk}.coco.json"


def test_what_is_asked_first_is_shown_and_can_be_confirmed(window, measured):
    window.open_bench(measured.pk)
    page = window.page
    first = (
        page.get_by_role("region", name="Look here first")
        .get_by_role("listitem")
        .first.get_by_role("button")
        .first
    )
    words = first.inner_text()
    first.click()
    window.shown(int(words.split()[1].rstrip(":")))
    expect(page.locator("[data-asked]")).to_have_count(1)
    with page.expect_response("**/edits") as answer:
        page.get_by_role("button", name="It is right as it is").click()
    assert answer.value.status == 200
    page.wait_for_function(
        "(old) => !Array.from(document.querySelectorAll('button')).some((b) => b.innerText === old)",
        arg=words,
    )
    assert Run.objects.get(pk=measured.pk).edits.get().by.username == "ada"


def test_an_upload_goes_on_after_the_connection_broke(window, measured, short_clip):
    page = window.page
    broken = []

    def once(route):
        if route.request.method == "PATCH" and not broken:
            broken.append(route.request.url)
            route.abort("connectionreset")
        else:
            route.continue_()

    page.route("**/api/uploads/**", once)
    page.get_by_role("button", name="New run").click()
    page.get_by_label("Rider", exact=True).select_option(label="Bram Oldacre · 23")
    page.get_by_label("Clip").set_input_files(short_clip)
    page.get_by_role("button", name="Save and send").click()
    page.get_by_text("In the queue").wait_for(timeout=20_000)
    assert broken
    run = Run.objects.exclude(pk=measured.pk).get()
    with run.clip.original.open("rb") as f:
        assert f.read() == short_clip.read_bytes()
    window.troubles = [t for t in window.troubles if "ERR_CONNECTION_RESET" not in t]


def test_another_rider_in_the_picture_is_followed_instead(window, measured):
    clip = measured.clip
    clip.people = TWO
    clip.save()
    open_clip(window, measured)
    page = window.page
    people = page.get_by_role("region", name="Which of them is Bram Oldacre?")
    expect(people.get_by_role("img")).to_have_count(2)
    expect(people.get_by_text("Followed")).to_have_count(1)
    assert window.axe() == []
    with page.expect_response("**/person") as answer:
        people.get_by_role("button", name="Follow person 2").click()
    assert answer.value.status == 202
    run = Run.objects.get(pk=measured.pk)
    assert (run.clip.chosen, run.state) == (1, Run.State.QUEUED)


def test_gear_is_put_on_the_picture_and_taken_back(window, measured):
    measured.track_sets.create(file=packed(pack(body_only(unpack(measured.track_sets.get().data)))))
    window.open_bench(measured.pk)
    page = window.page
    page.get_by_label("Mark gear").select_option("l_ski_tip")
    page.get_by_text(
        "Mark the left ski tip, the very front of the ski, in a frame every half second or so"
    ).wait_for()
    box = page.locator("canvas[data-frame]").bounding_box()
    with page.expect_response("**/edits") as answer:
        page.mouse.click(box["x"] + 0.30 * box["width"], box["y"] + 0.80 * box["height"])
    assert answer.value.status == 200
    edit = Run.objects.get(pk=measured.pk).edits.get()
    assert (edit.by.username, edit.values["landmark"]) == ("ada", "l_ski_tip")
    assert edit.values["x"] == pytest.approx(0.30 * 1280, abs=4)
    assert edit.values["y"] == pytest.approx(0.80 * 720, abs=4)
    with page.expect_response("**/undo") as answer:
        page.get_by_role("button", name="Undo").click()
    assert answer.value.status == 200
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()


def test_skis_that_are_marked_by_hand_come_to_be_a_number(window, measured, simulated, short_clip):
    truth = simulated({"not_level": 1.6}, seed=103, units=2, view="front").exact
    measured.track_sets.create(file=packed(pack(body_only(unpack(measured.track_sets.get().data)))))
    with short_clip.open("rb") as f:
        measured.clip.original.save("run.mp4", f)
    refresh(measured)
    skis, frames = (
        [f"{s}_ski_{end}" for s in "lr" for end in ("tip", "tail")],
        (30, 50, 70, 90, 110, 120),
    )
    for name in skis:
        for frame in frames:
            x, y = (float(v) for v in truth.point(name)[frame])
            if (name, frame) != ("r_ski_tail", 50):
                measured.edits.create(
                    kind="mark",
                    values={"frame": frame, "landmark": name, "x": x, "y": y},
                    by=User.objects.get(),
                )
    window.open_bench(measured.pk)
    page = window.page
    for _ in range(5):
        page.keyboard.press("Shift+ArrowRight")
    window.shown(50)
    page.get_by_text(re.compile("Cannot be told from this clip")).click()
    page.get_by_text("Heading:").wait_for()
    # The last mark is made on the picture.
    page.get_by_label("Mark gear").select_option("r_ski_tail")
    box = page.locator("canvas[data-frame]").bounding_box()
    x, y = truth.point("r_ski_tail")[50]
    with page.expect_response("**/edits") as answer:
        page.mouse.click(box["x"] + x / 1280 * box["width"], box["y"] + y / 720 * box["height"])
    assert answer.value.status == 200
    page.get_by_text(re.compile("being carried|Carrying")).wait_for()
    for name in skis:
        carry_now(measured.pk, name)
    # The page looks by itself whether it is done.
    page.get_by_text(re.compile("being carried|Carrying")).wait_for(state="hidden", timeout=20_000)
    page.keyboard.press("3")
    row = page.get_by_role("row").filter(has=page.get_by_role("button", name="Heading")).first
    row.wait_for()
    read = next(
        r
        for r in Run.objects.get(pk=measured.pk).result.bench["readings"]
        if (r["measure"], r["phase"], r["unit"]) == ("heading", "belly", 1)
    )
    expect(row).to_contain_text(read["words"], use_inner_text=True)
    true = next(
        r
        for r in simulated({"not_level": 1.6}, seed=103, units=2, view="front").truth().readings
        if (r.id, r.phase, r.segment) == ("heading", "belly", 1)
    )
    assert abs(read["value"] - true.value) < max(3 * read["u"], 4)
