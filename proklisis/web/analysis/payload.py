"""What the Bench shows of a review, as plain data. Every number in it was made by ``core``."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.camera.views import in_views
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.bands import wanted_bands
from proklisis.core.playbook.under import apply_schools, chosen_schools
from proklisis.core.playbook.words import unit_words
from proklisis.core.readings.readings import side_gaps, side_means
from proklisis.core.review import Review, book_of
from proklisis.core.rider.mass import MIDPOINTS, centre_of_mass, com_weights
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.core.shapes.shown import DoubtChoice, RibbonBand, Shown, ShownDoubt
from proklisis.core.splitting.library import splitter
from proklisis.core.splitting.splitter import Splitter
from proklisis.core.tracks.landmarks import DRIFTS
from proklisis.core.tracks.tracks import Tracks
from proklisis.core.uncertainty import digits

Array = NDArray[np.float64]


#: Points of an outline, each from −100 to 100.
POINTS = 60
OUTSIDE = {"l": "left", "r": "right"}


def _list(x: Array, places: int) -> list[float | None]:
    return [round(float(v), places) if np.isfinite(v) else None for v in x]


def bench(done: Review, sheet: RunSheet) -> Shown:
    """Frames, units, the Ribbon's signals, readings with ±, bands and the words for measures."""
    book, _ = apply_schools(book_of(sheet), chosen_schools(sheet, book_of(sheet)))
    how = splitter(book.split or "")
    means = side_means(done.readings, done.units)
    used = sorted(
        {r.id for r in done.readings} | {r.id for r in done.refusals}, key=list(REGISTRY).index
    )
    return {
        "t": [round(float(v), 6) for v in done.tracks.t],
        "phases": list(book.phases),
        "unit": book.unit,
        "unit_plural": book.units,
        "doubt": _doubt(done),
        "rate_sure": done.rate_sure,
        "units": [
            {
                "n": t.n, "side": t.side, "finest_side": t.finest_side if t.finest_side != t.side else None,
                "outside": OUTSIDE.get(t.outside_foot or "") if how.outside_foot else None,
                "start": round(t.start.t, 5), "start_u": round(t.start.u, 5), "end": round(t.end.t, 5),
                "confidence": round(t.start.confidence, 3), "by": t.start.source, "counted": t.counted,
                "phases": {k: [round(a, 5), round(b, 5)] for k, (a, b) in t.phases.items()},
            }
            for t in done.units
        ],
        "boundaries": [
            {"t": round(b.t, 5), "u": round(b.u, 5), "confidence": round(b.confidence, 3), "by": b.source}
            for b in done.boundaries
        ],
        "ribbon": _ribbon(done, how),
        "readings": [
            {
                "measure": r.id, "value": round(r.value, 5), "u": round(r.u, 5), "unit": r.segment, "phase": r.phase,
                "limb": r.limb, "t": None if r.t is None else round(r.t, 5),
                "words": digits(r.value, r.u), "pm": digits(2 * r.u, r.u),
            }
            for r in done.readings if np.isfinite(r.value) and np.isfinite(r.u)
        ],
        "sides": [
            {
                "measure": m.id, "side": m.side, "phase": m.phase, "limb": m.limb, "value": round(m.value, 5),
                "words": digits(m.value, m.u), "pm": digits(2 * m.u, m.u),
            }
            for m in means
        ],
        "gaps": [
            {
                "measure": g.id, "phase": g.phase, "limb": g.limb, "sure": g.sure,
                "words": digits(g.value, g.u), "pm": digits(2 * g.u, g.u),
                "first": {"side": g.first.side, "words": digits(g.first.value, g.first.u)},
                "second": {"side": g.second.side, "words": digits(g.second.value, g.second.u)},
            }
            for g in side_gaps(means)
        ],
        "notes": list(done.notes),
        "plays_slower": done.plays_slower,
        "fallen": None if done.fallen is None else [round(done.fallen.value, 3), round(done.fallen.u, 3)],
        "roll_deg": round(done.tracks.facts.roll_deg, 3),
        "roll_u_deg": round(done.tracks.facts.roll_u_deg, 3),
        "level_by_ride": done.level_by_ride,
        "view": done.tracks.facts.view,
        "view_offset_deg": round(done.tracks.facts.view_offset_deg, 1),
        "off_line_deg": None if done.off_line_deg is None else [round(done.off_line_deg.value, 2), round(done.off_line_deg.u, 2)],
        "strain": None if done.strain is None else round(done.strain, 4),
        "refusals": [{"measure": r.id, "reason": r.reason, "words": r.words} for r in done.refusals],
        "bands": [
            {"measure": b.measure, "phase": b.phase, "limb": b.limb, "lo": b.band[0], "hi": b.band[1], "fault": b.fault}
            for b in wanted_bands(book, sheet.level)
        ],
        "measures": {
            i: {
                "title": m.title, "unit": unit_words(i), "doc": m.doc, "formula": m.formula,
                "views": in_views(m.seen_from(done.tracks.facts.stance is not None and "board_nose" in done.tracks.index)),
                "points": list(m.angle), "phases": list(m.phases), "limbs": list(m.limbs),
                "each_frame": any(measure == i for measure, _ in done.traces),
            }
            for i in used for m in [REGISTRY[i]]
        },
    }  # fmt: skip


def _ribbon(done: Review, how: Splitter) -> RibbonBand:
    """The discipline's main signal per frame with its ±, the edge where there is one, and the frames
    that need a look. A signal with no sides is shown about its own middle."""
    edge = next((t for (i, _), t in done.traces.items() if i == "edge"), None)
    # Turns on two skis are split by the lean itself.
    lean = done.traces.get(("lean", "")) if how.closed_form else None
    n = len(done.signal.t)
    swing_u = (
        lean.u if lean is not None else np.full(n, np.hypot(done.signal.noise, done.signal.scene))
    )
    body = [
        k
        for k, name in enumerate(done.tracks.names)
        if name.endswith(("_hip", "_knee", "_ankle", "_shoulder"))
    ]
    lost = ~np.isfinite(done.tracks.xy[:, body, 0]).all(axis=1)
    # The sign of a tilt over two skis is its side; what has no sides is shown about its own middle.
    signal = done.signal.values if how.outside_foot else _centred(done.signal.values)
    return {
        "signal": how.title,
        "unit": how.unit,
        "swing": _list(signal, 4),
        "swing_u": _list(np.where(np.isfinite(swing_u), swing_u, 10.0), 4),
        "edge": None if edge is None else _list(np.abs(edge.value), 2),
        "graded": done.signal.graded,
        "look": [int(i) for i in np.flatnonzero(lost)],
    }


def _doubt(done: Review) -> ShownDoubt | None:
    if done.doubt is None:
        return None
    choices: list[DoubtChoice] = [{"words": c.words, "value": c.value} for c in done.doubt.choices]
    return {
        "kind": done.doubt.kind,
        "says": done.doubt.says,
        "asks": done.doubt.asks,
        "choices": choices,
    }


def _centred(x: Array) -> Array:
    """A signal about zero: as it is where it swings to both sides (right is drawn downward), else about
    its middle and turned over, so that what is higher is drawn higher."""
    low, high = (float(v) for v in np.nanpercentile(x, [2, 98]))
    return x if low < -0.2 * high and high > 0 else (low + high) / 2 - x


def outline(ribbon: RibbonBand) -> list[int]:
    """The Ribbon's signal in a few whole numbers; none where nothing swings."""
    x = np.array([np.nan if v is None else v for v in ribbon["swing"]], float)
    seen = np.isfinite(x)
    if seen.sum() < 2:
        return []
    at = np.linspace(0, len(x) - 1, POINTS)
    even = np.interp(at, np.flatnonzero(seen), x[seen])
    peak = float(np.abs(even).max())
    return [round(100 * float(v) / peak) for v in even] if peak > 0 else []


def drawn_points(tracks: Tracks) -> tuple[list[str], Array]:
    """Names and (n, k, 2) pixels of everything drawn on the stage, derived points included."""
    points = {name: tracks.xy[:, k] for k, name in enumerate(tracks.names) if name not in DRIFTS}
    for name, parts in MIDPOINTS.items():
        if all(p in points for p in parts):
            points[name] = sum(points[p] for p in parts) / len(parts)  # type: ignore[assignment]
    if all(p in points for p in com_weights()):
        points["com"] = centre_of_mass(points)
    if not points:
        return [], np.zeros((len(tracks), 0, 2))
    return list(points), np.stack(list(points.values()), axis=1)
