"""Turns on a board, toe side and heel side: the tilt of the legs across it, and that of its base."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import SHOULDERS_TO_TRUNK
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import board_heading, length, toe_sign
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import bridged
from proklisis.core.splitting.tilt import tilt_signal
from proklisis.core.splitting.turns import find_boundaries, make_turns, paced, prepare
from proklisis.core.splitting.units import Boundary, Unit

Array = NDArray[np.float64]
#: Legs as they are bent on a board ÷ trunk (house choice).
LEGS_TO_TRUNK = 1.55
#: Cut-off of the base's tilt, in pairs of turns a second (house choice).
PACES = 5.0
#: The base's least share beside the legs (house choice).
BASE_SHARE = 0.35
#: Legs that lean along the board by more degrees seem to tilt across it when it points across the picture (house choice).
ALONG_DEG = 3.0
#: So many degrees more leave the base alone (house choice).
ALONE_DEG = 6.5
#: A base or boots that are seen in fewer of the frames than this are left out (house choice).
LEAST_SEEN = 0.3


def board_signal(figure: Figure) -> EventSignal:
    """Tilt across the board, against gravity: of the legs, of the board's base, or of both."""
    return figure.once("board_signal", lambda: _board_signal(figure))


def _board_signal(figure: Figure) -> EventSignal:
    if figure.front_foot is None or "board_nose" not in figure.points:
        return tilt_signal(figure)
    if figure.view == "above":
        return prepare(figure.t, _legs_from_above(figure), figure.fps)
    if figure.view in ("side_left", "side_right"):
        return _base_tilt(figure) if _base_shows(figure) else tilt_signal(figure)
    d = figure["mid_hip"] - figure["mid_ankle"]
    if figure.view is None:
        board = figure["board_nose"] - figure["board_tail"]
        if not np.isfinite(board).any():
            return _base_tilt(figure) if _base_shows(figure) else tilt_signal(figure)
        h = np.arctan2(board[:, 0], board[:, 1])
        across = d[:, 0] * np.cos(h) - d[:, 1] * np.sin(h)
    else:
        # Legs that stand square on a board which points down and across lean a little to its side.
        h = np.radians(board_heading(figure))
        lean = np.tan(np.radians(figure.facts["slope"])) * np.cos(h) * np.sin(h)
        across = (d[:, 0] - d[:, 2] * lean) / np.maximum(np.cos(h), 0.3)
    legs = prepare(figure.t, np.degrees(np.arctan2(across, d[:, 2])), figure.fps)
    if figure.view is None or not _base_shows(figure):
        return legs
    return _together(legs, _base_tilt(figure), np.sin(bridged(h, figure.t)))


def _base_shows(figure: Figure) -> bool:
    if "base_in" not in figure.points or "base_out" not in figure.points:
        return False
    return bool(np.isfinite((figure["base_out"] - figure["base_in"])[:, 2]).mean() >= LEAST_SEEN)


def _base_tilt(figure: Figure) -> EventSignal:
    """Tilt of the base, from the height of its right edge over its left one.

    The boots lie across the board as well: what they show of its tilt, less their own steady part,
    is read with it against the noise, by what their points are worth beside the base's.
    """
    base = figure["base_out"] - figure["base_in"]
    wide = float(np.nanpercentile(length(base), 98))
    sine, whole = -base[:, 2], np.full(len(figure.t), wide)
    for s in "lr":
        if f"{s}_toe" not in figure.points or f"{s}_heel" not in figure.points:
            continue
        boot = toe_sign(figure) * (figure[f"{s}_toe"] - figure[f"{s}_heel"])
        both = np.isfinite(boot[:, 2]) & np.isfinite(base[:, 2])
        if both.sum() < LEAST_SEEN * len(both):
            continue
        long = float(np.percentile(length(boot)[both], 98))
        off = float(np.median(base[both, 2] * long / wide - boot[both, 2]))
        worth = figure.worth([f"{s}_toe", f"{s}_heel"], beside=["base_in", "base_out"])
        sine, whole = (
            sine - np.where(both, worth * (boot[:, 2] + off), 0.0),
            whole + np.where(both, worth * long, 0.0),
        )
    raw = np.degrees(np.arcsin(np.clip(sine / whole, -0.98, 0.98)))
    return paced(prepare(figure.t, raw, figure.fps), PACES)


def _together(legs: EventSignal, base: EventSignal, across: Array) -> EventSignal:
    """Both tilts in one, of the legs' size.

    ``across`` is the sine of the board's heading. What the legs show beyond the base and goes with it
    is their lean along the board, seen across the picture.
    """
    (size, along), *_ = np.linalg.lstsq(
        np.stack([base.values, across], axis=1), legs.values, rcond=None
    )
    if size <= 0:
        return legs
    beyond = max(abs(float(along)) - ALONG_DEG, 0.0)
    share = min(BASE_SHARE + (1 - BASE_SHARE) * beyond / ALONE_DEG, 1.0)
    own = legs.values - np.sign(along) * beyond * across
    return replace(legs, values=(1 - share) * own + share * size * base.values)


def _legs_from_above(figure: Figure) -> Array:
    """Hips off the feet to the right of the board, as the angle of legs that long."""
    board = figure["board_nose"] - figure["board_tail"]
    h = np.arctan2(board[:, 0], board[:, 1])
    d = figure["mid_hip"] - figure["mid_ankle"]
    off = d[:, 0] * np.cos(h) - d[:, 1] * np.sin(h)
    trunk = (
        np.nanpercentile(length(figure["r_shoulder"] - figure["l_shoulder"]), 90)
        / SHOULDERS_TO_TRUNK
    )
    legs = LEGS_TO_TRUNK * trunk
    return np.asarray(np.degrees(np.arcsin(np.clip(off / legs, -0.95, 0.95))))


def board_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    return find_boundaries(signal)


def board_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    shows = figure.view in (None, "front", "rear", "above") and "board_nose" in figure.points
    turns = make_turns(board_signal(figure), boundaries, board_heading(figure) if shows else None)
    if figure.front_foot is None:
        return list(turns)
    toes = "right" if toe_sign(figure) > 0 else "left"
    return [replace(t, edge_side="toe" if t.side == toes else "heel") for t in turns]
