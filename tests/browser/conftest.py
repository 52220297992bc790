"""A real browser against a real server with real clips."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from django.core.cache import cache
from django.core.signals import request_finished, request_started
from django.db import connection
from playwright.sync_api import Browser, Page, expect, sync_playwright

from proklisis.simulate import fiducial
from proklisis.web.analysis import reviewing
from tests.web.conftest import measured_run, new_coach

# Playwright runs its own event loop in this thread; the ORM is not used inside it.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
AXE = Path(__file__).resolve().parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
ARGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream",
]  # fmt: skip


def pytest_collection_modifyitems(items):
    for item in items:
        if "/tests/browser/" in str(item.path):
            item.add_marker("browser")


@pytest.fixture(autouse=True)
def no_worker_needed(monkeypatch):
    """No worker runs here: on a loaded machine, too, a correction is measured in its request."""
    monkeypatch.setattr(reviewing, "MOMENT_S", 600.0)


@pytest.fixture(autouse=True)
def own_media(settings, tmp_path):
    # The count of log-ins in the last minute is kept here; each test logs in again.
    cache.clear()
    settings.MEDIA_ROOT = tmp_path / "media"
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


# A page is given time to follow what the server answered: on a loaded machine a button lags behind its answer.
expect.set_options(timeout=15_000)


@pytest.fixture(scope="session")
def chromium() -> Iterator[Browser]:
    with sync_playwright() as p:
        browser = p.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
        yield browser
        browser.close()


class Requests:
    """How many requests the live server is at: a page that is closed leaves its last ones running."""

    def __init__(self) -> None:
        self.lock, self.running = threading.Lock(), 0
        request_started.connect(self.started, weak=False)
        request_finished.connect(self.finished, weak=False)

    def started(self, **_: object) -> None:
        with self.lock:
            self.running += 1

    def finished(self, **_: object) -> None:
        with self.lock:
            self.running -= 1

    def settle(self, seconds: float = 20) -> None:
        """Wait until all are answered: emptying the database under one that reads it locks both up."""
        end = time.monotonic() + seconds
        while self.running > 0 and time.monotonic() < end:
            time.sleep(0.05)

    def close(self) -> None:
        request_started.disconnect(self.started)
        request_finished.disconnect(self.finished)


class Window:
    """A page of a logged-in coach, with what its tests ask again and again."""

    def __init__(self, page: Page, base: str) -> None:
        self.page, self.base = page, base
        self.troubles: list[str] = []
        page.on("pageerror", lambda e: self.troubles.append(str(e)))
        page.on("console", lambda m: self.troubles.append(m.text) if m.type == "error" else None)

    def log_in(self) -> None:
        self.page.goto(f"{self.base}/login")
        self.page.get_by_label("Name").fill("ada")
        self.page.get_by_label("Password").fill("a-long-password-1")
        self.page.get_by_role("button", name="Log in").click()
        self.page.get_by_role("heading", name="Desk").wait_for()

    def open_bench(self, run: int) -> None:
        self.page.goto(f"{self.base}/runs/{run}")
        self.shown(0)

    def shown(self, frame: int) -> None:
        """Wait until the stage says that it shows this frame."""
        self.page.locator(f"canvas[data-frame='{frame}']").wait_for(timeout=15_000)

    def burned_in(self) -> int | None:
        """The number painted into the picture that is on the stage."""
        side = fiducial.CELL * fiducial.ROW + 10
        # One string: a list would cross over as an object for each of its numbers, which takes seconds.
        raw = self.page.evaluate(
            "(n) => document.querySelector('canvas').getContext('2d').getImageData(0, 0, n, n).data.join()",
            side,
        )
        return fiducial.read(np.array(raw.split(","), np.uint8).reshape(side, side, 4)[..., :3])

    def frame(self) -> int:
        text = self.page.get_by_test_id("clock").inner_text()
        return int(text.split("frame")[1].split("·")[0])

    def axe(self) -> list[str]:
        self.page.evaluate(AXE.read_text("utf-8"))
        result = self.page.evaluate(
            "() => axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']})"
        )
        return [f"{v['id']}: {v['nodes'][0]['html'][:160]}" for v in result["violations"]]


@pytest.fixture
def measured(transactional_db, simulated, short_clip):
    """A coach's measured run with its clip."""
    from proklisis.web.riders.models import Rider

    coach = new_coach("Lanternfell", "ada")
    rider = Rider.objects.create(
        club=coach.club,
        name="Bram Oldacre",
        number=23,
        born=1979,
        height_cm=175,
        colours="blue jacket",
    )
    sim = simulated({"not_level": 1.6}, seed=103, units=2, view="front")
    return measured_run(rider, sim.tracks, short_clip)


@pytest.fixture
def window(chromium, live_server, measured) -> Iterator[Window]:
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
    it, requests = Window(context.new_page(), live_server.url), Requests()
    it.log_in()
    yield it
    context.close()
    requests.settle()
    requests.close()
    # Emptying the database between tests leaves the queue's own tables as they are.
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_events")
        cursor.execute("DELETE FROM procrastinate_jobs")
    assert it.troubles == []
