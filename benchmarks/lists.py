"""How long lists and pages take with 5,000 riders and 10,000 runs, and what ten open Desks cost; run on the tests' database.

    pytest benchmarks/lists.py -s   (with the database's settings in the environment, as ./test has them)

Times are medians of nine in-process requests; each is also given as a ratio to the same list with eighteen runs, measured in the same run.
"""

from __future__ import annotations

import statistics
import time

import pytest
from rest_framework.test import APIClient

from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Result, Run
from tests.web.conftest import client_of

pytest_plugins = ["tests.conftest", "tests.web.conftest"]
pytestmark = pytest.mark.django_db
RIDERS, RUNS = 5_000, 10_000
PATHS = ("/api/runs?limit=50&order=due", "/api/runs?limit=50&order=due&stands=judge", "/api/desk", "/api/desk/news", "/api/runs?limit=50", "/api/runs?limit=50&offset=9900", "/api/runs?find=rider 77", "/api/runs?discipline=snowboard", "/api/riders?limit=200",
         "/api/riders?limit=200&offset=4800", "/api/riders?find=rider 4999")  # fmt: skip


def median_ms(client: APIClient, path: str) -> float:
    times = []
    for _ in range(9):
        began = time.perf_counter()
        assert client.get(path).status_code == 200
        times.append(1000 * (time.perf_counter() - began))
    return statistics.median(times)


def test_lists(coach, run, capsys):
    client = client_of(coach)
    few = {p: median_ms(client, p) for p in PATHS}
    riders = Rider.objects.bulk_create(
        Rider(club=coach.club, name=f"Rider {k}") for k in range(RIDERS)
    )
    runs = Run.objects.bulk_create(
        [
            Run(
                club=coach.club,
                rider=riders[k % RIDERS],
                view="front",
                level="novice",
                state="ready",
                title=f"Run {k}",
            )
            for k in range(RUNS)
        ],
        1000,
    )
    whole = run.result
    Result.objects.bulk_create(
        [
            Result(
                run=r,
                sheet=whole.sheet,
                bench=whole.bench,
                prescription=whole.prescription,
                main_title="Too little edge",
            )
            for r in runs[-300:]
        ],
        100,
    )
    with capsys.disabled():
        print(
            f"\n| list | with 1 run, ms | with {RUNS} runs and {RIDERS} riders, ms | ratio |\n|---|---|---|---|"
        )
        for path in PATHS:
            many = median_ms(client, path)
            print(f"| `{path}` | {few[path]:.0f} | {many:.0f} | {many / few[path]:.1f} |")
            assert many < 400
        for path in (
            f"/api/runs/{run.pk}/bench",
            f"/api/runs/{run.pk}/script",
            f"/api/runs/{run.pk}",
        ):
            print(f"| `{path}` | {median_ms(client, path):.0f} | | |")
