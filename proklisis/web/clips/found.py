"""Gear that is found on a run's clip by itself: found once for a discipline, a view and a front foot, and kept."""

from __future__ import annotations

from functools import cache
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np

from proklisis.core import gear
from proklisis.core.errors import InputError
from proklisis.core.gear.bars import GEAR, Bar
from proklisis.core.gear.found import find_gear
from proklisis.core.review import playbook
from proklisis.core.tracks.tracks import Tracks
from proklisis.web.runs import blobs
from proklisis.web.runs.models import Edit, FoundGear, Run, SeenEdges, packed


@cache
def _version() -> str:
    """Eight letters that change whenever the code does that finds gear."""
    digest = sha256()
    for path in sorted(Path(gear.__file__).parent.glob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()[:8]


def found_gear(run: Run, tracks: Tracks) -> blobs.Points:
    """Landmark → (n, 2) pixels and (n,) their standard uncertainty of the gear that the clip shows; NaN where it is not told.

    ``tracks`` are the run's own, with what was said of the clip. Nothing is found on tracks that were handed in.
    """
    wanted = playbook(run.discipline).found_gear
    kept = run.tracks
    if not wanted or kept is None or not tracks.names:
        return {}
    edges = SeenEdges.objects.filter(tracks=kept).first()
    if edges is None:
        return {}
    facts = tracks.facts
    # How fast a bar may turn hangs on the clock.
    key = f"{_version()} {' '.join(wanted)} {facts.view} {facts.stance} {facts.fps:g}"
    known = FoundGear.objects.filter(tracks=kept, found_for=key).first()
    try:
        if known is not None:
            return blobs.unpack_points(known.data)
        points = find_gear(tracks, blobs.unpack_edges(edges.data), wanted)
    except FileNotFoundError:
        # A backup that is older than its files: what was marked stands all the same.
        return {}
    FoundGear.objects.update_or_create(
        tracks=kept, defaults={"found_for": key, "file": packed(blobs.pack_points(points))}
    )
    return points


def bars_of(run: Run) -> list[Bar]:
    """What is looked for on a run's clip."""
    return [b for g in playbook(run.discipline).found_gear for b in GEAR[g]]


def said_of(run: Run) -> dict[str, bool]:
    """Front end of a piece of gear → whether a coach said that it was found rightly; it is not there where nobody said so."""
    said = {}
    for e in run.corrections.filter(undone=False, kind=Edit.Kind.GEAR):
        said[e.values["landmark"]] = bool(e.values["on"])
    return said


def left_out(run: Run) -> set[str]:
    """Ends of gear that a coach wants left out."""
    said = said_of(run)
    return {end for b in bars_of(run) if said.get(b.front) is False for end in (b.front, b.back)}


def shown(run: Run, points: blobs.Points) -> list[dict[str, Any]]:
    """Each piece of gear that was found: its words and ends, in what share of the frames, and what was said of it."""
    said = said_of(run)
    return [
        {"words": b.words, "points": [b.front, b.back], "share": round(float(np.isfinite(points[b.front][1]).mean()), 3), "said": said.get(b.front)}
        for b in bars_of(run) if b.front in points
    ]  # fmt: skip


def check_gear(run: Run, landmark: str) -> None:
    """Raise InputError where nothing of that name is looked for in this discipline."""
    fronts = [b.front for b in bars_of(run)]
    if landmark not in fronts:
        raise InputError(
            f"{landmark!r} is not found by itself here",
            "landmark",
            f"choose one of {', '.join(fronts)}" if fronts else "mark it by hand",
        )
