"""A board where the feet stand: what is known of it in frames that do not show it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from proklisis.core.gear.found import stature
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import SOURCES, Tracks

#: From the middle of the feet to either end of a board ÷ the feet apart (common practice: a board of 1.5 m, feet 0.5 m apart).
ENDS_TO_STANCE = 1.5
#: Standard uncertainty of each end across the board, as a share of that: feet do not stand square to it, nor level in the picture.
BESIDE_SHARE = 0.12
#: Feet that show nearer than this, statures, do not tell which way they stand.
LEAST_APART = 0.06


def with_board_underfoot(tracks: Tracks) -> Tracks:
    """Tracks of who stands sideways, with ``board_nose`` and ``board_tail`` in the frames that have none.

    The line through both ankles points along the board in the picture, from above as from the side. Tracks without a front foot or
    feet, and 3-D tracks, are given back as they are.
    """
    front = {"regular": "l", "goofy": "r"}.get(tracks.facts.stance or "")
    ends = ("board_nose", "board_tail")
    if tracks.xyz is not None or front is None or not tracks.has(*BODY):
        return tracks
    back = {"l": "r", "r": "l"}[front]
    fore, aft = tracks.point(f"{front}_ankle"), tracks.point(f"{back}_ankle")
    feet = np.mean(
        [tracks.point(f"{s}_{p}") for s in "lr" for p in ("heel", "toe")], axis=0
    )  # fmt: skip
    along = ENDS_TO_STANCE * (fore - aft)
    u_ankle = np.hypot(*(tracks.u[:, tracks.index[f"{s}_ankle"]] for s in "lr"))
    u = np.hypot(ENDS_TO_STANCE * u_ankle, BESIDE_SHARE * np.linalg.norm(along, axis=1))
    told = np.isfinite(u) & (np.linalg.norm(fore - aft, axis=1) > LEAST_APART * stature(tracks))
    n = len(tracks)
    names, xy, us = list(tracks.names), tracks.xy.copy(), tracks.u.copy()
    source = tracks.source.copy()
    for end, sign in zip(ends, (1.0, -1.0), strict=True):
        if end not in names:
            names.append(end)
            xy = np.concatenate([xy, np.full((n, 1, 2), np.nan)], axis=1)
            us = np.concatenate([us, np.full((n, 1), np.nan)], axis=1)
            source = np.concatenate([source, np.zeros((n, 1), np.uint8)], axis=1)
        k = names.index(end)
        rows = told & ~np.isfinite(us[:, k])
        xy[rows, k] = (feet + sign * along)[rows]
        us[rows, k] = u[rows]
        source[rows, k] = SOURCES.index("interpolated")
    return replace(tracks, names=tuple(names), xy=xy, u=us, source=source)
