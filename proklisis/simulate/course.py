"""A course of gates set along the path that a simulated skier takes, so that line and gates agree."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.signals import lowpass
from proklisis.simulate.motion import Motion
from proklisis.simulate.style import Style

Array = NDArray[np.float64]


def with_gates(motion: Motion, style: Style, seed: int) -> Motion:
    """Add a gate to the inside of every turn of a run.

    It stands level with the feet when the wished share of the change of direction is done, and so
    far inside that the skier crosses the line straight up from it at the wished height above it.
    """
    rng = np.random.default_rng([seed, 31])
    t, p = motion.t, motion.points
    feet = (p["l_ankle"] + p["r_ankle"]) / 2
    x = lowpass(feet[:, 0], 1 / (t[1] - t[0]), 6.0)
    ski = p["l_ski_tip"] - p["l_ski_tail"] + p["r_ski_tip"] - p["r_ski_tail"]
    heading = np.degrees(np.arctan2(ski[:, 0], ski[:, 1]))
    slope = np.tan(np.radians(motion.slope_deg))
    down = feet[:, 1] / np.cos(np.radians(motion.slope_deg))
    places: list[tuple[float, float]] = []
    cuts = motion.boundaries
    turns = list(itertools.pairwise(cuts))
    amplitude = float(np.percentile(np.abs(x - np.median(x)), 90))
    offset = 1.7 * amplitude
    for _ in range(4):
        places = []
        for a, b in turns:
            inside = np.flatnonzero((t >= a) & (t <= b))
            first, last = heading[inside[0]], heading[inside[-1]]
            done = (heading[inside] - first) / (last - first)
            share = style.gate_at + 0.02 * float(np.clip(rng.standard_normal(), -1.5, 1.5))
            at = inside[int(np.argmax(done >= share))]
            # Straight up from the gate the skier's way crosses its line at the wished height.
            above = down[at] - style.rise_room * offset
            crossing = int(np.argmin(np.abs(down - above)))
            places.append((float(x[crossing]), float(feet[at, 1])))
        offset = float(np.mean(np.abs(np.diff([q for q, _ in places])))) or offset
    gates = {
        f"gate_{k + 1}": np.broadcast_to(np.array([gx, gy, -gy * slope]), (len(t), 3)).copy() for k, (gx, gy) in enumerate(places)
    }  # fmt: skip
    return replace(motion, points={**p, **gates})
