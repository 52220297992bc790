"""Gear that is found on a clip: its points, from the body's tracks and the edges that the pictures show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import percentile_filter

from proklisis.core.anthropometry import CHAIN
from proklisis.core.gear.bars import GEAR, Bar
from proklisis.core.gear.fit import Found, fit_bar, look
from proklisis.core.tracks.gap_filling import fill_short_gaps
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import SOURCES, Tracks

Array = NDArray[np.float64]
#: How much a held bar's hanging down says of where it leads, statures (see ``fit``).
HANGS = 0.05
#: Two bars that should lie parallel and are farther apart, degrees, are told by neither.
NOT_PARALLEL_DEG = 12.0
#: The body shows a bar's direction where it spans so many statures.
SHOWS = 0.10
#: The stature is the greatest that half a second shows, less the odd frame: bent limbs look short.
STATURE_S, STATURE_PERCENTILE = 0.5, 80


def with_found_gear(tracks: Tracks, edges: Array, gear: Sequence[str]) -> Tracks:
    """Tracks with the ends of a sport's gear added where they were found; those that are there already stay as they are.

    Parameters
    ----------
    edges : (n, k, 4) x, y of both ends of each straight edge around the rider in every frame of the tracks; NaN where fewer
    gear : names of :data:`~proklisis.core.gear.bars.GEAR`
    """
    found = {
        name: (path, u) for name, (path, u) in find_gear(tracks, edges, gear).items() if name not in tracks.index
    }  # fmt: skip
    if not found:
        return tracks
    xy = np.stack([path for path, _ in found.values()], axis=1)
    u = np.stack([u for _, u in found.values()], axis=1)
    auto = np.full(u.shape, SOURCES.index("auto"), np.uint8)
    return replace(
        tracks, names=(*tracks.names, *found), xy=np.concatenate([tracks.xy, xy], axis=1), u=np.concatenate([tracks.u, u], axis=1),
        source=np.concatenate([tracks.source, auto], axis=1),
    )  # fmt: skip


def find_gear(tracks: Tracks, edges: Array, gear: Sequence[str]) -> dict[str, tuple[Array, Array]]:
    """Ends of gear → (n, 2) pixels and (n,) their standard uncertainty; NaN where they are not told.

    From above nothing is found, nor where the body was not followed.
    """
    bars = [b for g in gear for b in GEAR[g] if tracks.facts.view in b.views]
    if not bars or not tracks.has(*BODY) or len(tracks) < 8 or not edges.shape[1]:
        return {}
    body = fill_short_gaps(tracks)
    tall = stature(body)
    front = {"regular": "l", "goofy": "r"}.get(tracks.facts.stance or "", "")

    def mean(names: Sequence[str]) -> Array:
        sides = {"front": front, "back": {"l": "r", "r": "l"}.get(front, "")}
        points = [sides.get(n.split("_")[0], n.split("_")[0]) + n[n.index("_") :] for n in names]
        return np.asarray(np.mean([body.point(p) for p in points], axis=0))

    looked = {}
    for bar in bars:
        if bar.along is not None and "front_ankle" in bar.along[1] and not front:
            # Without a front foot nobody knows which end is the nose.
            continue
        points = None if bar.along is None else mean(bar.along[1]) - mean(bar.along[0])
        fore = np.zeros_like(body.point("nose")) if points is None else points
        if bar.held:
            fore = HANGS * tall[:, None] * np.array([0.0, 1.0])
        looked[bar.front] = look(bar, edges[: len(tracks)], mean(bar.at), tall, points, fore)
    fitted = {
        b: fit_bar(b, looked[b.front], tracks.t, looked.get(b.beside)) for b in bars if b.front in looked
    }  # fmt: skip
    for bar, found in fitted.items():
        if found is not None and bar.along is not None:
            points = mean(bar.along[1]) - mean(bar.along[0])
            if not _along(bar, found, points, tall):
                fitted[bar] = None
    out: dict[str, tuple[Array, Array]] = {}
    for bar, found in _parallel(fitted).items():
        out |= {bar.front: (found.front, found.u), bar.back: (found.back, found.u)}
    return out


def _along(bar: Bar, found: Found, points: Array, tall: Array) -> bool:
    """Whether a bar lies as the body says, on the whole, where the body shows it: nobody walks upright in a boat."""
    d = found.front - found.back
    with np.errstate(invalid="ignore", divide="ignore"):
        shows = np.linalg.norm(points, axis=1) / tall > SHOWS
    turned = np.arctan2(d[:, 0] * points[:, 1] - d[:, 1] * points[:, 0], (d * points).sum(axis=1))
    off = np.degrees(np.abs(turned))[shows & np.isfinite(turned)]
    return not len(off) or bool(np.median(np.minimum(off, 180 - off)) < bar.within)


def _parallel(fitted: dict[Bar, Found | None]) -> dict[Bar, Found]:
    """What was found, without that which lies across its neighbour."""
    by_end = {b.front: f for b, f in fitted.items()}
    out = {}
    for bar, found in fitted.items():
        if found is None:
            continue
        if bar.beside:
            other = by_end.get(bar.beside)
            if other is None:
                continue
            a, b = found.front - found.back, other.front - other.back
            turned = np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1))
            with np.errstate(invalid="ignore"):
                good = np.abs(np.degrees(turned)) <= NOT_PARALLEL_DEG
            if not good.any():
                continue
            found = Found(
                *(np.where(good[:, None] if x.ndim == 2 else good, x, np.nan) for x in (found.front, found.back, found.u))
            )  # fmt: skip
        out[bar] = found
    return out


def stature(body: Tracks) -> Array:
    """(n,) stature in pixels: the longer leg and the trunk, as long as they show around a moment; NaN where nobody is seen."""

    def piece(a: str, b: str) -> Array:
        return np.asarray(np.linalg.norm(body.point(a) - body.point(b), axis=1))

    legs = np.fmax(
        *(piece(f"{s}_hip", f"{s}_knee") + piece(f"{s}_knee", f"{s}_ankle") for s in "lr")
    )
    shoulders, hips = (body.point(f"l_{p}") + body.point(f"r_{p}") for p in ("shoulder", "hip"))
    raw = (legs + np.linalg.norm(shoulders - hips, axis=1) / 2) / CHAIN
    seen = np.isfinite(raw)
    if not seen.any():
        return np.asarray(raw)
    filled = np.interp(body.t, body.t[seen], raw[seen])
    size = max(3, round(STATURE_S * body.facts.fps)) | 1
    tall = percentile_filter(filled, STATURE_PERCENTILE, size=size, mode="nearest")
    return np.where(seen, tall, np.nan)
