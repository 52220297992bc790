"""Tracks as C3D (c3d.org), the format of motion laboratories.

Each landmark is a point: metres where they are known, else pixels with no third coordinate. Beside it
``<landmark>:u`` holds its ± in pixels and its source, and for metres ``<landmark>:px`` its pixels. The
frames' own numbers and times, which C3D has no place for, are analog channels; a time is the sum of two.
The clip's facts are text in the group CLIP. C3D keeps single precision.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import ezc3d
import numpy as np

from proklisis.core.errors import InputError
from proklisis.core.tracks.landmarks import ALL, is_scene
from proklisis.core.tracks.tracks import SOURCES, Tracks
from proklisis.formats.table import facts_from

CHANNELS = ("frame", "t_s", "t_s_rest")
METRES = {"m": 1.0, "cm": 0.01, "mm": 0.001}
#: Pixels a metre of a picture made for programs that have none, seen from ahead.
PX_PER_M = 300.0
#: Standard uncertainty of a laboratory's positions, metres (house choice).
U_M = 0.005
#: Text is cut to this, which the format's strings hold.
TEXT = 120


def to_c3d(tracks: Tracks, path: Path) -> None:
    n = len(tracks)
    points: dict[str, np.ndarray] = {}
    for k, name in enumerate(tracks.names):
        pixels = np.column_stack(
            [tracks.xy[:, k], np.where(np.isfinite(tracks.xy[:, k, 0]), 0.0, np.nan)]
        )
        if tracks.xyz is None:
            points[name] = pixels
        else:
            points[name], points[f"{name}:px"] = tracks.xyz[:, k], pixels
        points[f"{name}:u"] = np.column_stack([tracks.u[:, k], tracks.source[:, k], np.zeros(n)])
    coarse = tracks.t.astype(np.float32).astype(float)
    c3d = ezc3d.c3d()
    c3d["parameters"]["POINT"]["RATE"]["value"] = [tracks.facts.fps]
    c3d["parameters"]["POINT"]["LABELS"]["value"] = list(points)
    c3d["parameters"]["POINT"]["UNITS"]["value"] = ["px" if tracks.xyz is None else "m"]
    c3d["parameters"]["ANALOG"]["RATE"]["value"] = [tracks.facts.fps]
    c3d["parameters"]["ANALOG"]["LABELS"]["value"] = list(CHANNELS)
    text = tracks.facts.model_dump_json(exclude_none=True)
    c3d.add_parameter("CLIP", "FORMAT", ["tracks/1"])
    c3d.add_parameter("CLIP", "FACTS", [text[i : i + TEXT] for i in range(0, len(text), TEXT)])
    data = np.ones((4, len(points), n))
    for j, values in enumerate(points.values()):
        data[:3, j] = values.T
    c3d["data"]["points"] = data
    c3d["data"]["analogs"] = np.stack([tracks.frames.astype(float), coarse, tracks.t - coarse])[
        None
    ]
    c3d.write(str(path))


def from_c3d(path: Path, where: str) -> Tracks:
    """Read C3D. A laboratory's own file gives metres of the points whose labels are landmarks.

    Raises InputError where it is no C3D, or no label is a landmark's.
    """
    try:
        c3d = ezc3d.c3d(str(path))
        parameters, points = c3d["parameters"], np.array(c3d["data"]["points"][:3], float)
        labels = [
            str(v).strip()
            for key in ("LABELS", "LABELS2")
            if key in parameters["POINT"]
            for v in parameters["POINT"][key]["value"]
        ]
        rate = float(parameters["POINT"]["RATE"]["value"][0])
        unit = str((parameters["POINT"].get("UNITS", {}).get("value") or ["mm"])[0]).strip().lower()
    except (RuntimeError, ValueError, KeyError, IndexError, OSError, TypeError) as e:
        raise InputError("this is not a C3D file that can be read", where, "export it again") from e
    columns = {label: points[:, j].T for j, label in enumerate(labels[: points.shape[1]])}
    names = tuple(n for n in columns if n in ALL or is_scene(n))
    if not names:
        raise InputError(
            f"no point is called as a landmark is (they are {', '.join(labels[:5])}, …)", where,
            "label the points l_hip, r_knee and so on",
        )  # fmt: skip
    n = points.shape[2]
    if n < 2:
        raise InputError("the file holds fewer than two frames", where)
    frames, t = _clock(c3d, n, rate)
    ours = "CLIP" in parameters and "FACTS" in parameters["CLIP"]
    try:
        facts = json.loads("".join(parameters["CLIP"]["FACTS"]["value"])) if ours else {"fps": rate}
    except ValueError as e:
        raise InputError("the clip's facts are not readable as JSON", f"{where}: CLIP FACTS") from e
    place = np.stack([columns[name] for name in names], axis=1)
    u = np.full(place.shape[:2], U_M * PX_PER_M)
    source = np.full(place.shape[:2], SOURCES.index("imported"), np.uint8)
    for k, name in enumerate(names):
        if (beside := columns.get(f"{name}:u")) is not None:
            u[:, k], source[:, k] = (
                beside[:, 0],
                np.nan_to_num(beside[:, 1]).clip(0, len(SOURCES) - 1),
            )
    if unit == "px":
        xy, xyz = place[..., :2], None
    elif unit in METRES:
        xyz = place * METRES[unit]
        in_pixels = [columns.get(f"{name}:px") for name in names]
        xy = np.stack(
            [
                v[:, :2] if v is not None else _seen_from_ahead(xyz[:, k])
                for k, v in enumerate(in_pixels)
            ],
            axis=1,
        )
    else:
        raise InputError(
            f"the unit {unit!r} is not known",
            f"{where}: POINT UNITS",
            f"use {', '.join(METRES)} or px",
        )
    u[~np.isfinite(xy[..., 0])] = np.nan
    return Tracks(frames, t, names, xy, u, source, facts_from(facts, where), xyz)


def _seen_from_ahead(xyz: np.ndarray) -> np.ndarray:
    return np.column_stack([PX_PER_M * xyz[:, 0], -PX_PER_M * xyz[:, 2]])


def _clock(c3d: Any, n: int, rate: float) -> tuple[np.ndarray, np.ndarray]:
    """Frame numbers and times: the analog channels of our own files, else by the rate."""
    labels = [
        str(v).strip()
        for v in c3d["parameters"].get("ANALOG", {}).get("LABELS", {}).get("value", [])
    ]
    analog = np.asarray(c3d["data"]["analogs"], float)
    if all(c in labels for c in CHANNELS) and analog.shape[-1] == n:
        frame, coarse, rest = (analog[0, labels.index(c)] for c in CHANNELS)
        return frame.round().astype(np.int64), coarse + rest
    return np.arange(n), np.arange(n) / rate
