"""Straight edges around a rider are found, and those of the body itself are left out."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.gear.found import find_gear
from proklisis.core.tracks.landmarks import BODY
from proklisis.footage.edges import MOST, Edges
from proklisis.simulate.render.outfit import outfit
from proklisis.simulate.render.renderer import Renderer
from proklisis.simulate.run import simulate

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def surfed():
    """A surfer's run with the pictures of it."""
    sim = simulate("surf_turn", {}, view="front", seed=981, units=2, fps=30, body=13)
    names = list(sim.motion.points)
    with Renderer(sim.motion, sim.shot, outfit(5), 981) as renderer:
        pictures = [
            renderer.frame(i, {n: sim.motion.points[n][i] for n in names}).copy() for i in range(40)
        ]
    return sim, pictures


def body_of(sim, i):
    return np.stack([sim.exact.point(n)[i] for n in BODY])


def test_the_board_under_the_feet_is_among_the_edges_and_limbs_are_not(surfed):
    sim, pictures = surfed
    finder = Edges()
    for i in (0, 15, 30):
        edges = finder.at(pictures[i], body_of(sim, i))
        assert edges.shape == (MOST, 4)
        lines = edges[np.isfinite(edges[:, 0])]
        long = np.linalg.norm(lines[:, 2:] - lines[:, :2], axis=1)
        assert (np.diff(long) <= 1e-3).all()  # the longest first
        board = sim.exact.point("board_nose")[i] - sim.exact.point("board_tail")[i]
        d = lines[:, 2:] - lines[:, :2]
        across = np.abs(d[:, 0] * board[1] - d[:, 1] * board[0]) / np.linalg.norm(board) / long
        assert (long[across < 0.05].max()) > 0.4 * np.linalg.norm(board)


def test_a_picture_without_anything_or_a_rider_out_of_it_gives_no_edges(surfed):
    sim, pictures = surfed
    grey = np.full_like(pictures[0], 128)
    assert not np.isfinite(Edges().at(grey, body_of(sim, 0))).any()
    away = body_of(sim, 0) + 5000
    assert not np.isfinite(Edges().at(pictures[0], away)).any()


def test_a_board_is_found_from_pictures_to_two_degrees(surfed):
    sim, pictures = surfed
    n = len(pictures)
    cut = replace(
        sim.exact, frames=sim.exact.frames[:n], t=sim.exact.t[:n], xy=sim.exact.xy[:n], u=sim.exact.u[:n], source=sim.exact.source[:n],
    )  # fmt: skip
    finder = Edges()
    edges = np.stack([finder.at(picture, body_of(sim, i)) for i, picture in enumerate(pictures)])
    found = find_gear(cut, edges, ("board",))
    front, back = found["board_nose"][0], found["board_tail"][0]
    true = (sim.exact.point("board_nose") - sim.exact.point("board_tail"))[: len(front)]
    v = front - back
    off = np.degrees(np.arctan2(v[:, 0] * true[:, 1] - v[:, 1] * true[:, 0], (v * true).sum(axis=1)))  # fmt: skip
    assert np.nanmedian(np.abs(off)) < 2.0
    assert np.isfinite(off).mean() > 0.7
