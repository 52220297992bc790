"""Tracks, pieces of them and frame times as compressed columnar blobs for database rows."""

from __future__ import annotations

import io
import json
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from proklisis.core.tracks.tracks import ClipFacts, Tracks

if TYPE_CHECKING:  # loads the tracker
    from proklisis.footage.carry import Carried
    from proklisis.footage.follow import Piece

#: Edges of a frame (see ``footage/edges``), which loads the tracker.
MOST_EDGES = 48
#: Landmark → (n, 2) pixels and (n,) their standard uncertainty.
Points = dict[str, tuple[NDArray[np.float64], NDArray[np.float64]]]
PIECE = ("xy", "step", "step_u", "change", "decoded", "blur", "light", "depth", "edges")


def pack(tracks: Tracks) -> bytes:
    """Compress tracks; positions keep single precision, which is 0.0001 px."""
    out = io.BytesIO()
    columns: dict[str, Any] = {
        "frames": tracks.frames, "t": tracks.t, "names": np.array(tracks.names), "xy": tracks.xy.astype(np.float32),
        "u": tracks.u.astype(np.float32), "source": tracks.source,
        "facts": np.frombuffer(json.dumps(tracks.facts.model_dump()).encode(), np.uint8),
    }  # fmt: skip
    if tracks.depth is not None:
        columns["depth"] = tracks.depth.astype(np.float32)
    np.savez_compressed(out, **columns)
    return out.getvalue()


def unpack(data: bytes | memoryview) -> Tracks:
    """Inverse of :func:`pack`."""
    with np.load(io.BytesIO(bytes(data))) as z:
        facts = ClipFacts.model_validate_json(z["facts"].tobytes())
        return Tracks(
            z["frames"],
            z["t"],
            tuple(z["names"].tolist()),
            z["xy"].astype(float),
            z["u"].astype(float),
            z["source"],
            facts,
            depth=z["depth"].astype(float) if "depth" in z else None,
        )


def pack_index(t: NDArray[np.float64], keys: NDArray[np.int64]) -> bytes:
    """Each frame's time (n,), seconds, and the numbers of the key frames."""
    out = io.BytesIO()
    np.savez_compressed(out, t=t, keys=keys)
    return out.getvalue()


def unpack_index(data: bytes | memoryview) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Inverse of :func:`pack_index`."""
    with np.load(io.BytesIO(bytes(data))) as z:
        return z["t"], z["keys"]


def pack_piece(piece: Piece) -> bytes:
    """A followed piece; positions keep single precision."""
    out = io.BytesIO()
    columns = {k: getattr(piece, k) for k in PIECE}
    np.savez_compressed(
        out,
        first=piece.first,
        **{k: v.astype(np.float32) if v.dtype == float else v for k, v in columns.items()},
    )
    return out.getvalue()


def unpack_piece(data: bytes | memoryview) -> Piece:
    """Inverse of :func:`pack_piece`."""
    from proklisis.footage.follow import Piece

    with np.load(io.BytesIO(bytes(data))) as z:
        return Piece(
            int(z["first"]),
            *(_column(z, k) for k in PIECE),
        )


def _column(z: Mapping[str, NDArray[Any]], name: str) -> NDArray[Any]:
    """A column of a piece; those that were followed before depths or edges were kept have none."""
    if name == "depth" and name not in z:
        return np.full(z["xy"].shape[:2], np.nan)
    if name == "edges" and name not in z:
        return np.full((len(z["xy"]), MOST_EDGES, 4), np.nan)
    column = z[name]
    return column.astype(float) if column.dtype == np.float32 else column


def pack_edges(edges: NDArray[np.float64]) -> bytes:
    """Straight edges around the rider, (n, k, 4); a tenth of a pixel is kept."""
    out = io.BytesIO()
    none = np.iinfo(np.int32).min
    tenths = np.where(np.isfinite(edges), np.round(10 * np.nan_to_num(edges)), none)
    np.savez_compressed(out, edges=tenths.astype(np.int32))
    return out.getvalue()


def unpack_edges(data: bytes | memoryview) -> NDArray[np.float64]:
    """Inverse of :func:`pack_edges`."""
    with np.load(io.BytesIO(bytes(data))) as z:
        tenths = z["edges"]
    return np.where(tenths == np.iinfo(np.int32).min, np.nan, tenths / 10.0)


def pack_points(points: Points) -> bytes:
    """Points by landmark."""
    out = io.BytesIO()
    columns: dict[str, Any] = {"names": np.array(list(points), dtype=str)}
    for name, (xy, u) in points.items():
        columns |= {f"{name} xy": xy.astype(np.float32), f"{name} u": u.astype(np.float32)}
    np.savez_compressed(out, **columns)
    return out.getvalue()


def unpack_points(data: bytes | memoryview) -> Points:
    """Inverse of :func:`pack_points`."""
    with np.load(io.BytesIO(bytes(data))) as z:
        return {
            n: (z[f"{n} xy"].astype(float), z[f"{n} u"].astype(float)) for n in z["names"].tolist()
        }


def pack_carried(path: Carried) -> bytes:
    """A carried point's path."""
    out = io.BytesIO()
    np.savez_compressed(out, frames=path.frames, xy=path.xy, u=path.u, confidence=path.confidence)
    return out.getvalue()


def unpack_carried(data: bytes | memoryview) -> Carried:
    """Inverse of :func:`pack_carried`."""
    from proklisis.footage.carry import Carried

    with np.load(io.BytesIO(bytes(data))) as z:
        return Carried(z["frames"], z["xy"], z["u"], z["confidence"])
