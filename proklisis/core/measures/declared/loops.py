"""Figures on ice."""

from __future__ import annotations

from proklisis.core.measures.registry import declare

declare(
    id="loop_ratio",
    unit="ratio",
    title="Loop width to length",
    doc="Width ÷ length of the closed part of the trace.",
    formula="width ÷ length of the closed part of the trace",
    views=("above", "oblique"),
)
declare(
    id="loop_length",
    unit="ratio",
    title="Loop length",
    doc="Length of the loop ÷ blade length.",
    formula="length of the loop ÷ blade length",
    views=("above", "oblique"),
)
declare(
    id="curvature_peak_at",
    unit="ratio",
    title="Tightest point",
    doc="Where along the loop the curvature is greatest, 0.5 is the far end.",
    formula="where along the loop the curvature is greatest, 0.5 is the far end",
    views=("above", "oblique"),
)
declare(
    id="curvature_jumps",
    unit="ratio",
    title="Cusps",
    doc="Number of cusps in the trace.",
    formula="number of cusps in the trace",
    views=("above", "oblique"),
)
declare(
    id="edge_changes",
    unit="ratio",
    title="Edge changes",
    doc="Number of changes of edge in the loop.",
    formula="number of changes of edge in the loop",
    views=("above", "oblique"),
)
declare(
    id="press_peak_at",
    unit="ratio",
    title="Deepest press",
    doc="Where along the loop the knee is bent most.",
    formula="where along the loop the knee is bent most",
    views=("side_left", "side_right"),
)
declare(
    id="press_smooth",
    unit="ratio",
    title="Smooth press",
    doc="1 is one smooth press and rise of the knee.",
    formula="1 is one smooth press and rise of the knee",
    views=("side_left", "side_right"),
)
declare(
    id="free_leg_pass",
    unit="ratio",
    title="Free leg passes",
    doc="Where along the loop the free foot passes the skating foot.",
    formula="where along the loop the free foot passes the skating foot",
    views=("side_left", "side_right", "above"),
)
declare(
    id="shoulder_turn",
    unit="deg",
    title="Shoulder turn",
    doc="Turn of the shoulders from entry to exit.",
    formula="turn of the shoulders from entry to exit",
    views=("above",),
)
declare(
    id="lean_in",
    unit="deg",
    title="Lean into the circle",
    doc="Trunk lean toward the middle of the loop.",
    formula="trunk lean toward the middle of the loop",
    views=("front", "rear"),
)
declare(
    id="blade_pressure",
    unit="ratio",
    title="Pressure on the blade",
    doc="−1 toe … +1 heel at the far end.",
    formula="−1 toe … +1 heel at the far end",
    views=("side_left", "side_right"),
    phases=("round",),
)
