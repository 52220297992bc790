"""A bar followed through a clip: its direction, its place at the body and its ends, with their ±.

In each frame edges vote for a direction; over the clip the likeliest course of directions is taken, so that a frame's wrong
edges do not count and the bar does not jump. The edges that bear it out give direction and place frame by frame.
Where few do, or others speak as loudly, it is not told.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, percentile_filter, uniform_filter1d

from proklisis.core.gear.bars import Bar
from proklisis.core.signals import lowpass

Array = NDArray[np.float64]
#: Directions that are told apart, in the whole circle.
STATES = 120
GRID = np.arange(STATES) * 360.0 / STATES
#: An edge speaks for directions this near to its own, degrees.
NEAR_DEG = 4.0
#: As many statures of edges as say all there is to say.
ENOUGH = 0.9
#: What full edges weigh in the logarithm of the likelihood, beside where the body points and which end is in front.
EDGES, POINTS, FRONT = 8.0, 1.2, 1.5
#: What a parallel neighbour's edges weigh, and how parallel it is, degrees.
PARALLEL, PARALLEL_DEG = 0.5, 6.0
#: The body points along a bar within this, degrees, and says all it can from this many statures on.
POINTS_DEG, POINTS_SIZE = 18.0, 0.12
#: A bar turns so fast, degrees a second, one standard deviation; a jump costs no more than one of three of them.
TURNS, JUMP = 160.0, 4.5
#: Edges bear a direction out within this, degrees; farther than that off it they speak against it.
BEARS_DEG, AGAINST_DEG = 7.0, 12.0
#: A held bar goes on so far behind the hand at the most, statures.
BEHIND = 0.12
#: A frame with fewer statures of edges than this shows nothing.
LEAST = 0.10
#: A bar is told where this share of the frames around shows it well, and one of them lies this near, seconds.
CLEAR, AROUND_S, GAP_S = 0.6, 0.4, 0.12
#: It was found where it is told in this share of the frames.
FOUND = 0.25
#: Direction and place are smooth to this, and the ends to that, hertz.
HZ, ENDS_HZ = 5.0, 3.0
#: Standard uncertainty of a direction that edges bear out well, and what it grows by where they are few, degrees.
DIRECTION_U, FEW_U, FEW = 0.5, 1.5, 0.25
#: Standard uncertainty of where a bar passes and of where it ends, statures.
PLACE_U, END_U = 0.012, 0.015


@dataclass(frozen=True)
class Looked:
    """What edges say of one bar.

    Attributes
    ----------
    at, tall : (n, 2) pixels where the body says that it passes, and (n,) stature in pixels
    angle : (n, k) direction of each edge, −90 … 90°, y down
    weight : (n, k) what it is worth, statures
    where : (n, k, 3) how far ``at`` lies off its line, and from where to where it goes along it, statures
    votes, score : (n, states) statures of edges for each direction, and the logarithm of its likelihood
    """

    at: Array
    tall: Array
    angle: Array
    weight: Array
    where: Array
    votes: Array
    score: Array


@dataclass(frozen=True)
class Found:
    """A bar over n frames: (n, 2) pixels of its ends and (n,) standard uncertainty of their coordinates, NaN where it is not told."""

    front: Array
    back: Array
    u: Array


def look(
    bar: Bar, edges: Array, at: Array, tall: Array, points: Array | None, fore: Array
) -> Looked:
    """Hold the edges of every frame against where the body says that a bar is.

    Parameters
    ----------
    edges : (n, k, 4) both ends of each in pixels, NaN where there are fewer than k
    at : (n, 2) where the body says that it passes, pixels
    tall : (n,) stature, pixels
    points : (n, 2) along the bar as the body has it, pixels; None where nothing shows it
    fore : (n, 2) toward its front end, pixels: the farther the surer
    """
    angle, weight, where = _edges(bar, edges, at, tall)
    apart = _axis_apart(GRID, angle[..., None])
    spoken = weight[..., None] * np.exp(-0.5 * (apart / NEAR_DEG) ** 2)
    if bar.held:
        # Only what lies on the far side of the hand speaks for a direction.
        out = np.where((where[..., 1] + where[..., 2]) >= 0, angle, angle + 180.0)
        spoken = np.where(_apart(GRID, out[..., None]) < 90, spoken, 0.0)
    votes = spoken.sum(axis=1)
    score = EDGES * np.minimum(votes / ENOUGH, 1.0) + FRONT * _side(fore, tall)
    if points is not None:
        score += POINTS * _pointed(points, tall)
    return Looked(at, tall, angle, weight, where, votes, np.nan_to_num(score))


def fit_bar(bar: Bar, looked: Looked, t: Array, beside: Looked | None = None) -> Found | None:
    """Fit one bar over frames at ``t`` seconds; None where too few show it.

    ``beside`` is what edges say of one that lies about parallel to it.
    """
    seen = np.isfinite(looked.at[:, 0]) & np.isfinite(looked.tall)
    if seen.sum() < 8:
        return None
    score = looked.score
    if beside is not None:
        blurred = gaussian_filter1d(
            beside.score, PARALLEL_DEG * STATES / 360.0, axis=1, mode="wrap"
        )
        score = score + PARALLEL * blurred
    course = GRID[likeliest(score, np.diff(t))]
    return _refined(bar, course, looked, seen, t)


def likeliest(score: Array, dt: Array) -> NDArray[np.int64]:
    """(n,) the course through (n, states) of directions with the greatest sum of scores, less what turning costs.

    Viterbi, *Error bounds for convolutional codes* (1967); from memory. ``dt``: (n − 1,) seconds between frames.
    """
    n, m = score.shape
    steps = np.abs((np.arange(m)[:, None] - np.arange(m) + m // 2) % m - m // 2) * 360.0 / m
    best, came = score[0].copy(), np.zeros((n, m), np.int64)
    for i in range(1, n):
        width = max(TURNS * float(dt[i - 1]), 360.0 / m)
        # Beyond some standard deviations a jump costs no more: a course that was wrong can be put right.
        whole = best[:, None] - np.minimum(0.5 * (steps / width) ** 2, JUMP)
        came[i] = whole.argmax(axis=0)
        best = whole.max(axis=0) + score[i]
    course = np.zeros(n, np.int64)
    course[-1] = int(best.argmax())
    for i in range(n - 1, 0, -1):
        course[i - 1] = came[i, course[i]]
    return course


def _edges(bar: Bar, edges: Array, at: Array, tall: Array) -> tuple[Array, Array, Array]:
    """Angle, worth and place of each edge, as :class:`Looked` has them."""
    p, q = edges[..., :2], edges[..., 2:]
    d = q - p
    long = np.linalg.norm(d, axis=-1)
    size = tall[:, None]
    with np.errstate(invalid="ignore", divide="ignore"):
        u = d / long[..., None]
        # Every edge is taken to run to the right in the picture, or straight down it.
        back = (u[..., 0] < 0) | ((u[..., 0] == 0) & (u[..., 1] < 0))
        u = np.where(back[..., None], -u, u)
        away = at[:, None] - p
        off = (away[..., 0] * u[..., 1] - away[..., 1] * u[..., 0]) / size
        one, other = (((e - at[:, None]) * u).sum(axis=-1) / size for e in (p, q))
        start, end = np.minimum(one, other), np.maximum(one, other)
        gap = np.maximum(np.maximum(start, -end), 0.0)
        far = np.maximum(np.abs(start), np.abs(end))
        good = (np.abs(off) < bar.off) & (gap < bar.gap) & (far < 1.15 * max(bar.reach))
        if bar.held:
            # What goes on behind the hand is not held in it.
            good &= np.minimum(np.maximum(-start, 0), np.maximum(end, 0)) < BEHIND
        worth = np.where(good, long / size * np.exp(-0.5 * (off / (0.5 * bar.off)) ** 2), 0.0)
        angle = np.degrees(np.arctan2(u[..., 1], u[..., 0]))
    where = np.stack([off, start, end], axis=-1)
    return np.nan_to_num(angle), np.nan_to_num(worth), np.nan_to_num(where)


def _apart(a: Array, b: Array) -> Array:
    """Degrees between directions, 0 … 180."""
    return np.asarray(np.abs((a - b + 180) % 360 - 180))


def _axis_apart(a: Array, b: Array) -> Array:
    """Degrees between lines, whichever way they run, 0 … 90."""
    d = np.abs(a - b) % 180.0
    return np.asarray(np.minimum(d, 180.0 - d))


def _pointed(points: Array, tall: Array) -> Array:
    """(n, states) how well the body's own direction goes with each, weighted by how much of it shows."""
    with np.errstate(invalid="ignore", divide="ignore"):
        size = np.linalg.norm(points, axis=1) / tall
    own = np.degrees(np.arctan2(points[:, 1], points[:, 0]))
    near = np.exp(-0.5 * (_axis_apart(GRID, own[:, None]) / POINTS_DEG) ** 2)
    return np.asarray(np.nan_to_num(np.clip(size / POINTS_SIZE, 0, 1)[:, None] * (near - 0.5)))


def _side(fore: Array, tall: Array) -> Array:
    """(n, states) whether each direction leads to the front end, −1 … 1."""
    a = np.radians(GRID)
    with np.errstate(invalid="ignore", divide="ignore"):
        dot = (fore[:, :1] * np.cos(a) + fore[:, 1:] * np.sin(a)) / tall[:, None]
    return np.nan_to_num(np.clip(dot / 0.10, -1, 1))


def _refined(
    bar: Bar, course: Array, looked: Looked, seen: NDArray[np.bool_], t: Array
) -> Found | None:
    """Direction, place and ends frame by frame from the edges near the course, made smooth."""
    ahead = _apart(looked.angle, course[:, None]) < 90
    near = _axis_apart(looked.angle, course[:, None]) < BEARS_DEG
    w = np.where(near, looked.weight, 0.0)
    support = w.sum(axis=1)
    d = (looked.angle - course[:, None] + 90) % 180 - 90
    with np.errstate(invalid="ignore", divide="ignore"):
        own = (w * d).sum(axis=1) / support
        spread = np.sqrt((w * (d - own[:, None]) ** 2).sum(axis=1) / support)
        off = (w * looked.where[..., 0] * np.where(ahead, 1.0, -1.0)).sum(axis=1) / support
    ends = np.where(ahead[..., None], looked.where[..., 1:], -looked.where[..., :0:-1])
    to_front = np.where(w > 0, ends[..., 1], -np.inf).max(axis=1)
    to_back = np.where(w > 0, -ends[..., 0], -np.inf).max(axis=1)
    shown = seen & (support > LEAST) & (to_front + to_back > bar.shortest)
    against = np.where(
        _axis_apart(GRID, course[:, None]) > AGAINST_DEG, looked.votes, 0.0
    ).max(axis=1)  # fmt: skip
    well = shown & (support > bar.trust * (support + against))
    told = seen & _told(t, well)
    if told.sum() < max(6, FOUND * seen.sum()):
        return None

    def smooth(x: Array, hz: float = HZ) -> Array:
        filled = np.interp(t, t[shown], x[shown])
        return lowpass(filled, 1.0 / float(np.median(np.diff(t))), hz)

    turned = np.unwrap(np.radians(course)) + np.radians(np.where(shown, own, 0.0))
    angle, place = smooth(turned), smooth(off) * looked.tall
    u = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    foot = looked.at + place[:, None] * np.stack([-u[:, 1], u[:, 0]], axis=1)
    reach = [
        smooth(_widest(t, np.clip(x, 0, most)), ENDS_HZ) * looked.tall
        for x, most in ((to_front, bar.reach[0]), (to_back, bar.reach[1]))
    ]
    angle_u = smooth(np.hypot(DIRECTION_U, np.nan_to_num(spread)) + FEW_U * np.exp(-support / FEW))
    u_px = np.hypot(
        np.radians(angle_u) * sum(reach) / np.sqrt(2), np.hypot(PLACE_U, END_U) * looked.tall
    )
    front, back = foot + u * reach[0][:, None], foot - u * reach[1][:, None]
    for x in (front, back, u_px):
        x[~told] = np.nan
    return Found(front, back, u_px)


def _told(t: Array, well: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(n,) frames around which enough show the bar well, and one is near."""
    rows = np.flatnonzero(well)
    if not len(rows):
        return np.zeros(len(t), bool)
    share = uniform_filter1d(well.astype(float), _frames(t, AROUND_S), mode="nearest")
    k = np.searchsorted(t[rows], t).clip(1, max(len(rows) - 1, 1))
    nearest = np.minimum(
        np.abs(t - t[rows[k - 1]]), np.abs(t - t[rows[np.minimum(k, len(rows) - 1)]])
    )
    return np.asarray((share >= CLEAR) & (nearest <= GAP_S))


def _widest(t: Array, x: Array) -> Array:
    """How far an end reaches: the most that edges around a moment show, less the odd one."""
    return np.asarray(percentile_filter(x, 80, size=_frames(t, 0.3), mode="nearest"))


def _frames(t: Array, seconds: float) -> int:
    """An odd number of frames that lasts about so long."""
    return max(3, round(seconds / float(np.median(np.diff(t))))) | 1
