"""Tracks as one compressed columnar blob for a database row."""

from __future__ import annotations

import io
import json

import numpy as np

from proklisis.core.tracks import ClipFacts, Tracks


def pack(tracks: Tracks) -> bytes:
    """Compress tracks; positions keep single precision, which is 0.0001 px."""
    out = io.BytesIO()
    np.savez_compressed(
        out, frames=tracks.frames, t=tracks.t, names=np.array(tracks.names), xy=tracks.xy.astype(np.float32),
        u=tracks.u.astype(np.float32), source=tracks.source,
        facts=np.frombuffer(json.dumps(tracks.facts.model_dump()).encode(), np.uint8),
    )  # fmt: skip
    return out.getvalue()


def unpack(data: bytes | memoryview) -> Tracks:
    """Inverse of :func:`pack`."""
    with np.load(io.BytesIO(bytes(data))) as z:
        facts = ClipFacts.model_validate_json(z["facts"].tobytes())
        return Tracks(
            z["frames"], z["t"], tuple(z["names"].tolist()), z["xy"].astype(float), z["u"].astype(float), z["source"], facts
        )
