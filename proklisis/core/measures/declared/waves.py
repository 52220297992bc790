"""Turns on a wave."""

from __future__ import annotations

from proklisis.core.measures.registry import TURN_PHASES, declare

declare(
    id="compression",
    unit="ratio",
    title="Compression",
    doc="Hip height over the board ÷ leg length.",
    formula="hip height over the board ÷ leg length",
    views=("side_left", "side_right", "front", "rear"),
    phases=TURN_PHASES,
)
declare(
    id="fold",
    unit="deg",
    title="Fold at the waist",
    doc="Hip flexion − knee flexion.",
    formula="hip flexion − knee flexion",
    views=("side_left", "side_right"),
    phases=TURN_PHASES,
)
declare(
    id="knee_sway",
    unit="deg",
    title="Knee wobble",
    doc="Sideways wobble of the knees, RMS.",
    formula="sideways wobble of the knees, RMS",
    views=("front", "rear"),
)
declare(
    id="chest_open",
    unit="deg",
    title="Chest open",
    doc="Shoulders turned up the face, from the board's axis.",
    formula="shoulders turned up the face, from the board's axis",
    views=("above", "rear"),
    phases=TURN_PHASES,
)
declare(
    id="face_seen",
    unit="ratio",
    title="Face seen",
    doc="0 back of the head, 0.5 profile, 1 face, seen from the beach.",
    formula="0 back of the head, 0.5 profile, 1 face, seen from the beach",
    views=("front", "rear", "oblique"),
    phases=TURN_PHASES,
)
declare(
    id="top_turn_height",
    unit="ratio",
    title="Height of the top turn",
    doc="Share of the face, 0 trough to 1 lip.",
    formula="share of the face, 0 trough to 1 lip",
    views=("front", "rear", "oblique"),
)
declare(
    id="thirds_low",
    unit="pct",
    title="Low third",
    doc="Time in the low third of the face.",
    formula="time in the low third of the face",
    views=("front", "rear", "oblique"),
)
declare(
    id="thirds_mid",
    unit="pct",
    title="Middle third",
    doc="Time in the middle third of the face.",
    formula="time in the middle third of the face",
    views=("front", "rear", "oblique"),
)
declare(
    id="thirds_high",
    unit="pct",
    title="High third",
    doc="Time in the high third of the face.",
    formula="time in the high third of the face",
    views=("front", "rear", "oblique"),
)
declare(
    id="speed_out",
    unit="ratio",
    title="Speed kept",
    doc="Speed after ÷ before the top turn.",
    formula="speed after ÷ before the top turn",
    views=(),
)
declare(
    id="lead_arm_open",
    unit="deg",
    title="Front arm open",
    doc="Front arm turned up the face from the board's axis.",
    formula="front arm turned up the face from the board's axis",
    views=("above", "rear"),
    phases=TURN_PHASES,
)
