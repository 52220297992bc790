"""Turns on two skis: cut where the body's tilt changes sides."""

from __future__ import annotations

from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import SKI_POINTS, ski_heading
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.tilt import tilt_signal
from proklisis.core.splitting.turns import find_boundaries, make_turns
from proklisis.core.splitting.units import Boundary, Unit


def carve_signal(figure: Figure) -> EventSignal:
    """Tilt of the body, degrees, + to the rider's right."""
    return figure.once("carve_signal", lambda: tilt_signal(figure))


def carve_cuts(figure: Figure, signal: EventSignal) -> list[Boundary]:
    """Changes of edge."""
    return find_boundaries(signal)


def carve_units(figure: Figure, boundaries: list[Boundary]) -> list[Unit]:
    """Turns, with the fall line where the skis' heading shows."""
    shows = (
        figure.view in (None, "front", "rear", "above") and set(SKI_POINTS) <= figure.points.keys()
    )
    return make_turns(carve_signal(figure), boundaries, ski_heading(figure) if shows else None)
