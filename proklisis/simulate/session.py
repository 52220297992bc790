"""A made film of a session: many goes by several riders, with others walking through, by a hand that shakes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from proklisis.simulate.filming import Shot, film
from proklisis.simulate.motion import Motion
from proklisis.simulate.render.outfit import Outfit, outfit
from proklisis.simulate.render.renderer import Renderer
from proklisis.simulate.run import simulate

WIDTH, HEIGHT, FPS = 640, 360, 25.0
FROM = ("front", "side_left", "side_right")


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
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(moved, np.uint8), format="rgb24")
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
    path: Path,
    seed: int,
    discipline: str,
    goes: int = 20,
    riders: int = 6,
    clothes: Sequence[Outfit] | None = None,
    faults: Sequence[dict[str, float]] = (),
) -> list[Ridden]:
    """Write a film of many goes; what is in it. ``clothes`` of each rider, else drawn by chance, and their ``faults``, else none."""
    rng = np.random.default_rng(seed)
    bodies = rng.permutation(24)[:riders]
    drawn = [outfit(int(s)) for s in rng.choice(5000, riders, replace=False)]
    clothes = drawn if clothes is None else clothes
    order = [int(x) for x in rng.integers(0, riders, goes)]
    walkers = {int(x) for x in rng.choice(goes, max(1, goes // 5), replace=False)}
    out, put_in = _Film(path, rng), list[Ridden]()
    for k, who in enumerate(order):
        run = simulate(
            discipline, dict(faults[who]) if faults else {}, units=int(rng.integers(3, 6)), view=str(rng.choice(FROM)), seed=int(rng.integers(10**6)),  # type: ignore[arg-type]
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
        "inline_start", {}, units=4, seed=int(rng.integers(10**6)), fps=FPS, body=body
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
