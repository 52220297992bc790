"""Tracks as one long table, a row for each frame and landmark: what every track format holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from pydantic import ValidationError

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import first_problem, nearest
from proklisis.core.tracks.landmarks import ALL, is_scene
from proklisis.core.tracks.tracks import SOURCES, ClipFacts, Tracks

COLUMNS = ("frame", "t_s", "landmark", "x_px", "y_px", "u_px", "source")
COLUMNS_3D = ("x_m", "y_m", "z_m")
#: Thirty minutes at 240 frames a second of twenty landmarks.
MOST_ROWS = 10_000_000


def to_columns(tracks: Tracks) -> dict[str, list[Any]]:
    """Return column → values; points that were not seen have no row."""
    seen = np.isfinite(tracks.xy[..., 0])
    i, j = np.nonzero(seen)
    names = np.asarray(tracks.names)
    columns: dict[str, list[Any]] = {
        "frame": tracks.frames[i].tolist(), "t_s": tracks.t[i].tolist(), "landmark": names[j].tolist(),
        "x_px": tracks.xy[i, j, 0].tolist(), "y_px": tracks.xy[i, j, 1].tolist(), "u_px": tracks.u[i, j].tolist(),
        "source": np.asarray(SOURCES)[tracks.source[i, j]].tolist(),
    }  # fmt: skip
    if tracks.xyz is not None:
        columns |= {c: tracks.xyz[i, j, a].tolist() for a, c in enumerate(COLUMNS_3D)}
    return columns


def from_columns(columns: Mapping[str, Sequence[Any]], facts: ClipFacts, where: str) -> Tracks:
    """Build tracks from a long table.

    Raises InputError naming the column and row of the first bad cell.
    """
    for name in COLUMNS[:5]:
        if name not in columns:
            raise InputError(
                f"the column {name!r} is missing", where, f"the columns are {', '.join(COLUMNS)}"
            )
    for name in columns:
        if name not in (*COLUMNS, *COLUMNS_3D):
            raise InputError(
                f"the column {name!r} is not known", where, nearest(name, (*COLUMNS, *COLUMNS_3D))
            )
    rows = len(columns["frame"])
    if not rows:
        raise InputError("the table has no rows", where, "export at least ten frames")
    short = next((c for c in columns if len(columns[c]) != rows), None)
    if short:
        raise InputError(
            f"the column {short!r} has {len(columns[short])} values, not {rows}", where
        )

    def numbers(name: str) -> np.ndarray:
        try:
            out = np.asarray(columns[name], float)
        except (TypeError, ValueError):
            bad = next(r for r, v in enumerate(columns[name]) if not _is_number(v))
            raise InputError(
                f"{columns[name][bad]!r} is not a number", f"{where}: {name} row {bad + 1}"
            ) from None
        if not np.isfinite(out).all():
            bad = int(np.argmax(~np.isfinite(out)))
            raise InputError(
                "the number is not finite",
                f"{where}: {name} row {bad + 1}",
                "leave the row out if the point is not seen",
            )
        return out

    names = tuple(dict.fromkeys(columns["landmark"]))
    unknown = next((n for n in names if n not in ALL and not is_scene(n)), None)
    if unknown is not None:
        row = list(columns["landmark"]).index(unknown) + 1
        raise InputError(
            f"the landmark {unknown!r} is not known",
            f"{where}: landmark row {row}",
            nearest(str(unknown), ALL),
        )
    frame = numbers("frame").astype(np.int64)
    t_rows = numbers("t_s")
    frames, first, i = np.unique(frame, return_index=True, return_inverse=True)
    t = t_rows[first]
    off = np.flatnonzero(t[i] != t_rows)
    if len(off):
        raise InputError(
            f"frame {frame[off[0]]} has two times",
            f"{where}: t_s row {off[0] + 1}",
            "give all points of a frame one time",
        )
    j = np.array([names.index(n) for n in columns["landmark"]])
    shape = (len(frames), len(names))
    twice = np.bincount(i * len(names) + j, minlength=shape[0] * shape[1])
    if twice.max() > 1:
        at = int(twice.argmax())
        raise InputError(
            f"frame {frames[at // len(names)]} has {names[at % len(names)]!r} twice",
            f"{where}: landmark",
        )
    xy, u = np.full((*shape, 2), np.nan), np.full(shape, np.nan)
    source = np.full(shape, SOURCES.index("imported"), np.uint8)
    xy[i, j, 0], xy[i, j, 1] = numbers("x_px"), numbers("y_px")
    u[i, j] = numbers("u_px") if "u_px" in columns else 2.0
    if "source" in columns:
        strange = next((s for s in dict.fromkeys(columns["source"]) if s not in SOURCES), None)
        if strange is not None:
            raise InputError(
                f"the source {strange!r} is not known",
                f"{where}: source",
                nearest(str(strange), SOURCES),
            )
        source[i, j] = [SOURCES.index(s) for s in columns["source"]]
    xyz = None
    if all(c in columns for c in COLUMNS_3D):
        xyz = np.full((*shape, 3), np.nan)
        for a, c in enumerate(COLUMNS_3D):
            xyz[i, j, a] = numbers(c)
    return Tracks(frames, t, names, xy, u, source, facts, xyz)


def _is_number(v: Any) -> bool:
    try:
        float(v)
    except (TypeError, ValueError):
        return False
    return True


def facts_from(data: Any, where: str) -> ClipFacts:
    """Check the clip's facts; InputError names the first bad key."""
    try:
        return ClipFacts.model_validate(data)
    except ValidationError as e:
        path, words = first_problem(e)
        raise InputError(words, f"{where}: clip.{path}") from e


def rate_of(times: Sequence[Any], where: str) -> float:
    """Frames a second from the times of a table that does not tell it."""
    try:
        t = sorted({float(x) for x in times})
    except (TypeError, ValueError) as e:
        raise InputError("a time is not a number", f"{where}: t_s") from e
    if len(t) < 2 or t[-1] <= t[0]:
        raise InputError("the table holds fewer than two times", f"{where}: t_s")
    return (len(t) - 1) / (t[-1] - t[0])
