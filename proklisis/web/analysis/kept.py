"""A review as it is kept beside its result, so that nothing which reads it works it out again."""

from __future__ import annotations

import io
import json
from dataclasses import replace
from typing import NotRequired

import numpy as np
from pydantic import TypeAdapter
from typing_extensions import TypedDict

from proklisis.core.doubts import Doubt
from proklisis.core.readings.readings import Reading, Refusal, Series
from proklisis.core.review import Review
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.core.uncertainty import Value
from proklisis.web.runs.blobs import pack, unpack


class Plain(TypedDict):
    """What of a review is no array."""

    boundaries: list[Boundary]
    units: list[Unit]
    readings: list[Reading]
    refusals: list[Refusal]
    notes: tuple[str, ...]
    plays_slower: float | None
    fallen: Value | None
    doubt: Doubt | None
    rate_sure: bool
    level_by_ride: bool
    off_line_deg: NotRequired[Value | None]
    strain: NotRequired[float | None]
    noise: float
    graded: bool
    scene: float
    traces: list[tuple[str, str]]


PLAIN = TypeAdapter(Plain)


def pack_review(done: Review) -> bytes:
    """A review as bytes; what is drawn frame by frame keeps single precision."""
    plain = Plain(
        boundaries=done.boundaries, units=done.units, readings=done.readings, refusals=done.refusals, notes=done.notes,
        plays_slower=done.plays_slower, fallen=done.fallen, doubt=done.doubt, rate_sure=done.rate_sure, level_by_ride=done.level_by_ride,
        off_line_deg=done.off_line_deg, strain=done.strain,
        noise=done.signal.noise, graded=done.signal.graded, scene=done.signal.scene, traces=list(done.traces),
    )  # fmt: skip
    out = io.BytesIO()
    series = np.array(list(done.traces.values()), np.float32).reshape(
        len(done.traces), 2, len(done.tracks)
    )
    np.savez_compressed(
        out, plain=np.frombuffer(json.dumps(PLAIN.dump_python(plain)).encode(), np.uint8), tracks=np.frombuffer(pack(replace(done.tracks, depth=None)), np.uint8),
        t=done.signal.t, values=done.signal.values, series=series,
    )  # fmt: skip
    return out.getvalue()


def unpack_review(data: bytes | memoryview) -> Review:
    """Inverse of :func:`pack_review`."""
    with np.load(io.BytesIO(bytes(data))) as z:
        plain = PLAIN.validate_python(json.loads(z["plain"].tobytes()))
        tracks = unpack(z["tracks"].tobytes())
        signal = EventSignal(z["t"], z["values"], plain["noise"], plain["graded"], plain["scene"])
        series = z["series"].astype(float)
    traces = {key: Series(*pair) for key, pair in zip(plain["traces"], series, strict=True)}
    return Review(
        tracks, signal, plain["boundaries"], plain["units"], traces, plain["readings"], plain["refusals"], plain["notes"],
        plain["plays_slower"], plain["fallen"], plain["doubt"], plain["rate_sure"], plain["level_by_ride"],
        plain.get("off_line_deg"), plain.get("strain"),
    )  # fmt: skip
