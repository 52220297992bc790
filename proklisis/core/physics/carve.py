"""Balance in a turn on level ground, and the radius that a sidecut carves."""

from __future__ import annotations

import math

from proklisis.core.errors import InputError
from proklisis.core.physics.flight import GRAVITY


def balanced_lean(speed_ms: float, radius_m: float) -> float:
    """Lean in degrees at which gravity and turning balance: tan φ = v²/(g·r)."""
    return math.degrees(math.atan(speed_ms**2 / (GRAVITY * radius_m)))


def load(lean_deg: float) -> float:
    """Load on the legs in body weights at a balanced lean: 1/cos φ."""
    return 1 / math.cos(math.radians(lean_deg))


def carving_radius(sidecut_m: float, edge_deg: float) -> float:
    """Radius of a carved turn on a firm surface, R·cos(edge) (Lind & Sanders; Howe)."""
    return sidecut_m * math.cos(math.radians(edge_deg))


def sidecut_radius(tip_m: float, waist_m: float, tail_m: float, contact_m: float) -> float:
    """Radius of a ski's sidecut, R ≈ L²/(8·d) with d = (tip + tail − 2·waist)/4.

    A circle's arc of chord L has the height d ≈ L²/(8R); the mean of the widths at both ends less
    the waist's is two such heights, one on each side. ISO 6289 names the widths.
    """
    depth = (tip_m + tail_m - 2 * waist_m) / 4
    if depth <= 0:
        raise InputError(
            "the ski is not narrower at its waist", "widths", "give tip, waist and tail in metres"
        )
    return contact_m**2 / (8 * depth)
