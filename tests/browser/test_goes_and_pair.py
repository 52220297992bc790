"""A session film worked by keys alone, and a pair whose halves stand at the asked frames."""

from __future__ import annotations

import re
import time

import numpy as np
import pytest
from django.core.files import File
from playwright.sync_api import expect

from proklisis.footage.probe import probe
from proklisis.simulate import fiducial
from proklisis.web.clips import crops
from proklisis.web.goes.models import Go, SessionFilm
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Film

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def session(measured, short_clip) -> SessionFilm:
    """A film with four goes of two people, as the search leaves it."""
    club = measured.club
    Rider.objects.create(club=club, name="Corin", number=12, born=1979)
    film = Film.objects.create(club=club, name="hall.mp4", size=1, sha256="b" * 64)
    found = probe(short_clip)
    with short_clip.open("rb") as f:
        film.file.save("hall.mp4", File(f))
        f.seek(0)
        made = SessionFilm(
            club=club, film=film, discipline="alpine_carve", state="ready", length_s=float(found.t[-1]), searched=True,
            width=found.width, height=found.height, fps=found.fps, version=1, play_height=found.height,
        )  # fmt: skip
        made.working.save("working.mp4", File(f), save=False)
    made.save()
    quarter = made.length_s / 4
    for k, who in enumerate((1, 2, 1, 2)):
        Go.objects.create(
            session=made, from_s=k * quarter, to_s=(k + 1) * quarter, who=who, at_s=(k + 0.5) * quarter, box=[400, 200, 500, 500]
        )  # fmt: skip
    return made


def test_a_session_film_is_put_right_and_judged_by_keys_alone(window, session):
    page, keys = window.page, window.page.keyboard
    page.goto(f"{window.base}/films/{session.pk}")
    expect(page.get_by_role("button", name=re.compile(r"^Go \d"))).to_have_count(4)
    expect(page.locator("li[data-go] img").first).to_have_js_property("complete", True)
    assert window.axe() == []
    # One name each: two presses a rider.
    page.get_by_label("Name of person 1, 2 goes").focus()
    keys.type("Bram")
    page.get_by_label("Name of person 2, 2 goes").focus()
    keys.type("Corin")
    expect(page.get_by_role("button", name="Judge 4 goes")).to_be_visible()
    # The third is Corin's: one key. The first two are one ride: one key.
    page.get_by_role("button", name=re.compile("^Go 3")).focus()
    keys.press("2")
    expect(page.get_by_label("Rider of go 3").locator("option:checked")).to_have_text(
        re.compile("Corin")
    )
    keys.press("ArrowUp")
    keys.press("ArrowUp")
    keys.press("j")
    expect(page.get_by_role("button", name=re.compile(r"^Go \d"))).to_have_count(3)
    keys.press("Control+z")
    expect(page.get_by_role("button", name=re.compile(r"^Go \d"))).to_have_count(4)
    keys.press("x")
    expect(page.get_by_role("button", name="Judge 3 goes")).to_be_enabled()
    page.get_by_role("button", name="Judge 3 goes").focus()
    keys.press("Enter")
    expect(page.get_by_text("In the queue")).to_have_count(3)
    window.page.goto(window.base)
    expect(page.get_by_text("4 goes, 3 judged")).to_be_visible()
    assert window.axe() == []
    assert window.troubles == []


def burned_in(window, name: str) -> int | None:
    """The number painted into the picture of one half, as it was filmed."""
    side = fiducial.CELL * fiducial.ROW + 10
    raw = window.page.evaluate(
        "([n, name]) => document.querySelector(`[data-testid='half-${name}']`).getContext('2d').getImageData(0, 0, n, n).data.join()",
        [side, name],
    )
    return fiducial.read(np.array(raw.split(","), np.uint8).reshape(side, side, 4)[..., :3])


def test_both_halves_of_a_pair_are_at_the_frames_that_stand_on_them(window, measured):
    page, keys = window.page, window.page.keyboard
    window.open_bench(measured.pk)
    keys.press("ArrowDown")
    expect(page.get_by_test_id("where")).to_contain_text("Turn 1")
    # One key from the Bench: the other side, mirrored.
    page.get_by_role("region", name="Compare").get_by_role(
        "button", name=re.compile("mirrored")
    ).wait_for()
    keys.press("l")
    page.get_by_test_id("half-B").wait_for()
    expect(page.get_by_role("button", name="Mirror B (M)")).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.get_by_test_id("half-A")).to_have_attribute("data-frame", re.compile(r"\d"))
    assert window.axe() == []
    keys.press("m")
    keys.press("n")  # as filmed, where the burned-in number is seen
    expect(page.get_by_role("button", name="Same size (N)")).to_have_attribute(
        "aria-pressed", "false"
    )

    def settled() -> list[int]:
        frames = []
        for name in "AB":
            half = page.get_by_test_id(f"half-{name}")
            frame = int(re.search(r"frame (\d+)", half.get_attribute("aria-label")).group(1))
            expect(half).to_have_attribute("data-frame", str(frame))
            frames.append(frame)
        return frames

    for press in ("ArrowRight", "ArrowRight", "ArrowDown", "ArrowLeft"):
        keys.press(press)
        frames = settled()
        assert [burned_in(window, name) for name in "AB"] == frames
    assert window.troubles == []


def test_the_sheet_stands_within_a_moment_once_its_pictures_are_made(window, measured):
    page = window.page
    with measured.clip.working.open("rb") as f:
        measured.clip.original.save("run.mp4", File(f))
    page.goto(f"{window.base}/runs/{measured.pk}")
    page.get_by_role("link", name="Sheet").click()
    expect(page.get_by_role("status").filter(has_text="pictures are made")).to_be_visible()
    # What a worker does.
    crops.make(measured.tracks.pk)
    cells = page.locator("a[data-place] img")
    count = sum(len(u["phases"]) for u in measured.result.bench["units"])
    expect(cells).to_have_count(count)
    assert window.axe() == []
    page.reload()
    began = time.monotonic()
    page.wait_for_function(
        f"() => {{ const all = [...document.querySelectorAll('a[data-place] img')]; return all.length === {count} && all.every(i => i.complete && i.naturalWidth > 0 || i.getBoundingClientRect().top > innerHeight); }}"
    )
    assert time.monotonic() - began < 3, "a second on a machine that does nothing else"
    # A cell leads to its frame.
    cell = page.locator("a[data-place]").nth(1)
    frame = int(re.search(r"frame (\d+)", cell.get_attribute("aria-label") or "")[1])
    cell.click()
    expect(page.get_by_test_id("clock")).to_contain_text(f"frame {frame}")
