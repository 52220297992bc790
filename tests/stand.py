"""Loops filmed from beside the ice, with a rectangle on it marked by hand."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from proklisis.core.camera import projection
from proklisis.simulate.filming import Shot, exact_tracks, tracked
from proklisis.simulate.run import simulate

SIDES = (3.0, 2.0)


def from_the_stand(
    faults=None,
    seed: int = 40,
    units: int = 4,
    noise: float = 1.0,
    marked: float = 2.0,
    k1: float = 0.0,
):
    """Loops filmed by a phone that stands still high up beside the ice, and a rectangle marked on it by hand."""
    run = simulate("figure_loop", faults or {}, seed=seed, units=units, view="above")
    feet = run.motion.ground()
    n, middle = len(feet), (feet.min(axis=0) + feet.max(axis=0)) / 2
    span = float(np.ptp(feet[:, :2], axis=0).max())
    place = middle + np.array([0.35 * span + 3, -(0.9 * span + 4), 0.5 * span + 3])
    rotation = projection.look_at(place[None], middle[None])[0]
    focal = 850 * float(np.linalg.norm(place - middle)) / span
    shot = Shot(
        np.repeat(place[None], n, 0),
        np.repeat(rotation[None], n, 0),
        focal,
        1280,
        720,
        "oblique",
        0.0,
        0.0,
        0.0,
    )
    corners = (
        np.array([[0, 0, 0], [3, 0, 0], [3, 2, 0], [0, 2, 0.0]])
        - [1.5, 1, 0]
        + [*middle[:2], feet[0, 2]]
    )
    px = projection.project(corners, rotation, place, focal, shot.centre)
    exact = exact_tracks(run.motion, shot, 60.0)
    known = run.exact.facts
    exact = replace(
        exact,
        facts=exact.facts.model_copy(
            update={"conditions": known.conditions, "height_cm": known.height_cm}
        ),
    )
    by_hand = px + marked * np.random.default_rng(seed).standard_normal((4, 2))
    tracks = (
        tracked(exact, noise, seed)
        if noise
        else replace(exact, xyz=None, u=np.full_like(exact.u, 0.01))
    )
    if k1:
        tracks = replace(
            tracks, xy=projection.distort_radial(tracks.xy, 1280.0, shot.centre, k1, 0.0)
        ).with_facts(k1=k1, focal_px=1280.0)
    return run, tracks.with_facts(
        plane={"corners": by_hand.tolist(), "sides_m": SIDES, "u_px": max(marked, 0.01)}
    )
