"""Left and right of a rider seen from ahead or behind, settled over the whole clip.

A network that takes a back for a chest changes left and right for a second or for a whole turn, longer than a look at
the neighbouring frames gives away. Who stands on two feet that never cross has the same foot to the same side of the picture
all the way.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import SOURCES, Tracks

#: Groups that change together, and the pairs that say whether they have.
GROUPS: tuple[tuple[tuple[str, ...], tuple[str, ...]], ...] = (
    (("knee", "ankle", "heel", "toe"), ("knee", "ankle")), (("hip",), ("hip",)), (("shoulder", "elbow", "wrist"), ("shoulder",)), (("ear",), ("ear",)),
)  # fmt: skip
#: Pairs apart by less than this share of the trunk on the whole say nothing: the rider is seen from the side.
APART = 0.25
#: So much of the clip must show the same order.
SAME = 0.6
#: A pair in the other order by this share of the trunk has changed.
CHANGED = 0.10


def with_settled_sides(tracks: Tracks) -> Tracks:
    """Tracks with left and right changed back in the frames where a group stands the other way round than in the clip as a whole."""
    if not {f"{s}_{p}" for s in "lr" for p in ("shoulder", "hip", "knee", "ankle")} <= tracks.index.keys():  # fmt: skip
        return tracks
    middle = {p: (tracks.point(f"l_{p}") + tracks.point(f"r_{p}")) / 2 for p in ("shoulder", "hip")}
    trunk = float(np.nanmedian(np.linalg.norm(middle["shoulder"] - middle["hip"], axis=1)))
    order = {p: _right_of(tracks, p) / trunk for p in ("shoulder", "hip", "knee", "ankle")}
    whole = sum(order.values())
    usual = float(np.nanmedian(whole)) if np.isfinite(whole).any() else 0.0
    same = np.nanmean(np.sign(whole) == np.sign(usual)) if usual else 0.0
    if abs(usual) < 4 * APART or same < SAME:
        return tracks
    xy, u, source = tracks.xy.copy(), tracks.u.copy(), tracks.source.copy()
    depth = None if tracks.depth is None else tracks.depth.copy()
    for group, tells in GROUPS:
        told = [_right_of(tracks, p) / trunk * np.sign(usual) for p in tells if f"l_{p}" in tracks.index]  # fmt: skip
        if not told:
            continue
        with np.errstate(invalid="ignore"):
            rows = np.flatnonzero((np.array(told) < -CHANGED).all(axis=0))
        pairs = [f"{s}_{p}" for s in "lr" for p in group if f"{s}_{p}" in tracks.index]
        by_hand = tracks.source[:, [tracks.index[p] for p in pairs]] == SOURCES.index("marked")
        # Where a coach put a joint, it stays.
        rows = rows[~by_hand[rows].any(axis=1)]
        for part in group:
            if f"l_{part}" in tracks.index and f"r_{part}" in tracks.index:
                a, b = tracks.index[f"l_{part}"], tracks.index[f"r_{part}"]
                for column in (xy, u, source):
                    column[rows, a], column[rows, b] = column[rows, b].copy(), column[rows, a].copy()  # fmt: skip
                if depth is not None:
                    a, b = BODY.index(f"l_{part}"), BODY.index(f"r_{part}")
                    depth[rows, a], depth[rows, b] = depth[rows, b].copy(), depth[rows, a].copy()
    return replace(tracks, xy=xy, u=u, source=source, depth=depth)


def _right_of(tracks: Tracks, part: str) -> NDArray[np.float64]:
    """(n,) how far the right one stands to the right of the left one in the picture, pixels."""
    return np.asarray(tracks.point(f"r_{part}")[:, 0] - tracks.point(f"l_{part}")[:, 0])
