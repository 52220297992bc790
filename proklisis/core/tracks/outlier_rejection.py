"""Put right what a tracker got wrong and a look at the neighbouring frames gives away.

Left and right that changed places for a while are changed back; a joint that jumps away and
returns, or that makes a limb longer than it is, is emptied. What is emptied is bridged or asked for
later; nothing is guessed here.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import SHANK, THIGH, UPPER_ARM
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import SOURCES, Tracks

Array = NDArray[np.float64]

#: Joints that a tracker confuses together.
GROUPS: tuple[tuple[str, ...], ...] = (
    ("shoulder",), ("elbow", "wrist"), ("hip",), ("knee", "ankle", "heel", "toe"), ("ear",),
)  # fmt: skip
#: A swap is believed when it saves this share of the figure's height in each joint's path (house choice).
SWAP_SAVES = 0.035
#: The longest swap, seconds (house choice).
SWAP_LONGEST_S = 1.0
#: Joints closer than this share of the figure's height cannot be told apart (house choice).
APART_SHARE = 0.08
#: A joint steps out of its movement by this many usual steps (house choice).
JUMP = 6.0
#: And by this share of the figure's height (house choice).
JUMP_SHARE = 0.06
#: A limb is too long by this factor (house choice).
LONGER = 1.8
#: Over this time a path may bend away by as much again, seconds (house choice).
REACH_S = 0.10
#: The longest that a joint strays, seconds (house choice).
LONGEST_S = 0.9
#: What a real break in its path costs, in seconds of path that is kept (house choice).
BREAK_S = 0.5
#: How many stretches back one is looked for that a stretch follows on from.
MOST_STRETCHES = 30
#: A hand that lets go of a boom or a bar for longer than this has not strayed.
HAND_S = 0.35
EDGE_S = 0.04
#: Length of the limb that ends at a joint ÷ stature (the foot's parts a house choice).
SHARES = {"elbow": UPPER_ARM, "knee": THIGH, "ankle": SHANK, "heel": 0.08, "toe": 0.15}
#: Limbs whose far end is at fault when they are too long.
LIMBS: tuple[tuple[str, str], ...] = tuple(
    (f"{s}_{a}", f"{s}_{b}") for s in "lr"
    for a, b in (("shoulder", "elbow"), ("hip", "knee"), ("knee", "ankle"), ("ankle", "heel"), ("ankle", "toe"))
)  # fmt: skip


def reject_outliers(xy: Array, t: Array, names: tuple[str, ...] = BODY) -> Array:
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
            rows = swapped(out[:, left], out[:, right], t, height)
            for a, b in zip(left, right, strict=True):
                out[rows, a], out[rows, b] = out[rows, b], out[rows, a]
    for k, name in enumerate(names):
        if name in BODY:
            longest = HAND_S if name.endswith("wrist") else LONGEST_S
            out[outliers(out[:, k], t, height, longest), k] = np.nan
    out[too_long(out, names, height)] = np.nan
    return out


def without_outliers(tracks: Tracks) -> Tracks:
    """Tracks as :func:`reject_outliers`; what a hand has marked is never doubted."""
    xy = reject_outliers(tracks.xy, tracks.t, tracks.names)
    by_hand = np.isin(tracks.source, [SOURCES.index("marked"), SOURCES.index("interpolated")])
    xy[by_hand] = tracks.xy[by_hand]
    gone = np.isfinite(tracks.xy[..., 0]) & ~np.isfinite(xy[..., 0])
    return replace(tracks, xy=xy, u=np.where(gone, np.nan, tracks.u))


def figure_height(xy: Array, names: tuple[str, ...]) -> float:
    """Middle height of the body in the picture, pixels; NaN where no frame shows it."""
    y = xy[:, [i for i, n in enumerate(names) if n in BODY], 1]
    seen = np.isfinite(y).sum(axis=1) >= 6
    if not seen.any():
        return float("nan")
    return float(np.median(np.nanmax(y[seen], axis=1) - np.nanmin(y[seen], axis=1)))


def swapped(left: Array, right: Array, t: Array, height: float) -> NDArray[np.int64]:
    """Rows in which left and right have changed places for up to :data:`SWAP_LONGEST_S`.

    ``left``, ``right`` : (n, j, 2) joints that a tracker confuses together.
    """
    ok = np.isfinite(left).all(axis=(1, 2)) & np.isfinite(right).all(axis=(1, 2))
    rows = np.flatnonzero(ok)
    if len(rows) < 3:
        return np.empty(0, np.int64)
    a, b = left[rows], right[rows]
    # Joints that pass each other go on as they went; ones that are mistaken for each other do not.
    ahead_a, ahead_b = 2 * a[1:-1] - a[:-2], 2 * b[1:-1] - b[:-2]
    stay = _apart(a[2:], ahead_a) + _apart(b[2:], ahead_b)
    cross = _apart(a[2:], ahead_b) + _apart(b[2:], ahead_a)
    flips = np.flatnonzero(cross + 2 * SWAP_SAVES * height < stay) + 2
    # One frame's flip spoils the next frame's prediction, which then seems to flip back.
    flips = flips[np.concatenate([[True], np.diff(flips) > 1])] if len(flips) else flips
    out: list[int] = []
    k = 0
    while k + 1 < len(flips):
        first, stop = flips[k], flips[k + 1]
        if t[rows[stop]] - t[rows[first]] <= SWAP_LONGEST_S:
            # Joints that lie on each other need no changing back.
            if np.median(_apart(a[first:stop], b[first:stop])) > APART_SHARE * height:
                out += rows[first:stop].tolist()
            k += 2
        else:
            k += 1
    return np.array(out, np.int64)


def _apart(p: Array, q: Array) -> Array:
    return np.asarray(_length(p - q).mean(axis=1))


def _length(d: Array) -> Array:
    """Length of (…, 2) vectors."""
    return np.asarray(np.sqrt(d[..., 0] ** 2 + d[..., 1] ** 2))


def outliers(path: Array, t: Array, height: float, longest_s: float) -> NDArray[np.bool_]:
    """(n,): frames in which one joint's path (n, 2) leaves for a while and comes back.

    The path is cut wherever it steps out of its own movement. Of the stretches between the cuts those are
    kept that follow on from each other; a stretch that fits neither the one before nor the one after it,
    while these fit each other, has strayed. A movement that stops or starts hard is cut too, but goes on
    where it is, so nothing of it is lost.
    """
    out = np.zeros(len(path), bool)
    seen = np.flatnonzero(np.isfinite(path[:, 0]))
    if len(seen) < 8:
        return out
    p, ts = path[seen], t[seen]
    dt = np.diff(ts)[:, None]
    v = np.diff(p, axis=0) / dt
    padded = np.pad(v, ((1, 1), (0, 0)), mode="edge")
    before, here, after = padded[:-2], padded[1:-1], padded[2:]
    # The median of each three.
    usual = np.maximum(np.minimum(before, here), np.minimum(np.maximum(before, here), after))
    off = _length((v - usual) * dt)
    limit = max(JUMP * float(np.mean(off)), JUMP_SHARE * height)
    cuts = np.flatnonzero(off > limit) + 1
    if not len(cuts):
        return out
    first = np.concatenate([[0], cuts])
    stop = np.concatenate([cuts, [len(p)]])
    kept = _longest_chain(p, ts, first, stop, limit, longest_s)
    # At either end nothing shows that the joint would come back.
    kept |= set(range(min(kept))) | set(range(max(kept), len(first)))
    for k, (a, b) in enumerate(zip(first, stop, strict=True)):
        if k not in kept:
            # Going off and coming back takes a moment too.
            edge = round(EDGE_S / float(np.median(np.diff(ts)))) if b - a > 2 else 0
            out[seen[max(a - edge, 0) : b + edge]] = True
    return out


def _longest_chain(
    p: Array,
    t: Array,
    first: NDArray[np.int64],
    stop: NDArray[np.int64],
    limit: float,
    longest_s: float,
) -> set[int]:
    """Numbers of the stretches that follow on from each other and last longest in all.

    Two that do not meet may still be neighbours, at the price of :data:`BREAK_S`.
    """
    m = len(first)
    speed = np.array(
        [_end_speeds(p[a:b], t[a:b]) for a, b in zip(first, stop, strict=True)]
    )  # (m, 2 ends, 2)
    lasts = t[stop - 1] - t[first]
    usual = float(np.median(np.diff(t)))
    best, before = np.array(lasts + usual), np.full(m, -1)
    for k in range(1, m):
        for j in range(max(0, k - MOST_STRETCHES), k):
            gap = float(t[first[k]] - t[stop[j] - 1])
            if j < k - 1 and gap > longest_s:
                continue
            wanted = p[stop[j] - 1] + gap * (speed[j, 1] + speed[k, 0]) / 2
            meets = np.linalg.norm(p[first[k]] - wanted) <= limit * (1 + gap / REACH_S)
            score = best[j] + lasts[k] + usual - (0.0 if meets else BREAK_S)
            if score > best[k]:
                best[k], before[k] = score, j
    k = int(best.argmax())
    kept = set()
    while k >= 0:
        kept.add(k)
        k = int(before[k])
    return kept


def _end_speeds(p: Array, t: Array) -> tuple[Array, Array]:
    """Velocity over the first and the last few frames of a stretch; zero for a single frame."""
    if len(p) < 2:
        return np.zeros(2), np.zeros(2)
    k = min(4, len(p) - 1)
    return (p[k] - p[0]) / (t[k] - t[0]), (p[-1] - p[-1 - k]) / (t[-1] - t[-1 - k])


def too_long(xy: Array, names: tuple[str, ...], height: float) -> NDArray[np.bool_]:
    """(n, k): far ends of limbs that look longer than they are; a picture can only shorten them."""
    out = np.zeros(xy.shape[:2], bool)
    for near, far in LIMBS:
        if near in names and far in names:
            length = _length(xy[:, names.index(near)] - xy[:, names.index(far)])
            seen = length[np.isfinite(length)]
            if len(seen) >= 10:
                # What is usual may be foreshortened throughout: a limb may also be as long as limbs are.
                usual = max(float(np.percentile(seen, 85)), SHARES[far[2:]] * height)
                with np.errstate(invalid="ignore"):
                    out[:, names.index(far)] |= length > LONGER * usual + 0.5 * JUMP_SHARE * height
    return out
