"""Durations and rhythm: what any view shows."""

from __future__ import annotations

import numpy as np

from proklisis.core.measures.registry import declare, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.splitting.units import Unit

declare(
    id="turn_time", unit="s", title="Turn time", views=(), doc="How long the turn takes.",
    formula="end − start of the turn",
)  # fmt: skip
declare(
    id="transition_time", unit="s", title="Transition time", views=(),
    doc="How long the change of edges takes.", formula="time with |tilt| under 30 % of its peak",
)  # fmt: skip
declare(
    id="rhythm_cv", unit="pct", title="Rhythm", views=(),
    doc="How much the turns differ in length; 0 is a metronome.",
    formula="standard deviation ÷ mean of turn_time, percent",
)  # fmt: skip
declare(
    id="cadence", unit="hz", title="Cadence", views=(), doc="Cycles per second.",
    formula="1 ÷ time of the cycle",
)  # fmt: skip


@measure("turn_time")
def time_of(f: Figure, unit: Unit) -> float:
    return unit.end.t - unit.start.t


@measure("rhythm_cv", over="run", model_u=0.7)
def rhythm(f: Figure, units: list[Unit]) -> float:
    times = np.array([u.end.t - u.start.t for u in units])
    return float(100 * times.std(ddof=1) / times.mean()) if len(times) > 2 else float("nan")


@measure("cadence", model_u=0.0)
def cadence(f: Figure, unit: Unit) -> float:
    return 1.0 / (unit.end.t - unit.start.t)
