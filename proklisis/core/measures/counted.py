"""What a ratio or a count is counted in, so that no number stands alone: "0.8 wakes", "−0.12 × leg length"."""

from __future__ import annotations

import re

#: Where the formula's divisor does not say it.
COUNTED_IN = {
    "rotations": "turns", "over_rotation": "turns", "missed_strokes": "strokes", "belly_peaks": "peaks", "curvature_jumps": "cusps",
    "edge_changes": "changes", "lean_reversals": "reversals", "curvature_peak_at": "of the loop", "press_peak_at": "of the loop",
    "free_leg_pass": "of the loop", "turn_shape": "of the turn", "direction_done_at_gate": "of the change of direction",
    "blade_pressure": "(−1 toe, +1 heel)", "face_seen": "(0 back of the head, 1 face)", "press_smooth": "(1 is smooth)",
    "top_turn_height": "of the face", "stroke_depth": "of the blade", "loop_ratio": "width ÷ length", "stance_width": "× hip distance",
    "knee_gap": "× ankle distance", "turn_width": "sideways ÷ downhill", "speed_out": "of the speed before", "speed_kept": "of the speed in",
    "preset_share": "of the turn's lean", "lead_speed": "× the water's speed", "boot_gap_growth": "× the gap at the change of edges",
    "side_gap": "(left − right)",
}  # fmt: skip
#: What comes in whole numbers; half of one more or less is standard uncertainty 1 ÷ √12 of a step (JCGM 100:2008, 4.3.7).
WHOLE = {"strokes", "peaks", "cusps", "changes", "reversals"}
WHOLE_U = 12**-0.5
DIVISOR = re.compile(r"÷ (?:the )?([a-z][a-z \-]*?)(?:,.*| when .*| while .*)?$")


def counted_in(measure: str, unit: str, formula: str) -> str:
    """The words behind a number of this measure; "" where its unit says it."""
    if unit != "ratio":
        return ""
    if measure in COUNTED_IN:
        return COUNTED_IN[measure]
    if formula.endswith("wakes"):
        return "wakes"
    found = DIVISOR.search(formula)
    return f"× {found[1]}" if found else ""
