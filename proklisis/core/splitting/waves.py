"""Rides on a wave, from one way down the face to the next, by the height on it."""

from __future__ import annotations

import itertools
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from proklisis.core.rider.figure import Figure
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import between, boundary, crossings, signal_of
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.core.splitting.wheels import middle_of

Array = NDArray[np.float64]
#: Half the time of a bottom turn, seconds (house choice).
BOTTOM_S = 0.25
#: Half the time of a top turn, seconds (house choice).
TOP_S = 0.20


def face_height(figure: Figure) -> Array:
    """(n,) where the rider is on the face: 0 at the trough, 1 at the lip.

    Read along the line from ``trough`` to ``lip_top`` at the rider's place, without its part along
    the wave, in what the view shows of it.
    """
    up = np.nan_to_num(figure["lip_top"] - figure["trough"])
    board = "board_nose" in figure.points and "board_tail" in figure.points
    on = (figure["board_nose"] + figure["board_tail"]) / 2 if board else figure["mid_ankle"]
    d = np.nan_to_num(on - figure["trough"])
    up[:, 0] = d[:, 0] = 0.0
    return np.asarray((d * up).sum(axis=1) / np.maximum((up**2).sum(axis=1), 1e-9))


def wave_signal(figure: Figure) -> EventSignal:
    if "trough" not in figure.points or "lip_top" not in figure.points:
        return signal_of(figure, np.full(len(figure.t), np.nan))
    return signal_of(figure, face_height(figure))


def wave_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    level, swing = middle_of(signal.values)
    if swing < 0.12:
        return []
    return [
        boundary(t, figure.fps)
        for t, way in crossings(figure.t, signal.values, level, 0.15 * swing)
        if way < 0
    ]


def wave_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    h = wave_signal(figure).values
    out = []
    for n, (a, b) in enumerate(itertools.pairwise(sorted(boundaries, key=lambda x: x.t)), start=1):
        t, x = between(figure, figure.t, a.t, b.t), between(figure, h, a.t, b.t)
        bottom = float(t[int(np.argmin(x))])
        after = t >= bottom
        top = float(t[after][int(np.argmax(x[after]))])
        phases = {
            "take_off": (a.t, max(bottom - BOTTOM_S, a.t)), "bottom_turn": (max(bottom - BOTTOM_S, a.t), bottom + BOTTOM_S),
            "climb": (bottom + BOTTOM_S, max(top - TOP_S, bottom + BOTTOM_S)), "top_turn": (top - TOP_S, min(top + TOP_S, b.t)),
            "recover": (min(top + TOP_S, b.t), b.t),
        }  # fmt: skip
        side: Literal["left", "right"] | None = None
        face: Literal["front_hand", "back_hand"] | None = None
        if figure.view in (None, "front", "rear", "above") and "board_nose" in figure.points:
            board = between(figure, figure["board_nose"] - figure["board_tail"], a.t, b.t)
            side = "right" if float(np.nanmean(board[:, 0])) > 0 else "left"
            if figure.sideways:
                # Toes to the wave: a left foot in front and going right, or the other way round.
                face = (
                    "front_hand" if (figure.front_foot == "l") == (side == "right") else "back_hand"
                )
        out.append(
            Unit(n, a, b, phases, side=side, face=face, events={"bottom": bottom, "top": top})
        )
    return out
