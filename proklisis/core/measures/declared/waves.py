"""Turns on a wave."""

from __future__ import annotations

from proklisis.core.measures.registry import declare_table

declare_table("""
compression | ratio | Compression | hip height over the board ÷ leg length | side_left, side_right, front, rear | *
fold | deg | Fold at the waist | hip flexion − knee flexion | side_left, side_right | *
knee_sway | deg | Knee wobble | sideways wobble of the knees, RMS | front, rear |
chest_open | deg | Chest open | shoulders turned up the face, from the board's axis | above, rear | *
face_seen | ratio | Face seen | 0 back of the head, 0.5 profile, 1 face, seen from the beach | front, rear, oblique | *
top_turn_height | ratio | Height of the top turn | share of the face, 0 trough to 1 lip | front, rear, oblique |
thirds_low | pct | Low third | time in the low third of the face | front, rear, oblique |
thirds_mid | pct | Middle third | time in the middle third of the face | front, rear, oblique |
thirds_high | pct | High third | time in the high third of the face | front, rear, oblique |
speed_out | ratio | Speed kept | speed after ÷ before the top turn | |
lead_arm_open | deg | Front arm open | front arm turned up the face from the board's axis | above, rear | *
""")
