"""One ski behind a boat. Lateral positions are in wakes: 0 the centre line, ±1 the crests."""

from __future__ import annotations

from proklisis.core.measures.registry import declare

declare(
    id="edge_change_start",
    unit="ratio",
    title="Edge change starts",
    doc="Lateral position where the change of edge starts, wakes.",
    formula="lateral position where the change of edge starts, wakes",
    views=("front", "rear"),
)
declare(
    id="edge_change_end",
    unit="ratio",
    title="Edge change ends",
    doc="Lateral position where the change of edge ends, wakes.",
    formula="lateral position where the change of edge ends, wakes",
    views=("front", "rear"),
)
declare(
    id="edge_change_sd",
    unit="ratio",
    title="Spread of the edge change",
    doc="Spread of its start over the run, wakes.",
    formula="spread of its start over the run, wakes",
    views=("front", "rear"),
)
declare(
    id="load_lean",
    unit="deg",
    title="Lean under load",
    doc="Greatest lean away from the boat.",
    formula="greatest lean away from the boat",
    views=("front", "rear"),
)
declare(
    id="load_peak_at",
    unit="ratio",
    title="Place of the greatest load",
    doc="Lateral position of the greatest lean, wakes.",
    formula="lateral position of the greatest lean, wakes",
    views=("front", "rear"),
)
declare(
    id="turn_lean",
    unit="deg",
    title="Turn lean",
    doc="Lean on the turning edge at the ball.",
    formula="lean on the turning edge at the ball",
    views=("front", "rear"),
)
declare(
    id="preset_share",
    unit="ratio",
    title="Lean set before the ball",
    doc="Lean half-way from edge change to ball ÷ turn lean.",
    formula="lean half-way from edge change to ball ÷ turn lean",
    views=("front", "rear"),
)
declare(
    id="lean_reversals",
    unit="ratio",
    title="Lean reversals",
    doc="Changes of the lean's direction between edge change and ball.",
    formula="changes of the lean's direction between edge change and ball",
    views=("front", "rear"),
)
declare(
    id="body_open",
    unit="deg",
    title="Body open",
    doc="Shoulders turned away from the boat, 0 square to it.",
    formula="shoulders turned away from the boat, 0 square to it",
    views=("front", "above"),
)
declare(
    id="hip_give",
    unit="deg",
    title="Hip give",
    doc="Change of hip flexion across the wakes.",
    formula="change of hip flexion across the wakes",
    views=("side_left", "side_right"),
)
declare(
    id="knee_give",
    unit="deg",
    title="Knee give",
    doc="Change of knee flexion across the wakes.",
    formula="change of knee flexion across the wakes",
    views=("side_left", "side_right"),
)
declare(
    id="foot_sway",
    unit="ratio",
    title="Foot-to-foot sway",
    doc="Swing of com fore and aft from crossing to ball ÷ leg length.",
    formula="swing of com fore and aft from crossing to ball ÷ leg length",
    views=("side_left", "side_right"),
)
declare(
    id="release_wakes",
    unit="ratio",
    title="Release",
    doc="Lateral position where the outer hand lets go, wakes.",
    formula="lateral position where the outer hand lets go, wakes",
    views=("front", "rear"),
)
declare(
    id="inside_lean_at_release",
    unit="deg",
    title="Lean at the release",
    doc="Lean to the inside when the hand lets go.",
    formula="lean to the inside when the hand lets go",
    views=("front", "rear"),
)
declare(
    id="apex_dwell",
    unit="s",
    title="Time at the widest",
    doc="From the widest point to turning in.",
    formula="from the widest point to turning in",
    views=("front", "rear", "above"),
)
declare(
    id="turn_start",
    unit="m",
    title="Turn start",
    doc="Before (−) or after the ball.",
    formula="before (−) or after the ball",
    views=("front", "rear", "above"),
)
declare(
    id="glide_sway",
    unit="deg",
    title="Rocking in the glide",
    doc="Rocking in the pull-out.",
    formula="rocking in the pull-out",
    views=("front", "rear"),
)
declare(
    id="feet_shove",
    unit="deg/s",
    title="Feet shoved",
    doc="Speed of leg straightening at the centre line.",
    formula="speed of leg straightening at the centre line",
    views=("side_left", "side_right"),
)
declare(
    id="knee_snap",
    unit="deg/s",
    title="Knee snap at the ball",
    doc="Speed of sudden knee straightening at the ball.",
    formula="speed of sudden knee straightening at the ball",
    views=("side_left", "side_right"),
)
