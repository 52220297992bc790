"""A run on film: drawn with a person who rides it, written as a clip, followed by the body tracker.

Films are kept in a folder between runs, since drawing and following take most of a benchmark's time:
``var/filmed`` or what PROKLISIS_FILMED names. A film's name says all that it was made from but the code: empty the
folder after a change to the tracker or to how riders look.
"""

from __future__ import annotations

import os
import pickle
from collections.abc import Iterable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.accuracy import LEVELS
from proklisis.core.errors import InputError
from proklisis.core.tracks.tracks import SOURCES, ClipFacts, Tracks
from proklisis.footage.follow import as_tracks, follow_piece
from proklisis.footage.people import find_people, seeds_of
from proklisis.footage.probe import probe
from proklisis.simulate.clip import write_clip
from proklisis.simulate.render.outfit import outfit
from proklisis.simulate.run import Simulated, simulate

Array = NDArray[np.float64]
KEPT = Path(os.environ.get("PROKLISIS_FILMED", "var/filmed"))
#: Bodies that ±, biases and doubts are fitted on, and those that figures are reported from.
FITTED_ON, REPORTED_FROM = range(12), range(12, 24)


@dataclass(frozen=True)
class Film:
    """What is filmed and how.

    Attributes
    ----------
    spoil : "" or what happened to the film: "dark", "blur", "sway" (a hand), "poles" (things pass before the rider)
    """

    discipline: str
    fault: str = ""
    size: float = 1.5
    view: str = ""
    offset_deg: float = 0.0
    roll_deg: float = 0.0
    body: int = 0
    seed: int = 1
    units: int = 4
    fps: float = 30.0
    figure_px: float = 300.0
    level: str = ""
    spoil: str = ""

    @property
    def name(self) -> str:
        parts = [
            self.discipline,
            self.fault and f"{self.fault}x{self.size:g}",
            self.view,
            self.spoil,
            self.level,
        ]
        numbers = f"o{self.offset_deg:g}r{self.roll_deg:g}b{self.body}s{self.seed}u{self.units}f{self.fps:g}p{self.figure_px:g}"
        return "-".join([*(p for p in parts if p), numbers])


@dataclass(frozen=True)
class Followed:
    """A film with what is known of it: the run, and the body's tracks, or why nobody could be followed."""

    film: Film
    sim: Simulated
    tracks: Tracks | None
    refused: str = ""
    #: (n, k, 4) straight edges around the rider, see ``footage/edges``.
    edges: Array | None = None


def simulated(film: Film) -> Simulated:
    level: Any = film.level or LEVELS.get(film.discipline, "intermediate")
    view: Any = film.view or None
    return simulate(
        film.discipline, {film.fault: film.size} if film.fault else {}, level=level, view=view, seed=film.seed, units=film.units,
        fps=film.fps, figure_px=film.figure_px, offset_deg=film.offset_deg, roll_deg=film.roll_deg, body=film.body,
    )  # fmt: skip


def followed(film: Film) -> Followed:
    """A film from the folder, or made now."""
    path = KEPT / f"{film.name}.pickle"
    if path.exists():
        return pickle.loads(path.read_bytes())  # type: ignore[no-any-return]
    sim = simulated(film)
    if film.spoil == "sway":
        sim = replace(sim, shot=_swayed(sim, film.seed))
    KEPT.mkdir(parents=True, exist_ok=True)
    clip_path = KEPT / f"{film.name}.mp4"
    if not clip_path.exists():
        partial = clip_path.with_suffix(f".{os.getpid()}.mp4")
        write_clip(
            sim, partial, outfit(film.seed + film.body), film.seed, numbered=False, touch=_spoiler(film, sim)
        )  # fmt: skip
        partial.replace(clip_path)
    clip = probe(clip_path)
    try:
        people = find_people(clip)
        whole = follow_piece(clip, 0, len(clip.t), seeds_of(people) if people else None)
        tracks = as_tracks(clip, ClipFacts(fps=clip.fps), whole, sim.motion.stature_m)
        out = Followed(film, sim, tracks, edges=whole.edges.astype(np.float32))
    except InputError as e:
        out = Followed(film, sim, None, e.what)
    partial = path.with_suffix(f".{os.getpid()}")
    partial.write_bytes(pickle.dumps(out))
    partial.replace(path)
    return out


def all_followed(films: Iterable[Film], at_once: int = 2) -> Iterator[Followed]:
    """Films in their order; those that are not kept are made on ``at_once`` processes, each drawing and following."""
    films = list(films)
    missing = [f for f in dict.fromkeys(films) if not (KEPT / f"{f.name}.pickle").exists()]
    if missing:
        with ProcessPoolExecutor(at_once, mp_context=get_context("spawn")) as pool:
            for k, done in enumerate(pool.map(_made, missing)):
                print(f"filmed {k + 1} of {len(missing)}: {done}", flush=True)
    for film in films:
        yield followed(film)


def _made(film: Film) -> str:
    followed(film)
    return film.name


def as_described(done: Followed, **said: Any) -> Tracks:
    """The body as it was followed, with what a coach marks and says of the run: gear by hand, view, slope, rider.

    ``said`` is put in place of what is true of the clip.
    """
    assert done.tracks is not None
    sim, body = done.sim, done.tracks
    marked = sim.tracks
    extra = [n for n in marked.names if n not in body.index]
    columns = [marked.index[n] for n in extra]
    true, seen = sim.exact.facts, body.facts
    facts: dict[str, Any] = {
        "view": true.view, "view_offset_deg": true.view_offset_deg, "slope_deg": true.slope_deg, "slope_u_deg": 2.0,
        "conditions": true.conditions, "stance": true.stance, "height_cm": round(100 * sim.motion.stature_m),
    }  # fmt: skip
    n = min(len(body), len(marked))
    names = (*body.names, *extra)
    return Tracks(
        body.frames[:n], body.t[:n], names, np.concatenate([body.xy[:n], marked.xy[:n, columns]], axis=1),
        np.concatenate([body.u[:n], marked.u[:n, columns]], axis=1),
        np.concatenate([body.source[:n], np.full((n, len(extra)), SOURCES.index("marked"), np.uint8)], axis=1),
        seen.model_copy(update={**facts, **said}), depth=None if body.depth is None else body.depth[:n],
    )  # fmt: skip


def _swayed(sim: Simulated, seed: int) -> Any:
    """The shot as a hand holds it: the aim wanders by some hundredths of the picture, the level by a degree or two."""
    rng = np.random.default_rng([seed, 61])
    t = sim.motion.t
    shot = sim.shot

    def wander(size: float) -> Array:
        out = np.zeros(len(t))
        for f in (0.3, 0.7, 1.6, 3.1):
            out += (
                size / (1 + f) * rng.standard_normal() * np.sin(2 * np.pi * (f * t + rng.random()))
            )
        return out

    yaw, pitch, roll = np.radians(wander(0.25)), np.radians(wander(0.25)), np.radians(wander(1.5))
    rotation = shot.rotation.copy()
    for i in range(len(t)):
        turn, _ = cv2.Rodrigues(np.array([pitch[i], yaw[i], roll[i]]))
        rotation[i] = turn @ rotation[i]
    return replace(shot, rotation=rotation)


def _spoiler(film: Film, sim: Simulated) -> Any:
    if film.spoil in ("", "sway"):
        return None
    rng = np.random.default_rng([film.seed, 62])
    width = sim.shot.width
    posts = rng.uniform(0, width * 3, 14)
    drift = sim.exact.point("scene_drift")

    def touch(i: int, picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
        if film.spoil == "dark":
            dim = picture.astype(float) * 0.16 + rng.normal(0, 5.0, picture.shape)
            return np.clip(dim, 0, 255).astype(np.uint8)
        if film.spoil == "blur":
            return np.asarray(cv2.GaussianBlur(picture, (0, 0), 6.0), np.uint8)
        out = picture.copy()
        for x in posts:
            # Nearer to the camera than the rider, they pass faster than the ground.
            at = int((x + 1.6 * drift[i, 0]) % (width * 3)) - width
            out[:, max(at, 0) : max(at + 26, 0)] = (58, 46, 38)
        return out

    return touch
