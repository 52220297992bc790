"""Fixtures shared by all tests. Simulated runs are made once a session: they never change."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path

import hypothesis
import pytest

from proklisis.simulate.run import Simulated, simulate


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        # Drawing its clip takes half a minute.
        if "short_clip" in getattr(item, "fixturenames", ()):
            item.add_marker("slow")


@cache
def _simulated(
    faults: tuple[tuple[str, float], ...], options: tuple[tuple[str, object], ...]
) -> Simulated:
    return simulate("alpine_carve", dict(faults), **dict(options))  # type: ignore[arg-type]


@pytest.fixture(scope="session")
def simulated() -> Callable[..., Simulated]:
    """``simulated(fault=strength, …, seed=…, view=…)``: a run, made once for the same arguments."""

    def make(faults: dict[str, float] | None = None, **options: object) -> Simulated:
        return _simulated(
            tuple(sorted((faults or {}).items())), tuple(sorted({"seed": 11, **options}.items()))
        )

    return make


@pytest.fixture(autouse=True)
def usual_priority() -> Iterator[None]:
    """A library that takes more of the processor than its turn starves what later tests start: it is found here."""
    before = os.sched_getscheduler(0)
    yield
    assert os.sched_getscheduler(0) == before, (
        "this test changed how the system schedules its process"
    )


@pytest.fixture(scope="session")
def short_clip(
    tmp_path_factory: pytest.TempPathFactory, simulated: Callable[..., Simulated]
) -> Path:
    """A real MP4 of a short simulated run whose every frame carries its number; drawn by one process for all."""
    from proklisis.simulate.clip import write_clip
    from proklisis.simulate.render.outfit import outfit

    own = tmp_path_factory.getbasetemp()
    # Processes side by side have their folders in one.
    folder = own.parent if "PYTEST_XDIST_WORKER" in os.environ else own
    path = folder / "run.mp4"
    with (folder / "run.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not path.exists():
            run = simulated({"not_level": 1.6}, seed=103, units=2, view="front")
            write_clip(run, drawn := folder / "drawn.mp4", outfit(3), 3)
            drawn.rename(path)
    return path


# Shared machines stall now and then: a slow example is not a wrong one.
hypothesis.settings.register_profile("house", deadline=None)
hypothesis.settings.load_profile("house")
