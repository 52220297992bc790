"""Turns on a board, toe side and heel side, by the same tilt as on skis."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.figure import Figure
from proklisis.core.measures.geometry import board_heading, length, toe_sign
from proklisis.core.splitting.tilt import tilt_signal
from proklisis.core.splitting.turns import TiltSignal, find_boundaries, make_turns, paced, prepare
from proklisis.core.splitting.units import Boundary, Unit

Array = NDArray[np.float64]
#: Shoulder width and bent legs ÷ trunk (Drillis & Contini; values from memory).
SHOULDERS_TO_TRUNK, LEGS_TO_TRUNK = 0.24 / 0.288, 1.55
#: Cut-off of the base's tilt, in pairs of turns a second (house choice).
PACES = 5.0


def board_signal(figure: Figure) -> TiltSignal:
    """Tilt of the legs across the board, against gravity; from the side, that of the board's base."""
    return figure.once("board_signal", lambda: _board_signal(figure))


def _board_signal(figure: Figure) -> TiltSignal:
    if figure.front_foot is None or "board_nose" not in figure.points:
        return tilt_signal(figure)
    if figure.view == "above":
        return prepare(figure.t, _legs_from_above(figure), figure.fps)
    if figure.view in ("side_left", "side_right"):
        if "base_in" not in figure.points:
            return tilt_signal(figure)
        base = figure["base_out"] - figure["base_in"]
        wide = np.nanpercentile(length(base), 98)
        raw = np.degrees(np.arcsin(np.clip(-base[:, 2] / wide, -0.98, 0.98)))
        return paced(prepare(figure.t, raw, figure.fps), PACES)
    d = figure["mid_hip"] - figure["mid_ankle"]
    if figure.view is None:
        board = figure["board_nose"] - figure["board_tail"]
        h = np.arctan2(board[:, 0], board[:, 1])
        across = d[:, 0] * np.cos(h) - d[:, 1] * np.sin(h)
    else:
        # Legs that stand square on a board which points down and across lean a little to its side.
        h = np.radians(board_heading(figure))
        lean = np.tan(np.radians(figure.facts["slope"])) * np.cos(h) * np.sin(h)
        across = (d[:, 0] - d[:, 2] * lean) / np.maximum(np.cos(h), 0.3)
    return prepare(figure.t, np.degrees(np.arctan2(across, d[:, 2])), figure.fps)


def _legs_from_above(figure: Figure) -> Array:
    """Hips off the feet to the right of the board, as the angle of legs that long."""
    board = figure["board_nose"] - figure["board_tail"]
    h = np.arctan2(board[:, 0], board[:, 1])
    d = figure["mid_hip"] - figure["mid_ankle"]
    off = d[:, 0] * np.cos(h) - d[:, 1] * np.sin(h)
    trunk = np.nanpercentile(length(figure["r_shoulder"] - figure["l_shoulder"]), 90) / SHOULDERS_TO_TRUNK
    legs = LEGS_TO_TRUNK * trunk
    return np.asarray(np.degrees(np.arcsin(np.clip(off / legs, -0.95, 0.95))))


def board_cuts(figure: Figure, signal: TiltSignal) -> list[Boundary]:
    return find_boundaries(signal)


def board_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    shows = figure.view in (None, "front", "rear", "above") and "board_nose" in figure.points
    turns = make_turns(board_signal(figure), boundaries, board_heading(figure) if shows else None)
    if figure.front_foot is None:
        return list(turns)
    toes = "right" if toe_sign(figure) > 0 else "left"
    return [replace(t, edge_side="toe" if t.side == toes else "heel") for t in turns]
