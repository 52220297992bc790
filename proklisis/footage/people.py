"""Who is in the picture: the people of a clip, each with where they are now and then.

A clip is sampled a few times a second. Each sample is searched for several people, and what is
found is joined into one path per person by place, size and the colour of their clothes. The chosen
person's path then keeps the tracker on them, however often somebody else crosses the picture.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from proklisis.core.tracks.landmarks import BODY
from proklisis.footage.ahead import ahead
from proklisis.footage.frames import frames
from proklisis.footage.pose import PoseFinder
from proklisis.footage.probe import Clip

Array = NDArray[np.float64]
#: Samples a second.
SAMPLES_HZ = 3.0
#: The most of them on a long clip.
MOST_SAMPLES = 600
#: Key frames at least so often, seconds, do for samples: they cost no other frame's decoding.
KEY_S = 1.1
#: Two finds of one person in one sample lie closer than this share of their height.
SAME_PLACE = 0.35
#: Cost of joining a find to a path per height moved (house choice).
MOVED = 0.4
#: Per ratio of size, logarithmic (house choice).
SIZE = 1.0
#: Per step of colour (house choice).
COLOUR = 0.02
#: The dearest joining (house choice).
DEAREST = 1.6
#: In each so-manyth sample the picture's parts are searched too; in between, where somebody was.
SMALL_EVERY = 4
#: A person seen in fewer samples than this share of the best is a passer-by.
PASSER_BY = 0.2
#: One leg shows at least this share of the other's length, however a body turns.
LEGS_ALIKE = 0.6
#: A sample so many times taller or smaller than those around it is a wrong find.
ODD_SIZE = 1.7


@dataclass
class Someone:
    """One person's path: (k,) frame numbers, (k, 2) centres and (k,) heights in pixels, a (k, 4) box each."""

    numbers: list[int] = field(default_factory=list)
    centres: list[Array] = field(default_factory=list)
    heights: list[float] = field(default_factory=list)
    boxes: list[tuple[float, float, float, float]] = field(default_factory=list)
    #: How much of a body each find is, 0 … 1.
    bodily: list[float] = field(default_factory=list)
    colour: Array | None = None

    def add(self, number: int, found: Array, colour: Array, bodily: float = 1.0) -> None:
        lo, hi = found.min(axis=0), found.max(axis=0)
        self.numbers.append(number)
        self.bodily.append(bodily)
        self.centres.append((lo + hi) / 2)
        self.heights.append(float(hi[1] - lo[1]))
        self.boxes.append((float(lo[0]), float(lo[1]), float(hi[0]), float(hi[1])))
        self.colour = colour if self.colour is None else 0.7 * self.colour + 0.3 * colour

    def holds(self, found: Array) -> bool:
        """Whether a find lies where they were last."""
        off = (found.min(axis=0) + found.max(axis=0)) / 2 - self.centres[-1]
        return bool(np.linalg.norm(off) < 0.5 * self.heights[-1])

    def cost(self, found: Array, colour: Array, samples_ago: int) -> float:
        lo, hi = found.min(axis=0), found.max(axis=0)
        moved = np.linalg.norm((lo + hi) / 2 - self.centres[-1]) / self.heights[-1]
        size = abs(np.log(max(float(hi[1] - lo[1]), 1.0) / self.heights[-1]))
        assert self.colour is not None
        return float(
            MOVED * moved / samples_ago**0.5
            + SIZE * size
            + COLOUR * np.linalg.norm(colour - self.colour)
        )

    def weight(self) -> float:
        """How much of the clip they fill: the rider who was filmed is seen longest, largest and whole."""
        return sum(self.bodily) * float(np.median(self.heights))

    def presence(self) -> float:
        """How much of the clip they fill, whole or not."""
        return len(self.numbers) * float(np.median(self.heights))


def sample_numbers(clip: Clip) -> list[int]:
    """Frames to look at, evenly over the clip's time; key frames where there are enough of them."""
    n = int(np.clip(SAMPLES_HZ * clip.t[-1], 8, MOST_SAMPLES))
    wanted = np.linspace(0, clip.t[-1], n)
    keys = clip.t[clip.keys]
    if len(keys) > 1 and np.diff(keys).max() <= KEY_S and clip.t[-1] - keys[-1] <= KEY_S:
        picks = np.abs(keys[:, None] - wanted).argmin(axis=0)
        return sorted({int(clip.keys[i]) for i in picks})
    return sorted({int(i) for i in np.searchsorted(clip.t, wanted).clip(max=len(clip.t) - 1)})


def find_people(clip: Clip, progress: Callable[[int, int], None] | None = None) -> list[Someone]:
    """Everybody who is in a good part of the clip, the likeliest rider first; empty where nobody is found."""
    wanted = sample_numbers(clip)
    people: list[Someone] = []
    last: list[int] = []  # the sample at which each person was seen last
    with PoseFinder() as finder:
        for k, (number, picture) in enumerate(ahead(_sampled(clip, wanted))):
            finds = finder.find(picture)
            if k % SMALL_EVERY == 0:
                finds += finder.find_small(picture)
            for person, seen in zip(people, last, strict=True):
                if k - seen <= SMALL_EVERY and not any(person.holds(f) for f in finds):
                    finds += finder.find_near(picture, person.centres[-1], 0.9 * person.heights[-1])
            finds = _apart(finds)
            colours = [_clothes(picture, f) for f in finds]
            costs = np.full((len(people), len(finds)), DEAREST)
            for i, person in enumerate(people):
                for j, found in enumerate(finds):
                    costs[i, j] = person.cost(found, colours[j], max(k - last[i], 1))
            rows, columns = linear_sum_assignment(costs)
            joined = {
                int(j): int(i) for i, j in zip(rows, columns, strict=True) if costs[i, j] < DEAREST
            }
            for j, found in enumerate(finds):
                if j not in joined:
                    joined[j] = len(people)
                    people.append(Someone())
                    last.append(k)
                people[joined[j]].add(number, found, colours[j], bodily(found, *picture.shape[:2]))
                last[joined[j]] = k
            if progress:
                progress(k + 1, len(wanted))
    if not people:
        return []
    people.sort(key=Someone.weight, reverse=True)
    return [p for p in people if p.presence() >= PASSER_BY * people[0].presence()]


def bodily(found: Array, height: int, width: int) -> float:
    """How much of a body a find is, 0 … 1: of its points, those inside the picture; and limbs as long as their others.

    The network sees a body in a tree now and then: half out of the picture, with one leg twice the other.
    """
    inside = ((found >= 0) & (found <= [width, height])).all(axis=1).mean()
    at = {n: found[k] for k, n in enumerate(BODY)}
    legs = [
        float(np.linalg.norm(at[f"{s}_hip"] - at[f"{s}_knee"]) + np.linalg.norm(at[f"{s}_knee"] - at[f"{s}_ankle"]))
        for s in "lr"
    ]  # fmt: skip
    alike = min(legs) / max(*legs, 1.0)
    return float(inside**2 * min(1.0, alike / LEGS_ALIKE))


def _sampled(clip: Clip, wanted: list[int]) -> Iterator[tuple[int, NDArray[np.uint8]]]:
    """(number, picture) of the wanted frames. Key frames are decoded without those between them."""
    if np.isin(wanted, clip.keys).all():
        for number in wanted:
            yield from ((f.number, f.picture) for f in frames(clip, number, number + 1))
    else:
        these = set(wanted)
        yield from ((f.number, f.picture) for f in frames(clip, only=these))


def _apart(finds: list[Array]) -> list[Array]:
    kept: list[Array] = []
    for found in finds:
        height = np.ptp(found[:, 1])
        if all(
            np.linalg.norm(found.mean(axis=0) - k.mean(axis=0)) > SAME_PLACE * height for k in kept
        ):
            kept.append(found)
    return kept


def _clothes(picture: NDArray[np.uint8], found: Array) -> Array:
    """Mean Lab colour of the trunk."""
    corners = found[[BODY.index(n) for n in ("l_shoulder", "r_shoulder", "r_hip", "l_hip")]]
    (x0, y0), (x1, y1) = (
        np.floor(corners.min(axis=0)).astype(int),
        np.ceil(corners.max(axis=0)).astype(int),
    )
    part = picture[max(y0, 0) : max(y1, 0) + 1, max(x0, 0) : max(x1, 0) + 1]
    if not part.size:
        return np.zeros(3)
    return np.asarray(cv2.cvtColor(part, cv2.COLOR_RGB2LAB).reshape(-1, 3).mean(axis=0), float)


@dataclass(frozen=True)
class Seeds:
    """Where the chosen rider is now and then: (k,) frame numbers, (k, 2) centres and (k,) heights in pixels."""

    numbers: NDArray[np.int64]
    centres: Array
    heights: Array
    #: Whether there is anybody else in the picture.
    crowded: bool = False

    def near(self, number: int, most: int) -> tuple[Array, float] | None:
        """Centre and height between the samples around a frame; None farther than ``most`` frames from both."""
        if not len(self.numbers) or np.abs(self.numbers - number).min() > most:
            return None
        centre = np.array([np.interp(number, self.numbers, self.centres[:, a]) for a in (0, 1)])
        return centre, float(np.interp(number, self.numbers, self.heights))

    def at(self, number: int) -> tuple[Array, float] | None:
        """Centre and height in a sampled frame, else None."""
        return self.near(number, 0)


def seeds_of(people: list[Someone], chosen: int = 0) -> Seeds:
    person = people[chosen]
    return seeded(
        np.array(person.numbers),
        np.array(person.centres).reshape(-1, 2),
        np.array(person.heights),
        len(people) > 1,
    )


def seeded(numbers: NDArray[np.int64], centres: Array, heights: Array, crowded: bool) -> Seeds:
    """Seeds without the samples that show somebody of quite another size: half a body, or a wrong find."""
    if len(heights) > 4:
        usual = np.array([np.median(heights[max(0, k - 2) : k + 3]) for k in range(len(heights))])
        good = np.abs(np.log(heights / usual)) < np.log(ODD_SIZE)
        numbers, centres, heights = numbers[good], centres[good], heights[good]
    return Seeds(numbers, centres, heights, crowded)
