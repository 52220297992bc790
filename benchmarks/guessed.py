"""What is guessed of a clip, and how often wrongly: the view by the body, and the goes of a film of many.

    python -m benchmarks.guessed views [--seeds 831 832 833]
    python -m benchmarks.guessed goes [--seeds 4] [--discipline alpine_carve]

Views: simulated tracks (2 px of noise at a 300 px figure), every discipline from five views at two levels, on the line and
12° off it. Goes: a film of 20 goes by 6 riders of the mesh in clothes of their own, 640 × 360 at 25 frames a second, from ahead
and from both sides, by a hand that shakes; between them an empty place, and walkers who pass. A go is found when both its ends are
within half a second. Seeds that a constant was set on are named in the module that holds it, and are not to be reported.
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory

import av
import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from proklisis.core.doubts import view_guessed
from proklisis.core.errors import InputError
from proklisis.core.review import playbook, playbook_ids
from proklisis.footage.goes import Go, find_goes, rides_from
from proklisis.footage.probe import probe
from proklisis.simulate.filming import Shot, film
from proklisis.simulate.motion import Motion
from proklisis.simulate.render.outfit import Outfit, outfit
from proklisis.simulate.render.renderer import Renderer
from proklisis.simulate.run import simulate

VIEWS = ("front", "rear", "side_left", "side_right", "above")
WIDTH, HEIGHT, FPS = 640, 360, 25.0
#: Within so many seconds of both ends a go is found.
NEAR_S = 0.5


def views(seeds: list[int]) -> None:
    """Print how often the view is told, rightly and wrongly."""
    whole: Counter[str] = Counter()
    for discipline in playbook_ids():
        row: Counter[str] = Counter()
        for view in VIEWS:
            for seed in seeds:
                for k, level in enumerate(("intermediate", "advanced")):
                    for off in (0.0, 12.0):
                        run = simulate(
                            discipline, {}, level=level, view=view, seed=seed + 7 * k, units=3, offset_deg=off  # type: ignore[arg-type]
                        )  # fmt: skip
                        found = view_guessed(run.tracks.with_facts(view=None), playbook(discipline))
                        row[
                            "asked" if found is None else "right" if found[0] == view else "wrong"
                        ] += 1
        whole += row
        print(
            f"{discipline:16} right {row['right']:3}  wrong {row['wrong']:3}  asked {row['asked']:3}",
            flush=True,
        )
    told = whole["right"] + whole["wrong"]
    print(
        f"of {sum(whole.values())}: told {told}, wrong {whole['wrong']} of them; asked {whole['asked']}"
    )


@dataclass(frozen=True)
class Ridden:
    """A go as it was put into the film."""

    from_s: float
    to_s: float
    who: int


class _Film:
    """Pictures written one after the other, with a hand that shakes."""

    def __init__(self, path: Path, rng: np.random.Generator) -> None:
        self.box = av.open(str(path), "w", options={"movflags": "+faststart"})
        self.stream = self.box.add_stream("libx264", rate=Fraction(int(FPS), 1))
        self.stream.width, self.stream.height, self.stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        self.stream.options = {"crf": "24", "preset": "veryfast", "g": "15", "bf": "0"}
        self.rng, self.off, self.count = rng, np.zeros(2), 0
        self.last: NDArray[np.uint8] = np.full((HEIGHT, WIDTH, 3), 235, np.uint8)

    @property
    def now(self) -> float:
        return self.count / FPS

    def put(self, picture: NDArray[np.uint8]) -> None:
        self.off = 0.95 * self.off + self.rng.normal(0, 1.2, 2)
        by = np.array([[1, 0, self.off[0]], [0, 1, self.off[1]]], np.float32)
        moved = cv2.warpAffine(picture, by, (WIDTH, HEIGHT), borderMode=cv2.BORDER_REFLECT)
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(moved), format="rgb24")
        frame.pts, frame.time_base = self.count, Fraction(1, int(FPS))
        self.count += 1
        self.box.mux(self.stream.encode(frame))

    def nobody(self, seconds: float) -> None:
        for _ in range(int(seconds * FPS)):
            self.put(self.last)

    def close(self) -> None:
        self.box.mux(self.stream.encode(None))
        self.box.close()


def make_film(
    path: Path, seed: int, discipline: str, goes: int = 20, riders: int = 6
) -> list[Ridden]:
    """Write a film of many goes; what is in it."""
    rng = np.random.default_rng(seed)
    bodies = rng.permutation(24)[:riders]
    clothes = [outfit(int(s)) for s in rng.choice(5000, riders, replace=False)]
    order = [int(x) for x in rng.integers(0, riders, goes)]
    walkers = {int(x) for x in rng.choice(goes, max(1, goes // 5), replace=False)}
    out, put_in = _Film(path, rng), list[Ridden]()
    for k, who in enumerate(order):
        run = simulate(
            discipline, {}, units=int(rng.integers(3, 6)), view=str(rng.choice(VIEWS[:1] + VIEWS[2:4])), seed=int(rng.integers(1e6)),  # type: ignore[arg-type]
            fps=FPS, body=int(bodies[who]), figure_px=float(rng.uniform(100, 160)), width=WIDTH, height=HEIGHT,
        )  # fmt: skip
        motion, shot = run.motion, _held(run.shot)
        hip = shot.project((motion.points["l_hip"] + motion.points["r_hip"]) / 2)
        first, last = np.flatnonzero(((hip > 0) & (hip < [WIDTH, HEIGHT])).all(axis=1))[[0, -1]]
        out.nobody(float(rng.uniform(0.8, 3.0)))
        put_in.append(Ridden(out.now + first / FPS, out.now + last / FPS, who))
        _draw(out, motion, shot, clothes[who], seed)
        if k in walkers:
            out.nobody(0.7)
            _draw(out, *_walking(int(rng.integers(24)), rng), outfit(int(rng.integers(5000))), seed)
    out.nobody(1.0)
    out.close()
    return put_in


def _held(shot: Shot) -> Shot:
    """The camera stands still while the rider comes into the picture, and while they leave it."""
    n, still = len(shot.position), int(0.8 * FPS)
    rows = np.clip(np.arange(n), still, n - still - 1)
    return replace(shot, position=shot.position[rows], rotation=shot.rotation[rows])


def _walking(body: int, rng: np.random.Generator) -> tuple[Motion, Shot]:
    """Somebody who goes by at a walk."""
    motion = simulate(
        "inline_start", {}, units=4, seed=int(rng.integers(1e6)), fps=FPS, body=body
    ).motion
    feet, n = motion.ground().copy(), len(motion.t)
    along = rng.choice([-1, 1]) * 1.3 * (motion.t - motion.t[-1] / 2)
    way = feet[:1] + np.stack([along, np.zeros(n), np.zeros(n)], axis=1)
    points = {name: p - feet + way for name, p in motion.points.items()}
    walking = replace(
        motion, points=points, surface=None if motion.surface is None else way, place="snow"
    )
    shot = film(walking, "front", figure_px=130, width=WIDTH, height=HEIGHT)
    middle = slice(n // 2, n // 2 + 1)
    return walking, replace(
        shot,
        position=np.repeat(shot.position[middle], n, 0),
        rotation=np.repeat(shot.rotation[middle], n, 0),
    )


def _draw(out: _Film, motion: Motion, shot: Shot, clothes: Outfit, seed: int) -> None:
    with Renderer(motion, shot, clothes, seed) as renderer:
        for picture in renderer.frames():
            out.put(picture.copy())
    gone = replace(
        motion, points={n: p + np.array([400.0, 0, 0]) for n, p in motion.points.items()}
    )
    with Renderer(gone, shot, clothes, seed) as renderer:
        end = len(motion.t) - 1
        out.last = renderer.frame(end, {n: p[end] for n, p in gone.points.items()}).copy()


def held(found: list[Go], put_in: list[Ridden]) -> tuple[int, int, int]:
    """(goes found, wrong goes, of the found ones those put down to their own rider)."""
    pairs: list[tuple[int, int]] = []
    taken: set[int] = set()
    for i, g in enumerate(found):
        off = [
            (max(abs(g.from_s - r.from_s), abs(g.to_s - r.to_s)), k)
            for k, r in enumerate(put_in) if k not in taken
        ]  # fmt: skip
        best = min(off, default=(np.inf, -1))
        if best[0] <= NEAR_S:
            taken.add(best[1])
            pairs.append((i, best[1]))
    names = sorted({found[i].rider for i, _ in pairs})
    people = sorted({put_in[k].who for _, k in pairs})
    table = np.zeros((len(names), len(people)))
    for i, k in pairs:
        table[names.index(found[i].rider), people.index(put_in[k].who)] += 1
    rows, columns = linear_sum_assignment(-table)
    return len(pairs), len(found) - len(pairs), int(table[rows, columns].sum())


def goes(seeds: list[int], discipline: str) -> None:
    """Print how many goes of made films are found, and how many are put down to their own rider."""
    for seed in seeds:
        with TemporaryDirectory(prefix="proklisis-") as folder:
            path = Path(folder) / "film.mp4"
            put_in = make_film(path, seed, discipline)
            found = find_goes(probe(path), rides=rides_from(playbook(discipline).speed_ms))
        right, wrong, own = held(found, put_in)
        f1 = 2 * right / (len(found) + len(put_in))
        print(
            f"{discipline} seed {seed}: {len(put_in)} goes, found {right}, wrong {wrong}, F1 {f1:.2f}; their own rider's {own} of {right}",
            flush=True,
        )


def main() -> int:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("what", choices=["views", "goes"])
    parser.add_argument("--seeds", type=int, nargs="+")
    parser.add_argument("--discipline", default="alpine_carve")
    args = parser.parse_args()
    try:
        if args.what == "views":
            views(args.seeds or [831, 832, 833])
        else:
            goes(args.seeds or [4], args.discipline)
    except InputError as e:
        print(e, file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
