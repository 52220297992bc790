"""Every fault as a figure: the rider with it (left) beside the rider without, as a still and as a short loop.

Made by ``python -m proklisis.simulate.figures proklisis/figures``; drawings of simulated riders, never photographs.
"""

from __future__ import annotations

import json
from functools import cache
from importlib.resources import as_file, files
from pathlib import Path
from typing import TypedDict


class Shows(TypedDict):
    """What a figure shows: the measure, where it is read, and how many scales of its band the two lie apart there.

    ``still_apart`` and ``loop_apart`` are how far the two lie apart at the most, shares of their height in the picture.
    """

    measure: str
    phase: str | None
    limb: str | None
    scales_apart: float
    still_apart: float
    loop_apart: float


#: Where a still shows less than this, only the loop shows the fault.
STILL_SHOWS = 0.05


@cache
def figures(discipline: str) -> dict[str, Shows]:
    """Fault → what its figure shows; faults that only a coach's eye sees have none."""
    made = files(__name__) / f"{discipline}.json"
    found: dict[str, Shows] = json.loads(made.read_text("utf-8")) if made.is_file() else {}
    return found


def figure_file(discipline: str, fault: str, moving: bool) -> Path | None:
    """The WebP of a fault's figure, or None where it has none."""
    if fault not in figures(discipline):
        return None
    with as_file(files(__name__) / discipline / f"{fault}{'.loop' if moving else ''}.webp") as path:
        return path
