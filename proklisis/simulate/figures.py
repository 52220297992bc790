"""Every fault as a figure: the rider with it beside the rider without, as a still and as a short loop.

    python -m proklisis.simulate.figures FOLDER [--discipline ID …]

Both are simulated from one seed on one body, so that nothing but the fault differs, and are seen at the moment and
from the view at which it shows most. The wrong one stands left. Faults that only a coach's eye can see have none.
"""

from __future__ import annotations

import argparse
import io
import json
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from proklisis.core.errors import InputError
from proklisis.core.measures.lines import line_points
from proklisis.core.playbook.schema import Condition, Playbook
from proklisis.core.readings.readings import Reading
from proklisis.core.review import Review, playbook, playbook_ids
from proklisis.core.rider.mass import MIDPOINTS, centre_of_mass, com_weights
from proklisis.core.tracks.landmarks import SCENE, is_scene
from proklisis.simulate.render.outfit import Outfit
from proklisis.simulate.render.renderer import FAR_AWAY, Renderer
from proklisis.simulate.run import Simulated, simulate
from proklisis.simulate.strip import rider_box

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]
#: Side of one of the two pictures, pixels, of stills and of loops; frames of a loop; the gap between the two.
STILL_PX, LOOP_PX, FRAMES, GAP_PX = 320, 240, 14, 8
#: No figure is larger, bytes (the issue that asked for them).
MOST_BYTES = 60_000
#: How wrong the rider is, scales of the fault's band: the first that can be simulated.
STRENGTHS = (3.0, 2.0, 1.5)
#: Half of a loop's longest time, seconds.
HALF_S = 0.9
#: Joints that lie nearer to each other than this do not show a difference at once (looked at: 192 figures).
SEEN = 0.05
#: A measure that differs by fewer scales does not show its fault.
LEAST_APART = 0.8
SEED, BODY_NO, UNITS = 5, 3, 4
#: Clothes that let limbs be told apart on a light ground.
CLOTHES = Outfit(
    jacket=(0.13, 0.34, 0.50), sleeve=(0.36, 0.60, 0.74), trousers=(0.12, 0.17, 0.25), stripe=(0.75, 0.84, 0.90),
    helmet=(0.93, 0.95, 0.97), boot=(0.30, 0.33, 0.37), ski=(0.66, 0.33, 0.14),
)  # fmt: skip
#: RGB of the ground, of its lower edge, of the line and of the line's edge.
LIGHT, GROUND, MARK, EDGE = (250, 252, 253), (226, 234, 240), (255, 225, 77), (16, 32, 46)


@dataclass(frozen=True)
class Moment:
    """Where a fault shows: ``unit`` counted from 0, ``far`` how far wrong and right lie apart, scales."""

    measure: str
    unit: int
    phase: str | None
    limb: str | None
    far: float
    #: How far joints of the two lie apart in the still and in the loop, at the most, shares of their height in the picture.
    still_apart: float = 0.0
    loop_apart: float = 0.0


def figure(book: Playbook, fault: str) -> tuple[bytes, bytes, Moment] | None:
    """(still, loop, moment) of a fault as WebP; None where it cannot be simulated or does not show."""
    level = next(
        (x for x in ("intermediate", "advanced") if x in book.faults[fault].levels),
        book.faults[fault].levels[0],
    )
    for strength in STRENGTHS:
        try:
            wrong = simulate(
                book.discipline,
                {fault: strength},
                seed=SEED,
                units=UNITS,
                level=level,
                body=BODY_NO,
                noise_px=0.0,
            )  # type: ignore[arg-type]
            right = simulate(book.discipline, {}, seed=SEED, units=UNITS, level=level, body=BODY_NO, noise_px=0.0,
                             view=wrong.shot.view, given=wrong.known.get("conditions"))  # type: ignore[arg-type]  # fmt: skip
        except InputError:
            continue
        both = wrong, right
        seen = wrong.truth(), right.truth()
        moment = _moment(book, fault, *seen, level)
        if moment is None:
            continue
        span = _span(seen, moment)
        frames = [
            _Frames(sim, r.units[moment.unit].start.t, span, _when(r, moment))
            for sim, r in zip(both, seen, strict=True)
        ]
        one, two = frames
        moving = [one.apart(two, i, j) for i, j in zip(one.rows, two.rows, strict=True)]
        if _read_at(seen[0], moment) is None:
            # What is read over a whole unit is shown where it shows most.
            k = int(np.argmax(moving))
            one.row, two.row = one.rows[k], two.rows[k]
        still_apart, loop_apart = round(one.apart(two, one.row, two.row), 3), round(max(moving), 3)
        if loop_apart < SEEN and still_apart < SEEN:
            continue
        reach = max(f.reach for f in frames)
        drawn = [f.drawn(moment, r, reach) for f, r in zip(frames, seen, strict=True)]
        still = _beside(*(picture for picture, _ in drawn))
        loop = [_beside(*two) for two in zip(*(loop for _, loop in drawn), strict=True)]
        moment = replace(moment, still_apart=still_apart, loop_apart=loop_apart)
        return _webp([still], 0), _small(loop, span[1] - span[0]), moment
    return None


def _moment(book: Playbook, fault: str, wrong: Review, right: Review, level: str) -> Moment | None:
    """Where what the fault rests on differs most between the two runs, by its scale."""
    best: Moment | None = None
    clean = {
        (_at(right, r), r.id, r.phase, r.limb): r for r in right.readings if r.segment is not None
    }
    for leaf in book.faults[fault].when.leaves():
        if leaf.measure is None:
            continue
        scale = _scale(leaf, level)
        for r in wrong.readings:
            if (
                r.id != leaf.measure
                or r.segment is None
                or leaf.phase not in (None, r.phase)
                or leaf.limb not in (None, r.limb)
            ):
                continue
            k = _at(wrong, r)
            other = clean.get((k, r.id, r.phase, r.limb))
            if (
                other is None
                or not 0 < k < len(wrong.units) - 1
                or not np.isfinite(r.value)
                or not np.isfinite(other.value)
            ):
                continue
            far = abs(r.value - other.value) / scale
            if best is None or far > best.far:
                best = Moment(r.id, k, r.phase, r.limb, round(float(far), 2))
    return best if best is not None and best.far >= LEAST_APART else None


def _scale(leaf: Condition, level: str) -> float:
    try:
        return float(leaf.scale_for(level))  # type: ignore[arg-type]
    except (TypeError, KeyError, ValueError):
        return leaf.scale or 1.0


def _at(done: Review, r: Reading) -> int:
    return next((k for k, u in enumerate(done.units) if u.n == r.segment), -1)


def _read_at(done: Review, m: Moment) -> float | None:
    """When a measure was read, seconds; None where it is read over a stretch."""
    place = (m.measure, done.units[m.unit].n, m.phase, m.limb)
    return next((r.t for r in done.readings if (r.id, r.segment, r.phase, r.limb) == place), None)


def _when(done: Review, m: Moment) -> float:
    """The moment to look at, seconds."""
    unit, found = done.units[m.unit], _read_at(done, m)
    a, b = unit.phases.get(m.phase or "", (unit.start.t, unit.end.t))
    return found if found is not None else (a + b) / 2


def _span(seen: tuple[Review, Review], m: Moment) -> tuple[float, float]:
    """(from, to) of a loop, seconds from the unit's beginning: one clock for both riders, so that what comes late is seen to."""
    a, b = [], []
    for done in seen:
        unit, when = done.units[m.unit], _when(done, m)
        a.append(max(min(unit.start.t - 0.1, when - 0.3), when - HALF_S) - unit.start.t)
        b.append(min(max(unit.end.t + 0.3, when + 0.3), when + HALF_S) - unit.start.t)
    return min(a), max(b)


class _Frames:
    """One of the two riders, frame by frame about their own middle."""

    def __init__(
        self, sim: Simulated, start: float, span: tuple[float, float], when: float
    ) -> None:
        self.sim, self.t = sim, sim.motion.t
        # Panels and posts would hide the rider.
        names = [n for n in sim.motion.points if not is_scene(n)]
        self.world = [
            dict(zip(names, row, strict=True))
            for row in np.stack([sim.motion.points[n] for n in names], axis=1)
        ]
        self.rows = [
            int(np.abs(self.t - start - off).argmin()) for off in np.linspace(*span, FRAMES)
        ]
        self.row = int(np.abs(self.t - when).argmin())
        boxes = np.array([self._box(i) for i in {*self.rows, self.row}])
        self.reach = float(np.percentile((boxes[:, 2:] - boxes[:, :2]).max(axis=1), 90)) * 0.6
        if "front_axle" in names:
            self.reach *= 1.3  # a wheel reaches as far again beyond its hub

    def _pixels(self, i: int) -> dict[str, Array]:
        exact = self.sim.exact
        out = {
            n: exact.xy[i, k]
            for k, n in enumerate(exact.names)
            if np.isfinite(exact.xy[i, k]).all()
        }
        out |= {
            n: np.mean([out[p] for p in parts], axis=0)
            for n, parts in MIDPOINTS.items()
            if all(p in out for p in parts)
        }
        if all(p in out for p in com_weights()):
            out["com"] = centre_of_mass(out)
        return out

    def _box(self, i: int) -> Array:
        return rider_box(self.sim.exact, i)

    def apart(self, other: _Frames, i: int, j: int) -> float:
        """How far body and gear of two riders lie apart in two frames, at the most, each from its own box's middle, by the box's size."""
        one, two = self._pixels(i), other._pixels(j)
        mid = [(b[:2] + b[2:]) / 2 for b in (self._box(i), other._box(j))]
        names = [
            n
            for n in self.sim.exact.names
            if n in one and n in two and n not in (*SCENE, *FAR_AWAY) and not is_scene(n)
        ]
        size = 2 * max(self.reach, other.reach) / 1.2
        return max(float(np.hypot(*((one[n] - mid[0]) - (two[n] - mid[1])))) for n in names) / size

    def drawn(self, m: Moment, done: Review, reach: float) -> tuple[Picture, list[Picture]]:
        """The still with the line of its measure, and the loop."""
        with Renderer(self.sim.motion, self.sim.shot, CLOTHES, SEED) as renderer:
            picture, put = self._drawn(renderer, self.row, reach, STILL_PX)
            loop = [self._drawn(renderer, i, reach, LOOP_PX)[0] for i in self.rows]
        here = self._pixels(self.row)
        outside = done.units[m.unit].outside_foot or "l"
        line = [put(here[n]) for n in line_points(m.measure, outside, m.limb) if n in here]
        if len(line) > 1:
            at = np.array(line, np.int32).reshape(-1, 1, 2)
            for colour, wide in ((EDGE, 6), (MARK, 3)):
                cv2.polylines(picture, [at], False, colour, wide, cv2.LINE_AA)
        return picture, loop

    def _drawn(self, renderer: Renderer, i: int, reach: float, px: int):  # type: ignore[no-untyped-def]
        """A square picture about the rider, and what puts a pixel of the clip into it."""
        box = self._box(i)
        middle = (box[:2] + box[2:]) / 2
        scale = px / (2 * reach)
        picture = np.empty((px, px, 3), np.uint8)
        picture[:] = LIGHT

        def put(p: Array) -> Array:
            return np.asarray((np.asarray(p) - middle) * scale + px / 2)

        rgba, at = renderer.cutout(i, self.world[i])
        size = (max(1, round(rgba.shape[1] * scale)), max(1, round(rgba.shape[0] * scale)))
        figure = cv2.resize(rgba, size, interpolation=cv2.INTER_AREA)
        if self.sim.shot.view != "above":
            low = int(np.flatnonzero(figure[..., 3].max(axis=1) > 40).max(initial=0))
            picture[max(0, min(px - 1, round(put(at)[1] - size[1] / 2 + low - 0.02 * px))) :] = (
                GROUND
            )
        x0, y0 = np.round(put(at) - np.array(size) / 2).astype(int)
        a, b = max(x0, 0), max(y0, 0)
        c, d = min(x0 + size[0], px), min(y0 + size[1], px)
        if a < c and b < d:
            part = figure[b - y0 : d - y0, a - x0 : c - x0].astype(np.uint16)
            picture[b:d, a:c] = (
                part[..., :3] + picture[b:d, a:c].astype(np.uint16) * (255 - part[..., 3:]) // 255
            )
        return picture, put


def _beside(wrong: Picture, right: Picture) -> Picture:
    gap = np.full((len(wrong), GAP_PX, 3), 255, np.uint8)
    return np.concatenate([wrong, gap, right], axis=1)


def _webp(pictures: list[Picture], each_ms: int, quality: int = 72) -> bytes:
    out = io.BytesIO()
    first, *rest = [Image.fromarray(p) for p in pictures]
    more = {"save_all": True, "append_images": rest, "duration": each_ms, "loop": 0} if rest else {}
    first.save(out, "WEBP", quality=quality, method=4, **more)
    return out.getvalue()


def _small(pictures: list[Picture], seconds: float) -> bytes:
    """A loop at a third of its true speed that is small enough."""
    each = int(1000 * 3 * seconds / len(pictures))
    for quality in (60, 40, 20):
        data = _webp(pictures, each, quality)
        if len(data) <= MOST_BYTES:
            return data
    return _webp(pictures[::2], 2 * each, 20)


def make(folder: Path, discipline: str, fault: str) -> dict[str, object] | None:
    """Write a fault's figures; what they show, or None where there are none."""
    found = figure(playbook(discipline), fault)
    if found is None:
        return None
    still, loop, m = found
    (folder / discipline).mkdir(parents=True, exist_ok=True)
    (folder / discipline / f"{fault}.webp").write_bytes(still)
    (folder / discipline / f"{fault}.loop.webp").write_bytes(loop)
    return {
        "measure": m.measure,
        "phase": m.phase,
        "limb": m.limb,
        "scales_apart": m.far,
        "still_apart": m.still_apart,
        "loop_apart": m.loop_apart,
    }


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--discipline", nargs="+", default=playbook_ids())
    given = parser.parse_args()
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        jobs = {
            (d, f): pool.submit(make, given.folder, d, f)
            for d in given.discipline
            for f in playbook(d).faults
        }
        made: dict[str, dict[str, object]] = {d: {} for d in given.discipline}
        for (d, f), job in jobs.items():
            shows = job.result()
            print(d, f, shows, flush=True)
            if shows is not None:
                made[d][f] = shows
    for d, of in made.items():
        (given.folder / f"{d}.json").write_text(json.dumps(of, indent=1) + "\n")


if __name__ == "__main__":
    main()
