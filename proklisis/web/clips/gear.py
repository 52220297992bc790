"""Points of the equipment and the scene: marked in a few frames, carried between them by optical flow."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace
from typing import Any

import numpy as np

from proklisis.core.errors import InputError
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.review import playbook
from proklisis.core.splitting.library import splitter
from proklisis.core.tracks.by_hand import hand_u
from proklisis.core.tracks.landmarks import DRIFTS, GEAR, SCENE, SKIS, in_words
from proklisis.core.tracks.tracks import SOURCES, Tracks
from proklisis.web.runs import blobs
from proklisis.web.runs.models import Edit, Run

Marks = dict[int, tuple[float, float]]
#: Points that a tracker never gives and a hand may mark.
MARKABLE = frozenset({*GEAR, *SCENE} - set(DRIFTS) - {"surface_a", "surface_b", "fall_a", "fall_b"})


def wanted_gear(discipline: str) -> list[str]:
    """Landmarks off the body that this discipline is split or measured by, in the order of the landmarks."""
    book = playbook(discipline)
    names = set(splitter(book.split).needs) if book.split else set()
    for m in book.measures:
        if m in REGISTRY:
            names |= set(REGISTRY[m].points)
            if book.sideways:
                names |= set(REGISTRY[m].board_points)
    if book.sideways:
        names -= set(SKIS)
    if "bow" in names:
        # The edge of a boat is read as that of a board: across its base.
        names |= {"base_in", "base_out"}
    for name in list(names):
        for word in ("outside_", "inside_"):
            if name.startswith(word):
                names |= {f"l_{name.removeprefix(word)}", f"r_{name.removeprefix(word)}"}
    return [n for n in (*GEAR, *SCENE) if n in names and n in MARKABLE]


def gear_marks(run: Run, tracks: Tracks) -> dict[str, Marks]:
    """Marks in force of points that the tracks do not have: landmark → frame → pixels."""
    out: dict[str, Marks] = defaultdict(dict)
    for e in run.corrections.filter(undone=False, kind=Edit.Kind.MARK):
        v = e.values
        if v["landmark"] not in tracks.index and v["landmark"] in MARKABLE:
            out[v["landmark"]][int(v["frame"])] = (float(v["x"]), float(v["y"]))
    return dict(out)


def check_mark(run: Run, values: dict[str, Any]) -> None:
    """Raise InputError where a point of the equipment cannot be marked: outside the clip, or of no use to this discipline."""
    name, frames = values["landmark"], run.clip.frames if hasattr(run, "clip") else 0
    if frames and values["frame"] >= frames:
        raise InputError(
            f"there is no frame {values['frame']}", "frame", f"frames go from 0 to {frames - 1}"
        )
    if name in MARKABLE and name not in wanted_gear(run.discipline):
        raise InputError(
            f"the {in_words(name)} is of no use in {playbook(run.discipline).title.lower()}",
            "landmark",
            "choose one that is offered",
        )


def as_text(marks: Marks) -> dict[str, list[float]]:
    return {str(k): list(v) for k, v in sorted(marks.items())}


def with_gear(run: Run, tracks: Tracks) -> Tracks:
    """Tracks with the marked points added: where they were carried, else only in the frames of the marks."""
    marked = gear_marks(run, tracks)
    if not marked:
        return tracks
    carried = {c.landmark: c for c in run.carried.all()}
    n = len(tracks)
    names, columns = list(tracks.names), []
    for landmark, marks in marked.items():
        xy, u, source = (
            np.full((n, 2), np.nan),
            np.full(n, np.nan),
            np.full(n, SOURCES.index("interpolated"), np.uint8),
        )
        done = carried.get(landmark)
        if done is not None and done.data and done.marks == as_text(marks):
            path = blobs.unpack_carried(done.data)
            xy[path.frames], u[path.frames] = path.xy, path.u
        for frame, point in marks.items():
            if frame < n:
                xy[frame], u[frame], source[frame] = (
                    point,
                    hand_u(tracks.facts.width),
                    SOURCES.index("marked"),
                )
        names.append(landmark)
        columns.append((xy, u, source))
    more = [np.stack(column, axis=1) for column in zip(*columns, strict=True)]
    xy, u, source = (
        np.concatenate([old, new], axis=1)
        for old, new in zip((tracks.xy, tracks.u, tracks.source), more, strict=True)
    )
    return replace(tracks, names=tuple(names), xy=xy, u=u, source=source)


def waiting(run: Run, tracks: Tracks) -> list[str]:
    """Landmarks whose marks are still being carried."""
    carried = {c.landmark: c for c in run.carried.all()}
    return [
        name for name, marks in gear_marks(run, tracks).items()
        if name not in carried or (carried[name].marks != as_text(marks) and not carried[name].problem)
    ]  # fmt: skip


def troubles(run: Run) -> list[str]:
    """Why a point could not be carried, a sentence each."""
    return [c.problem for c in run.carried.exclude(problem="")]
