"""Durations and rhythm: what any view shows."""

from __future__ import annotations

from proklisis.core.measures.registry import declare

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
