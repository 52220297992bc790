"""Skis through gates."""

from __future__ import annotations

from proklisis.core.measures.registry import declare

declare(
    id="rise_room",
    unit="ratio",
    title="Room above the gate",
    doc="How far above the gate, along its rise line, the turn starts ÷ gate offset.",
    formula="how far above the gate, along its rise line, the turn starts ÷ gate offset",
    views=(),
)
declare(
    id="gate_gap",
    unit="m",
    title="Gap to the gate",
    doc="Outside ski to panel at the gate.",
    formula="outside ski to panel at the gate",
    views=("front", "rear", "above"),
)
declare(
    id="gate_time",
    unit="s",
    title="Gate to gate",
    doc="Time from one gate to the next.",
    formula="time from one gate to the next",
    views=(),
)
declare(
    id="direction_done_at_gate",
    unit="ratio",
    title="Direction done at the gate",
    doc="Share of the heading change that is done when passing the gate.",
    formula="share of the heading change that is done when passing the gate",
    views=("front", "rear", "above"),
)
declare(
    id="belly_peaks",
    unit="ratio",
    title="Peaks in the turn",
    doc="Number of separate peaks of lean between two gates.",
    formula="number of separate peaks of lean between two gates",
    views=("front", "rear"),
)
