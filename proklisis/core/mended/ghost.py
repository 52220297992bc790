"""The mended ghost: the rider's own figure in one frame, with a measure moved to the nearer edge of its band.

The joints are moved in the picture as little as they can be: feet and gear stay, limbs and trunk keep their lengths there,
and the measure, read on the moved joints by its own formula, comes out at the edge. It is a drawing, not a measurement.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from proklisis.core.measures.registry import REGISTRY, Measure
from proklisis.core.playbook.words import phase_words, unit_words
from proklisis.core.readings.readings import Reading
from proklisis.core.readings.sampled import series_of
from proklisis.core.review import Review, smooth_of
from proklisis.core.rider.figure import Figure, build, read_in_space
from proklisis.core.rider.mass import MIDPOINTS
from proklisis.core.splitting.splitter import Splitter
from proklisis.core.splitting.units import Unit, side_per_frame
from proklisis.core.tracks.landmarks import BODY, BONES
from proklisis.core.tracks.tracks import Tracks
from proklisis.core.uncertainty import digits

Array = NDArray[np.float64]
#: Frames around the one that is mended, which the measure is read on.
AROUND = 6
#: Joints that do not move: what stands on the ground.
STAY = ("l_ankle", "r_ankle", "l_heel", "r_heel", "l_toe", "r_toe")
#: A limb may look longer or shorter by this share (house choice).
STRETCH = 0.03
#: What cannot be brought nearer to the edge than this share of the way is not drawn (house choice).
SHORT_OF = 0.1
#: A joint moves no further than this share of the rider's height in the picture (house choice).
FARTHEST = 0.35
#: A value has to lie outside its band by more than this many standard uncertainties.
SURE_U = 1.645
#: How firmly joints are held that a measure is read from, and all others (house choice).
OWN, OTHER = 0.2, 1.0


@dataclass(frozen=True)
class Ghost:
    """``joints``: landmark → pixels of the clip; ``says`` what was moved, by how much; ``lacking`` why there is none."""

    row: int
    joints: dict[str, tuple[float, float]]
    says: str
    lacking: str = ""


def ghost(
    done: Review, how: Splitter, reading: Reading, band: tuple[float | None, float | None]
) -> Ghost:
    """The figure in the frame at which ``reading`` was read, with its value moved to the nearer edge of ``band``."""
    measure = REGISTRY[reading.id]
    row = _row(done, reading)
    none = Ghost(row, {}, "")
    far = _to_edge(reading, band)
    if far is None:
        return replace(
            none,
            lacking=f"{measure.title} is as wanted here, or its ± does not tell: there is nothing to mend.",
        )
    if not measure.each_frame or measure.clocked:
        return replace(
            none,
            lacking=f"{measure.title} is no position in one frame, so it cannot be drawn mended.",
        )
    if done.tracks.xyz is not None or read_in_space(done.tracks):
        return replace(
            none,
            lacking="The camera stands off the line of its view: what moves in depth cannot be drawn in the picture.",
        )
    smooth, cutoff = smooth_of(done, how)
    unit = next(u for u in done.units if u.n == reading.segment)
    first, last = max(0, row - AROUND), min(len(smooth), row + AROUND + 1)
    window = replace(
        smooth, frames=smooth.frames[first:last], t=smooth.t[first:last], xy=smooth.xy[first:last], u=smooth.u[first:last],
        source=smooth.source[first:last], xyz=None, depth=None, in_space=None,
    )  # fmt: skip
    side = side_per_frame(smooth.t, done.units)[first:last]
    here = _Here(window, row - first, cutoff, side, how, unit, measure, reading.limb)
    start = here.value(np.zeros((len(here.moving), 2)))
    if not np.isfinite(start) or not here.moving:
        return replace(none, lacking=f"{measure.title} cannot be read in this very frame.")
    # A measure that has sides is told toward the inside of its own turn.
    sign = 1.0 if abs(start - reading.value) <= abs(-start - reading.value) else -1.0
    moved = here.solved(start + sign * far)
    if moved is None or abs(here.value(moved) - start - sign * far) > SHORT_OF * abs(far):
        return replace(
            none,
            lacking=f"{measure.title} cannot be mended by the joints that show from here alone.",
        )
    pixels = done.tracks.xy[row]
    joints = {n: (float(x), float(y)) for n, (x, y) in zip(done.tracks.names, pixels, strict=True) if np.isfinite([x, y]).all()}  # fmt: skip
    for name, (dx, dy) in here.whole(moved).items():
        if name in joints:
            joints[name] = (joints[name][0] + float(dx), joints[name][1] + float(dy))
    return Ghost(row, joints, _says(measure, reading, far, here, moved, smooth))


def _row(done: Review, reading: Reading) -> int:
    unit = next(u for u in done.units if u.n == reading.segment)
    a, b = unit.phases.get(reading.phase or "", (unit.start.t, unit.end.t))
    when = reading.t if reading.t is not None else (a + b) / 2
    return int(np.abs(done.tracks.t - when).argmin())


def _to_edge(reading: Reading, band: tuple[float | None, float | None]) -> float | None:
    """What is to be added to a value to bring it to the nearer edge; None where it is not surely outside."""
    lo, hi = band
    if lo is not None and reading.value < lo - SURE_U * reading.u:
        return lo - reading.value
    if hi is not None and reading.value > hi + SURE_U * reading.u:
        return hi - reading.value
    return None


class _Here:
    """The rider about one frame, with some joints that can be moved in the picture."""

    def __init__(
        self, window: Tracks, row: int, cutoff: float, side: Array, how: Splitter, unit: Unit, measure: Measure, limb: str | None
    ) -> None:  # fmt: skip
        self.window, self.row, self.cutoff, self.side = window, row, cutoff, side
        self.how, self.unit, self.measure, self.limb = how, unit, measure, limb
        names = [
            n
            for n in BODY
            if n in window.index and np.isfinite(window.xy[row, window.index[n]]).all()
        ]
        head = [n for n in names if n in ("nose", "l_ear", "r_ear")]
        self.head = head
        self.moving = [n for n in names if n not in STAY and n not in head]
        at = {n: window.xy[row, window.index[n]] for n in names}
        self.tall = float(np.ptp([p[1] for p in at.values()])) or 1.0
        self.at = at
        self.own = {p for name in measure.points for p in MIDPOINTS.get(name, (name,))}
        self.bones = [
            (a, b)
            for a, b in BONES
            if a in at and b in at and (a in self.moving or b in self.moving)
        ]

    def whole(self, moved: Array) -> dict[str, Array]:
        """Landmark → how far it moves, pixels; the head goes along with the shoulders."""
        out = dict(zip(self.moving, moved, strict=True))
        shoulders = [out[n] for n in ("l_shoulder", "r_shoulder") if n in out]
        if shoulders:
            out |= {n: np.mean(shoulders, axis=0) for n in self.head}
        return out

    def value(self, moved: Array) -> float:
        """The measure with the joints moved."""
        xy = self.window.xy.copy()
        for name, d in self.whole(moved).items():
            xy[:, self.window.index[name]] += d
        figure: Figure = self.how.stood(
            build(replace(self.window, xy=xy), self.cutoff, self.side), [self.unit]
        )
        more = () if self.limb is None else (self.limb,)
        return float(series_of(self.measure, figure, more)[self.row])

    def solved(self, target: float) -> Array | None:
        """(joints, 2) the least moves, pixels, that bring the measure to ``target``."""
        n, size = len(self.moving), 0.05 * self.tall
        scale = max(abs(target - self.value(np.zeros((n, 2)))), 1e-6)

        # What the measure is read from moves; the rest follows as far as limbs keep their lengths.
        hold = np.repeat([OWN if name in self.own else OTHER for name in self.moving], 2)

        def off(x: Array) -> Array:
            moved = x.reshape(n, 2) * size
            out = dict(zip(self.moving, moved, strict=True))
            still = np.zeros(2)
            lengths = []
            for a, b in self.bones:
                before = float(np.hypot(*(self.at[a] - self.at[b])))
                now = float(
                    np.hypot(*(self.at[a] + out.get(a, still) - self.at[b] - out.get(b, still)))
                )
                lengths.append((now - before) / max(STRETCH * before, 1.0))
            reached = 30.0 * (self.value(moved) - target) / scale
            return np.concatenate([hold * x, lengths, [reached]])

        found = least_squares(off, np.zeros(2 * n), method="trf", max_nfev=12, diff_step=[1e-3])
        moved: Array = found.x.reshape(n, 2) * size
        return (
            moved
            if np.isfinite(moved).all() and np.hypot(*moved.T).max() < FARTHEST * self.tall
            else None
        )


def _says(
    measure: Measure, reading: Reading, far: float, here: _Here, moved: Array, smooth: Tracks
) -> str:
    unit = unit_words(measure.id)
    most = int(np.argmax(np.hypot(*moved.T)))
    joint = here.moving[most].replace("l_", "left ").replace("r_", "right ")
    way = float(np.hypot(*moved[most]))
    scale = smooth.facts.px_per_m
    length = (
        f"{100 * way / scale:.0f} cm"
        if scale
        else f"{100 * way / here.tall:.0f} % of your height in the picture"
    )
    where = f" at the {phase_words(reading.phase)}" if reading.phase else ""
    return (
        f"Drawn with {measure.title.lower()}{where} at {digits(reading.value + far, reading.u)}{unit} instead of {digits(reading.value, reading.u)} ± "
        f"{digits(2 * reading.u, reading.u)}{unit}: the {joint} moves most, by about {length}. A drawing, not a measurement."
    )
