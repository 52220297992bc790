"""Short gaps in landmarks, bridged so that everything downstream sees one path."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.tracks.landmarks import SETS
from proklisis.core.tracks.tracks import SOURCES, Tracks

Array = NDArray[np.float64]


def fill_short_gaps(tracks: Tracks, longest_s: float = 0.15) -> Tracks:
    """Bridge gaps of up to ``longest_s`` linearly; bridged points say so and grow their ±.

    Longer gaps stay empty: a number must not rest on a guess.
    """
    xy, u, source = tracks.xy.copy(), tracks.u.copy(), tracks.source.copy()
    longest = max(1, round(longest_s * tracks.facts.fps))
    missing = ~np.isfinite(xy[..., 0])
    for k in np.flatnonzero(missing.any(axis=0)):
        gap = missing[:, k]
        seen = np.flatnonzero(~gap)
        if len(seen) < 2:
            continue
        edges = np.flatnonzero(np.diff(seen) > 1)
        for e in edges:
            a, b = seen[e], seen[e + 1]
            if b - a - 1 > longest:
                continue
            inside = np.arange(a + 1, b)
            w = (tracks.t[inside] - tracks.t[a]) / (tracks.t[b] - tracks.t[a])
            xy[inside, k] = xy[a, k] + w[:, None] * (xy[b, k] - xy[a, k])
            u[inside, k] = np.maximum(u[a, k], u[b, k]) * (1 + np.minimum(inside - a, b - inside))
            source[inside, k] = SOURCES.index("interpolated")
    return replace(tracks, xy=xy, u=u, source=source)


def whole_sets(tracks: Tracks) -> Tracks:
    """Tracks without points that are nowhere seen, or whose set is not followed as a whole: one end of a ski tells nothing."""
    seen = {n for n in tracks.names if tracks.has(n)} if tracks.xyz is None else set(tracks.names)
    part = {n for points in SETS if not set(points) <= seen for n in points}
    keep = [k for k, n in enumerate(tracks.names) if n in seen and n not in part]
    if len(keep) == len(tracks.names):
        return tracks
    return Tracks(
        tracks.frames, tracks.t, tuple(tracks.names[k] for k in keep), tracks.xy[:, keep], tracks.u[:, keep], tracks.source[:, keep],
        tracks.facts, None if tracks.xyz is None else tracks.xyz[:, keep], tracks.depth, tracks.in_space,
    )  # fmt: skip
