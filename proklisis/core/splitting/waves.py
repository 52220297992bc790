"""Rides on a wave, from one way down the face to the next, by the height on it."""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from proklisis.core.errors import Lacking
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import length
from proklisis.core.signals import lowpass
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.events import between, boundary, bridged, crossings, signal_of
from proklisis.core.splitting.tilt import strongest_hz
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.core.splitting.wheels import middle_of

Array = NDArray[np.float64]
#: Half the time of a bottom turn, seconds (house choice).
BOTTOM_S = 0.25
#: Low-pass of the board's pitch, hertz, and the standard uncertainty of a moment that it tells, seconds (house choice).
PITCH_HZ, PITCH_U_S = 3.0, 0.08
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
    if has_face(figure):
        return signal_of(figure, face_height(figure))
    if (
        figure.view not in (None, "front", "rear")
        or not {"board_nose", "board_tail"} <= figure.points.keys()
    ):
        raise Lacking(
            "the wave's trough and lip are not marked, and from here the board does not show which way it goes on the face",
            "landmarks trough, lip_top", "mark the trough and the lip in a few frames, or film from the beach",
        )  # fmt: skip
    return signal_of(figure, figure.once("by_pitch", lambda: _by_pitch(figure)))


def has_face(figure: Figure) -> bool:
    """Whether trough and lip are marked, between which a rider's height is told."""
    return "trough" in figure.points and "lip_top" in figure.points


def _by_pitch(figure: Figure) -> Array:
    """(n,) where the rider is on the face by how the board points: up while it climbs, down while it drops.

    What it climbs is added up, less what goes on longer than a ride lasts; 0 and 1 are the usual lowest and highest.
    """
    d = figure["board_nose"] - figure["board_tail"]
    with np.errstate(invalid="ignore", divide="ignore"):
        climb = d[:, 2] / length(d)
    climb = lowpass(bridged(climb, figure.t), figure.fps, PITCH_HZ)
    climb = climb - climb.mean()
    swing = strongest_hz(climb, figure.fps)
    height = np.cumsum(climb) / figure.fps
    size = max(3, round(figure.fps / swing)) | 1
    height = height - uniform_filter1d(height, size, mode="nearest")
    low, high = np.percentile(height, [5, 95])
    return np.asarray((height - low) / max(float(high - low), 1e-9))


def wave_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    level, swing = middle_of(signal.values)
    if swing < 0.12:
        return []
    by_pitch = 0.0 if has_face(figure) else PITCH_U_S
    return [
        replace(b, u=float(np.hypot(b.u, by_pitch)))
        for b in (
            boundary(t, figure.fps)
            for t, way in crossings(figure.t, signal.values, level, 0.15 * swing)
            if way < 0
        )
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
