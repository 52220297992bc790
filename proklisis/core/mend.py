"""Put right what a tracker got wrong and a look at the neighbouring frames gives away.

Left and right that changed places for a while are changed back; a joint that jumps away and
returns, or that makes a limb longer than it is, is emptied. What is emptied is bridged or asked for
later; nothing is guessed here.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.landmarks import BODY

Array = NDArray[np.float64]

#: Joints that a tracker confuses together.
GROUPS: tuple[tuple[str, ...], ...] = (
    ("shoulder",), ("elbow", "wrist"), ("hip",), ("knee", "ankle", "heel", "toe"), ("ear",),
)  # fmt: skip
#: A swap is believed when it saves this share of the figure's height in each joint's path.
SWAP_SAVES = 0.035
#: A joint is out of place this many usual steps from where both its neighbours put it, and this share
#: of the figure's height; and a limb too long by this factor.
JUMP, JUMP_SHARE, LONGER = 6.0, 0.06, 1.35
#: Frames on either side that say where a joint should be, and the longest jump that is looked for.
REACH_S, LONGEST_S = 0.10, 0.12
#: Limbs whose far end is at fault when they are too long.
LIMBS: tuple[tuple[str, str], ...] = tuple(
    (f"{s}_{a}", f"{s}_{b}") for s in "lr"
    for a, b in (("shoulder", "elbow"), ("elbow", "wrist"), ("hip", "knee"), ("knee", "ankle"), ("ankle", "heel"), ("ankle", "toe"))
)  # fmt: skip


def mended(xy: Array, t: Array, names: tuple[str, ...] = BODY) -> Array:
    """Return ``xy`` (n, k, 2) with swaps undone and joints that cannot be there emptied (NaN).

    Rows are frames at times ``t``; names that are no part of the body are left alone.
    """
    out = xy.copy()
    height = figure_height(xy, names)
    if not np.isfinite(height) or len(xy) < 5:
        return out
    for group in GROUPS:
        pairs = [(f"l_{j}", f"r_{j}") for j in group if f"l_{j}" in names and f"r_{j}" in names]
        if pairs:
            left = [names.index(a) for a, _ in pairs]
            right = [names.index(b) for _, b in pairs]
            rows = swapped(out[:, left], out[:, right], height)
            for a, b in zip(left, right, strict=True):
                out[rows, a], out[rows, b] = out[rows, b], out[rows, a]
    out[jumps(out, t, height) & np.isin(names, BODY)] = np.nan
    out[too_long(out, names)] = np.nan
    return out


def figure_height(xy: Array, names: tuple[str, ...]) -> float:
    """Middle height of the body in the picture, pixels; NaN where no frame shows it."""
    y = xy[:, [i for i, n in enumerate(names) if n in BODY], 1]
    seen = np.isfinite(y).sum(axis=1) >= 6
    if not seen.any():
        return float("nan")
    return float(np.median(np.nanmax(y[seen], axis=1) - np.nanmin(y[seen], axis=1)))


def swapped(left: Array, right: Array, height: float) -> NDArray[np.int64]:
    """Rows in which left and right have changed places, by the path that moves least in all.

    ``left``, ``right`` : (n, j, 2). The state that holds longer is taken for the right one.
    """
    ok = np.isfinite(left).all(axis=(1, 2)) & np.isfinite(right).all(axis=(1, 2))
    rows = np.flatnonzero(ok)
    if len(rows) < 3:
        return np.empty(0, np.int64)
    a, b = left[rows], right[rows]
    stay = np.linalg.norm(a[1:] - a[:-1], axis=-1).mean(axis=1) + np.linalg.norm(b[1:] - b[:-1], axis=-1).mean(axis=1)
    cross = np.linalg.norm(a[1:] - b[:-1], axis=-1).mean(axis=1) + np.linalg.norm(b[1:] - a[:-1], axis=-1).mean(axis=1)
    # A change of places costs a little, so that joints which only pass each other stay as they are.
    flip = cross + 2 * SWAP_SAVES * height < stay
    state = np.concatenate([[0], np.cumsum(flip) % 2])
    if state.mean() > 0.5:
        state = 1 - state
    return np.asarray(rows[state == 1])


def jumps(xy: Array, t: Array, height: float) -> NDArray[np.bool_]:
    """(n, k): joints that leave their path and come back to it within :data:`LONGEST_S`.

    A joint is held against a straight line between its middle places just before and just after; a
    fast movement goes on past them and is no jump.
    """
    n, k = xy.shape[:2]
    dt = float(np.median(np.diff(t)))
    half = max(1, round(LONGEST_S / 2 / dt))
    reach = max(2, round(REACH_S / dt))
    if n < 2 * (half + reach) + 1:
        return np.zeros((n, k), bool)
    windows = np.lib.stride_tricks.sliding_window_view(xy, reach, axis=0)  # (n-reach+1, k, 2, reach)
    with np.errstate(all="ignore"):
        middle = np.median(windows, axis=-1)
    before, after = np.full_like(xy, np.nan), np.full_like(xy, np.nan)
    before[half + reach :] = middle[: n - half - reach]
    after[: n - half - reach] = middle[half + 1 :]
    off = np.linalg.norm(xy - (before + after) / 2, axis=-1)
    # What a fast movement itself bends away: how far the two middles lie apart, and the usual residual.
    apart = np.linalg.norm(after - before, axis=-1)
    with np.errstate(all="ignore"):
        usual = np.nanmedian(off, axis=0)
    far = off > np.maximum(JUMP * usual, JUMP_SHARE * height) + 0.75 * apart
    return np.asarray(far & np.isfinite(off))


def too_long(xy: Array, names: tuple[str, ...]) -> NDArray[np.bool_]:
    """(n, k): far ends of limbs that look longer than they are; a picture can only shorten them."""
    out = np.zeros(xy.shape[:2], bool)
    for near, far in LIMBS:
        if near in names and far in names:
            length = np.linalg.norm(xy[:, names.index(near)] - xy[:, names.index(far)], axis=-1)
            seen = length[np.isfinite(length)]
            if len(seen) >= 10:
                # The rider may come nearer in the clip: the longest tenth, without its own wild ones.
                usual = float(np.percentile(seen, 85))
                with np.errstate(invalid="ignore"):
                    out[:, names.index(far)] |= length > LONGER * usual
    return out


