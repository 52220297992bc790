"""Headings of skis and path, and the body turned against them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import HEADING_VIEWS, TURN_PHASES, declare, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import SKI_POINTS, ground, heading_of, wrap
from proklisis.core.signals import derivative, lowpass

Array = NDArray[np.float64]
#: Cut-off for paths over the ground: a turn's path holds nothing faster (house choice).
PATH_HZ = 3.0


@measure(
    "heading", over="frame", unit="deg", title="Heading", views=HEADING_VIEWS, phases=TURN_PHASES,
    signed=True, points=SKI_POINTS, model_u=1.0,
    formula="direction of the outside ski against the fall line, + to the inside",
    angle=("outside_ski_tail", "outside_ski_tip"),
)  # fmt: skip
def heading(f: Figure) -> Array:
    """Where the outside ski points, against the fall line."""
    return heading_of(f, "outside")


def path_direction(f: Figure) -> Array:
    """Direction in which the feet move over the snow, degrees from the fall line, + to the right."""
    across, down = ground(f, lowpass(derivative(f.path("mid_ankle"), f.t), f.fps, PATH_HZ))
    return np.asarray(np.degrees(np.arctan2(across, down)))


@measure(
    "skid_angle", over="frame", unit="deg", title="Skid angle", views=("above",), phases=TURN_PHASES,
    signed=True, points=(*SKI_POINTS, "scene_drift"), model_u=0.4,
    formula="outside ski's heading − direction of its path, + turned further in",
    angle=("outside_ski_tail", "outside_ski_tip"),
)  # fmt: skip
def skid_angle(f: Figure) -> Array:
    """How far the ski points further into the turn than it travels."""
    return wrap(heading_of(f, "outside") - path_direction(f))


def _facing(f: Figure, part: str) -> Array:
    d = f[f"r_{part}"] - f[f"l_{part}"]
    return np.asarray(np.degrees(np.arctan2(-d[:, 1], d[:, 0])))


def _plan_heading(f: Figure) -> Array:
    """Mean ski heading in plan view (horizontal, not down the slope), degrees."""
    d = (f["l_ski_tip"] - f["l_ski_tail"]) + (f["r_ski_tip"] - f["r_ski_tail"])
    return np.asarray(np.degrees(np.arctan2(d[:, 0], d[:, 1])))


@measure(
    "separation", over="frame", unit="deg", title="Separation", views=("above",), phases=TURN_PHASES,
    points=("l_shoulder", "r_shoulder", *SKI_POINTS), model_u=0.6,
    formula="shoulder axis against square to the skis about the vertical, + to the outside",
    angle=("l_shoulder", "r_shoulder"),
)  # fmt: skip
def separation(f: Figure) -> Array:
    """How far the shoulders face to the outside of the turn."""
    return np.asarray(-f.side * wrap(_facing(f, "shoulder") - _plan_heading(f)))


@measure(
    "hip_separation", over="frame", unit="deg", title="Hip separation", views=("above",), phases=TURN_PHASES,
    points=("l_hip", "r_hip", *SKI_POINTS), model_u=0.6,
    formula="hip axis against square to the skis about the vertical, + to the outside",
    angle=("l_hip", "r_hip"),
)  # fmt: skip
def hip_separation(f: Figure) -> Array:
    """How far the hips face to the outside of the turn."""
    return np.asarray(-f.side * wrap(_facing(f, "hip") - _plan_heading(f)))


declare(
    id="time_to_fall_line", unit="s", title="Time to the fall line",
    doc="How long the skis take from the change of edges until they point down the hill.",
    formula="time from the zero crossing to heading = 0", views=HEADING_VIEWS, points=SKI_POINTS,
    board_points=("board_nose", "board_tail"),
)  # fmt: skip
declare(
    id="swing_in_half_second", unit="deg", title="Swing in half a second",
    doc="How far the skis swing round in the half second after the change of edges.",
    formula="|heading(t₀ + 0.5 s) − heading(t₀)|", views=HEADING_VIEWS, points=SKI_POINTS,
)  # fmt: skip
declare(
    id="turn_shape", unit="ratio", title="Turn shape",
    doc="Where in the turn half of the change of direction is done; 0.5 is even.",
    formula="time at which half of the heading change is reached ÷ turn time",
    views=HEADING_VIEWS, points=SKI_POINTS,
)  # fmt: skip
