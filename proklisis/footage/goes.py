"""Cut a film of many goes: where somebody rides, from when to when, and who rides again.

A film is sampled a few times a second and searched for everybody in it. Finds are joined into paths; somebody who is out
of the picture begins a new one. A path is a go while the person moves as fast as riders do, against the ground that the
camera shows and toward or away from it; who walks or stands is none. Goes are put down to one rider by the colours
of their clothes and helmet.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.cluster.hierarchy import fcluster, linkage
from scipy.ndimage import median_filter
from scipy.optimize import linear_sum_assignment

from proklisis.core.tracks.landmarks import BODY
from proklisis.footage.ahead import ahead
from proklisis.footage.flow import BackgroundFlow
from proklisis.footage.frames import frames
from proklisis.footage.people import DEAREST, Someone, bodily
from proklisis.footage.pose import PoseFinder
from proklisis.footage.probe import Clip

Array = NDArray[np.float64]
#: Samples a second.
SAMPLES_HZ = 5.0
#: Out of sight for longer, somebody begins a new path, seconds.
GONE_S = 2.0
#: Speeds are taken over this time, seconds: a box jumps from sample to sample.
OVER_S = 1.2
#: A lens of a phone, in picture widths (common practice: 26 mm on full frame is 0.72, zoomed in several times that).
FOCAL = 1.6
#: So long may somebody be half in the picture before they are found, seconds (house choice).
HALF_SEEN_S = 0.4
#: In so many samples in a row somebody may be missed.
MISSED = 3
#: So many samples before somebody was found they are looked for.
BACK = 9
#: Who rides again after a longer while begins another go, seconds (house choice).
PAUSE_S = 1.0
#: And who was out of sight for longer.
UNSEEN_S = 1.9
#: Shortest go, seconds.
SHORTEST_S = 1.2
#: Body heights a second from which somebody rides: a walker does 0.8 to 1.1 (1.4 to 1.9 m/s at 1.75 m; common practice).
RIDES = 1.35
#: A go begins and ends at this share of it (house choice).
SLOWEST = 0.8
#: Trunk, thighs and head that differ by less are no person's, but a tree's (lightness, and both ways of colour, in any light; set on made films).
ONE_COLOUR = (1.6, 5.0, 5.0)
#: Nobody rides again so soon: two such goes of one rider are one that was lost on the way, seconds (house choice).
AGAIN_S = 1.2
#: Corners of the ground without which nothing is told of it (house choice).
FEWEST = 8
#: What moves by less than this otherwise than the person moves with them, pixels and body heights a frame (set on made films).
MOVES_PX, MOVES = 2.0, 0.015
#: So much of what is seen by the feet, moving alike within this share of its own way, is the ground (house choice).
GROUND_SHARE, ALIKE = 0.2, 0.35
#: Where riders are slower than that: this share of their usual speed, and at the least so much (house choice).
SHARE, LEAST = 0.4, 0.45
STATURE_M = 1.75
#: Windows in which somebody is looked at again, half their size in body heights; and how near they must be found, body heights.
NEARER, SAME_PLACE = (0.9, 1.4), 0.3
#: A find that is taller or smaller than those around it by more than this is not of the same body (set on made films).
OTHER_SIZE = 1.5
#: Fewer finds are nobody's go.
FEWEST_FINDS = 4
#: A find that is less of a body than this is none: trees have limbs now and then.
A_BODY = 0.35
#: Goes whose colours lie nearer than this are one rider's (in any light; set on made films).
SAME_RIDER = 22.0
#: Clothes that differ by more are another's, when somebody was out of sight (in any light; set on made films).
OTHER_CLOTHES = 22.0


def rides_from(speed_ms: float) -> float:
    """Body heights a second from which somebody rides, where riders usually go at ``speed_ms`` metres a second."""
    return float(np.clip(SHARE * speed_ms / STATURE_M, LEAST, RIDES))


def attempts(clip: Clip, discipline: str, goes: list[Go]) -> dict[str, Any]:
    """Goes as the open format ``attempts/1``: times in seconds from the film's first frame, riders numbered from 1."""
    return {
        "format": "attempts/1", "clip": clip.path.name, "discipline": discipline,
        "riders": len({g.rider for g in goes}),
        "attempts": [
            {
                "n": n, "start_s": g.from_s, "end_s": g.to_s, "rider": g.rider + 1, "frame": g.frame,
                "box": [round(v, 1) for v in g.box],
            }
            for n, g in enumerate(goes, 1)
        ],
    }  # fmt: skip


@dataclass
class _Path(Someone):
    """A person's path with each find's sample, clothes and place."""

    samples: list[int] = field(default_factory=list)
    looks: list[Array] = field(default_factory=list)
    #: How fast the scene and the ground by the feet move there, (2, 2) pixels a second each.
    ground: list[Array] = field(default_factory=list)

    def put_before(
        self, sample: int, number: int, found: Array, look: Array, ground: Array
    ) -> None:
        """A find from before the path's first."""
        lo, hi = found.min(axis=0), found.max(axis=0)
        self.numbers.insert(0, number)
        self.bodily.insert(0, 1.0)
        self.centres.insert(0, (lo + hi) / 2)
        self.heights.insert(0, float(hi[1] - lo[1]))
        self.boxes.insert(0, (float(lo[0]), float(lo[1]), float(hi[0]), float(hi[1])))
        self.samples.insert(0, sample)
        self.looks.insert(0, look)
        self.ground.insert(0, ground)

    def places(self, sample: int) -> list[Array]:
        """Where they may be in a sample before the first or after the last: as they move, or left by a camera that followed them."""
        first = sample < self.samples[0]
        ground = np.array(self.ground[:3] if first else self.ground[-3:])[:, 1]
        end = 0 if first else -1
        out = [self.centres[end], self.at(sample)]
        if np.isfinite(ground[:, 0]).any():
            gone_by = np.nanmedian(ground, axis=0) * (self.samples[end] - sample) / SAMPLES_HZ
            out += [self.centres[end] + share * gone_by for share in (0.35, 0.7, 1.05)]
        return out

    def at(self, sample: int) -> Array:
        """(2,) where they would be in a sample, as they move at the path's nearer end."""
        rows = slice(0, 4) if sample < self.samples[0] else slice(-4, None)
        k, c = np.array(self.samples[rows], float), np.array(self.centres[rows])
        m = k.mean()
        spread = float(((k - m) ** 2).sum())
        v = (k - m) @ (c - c.mean(axis=0)) / spread if len(k) > 2 and spread else np.zeros(2)
        here = 0 if sample < self.samples[0] else -1
        return np.asarray(self.centres[here] + v * (sample - self.samples[here]))


@dataclass(frozen=True)
class Go:
    """One go: from when to when, seconds from the film's first frame; who, numbered by first appearance; a frame that shows them."""

    from_s: float
    to_s: float
    rider: int
    frame: int
    #: The rider's box in that frame: left, top, right, bottom, pixels.
    box: tuple[float, float, float, float]


def find_goes(
    clip: Clip, rides: float = RIDES, progress: Callable[[int, int], None] | None = None
) -> list[Go]:
    """Every go of a film in order of time; empty where nobody rides.

    ``rides``: body heights a second from which somebody rides. ``progress`` is called with (done, all).
    """
    n = max(2, int(clip.t[-1] * SAMPLES_HZ))
    numbers = np.unique(
        np.searchsorted(clip.t, np.linspace(0, clip.t[-1], n)).clip(max=len(clip.t) - 1)
    )
    paths = _paths(clip, numbers, progress)
    t = clip.t[numbers]
    themselves = _once([q for p in paths if (q := _one_body(p)) is not None])
    found = [g for p in themselves for g in _ridden(p, t, (clip.width, clip.height), rides)]
    found.sort(key=lambda g: g[0])
    if not found:
        return []
    who = _riders([g[2] for g in found])
    out: list[Go] = []
    for k, (a, b, _, frame, box) in enumerate(found):
        last = next((g for g in reversed(out) if g.rider == who[k]), None)
        if last is not None and a - last.to_s < AGAIN_S:
            out[out.index(last)] = replace(last, to_s=max(last.to_s, round(b, 3)))
        else:
            out.append(Go(round(a, 3), round(b, 3), who[k], frame, box))
    return out


def _paths(
    clip: Clip, numbers: NDArray[np.int64], progress: Callable[[int, int], None] | None
) -> list[_Path]:
    """Everybody's paths through the sampled frames; beside each, a frame before it shows how the ground moves."""
    open_paths: list[_Path] = []
    done: list[_Path] = []
    place = {int(n): k for k, n in enumerate(numbers)}
    gone = max(2, round(GONE_S * SAMPLES_HZ))
    before: NDArray[np.uint8] | None = None
    kept: deque[_Kept] = deque(maxlen=BACK)
    with PoseFinder() as finder:
        for f in ahead(frames(clip, only={*place, *(n - 1 for n in place)})):
            k = place.get(f.number)
            last, before = before, f.picture
            if k is None:
                continue
            finds = finder.find(f.picture)
            if not finds and k % 2 == 0:
                finds = finder.find_small(f.picture)
            finds = [x for x in _distinct(finds) if _again(finder, f.picture, x)]
            for p in open_paths:
                if k - p.samples[-1] <= gone and not any(p.holds(x) for x in finds):
                    finds += _near_by(p, finder, f.picture, k)
            finds = _distinct([x for x in finds if bodily(x, *f.picture.shape[:2]) >= A_BODY])
            steps = [_ground_steps(last, f.picture, x) * clip.fps for x in finds]
            _joined(open_paths, finds, steps, f.picture, k, f.number)
            for p in open_paths:
                if len(p.samples) == 3 and p.samples[-1] == k:
                    _back(p, finder, kept, clip.fps)
            kept.append(_Kept(k, f.number, last, f.picture))
            done += [p for p in open_paths if k - p.samples[-1] > gone]
            open_paths = [p for p in open_paths if k - p.samples[-1] <= gone]
            if progress:
                progress(k + 1, len(numbers))
    return [*done, *open_paths]


def _again(finder: PoseFinder, picture: NDArray[np.uint8], found: Array) -> bool:
    """Whether somebody is found again when looked at from nearer: a body in a tree is not."""
    lo, hi = found.min(axis=0), found.max(axis=0)
    tall = float(hi[1] - lo[1])
    for half in NEARER:
        for x in finder.find_near(picture, (lo + hi) / 2, half * tall):
            if np.linalg.norm(x.mean(axis=0) - found.mean(axis=0)) < SAME_PLACE * tall:
                return True
    return False


class _Kept(NamedTuple):
    """A sampled picture, with the frame before it."""

    sample: int
    number: int
    before: NDArray[np.uint8] | None
    picture: NDArray[np.uint8]


def _back(p: _Path, finder: PoseFinder, kept: Iterable[_Kept], fps: float) -> None:
    """Look for somebody who was just found where they must have been before.

    Where they stand still in the picture while the ground goes by, the camera follows them; before it began to, they
    were as much further back as the ground has gone by since, or less.
    """
    missed = 0
    for old in sorted((o for o in kept if o.sample < p.samples[0]), key=lambda o: -o.sample):
        h = p.heights[0]
        if not any(_found_before(p, finder, old, there, h, fps) for there in p.places(old.sample)):
            missed += 1
            if missed > MISSED:
                return
        else:
            missed = 0


def _near_by(p: _Path, finder: PoseFinder, picture: NDArray[np.uint8], k: int) -> list[Array]:
    """Somebody who was not seen in a sample, looked for from nearer where they may be; one who seems to be a rider further on, too."""
    tall = p.heights[-1]
    lost = len(p.samples) >= 3 and k - p.samples[-1] <= MISSED
    for there in p.places(k) if lost else p.centres[-1:]:
        for half in NEARER if lost else NEARER[:1]:
            if found := finder.find_near(picture, there, half * tall):
                return found
    return []


def _found_before(
    p: _Path, finder: PoseFinder, old: _Kept, there: Array, tall: float, fps: float
) -> bool:
    """Put down a find from before a path's first, where there is one near a place; whether there was."""
    near = (x for half in NEARER for x in finder.find_near(old.picture, there, half * tall))
    for x in near:
        if np.linalg.norm((x.min(axis=0) + x.max(axis=0)) / 2 - there) > 0.6 * tall:
            continue
        look = _look(old.picture, x)
        if (
            1 / OTHER_SIZE < np.ptp(x[:, 1]) / tall < OTHER_SIZE
            and _differ(look, np.median(p.looks[:5], axis=0)) < OTHER_CLOTHES
        ):
            steps = _ground_steps(old.before, old.picture, x) * fps
            p.put_before(old.sample, old.number, x, look, steps)
            return True
    return False


def _ground_steps(before: NDArray[np.uint8] | None, now: NDArray[np.uint8], found: Array) -> Array:
    """(2, 2) pixels by which the scene at a person's place, and the ground by their feet, moved since the frame before.

    A camera that pans sees both move alike; one that travels along sees only the ground go by. NaN where nothing is to be followed.
    """
    out = np.full((2, 2), np.nan)
    if before is None:
        return out
    flow = BackgroundFlow()
    middle = (found.min(axis=0) + found.max(axis=0)) / 2
    flow.step(before, found, middle)
    step, u = flow.step(now, found, middle)
    if u < now.shape[1] / 8:
        out[0] = step
    out[1] = _by_the_feet(before, now, found)
    return out


def _by_the_feet(before: NDArray[np.uint8], now: NDArray[np.uint8], found: Array) -> Array:
    """(2,) pixels by which the ground beside and under a person moved since the frame before.

    A camera that follows a rider sees skis, poles and shadow stand still with them: where enough of what is seen there
    moves alike and otherwise than the person, that is the ground.
    """
    (x0, y0), (x1, y1) = found.min(axis=0), found.max(axis=0)
    tall, h, w = y1 - y0, *now.shape[:2]
    left, right = (int(np.clip(v, 0, w)) for v in (x0 - 1.5 * tall, x1 + 1.5 * tall))
    top, bottom = (int(np.clip(v, 0, h)) for v in (y0, y1 + 0.6 * tall))
    if right - left < 40 or bottom - top < 20:
        return np.full(2, np.nan)
    old, new = (cv2.cvtColor(p[top:bottom, left:right], cv2.COLOR_RGB2GRAY) for p in (before, now))
    mask = np.full(old.shape, 255, np.uint8)
    mask[: int(np.clip(y0 + 0.6 * tall - top, 0, bottom - top))] = 0
    grow = 0.2 * tall
    bx0, bx1 = (int(np.clip(v - left, 0, right - left)) for v in (x0 - grow, x1 + grow))
    mask[: int(np.clip(y1 + 0.1 * tall - top, 0, bottom - top)), bx0:bx1] = 0
    corners = cv2.goodFeaturesToTrack(old, 80, 0.02, 5, mask=mask)
    if corners is None:
        return np.full(2, np.nan)
    steps = _steps(old, new, corners)
    if len(steps) < FEWEST:
        return np.full(2, np.nan)
    own = _steps(old, new, (found - [left, top]).astype(np.float32)[:, None])
    if len(own):
        away = steps - np.median(own, axis=0)
        other = steps[np.hypot(*away.T) > max(MOVES_PX, MOVES * tall)]
        if len(other) >= max(FEWEST / 2, GROUND_SHARE * len(steps)):
            middle = np.median(other, axis=0)
            off = np.hypot(*(other - middle).T)
            if np.median(off) < ALIKE * max(float(np.hypot(*middle)), MOVES_PX):
                return np.asarray(middle, float)
    return np.asarray(np.median(steps, axis=0), float)


def _steps(old: Any, new: Any, corners: Any) -> Array:
    """(k, 2) pixels by which corners moved from one picture to the next, of those that are found again on the way back."""
    size = {"winSize": (21, 21), "maxLevel": 3}
    there, ok, _ = cv2.calcOpticalFlowPyrLK(old, new, corners, np.empty_like(corners), **size)  # type: ignore[call-overload]
    back, again, _ = cv2.calcOpticalFlowPyrLK(new, old, there, np.empty_like(there), **size)  # type: ignore[call-overload]
    good = (ok & again).ravel().astype(bool) & (np.abs(back - corners).max(axis=(1, 2)) < 0.7)
    return np.asarray((there - corners)[good, 0], float)


def _one_body(p: _Path) -> _Path | None:
    """A path without finds that are not its person: of another size than those around it, or in other clothes.

    A network sees limbs in a tree beside the rider now and then. None where too little is left.
    """
    height, looks = np.array(p.heights), np.array(p.looks)
    usual = median_filter(height, 9, mode="nearest")
    good = np.abs(np.log(height / usual)) < np.log(OTHER_SIZE)
    if good.any():
        clothes = np.median(looks[good], axis=0)
        good &= np.array([_differ(k, clothes) < OTHER_CLOTHES for k in looks])
    if good.sum() < FEWEST_FINDS:
        return None
    kept = np.flatnonzero(good)

    def of(rows: list[Any]) -> list[Any]:
        return [rows[k] for k in kept]

    return replace(
        p, numbers=of(p.numbers), centres=of(p.centres), heights=of(p.heights), boxes=of(p.boxes), bodily=of(p.bodily),
        samples=of(p.samples), looks=of(p.looks), ground=of(p.ground),
    )  # fmt: skip


def _once(paths: list[_Path]) -> list[_Path]:
    """Paths without those that are a second find of somebody who has a longer one, found with it or in between."""
    kept: list[_Path] = []
    for p in sorted(paths, key=lambda p: -len(p.samples)):
        k, centres, heights = np.array(p.samples), np.array(p.centres), np.array(p.heights)
        for q in kept:
            during = (k >= q.samples[0]) & (k <= q.samples[-1])
            if during.sum() < 0.5 * len(k):
                continue
            there = np.stack(
                [np.interp(k, q.samples, np.array(q.centres)[:, a]) for a in (0, 1)], axis=1
            )
            near = np.linalg.norm(centres - there, axis=1) < 0.6 * heights
            if near[during].mean() > 0.5:
                break
        else:
            kept.append(p)
    return kept


def _joined(
    paths: list[_Path],
    finds: list[Array],
    steps: list[Array],
    picture: NDArray[np.uint8],
    k: int,
    number: int,
) -> None:
    looks = [_look(picture, x) for x in finds]
    costs = np.full((len(paths), len(finds)), DEAREST)
    for i, p in enumerate(paths):
        for j, x in enumerate(finds):
            ago = k - p.samples[-1]
            # Who comes back in other clothes is somebody else.
            other = ago > 2 and _differ(looks[j], np.median(p.looks[-5:], axis=0)) > OTHER_CLOTHES
            costs[i, j] = DEAREST if other else p.cost(x, looks[j][:3], ago)
    rows, columns = linear_sum_assignment(costs)
    taken = {int(j): int(i) for i, j in zip(rows, columns, strict=True) if costs[i, j] < DEAREST}
    for j, x in enumerate(finds):
        if j not in taken:
            taken[j] = len(paths)
            paths.append(_Path())
        p = paths[taken[j]]
        p.add(number, x, looks[j][:3], bodily(x, *picture.shape[:2]))
        p.samples.append(k)
        p.looks.append(looks[j])
        p.ground.append(steps[j])


def _differ(a: Array, b: Array) -> float:
    """How much trunk or thighs differ, whichever differ more."""
    return float(np.linalg.norm((a - b)[:6].reshape(2, 3), axis=1).max())


def _distinct(finds: list[Array]) -> list[Array]:
    kept: list[Array] = []
    for x in sorted(finds, key=lambda x: -np.ptp(x[:, 1])):
        if all(
            np.linalg.norm(x.mean(axis=0) - y.mean(axis=0)) > 0.35 * np.ptp(y[:, 1]) for y in kept
        ):
            kept.append(x)
    return kept


def _ridden(
    p: _Path, t: Array, size: tuple[int, int], rides: float
) -> list[tuple[float, float, Array, int, tuple[float, float, float, float]]]:
    """The stretches of a path in which the person rides: begin, end, look, a frame and their box in it."""
    rows = np.array(p.samples)
    at = t[rows]
    height = np.array(p.heights)
    speed = _speeds(at, np.array(p.centres), np.array(p.ground), height, size[0])
    # A moment's wrong speed neither begins nor ends a go.
    even = median_filter(speed, 5, mode="nearest")
    step = float(np.median(np.diff(t)))
    whole = np.array([_inside(b, size) for b in p.boxes]) * height
    out = []
    for first, last in _stretches(at, even > SLOWEST * rides):
        its = slice(first, last + 1)
        if at[last] - at[first] < SHORTEST_S or np.median(speed[its]) <= rides:
            continue
        look = np.median(np.array(p.looks)[its], axis=0)
        if (np.ptp(look.reshape(3, 3), axis=0) < ONE_COLOUR).all():
            continue
        best = first + int(np.argmax(whole[its]))
        before = _to_the_edge(p, at, first, -1, size) if first == 0 else 0.0
        after = _to_the_edge(p, at, last, 1, size) if last == len(at) - 1 else 0.0
        begin, end = float(at[first]) - max(step, before), float(at[last]) + max(step, after)
        out.append((max(0.0, begin), end, look, p.numbers[best], p.boxes[best]))
    return out


def _stretches(t: Array, rides: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """First and last of each stretch of finds in which somebody rides; who is seen not to ride for a while has ended one, or was out of sight for longer."""
    on = np.flatnonzero(rides)
    if not len(on):
        return []
    paused = [b - a > 2 and np.ptp(t[a + 1 : b]) > PAUSE_S for a, b in pairwise(on)]
    unseen = [np.diff(t[a : b + 1]).max() > UNSEEN_S for a, b in pairwise(on)]
    cut = np.flatnonzero(np.array(paused, bool) | np.array(unseen, bool))
    firsts = on[np.concatenate([[0], cut + 1])]
    lasts = on[np.concatenate([cut, [len(on) - 1]])]
    return [(int(a), int(b)) for a, b in zip(firsts, lasts, strict=True)]


def _inside(box: tuple[float, float, float, float], size: tuple[int, int]) -> float:
    """Share of a box that lies in the picture."""
    across = min(box[2], size[0]) - max(box[0], 0.0)
    down = min(box[3], size[1]) - max(box[1], 0.0)
    area = (box[2] - box[0]) * (box[3] - box[1])
    return max(across, 0.0) * max(down, 0.0) / area if area > 0 else 0.0


def _to_the_edge(p: _Path, t: Array, at: int, way: int, size: tuple[int, int]) -> float:
    """Seconds between a path's first (``way`` −1) or last (1) find and the picture's edge, as it moves there; 0 where it is far.

    Half a body is not found: who comes into the picture was in it a little before.
    """
    rows = slice(0, 5) if way < 0 else slice(-5, None)
    tt, c = t[rows] - t[rows].mean(), np.array(p.centres)[rows]
    if len(tt) < 3 or np.ptp(tt) == 0:
        return 0.0
    v = way * (tt @ (c - c.mean(axis=0))) / float((tt**2).sum())
    here = p.centres[0 if way < 0 else -1]
    times = [
        (size[k] - here[k] if v[k] > 0 else here[k]) / abs(v[k]) for k in (0, 1) if abs(v[k]) > 1e-6
    ]
    soonest = min(times, default=np.inf)
    return float(soonest) if soonest <= HALF_SEEN_S else 0.0


def _speeds(t: Array, place: Array, ground: Array, height: Array, width: int) -> Array:
    """(k,) body heights a second, across the picture and along the line of sight, over :data:`OVER_S` around each find."""
    out = np.zeros(len(t))
    for i, now in enumerate(t):
        near = np.abs(t - now) <= OVER_S / 2
        if near.sum() < 3:
            near = np.zeros(len(t), bool)
            near[max(0, i - 1) : i + 2] = True
        tt, h = t[near] - t[near].mean(), float(np.median(height[near]))
        if len(tt) < 2 or float((tt**2).sum()) == 0:
            continue
        across = (tt @ (place[near] - place[near].mean(axis=0))) / (tt**2).sum() / h
        ways = [across]
        for k in (0, 1):
            seen = ground[near, k][np.isfinite(ground[near, k, 0])]
            if len(seen) >= 2:
                ways.append(across - np.median(seen, axis=0) / h)
        across = max(ways[1:] or ways, key=lambda v: float(np.hypot(*v)))
        growth = float(tt @ np.log(height[near])) / float((tt**2).sum())
        # A body is as tall as it is far: its distance in its own heights is the focal length over its pixels.
        along = growth * FOCAL * width / h
        noise = 0.04 / np.sqrt(float((tt**2).sum())) * FOCAL * width / h
        along = np.sign(along) * max(0.0, abs(along) - 2 * noise)
        out[i] = float(np.hypot(np.hypot(*across), along))
    return out


def _look(picture: NDArray[np.uint8], found: Array) -> Array:
    """(9,) colour of trunk, thighs and head, as :func:`in_any_light` has it."""

    def at(*names: str) -> Array:
        return np.asarray(found[[BODY.index(n) for n in names]].mean(axis=0))

    def along(*lines: tuple[Array, Array]) -> Array:
        way = np.linspace(0.2, 0.8, 7)[:, None]
        x, y = np.round(np.concatenate([a + way * (b - a) for a, b in lines])).astype(int).T
        x, y = x.clip(0, picture.shape[1] - 1), y.clip(0, picture.shape[0] - 1)
        lab = cv2.cvtColor(picture[y, x][None], cv2.COLOR_RGB2LAB)[0]
        return np.asarray(np.median(lab, axis=0), float)

    shoulders, hips = at("l_shoulder", "r_shoulder"), at("l_hip", "r_hip")
    trunk = along(
        (at("l_shoulder"), at("l_hip")), (at("r_shoulder"), at("r_hip")), (shoulders, hips)
    )
    thighs = along((at("l_hip"), at("l_knee")), (at("r_hip"), at("r_knee")))
    head = along((at("l_ear", "r_ear"), at("nose")), (at("l_ear"), at("r_ear")))
    return in_any_light(np.concatenate([trunk, thighs, head]))


def in_any_light(lab: Array) -> Array:
    """(9,) of three CIELAB colours (8 bit) what stays the same in sun and shade: colour against lightness, and little of lightness.

    A jacket's side in the shade has half the lightness and half the colour of the other (a scaling of RGB scales all
    three); +40 keeps what is nearly black from having every colour.
    """
    out = lab.astype(float).reshape(3, 3)
    light = out[:, :1].copy()
    out[:, 1:] = 200.0 * (out[:, 1:] - 128.0) / (light + 40.0)
    out[:, :1] = 0.1 * light
    return out.ravel()


def _riders(looks: list[Array]) -> list[int]:
    """Who rode each go, numbered by first appearance."""
    if len(looks) == 1:
        return [0]
    weights = np.repeat([1.0, 1.0, 0.4], 3)  # a helmet is small
    groups = fcluster(linkage(np.array(looks) * weights, "average"), SAME_RIDER, "distance")
    order: dict[int, int] = {}
    return [order.setdefault(int(g), len(order)) for g in groups]
