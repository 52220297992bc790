"""Skis through gates."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
rise_room | ratio | Room above the gate | how far above the gate, along its rise line, the turn starts ÷ gate offset | |
gate_gap | m | Gap to the gate | outside ski to panel at the gate | front, rear, above |
gate_time | s | Gate to gate | time from one gate to the next | |
direction_done_at_gate | ratio | Direction done at the gate | share of the heading change that is done when passing the gate | front, rear, above |
belly_peaks | ratio | Peaks in the turn | number of separate peaks of lean between two gates | front, rear |
""")
