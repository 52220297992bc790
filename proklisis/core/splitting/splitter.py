"""What a way of splitting runs is made of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from proklisis.core.rider.figure import Figure
from proklisis.core.splitting.event_signal import EventSignal
from proklisis.core.splitting.units import Boundary, Unit


@dataclass(frozen=True)
class Splitter:
    """How one family is split.

    Attributes
    ----------
    title, unit : name and unit of the signal, as the Ribbon labels it
    begins : what is seen in the moment in which a unit begins
    signal : the event signal per frame
    cuts : boundaries from figure and signal, in time order
    units : units from figure and boundaries, found or set by a coach
    lowest_hz, highest_hz : bounds of the low-pass (a spin needs more than a stance)
    shortest_s : no unit is shorter
    closed_form : readings get their uncertainty from formulas, else from draws
    outside_foot : units are turns on two feet of which the outer one carries
    stood : the figure as measures read it, once its units are known
    upright_by : what shows how far the picture is turned: the rider's balance, level ice or water, ground that may slope, or nothing
    possible_s : shortest and longest unit that anybody makes at the true clock, as a median over a run
    free_flight : the body falls freely within a unit, which gives a scale and holds the clock
    needs : landmarks without which nothing can be split, from any view
    marks : landmarks that are marked first where a run cannot be split as it is; there may be another way from the body alone
    """

    title: str
    unit: str
    begins: str
    signal: Callable[[Figure], EventSignal]
    cuts: Callable[[Figure, EventSignal], list[Boundary]]
    units: Callable[[Figure, list[Boundary]], list[Unit]]
    lowest_hz: float = 4.0
    highest_hz: float = 8.0
    shortest_s: float = 0.25
    needs: tuple[str, ...] = ()
    marks: tuple[str, ...] = ()
    free_flight: bool = False
    closed_form: bool = False
    outside_foot: bool = False
    possible_s: tuple[float, float] | None = None
    upright_by: Literal["balance", "level", "level_ground"] | None = None
    #: Riders on the whole face the way they go.
    facing: bool = False
    stood: Callable[[Figure, list[Unit]], Figure] = lambda figure, _: figure
