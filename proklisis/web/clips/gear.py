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
from proklisis.web.clips.found import found_gear, left_out
from proklisis.web.runs import blobs
from proklisis.web.runs.models import Edit, Run

Marks = dict[int, tuple[float, float]]
#: Points that a tracker never gives and a hand may mark.
MARKABLE = frozenset({*GEAR, *SCENE} - set(DRIFTS) - {"surface_a", "surface_b", "fall_a", "fall_b"})

#: A mark of what was found by itself puts it right over so long to either side, seconds: as far as it is carried beyond the last mark.
HOLDS_S = 0.4


def wanted_gear(discipline: str) -> list[str]:
    """Landmarks off the body that this discipline is split or measured by, in the order of the landmarks."""
    book = playbook(discipline)
    names = set(splitter(book.split).marks) if book.split else set()
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
    """Tracks with points of the gear added: those found by themselves, and over them those marked and carried.

    Around a mark, and wherever nothing was found, what was carried from it holds; a mark itself always does.
    """
    marked, found = gear_marks(run, tracks), found_gear(run, tracks)
    no = {*tracks.index, *left_out(run)}
    found = {k: v for k, v in found.items() if k not in no and len(v[1]) == len(tracks)}
    if not marked and not found:
        return tracks
    carried = {c.landmark: c for c in run.carried.all()}
    names = list(dict.fromkeys([*found, *marked]))
    columns = []
    for landmark in names:
        marks = marked.get(landmark, {})
        xy, u, source = _column(tracks, found.get(landmark))
        done = carried.get(landmark)
        if marks and done is not None and done.data and done.marks == as_text(marks):
            path = blobs.unpack_carried(done.data)
            by_hand = np.array(sorted(marks))
            t = tracks.t
            near = (
                np.abs(t[path.frames][:, None] - t[by_hand[by_hand < len(t)]]).min(
                    axis=1, initial=np.inf
                )
                <= HOLDS_S
            )
            rows = path.frames[near | ~np.isfinite(u[path.frames])]
            chosen = np.isin(path.frames, rows)
            xy[rows], u[rows] = path.xy[chosen], path.u[chosen]
            source[rows] = SOURCES.index("interpolated")
        for frame, point in marks.items():
            if frame < len(tracks):
                xy[frame], u[frame] = point, hand_u(tracks.facts.width)
                source[frame] = SOURCES.index("marked")
        columns.append((xy, u, source))
    more = [np.stack(column, axis=1) for column in zip(*columns, strict=True)]
    xy, u, source = (
        np.concatenate([old, new], axis=1)
        for old, new in zip((tracks.xy, tracks.u, tracks.source), more, strict=True)
    )
    return replace(tracks, names=(*tracks.names, *names), xy=xy, u=u, source=source)


def _column(
    tracks: Tracks, found: tuple[np.ndarray, np.ndarray] | None
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Position, ± and source of a point in every frame: as it was found, or nowhere."""
    n = len(tracks)
    if found is None:
        none = np.full((n, 2), np.nan), np.full(n, np.nan)
        return (*none, np.full(n, SOURCES.index("interpolated"), np.uint8))
    return (found[0].copy(), found[1].copy(), np.full(n, SOURCES.index("auto"), np.uint8))


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
