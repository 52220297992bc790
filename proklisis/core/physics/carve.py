"""Balance in a turn on level ground, and the radius that a sidecut carves."""

from __future__ import annotations

import math

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
